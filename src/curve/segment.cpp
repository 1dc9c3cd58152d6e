#include "palio/curve/segment.hpp"

#include <complex>
#include <limits>

namespace palio::curve {
namespace {

using Complex = std::complex<double>;
constexpr Complex kI{0, 1};

Vec2 vec(Complex z) { return {z.real(), z.imag()}; }

}  // namespace

Jet Involute::jet(double t) const {
  const double s = sense;
  const Complex turn = std::polar(base_radius, start + s * t);
  return {vec(turn * Complex(1, -s * t)), vec(turn * t), vec(turn * Complex(1, s * t))};
}

Jet Trochoid::jet(double theta) const {
  // Letters of theory 1.4; derivatives by θ carry a 1 or 2.
  const double sn = std::sin(theta), cs = std::cos(theta), cot = cs / sn, csc2 = 1 / (sn * sn);
  const double rho = corner_radius, r = pitch_radius, cb = cos_helix;
  const double Y = corner_height - rho * sn, Y1 = -rho * cs, Y2 = rho * sn;
  const double un = corner_offset + rho * cs, un1 = -rho * sn, un2 = -rho * cs;
  const double us = -Y * cb * cot;
  const double us1 = -cb * (Y1 * cot - Y * csc2);
  const double us2 = -cb * (Y2 * cot - 2 * Y1 * csc2 + 2 * Y * csc2 * cot);
  const double w = (us - un / cb) / r, w1 = (us1 - un1 / cb) / r, w2 = (us2 - un2 / cb) / r;
  const Complex g(r + Y, us), g1(Y1, us1), g2(Y2, us2);
  const Complex turn = std::polar(1.0, -w);
  Complex p = turn * g;
  Complex d1 = turn * (g1 - kI * w1 * g);
  Complex d2 = turn * (g2 - 2.0 * kI * w1 * g1 - (kI * w2 + w1 * w1) * g);
  if (side < 0) p = std::conj(p), d1 = std::conj(d1), d2 = std::conj(d2);
  const Complex place = std::polar(1.0, centre);
  return {vec(place * p), vec(place * d1), vec(place * d2)};
}

Jet Arc::jet(double angle) const {
  const Vec2 arm = from_polar(radius, angle);
  return {centre + arm, quarter_turn(arm), -arm};
}

Jet Line::jet(double t) const { return {from + t * (to - from), to - from, Vec2::Zero()}; }

std::string_view name(Role role) noexcept {
  switch (role) {
    case Role::flank: return "flank";
    case Role::root: return "root";
    case Role::tip: return "tip";
    case Role::bore: return "bore";
  }
  return "";
}

Jet Segment::jet(double t) const {
  return std::visit([t](const auto& c) { return c.jet(t); }, curve);
}

Vec2 Segment::tangent(double t) const {
  const Jet j = jet(t);
  // At a cusp p' vanishes like p''·t: there p'' gives the direction.
  const Vec2 along = j.d1.squaredNorm() > 0 ? j.d1 : j.d2;
  return sense() * along.normalized();
}

Vec2 Segment::normal(double t) const { return -quarter_turn(tangent(t)); }

double Segment::curvature(double t) const {
  const Jet j = jet(t);
  const double speed = j.d1.norm();
  const double turning = sense() * cross(j.d1, j.d2);
  if (speed == 0) return std::numeric_limits<double>::infinity();
  return turning / (speed * speed * speed);
}

Segment turned(const Segment& segment, double angle) {
  struct Turn {
    double angle;
    void operator()(Involute& c) const { c.start += angle; }
    void operator()(Trochoid& c) const { c.centre += angle; }
    void operator()(Arc& c) const { c.centre = palio::turned(c.centre, angle); }
    void operator()(Line& c) const {
      c.from = palio::turned(c.from, angle);
      c.to = palio::turned(c.to, angle);
    }
  };
  Segment result = segment;
  std::visit(Turn{angle}, result.curve);
  if (std::holds_alternative<Arc>(result.curve)) {
    result.from += angle;
    result.to += angle;
  }
  return result;
}

}  // namespace palio::curve
