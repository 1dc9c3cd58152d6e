// Triangles of a plane region. Private to the bodies.
//
// Ear clipping of our own behind a grid of the corners that can be in an ear's way, then Lawson's flips: the library
// that would do it (GEOS) doubles the time in which the tool starts: 6.7 of 13.6 million instructions were its symbols
// being bound.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::body {

using Triangle = std::array<std::uint32_t, 3>;

/// Triangles of the region inside loop 0 (counter-clockwise) and outside the others (clockwise), by point number,
/// counter-clockwise; corners + 2 · holes − 2 of them, no point added.
/// \param points  all points; the loops are lists of numbers into it, no number twice
/// \throws NoConvergence when the loops cross each other or themselves
std::vector<Triangle> triangulate(const std::vector<Vec2>& points,
                                  const std::vector<std::vector<std::uint32_t>>& loops);

}  // namespace palio::body
