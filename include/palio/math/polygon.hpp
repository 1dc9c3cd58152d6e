// Points of the plane in polygons.
#pragma once

#include <cstddef>

#include "palio/math/vec.hpp"

namespace palio::math {

/// Whether a point lies within a closed polygon of `count` corners, whichever way it goes round. \param at  its corners
template <class At>
bool in_polygon(std::size_t count, At at, const Vec2& p) {
  bool inside = false;
  for (std::size_t i = 0, j = count - 1; i < count; j = i++) {
    const Vec2 &a = at(i), &b = at(j);
    if ((a.y() > p.y()) != (b.y() > p.y()) && p.x() < a.x() + (b.x() - a.x()) * (p.y() - a.y()) / (b.y() - a.y()))
      inside = !inside;
  }
  return inside;
}

}  // namespace palio::math
