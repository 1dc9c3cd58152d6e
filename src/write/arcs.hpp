// What the arcs of polylines lie within.
#pragma once

#include <cmath>

#include "palio/angle.hpp"
#include "palio/curve/biarc.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/vec.hpp"

namespace palio::write {

/// What points and arcs lie within.
class Box {
 public:
  void hold(const Vec2& p) { x_.hold(p.x()), y_.hold(p.y()); }
  /// An arc counter-clockwise from an angle to a larger one: its ends, and where it runs furthest out.
  void hold_arc(const Vec2& centre, double radius, double from, double to) {
    hold(centre + from_polar(radius, from)), hold(centre + from_polar(radius, to));
    for (double at = std::ceil(from / (kPi / 2)) * (kPi / 2); at < to; at += kPi / 2)
      hold(centre + from_polar(radius, at));
  }
  bool empty() const { return x_.empty(); }
  Vec2 low() const { return {x_.low(), y_.low()}; }
  Vec2 high() const { return {x_.high(), y_.high()}; }

 private:
  math::Extent x_, y_;
};

/// Whether an arc rises so little over its chord that its radius would be a number without a meaning.
inline bool is_straight(const Vec2& p, double bulge, const Vec2& next) {
  constexpr double kRise = 1e-9;  // [mm, or the unit of the file]
  return std::abs(bulge) * (next - p).norm() / 2 < kRise;
}

/// The bounding box grows by what lies between two points of a polyline.
inline void hold_bulged(Box& box, const Vec2& p, double bulge, const Vec2& next) {
  box.hold(p);
  if (is_straight(p, bulge, next)) return;
  const curve::Arc c = curve::circle_of(p, bulge, next);
  const Vec2 first = (bulge > 0 ? p : next) - c.centre;
  const double from = std::atan2(first.y(), first.x());
  box.hold_arc(c.centre, c.radius, from, from + 4 * std::atan(std::abs(bulge)));
}

}  // namespace palio::write
