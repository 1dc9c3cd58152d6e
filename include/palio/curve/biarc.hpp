// Arcs by their ends and bulge, and two of them that follow a piece of a curve by the directions at its ends.
#pragma once

#include "palio/curve/segment.hpp"
#include "palio/math/vec.hpp"

namespace palio::curve {

/// The circle of the arc from `a` to `b`: tan(θ/4) is the bulge, not 0, positive to the left.
Arc circle_of(const Vec2& a, double bulge, const Vec2& b);

/// From p to q by way of `joint`, where one goes smoothly on in the other; bulges as in `BulgedPoint`.
struct Biarc {
  Vec2 joint;
  double bulge_in, bulge_out;

  /// How far a place beside the curve is from the two [mm].
  double off(const Vec2& p, const Vec2& q, const Vec2& x) const;
};

/// That with equal tangent lengths. \param t, u  unit directions at p and q, along the curve
Biarc biarc(const Vec2& p, const Vec2& t, const Vec2& q, const Vec2& u);

}  // namespace palio::curve
