#include "palio/roll/motion.hpp"

#include <complex>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"

namespace palio::roll {
namespace {

/// `angle` moved by whole turns to within half a turn of `near`; both are at most a turn or so from 0.
double near_by(double angle, double near) {
  while (angle - near > kPi)
    angle -= 2 * kPi;
  while (angle - near < -kPi)
    angle += 2 * kPi;
  return angle;
}

using Complex = std::complex<double>;
Complex number(const Vec2& v) { return {v.x(), v.y()}; }
Vec2 vec(Complex z) { return {z.real(), z.imag()}; }

/// A jet through w = (z + T)/(1 − T̄ z), a turn of the sphere: w' = (1 + |T|²)/(1 − T̄ z)².
curve::Jet through(Complex T, Complex turn, const curve::Jet& j) {
  const Complex z = turn * number(j.p), z1 = turn * number(j.d1), z2 = turn * number(j.d2);
  const Complex below = 1.0 - std::conj(T) * z, m1 = (1 + std::norm(T)) / (below * below),
                m2 = 2.0 * std::conj(T) * m1 / below;
  return {vec((z + T) / below), vec(m1 * z1), vec(m2 * z1 * z1 + m1 * z2)};
}

ChartJet polar(const curve::Jet& j) {
  const double R = j.p.norm(), R2 = R * R;
  const double R1 = j.p.dot(j.d1) / R, a1 = cross(j.p, j.d1) / R2;
  return {R, 0, R1, a1, (j.d1.squaredNorm() + j.p.dot(j.d2) - R1 * R1) / R, cross(j.p, j.d2) / R2 - 2 * R1 * a1 / R};
}

}  // namespace

Motion Motion::on_sphere(Angle tilt, Angle direction, double radius) {
  return {Kind::sphere, from_polar(std::tan(tilt.radians() / 2), direction.radians()), radius};
}

/// A world jet in the own frame at coordinate 0.
curve::Jet Motion::own(const curve::Jet& world) const {
  if (kind_ == Kind::sphere) return through(-number(origin_), 1.0, world);
  return {world.p - origin_, world.d1, world.d2};
}

Vec2 Motion::direction(double q) const { return from_polar(1, kind_ == Kind::sphere ? q : turned(q)); }

curve::Jet Motion::carry(const curve::Jet& own, double q, const Vec2& direction) const {
  if (kind_ == Kind::sphere) return through(number(origin_), number(direction), own);
  const auto turn = [&](const Vec2& v) { return palio::turned(v, direction); };
  if (kind_ == Kind::translation) return {turn(own.p) + origin_ - direction * q, turn(own.d1), turn(own.d2)};
  return {turn(own.p) + origin_, turn(own.d1), turn(own.d2)};
}

ChartJet Motion::slopes(const curve::Jet& world) const {
  if (kind_ != Kind::translation) return polar(own(world));
  const Vec2 v = world.p - origin_;
  const Vec2 along = -from_polar(1, turn_), across = -quarter_turn(along);
  return {across.dot(v), 0, across.dot(world.d1), along.dot(world.d1), across.dot(world.d2), along.dot(world.d2)};
}

ChartJet Motion::chart(const curve::Jet& world, double near) const {
  ChartJet c = slopes(world);
  c.place = place(world.p, near);
  return c;
}

double Motion::label(const Vec2& world) const {
  if (kind_ == Kind::translation) return quarter_turn(from_polar(1, turn_)).dot(world - origin_);
  return kind_ == Kind::sphere ? own({world, Vec2::Zero(), Vec2::Zero()}).p.norm() : (world - origin_).norm();
}

Vec2 Motion::velocity(const Vec2& world) const {
  if (kind_ == Kind::translation) return -from_polar(1, turn_);
  if (kind_ == Kind::rotation) return quarter_turn(world - origin_);
  const Vec2 at = own({world, Vec2::Zero(), Vec2::Zero()}).p;
  return through(number(origin_), 1.0, {at, quarter_turn(at), Vec2::Zero()}).d1;
}

double Motion::place(const Vec2& world, double near) const {
  if (kind_ == Kind::translation) return -from_polar(1, turn_).dot(world - origin_);
  const Vec2 v = kind_ == Kind::sphere ? own({world, Vec2::Zero(), Vec2::Zero()}).p : Vec2(world - origin_);
  return near_by(std::atan2(v.y(), v.x()), near);
}

Vec2 Motion::carry_direction(const Vec2& point, const Vec2& direction, double q) const {
  return carry({point, direction, Vec2::Zero()}, q).d1.normalized();
}

double Motion::scale(const Vec2& world) const noexcept {
  return kind_ == Kind::sphere ? 2 * turn_ / (1 + world.squaredNorm()) : 1;
}

double Motion::height(double label) const noexcept {
  return kind_ == Kind::sphere ? 2 * turn_ * std::atan(label) : label;
}

double Motion::stretch(const Vec2& world, double radius) const noexcept {
  if (kind_ != Kind::sphere) return 1;
  const double below = std::abs(1.0 + std::conj(number(origin_)) * number(world)) - origin_.norm() * radius;
  return below > 0 ? (1 + origin_.squaredNorm()) / (below * below) : math::kInfinite;
}

}  // namespace palio::roll
