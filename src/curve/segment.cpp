#include "palio/curve/segment.hpp"

#include <limits>
#include <stdexcept>

#include "complex.hpp"

namespace palio::curve {
namespace {

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

Jet CutterTrochoid::jet(double phi) const {
  // D = C − P; its direction e^{iθ} turns by θ' = Im(D̄ D')/|D|².
  const Complex C1 = std::polar(corner_distance, phi) * kI, C2 = kI * C1;
  const Complex C = center_distance + std::polar(corner_distance, phi), D = C - pitch_radius;
  const double size2 = std::norm(D);
  const Complex n = D / std::sqrt(size2);
  const double w1 = (std::conj(D) * C1).imag() / size2;
  const double w2 = (std::conj(D) * C2).imag() / size2 - 2 * w1 * (std::conj(D) * C1).real() / size2;
  const Complex Q = C + corner_radius * n, Q1 = C1 + corner_radius * kI * w1 * n,
                Q2 = C2 + corner_radius * (kI * w2 - w1 * w1) * n;
  const Complex turn = std::polar(1.0, turns * (corner_angle - phi));
  Complex p = turn * Q, d1 = turn * (Q1 - kI * turns * Q), d2 = turn * (Q2 - 2.0 * kI * turns * Q1 - turns * turns * Q);
  if (side < 0) p = std::conj(p), d1 = std::conj(d1), d2 = std::conj(d2);
  const Complex place = std::polar(1.0, centre);
  return {vec(place * p), vec(place * d1), vec(place * d2)};
}

Jet EllipticArc::jet(double theta) const {
  const double c = std::cos(theta), s = std::sin(theta);
  return {centre + c * u + s * v, -s * u + c * v, -c * u - s * v};
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
    case Role::body: return "body";
  }
  return "";
}

Jet Segment::jet(double t) const {
  return std::visit([t](const auto& c) { return c.jet(t); }, curve);
}

namespace {

/// Unit vector along the parameter.
Vec2 direction(const Jet& j) {
  // At a cusp p' vanishes like p''·t: there p'' gives the direction.
  return (j.d1.squaredNorm() > 0 ? j.d1 : j.d2).normalized();
}

}  // namespace

Vec2 Segment::tangent(double t) const { return sense() * direction(jet(t)); }

Vec2 Segment::normal(const Jet& at) const { return -quarter_turn(sense() * direction(at)); }

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
    void operator()(CutterTrochoid& c) const { c.centre += angle; }
    void operator()(SphericalInvolute& c) const { c.start += angle; }
    void operator()(CrownTrochoid& c) const { c.centre += angle; }
    void operator()(Cycloid& c) const { c.start += angle; }
    void operator()(LobeCurve& c) const { c.start += angle; }
    void operator()(EllipticArc& c) const {
      for (Vec2* v : {&c.centre, &c.u, &c.v})
        *v = palio::turned(*v, angle);
    }
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

Segment moved(const Segment& segment, const Vec2& way) {
  struct Move {
    const Vec2& way;
    void operator()(Involute&) const { throw std::logic_error("an involute belongs to its axis"); }
    void operator()(Trochoid&) const { throw std::logic_error("a trochoid belongs to its axis"); }
    void operator()(CutterTrochoid&) const { throw std::logic_error("a trochoid belongs to its axis"); }
    void operator()(SphericalInvolute&) const { throw std::logic_error("a spherical curve belongs to its axis"); }
    void operator()(CrownTrochoid&) const { throw std::logic_error("a spherical curve belongs to its axis"); }
    void operator()(Cycloid&) const { throw std::logic_error("a cycloid belongs to its axis"); }
    void operator()(LobeCurve&) const { throw std::logic_error("a lobed edge belongs to its axis"); }
    void operator()(EllipticArc& c) const { c.centre += way; }
    void operator()(Arc& c) const { c.centre += way; }
    void operator()(Line& c) const { c.from += way, c.to += way; }
  };
  Segment result = segment;
  std::visit(Move{way}, result.curve);
  return result;
}

Segment scaled(const Segment& segment, double factor) {
  struct Scale {
    double f;
    void operator()(Involute& c) const { c.base_radius *= f; }
    void operator()(Trochoid& c) const {
      for (double* length : {&c.pitch_radius, &c.corner_radius, &c.corner_height, &c.corner_offset})
        *length *= f;
    }
    void operator()(CutterTrochoid& c) const {
      for (double* length : {&c.center_distance, &c.pitch_radius, &c.corner_distance, &c.corner_radius})
        *length *= f;
    }
    void operator()(SphericalInvolute&) const { throw std::logic_error("directions have no size"); }
    void operator()(CrownTrochoid&) const { throw std::logic_error("directions have no size"); }
    void operator()(Cycloid& c) const { c.pitch_radius *= f, c.rolling_radius *= f, c.distance *= f; }
    void operator()(LobeCurve& c) const { c.circle_radius *= f, c.eccentricity *= f, c.roller_radius *= f; }
    void operator()(EllipticArc& c) const { c.centre *= f, c.u *= f, c.v *= f; }
    void operator()(Arc& c) const { c.centre *= f, c.radius *= f; }
    void operator()(Line& c) const { c.from *= f, c.to *= f; }
  };
  Segment result = segment;
  std::visit(Scale{factor}, result.curve);
  return result;
}

Segment reversed(const Segment& segment) { return {segment.curve, segment.to, segment.from, segment.role}; }

Segment mirrored(const Segment& s) {
  const auto flip = [](const Vec2& v) { return Vec2(v.x(), -v.y()); };
  struct Mirror {
    decltype(flip)& at_axis;
    Curve operator()(Involute c) const { return Involute{c.base_radius, -c.start, -c.sense}; }
    Curve operator()(Trochoid c) const {
      c.centre = -c.centre;
      c.side = -c.side;
      return c;
    }
    Curve operator()(CutterTrochoid c) const {
      c.centre = -c.centre;
      c.side = -c.side;
      return c;
    }
    Curve operator()(SphericalInvolute c) const { return SphericalInvolute{c.base_cone, -c.start, -c.sense}; }
    Curve operator()(CrownTrochoid c) const {
      c.centre = -c.centre;
      c.side = -c.side;
      return c;
    }
    Curve operator()(Cycloid c) const {
      c.start = -c.start;
      c.sense = -c.sense;
      return c;
    }
    Curve operator()(LobeCurve) const { throw std::logic_error("a lobed edge is its own mirror image about a root"); }
    Curve operator()(const EllipticArc& c) const { return EllipticArc{at_axis(c.centre), at_axis(c.u), at_axis(c.v)}; }
    Curve operator()(const Arc& c) const { return Arc{at_axis(c.centre), c.radius}; }
    Curve operator()(const Line& c) const { return Line{at_axis(c.from), at_axis(c.to)}; }
  };
  const bool arc = std::holds_alternative<Arc>(s.curve);
  return {std::visit(Mirror{flip}, s.curve), arc ? -s.to : s.to, arc ? -s.from : s.from, s.role};
}

}  // namespace palio::curve
