#include "palio/roll/motion.hpp"

#include "palio/angle.hpp"

namespace palio::roll {
namespace {

/// `angle` moved by whole turns to within half a turn of `near`; both are at most a turn or so from 0.
double near_by(double angle, double near) {
  while (angle - near > kPi) angle -= 2 * kPi;
  while (angle - near < -kPi) angle += 2 * kPi;
  return angle;
}

}  // namespace

curve::Jet Motion::carry(const curve::Jet& own, double q) const {
  const double angle = turned(q), c = std::cos(angle), s = std::sin(angle);
  const auto turn = [&](const Vec2& v) { return Vec2(c * v.x() - s * v.y(), s * v.x() + c * v.y()); };
  if (kind_ == Kind::translation) return {turn(own.p) + origin_ - Vec2(c, s) * q, turn(own.d1), turn(own.d2)};
  return {turn(own.p) + origin_, turn(own.d1), turn(own.d2)};
}

ChartJet Motion::slopes(const curve::Jet& world) const {
  const Vec2 v = world.p - origin_;
  if (kind_ == Kind::translation) {
    const Vec2 along = -from_polar(1, turn_), across = -quarter_turn(along);
    return {across.dot(v), 0, across.dot(world.d1), along.dot(world.d1), across.dot(world.d2), along.dot(world.d2)};
  }
  const double R = v.norm(), R2 = R * R;
  const double R1 = v.dot(world.d1) / R, a1 = cross(v, world.d1) / R2;
  return {R, 0, R1, a1, (world.d1.squaredNorm() + v.dot(world.d2) - R1 * R1) / R, cross(v, world.d2) / R2 - 2 * R1 * a1 / R};
}

ChartJet Motion::chart(const curve::Jet& world, double near) const {
  ChartJet c = slopes(world);
  c.place = place(world.p, near);
  return c;
}

double Motion::label(const Vec2& world) const {
  const Vec2 v = world - origin_;
  return kind_ == Kind::rotation ? v.norm() : quarter_turn(from_polar(1, turn_)).dot(v);
}

Vec2 Motion::velocity(const Vec2& world) const { return kind_ == Kind::rotation ? quarter_turn(world - origin_) : Vec2(-from_polar(1, turn_)); }

double Motion::place(const Vec2& world, double near) const {
  const Vec2 v = world - origin_;
  return kind_ == Kind::rotation ? near_by(std::atan2(v.y(), v.x()), near) : -from_polar(1, turn_).dot(v);
}

}  // namespace palio::roll
