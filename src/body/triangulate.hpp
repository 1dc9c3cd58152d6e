// Constrained triangulation of a plane region, on GEOS. Private to the bodies.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::body {

using Triangle = std::array<std::uint32_t, 3>;

/// Triangles of the region inside loop 0 and outside the others, by point number, counter-clockwise.
/// \param points  all points; the loops are lists of numbers into it, no number twice
std::vector<Triangle> triangulate(const std::vector<Vec2>& points, const std::vector<std::vector<std::uint32_t>>& loops);

}  // namespace palio::body
