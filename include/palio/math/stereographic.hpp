// Directions from the apex as points of the plane: the stereographic projection about the axis.
#pragma once

#include "palio/math/vec.hpp"

namespace palio {

/// The unit vector of a point: p = tan(δ/2) e^{i az}, δ the angle to the axis, az the azimuth.
inline Vec3 direction(const Vec2& p) {
  const double k = 1 / (1 + p.squaredNorm());
  return {2 * p.x() * k, 2 * p.y() * k, (1 - p.squaredNorm()) * k};
}

/// The point of a unit vector.
inline Vec2 projected(const Vec3& direction) { return Vec2(direction.x(), direction.y()) / (1 + direction.z()); }

}  // namespace palio
