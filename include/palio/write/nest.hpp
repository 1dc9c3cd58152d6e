// Laying flat things side by side.
#pragma once

#include <cstddef>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::write {

/// Where a thing comes to lie: turned by a quarter first, where it is, then moved so that its box's lower left corner
/// stands at `at` [mm].
struct Lay {
  std::size_t bed = 0;  ///< which one, from 0
  Vec2 at = Vec2::Zero();
  bool quarter = false;
};

/// Beds of one size, and how things may lie on them.
struct Beds {
  double width, depth;    ///< [mm]
  double gap = 5;         ///< between things, and to the rim [mm]
  bool several = false;   ///< what one cannot hold goes on the next
  bool quarters = false;  ///< things may be turned by a quarter
};

/// Lays things of the sizes given on beds, none over another. The same comes out for the same input.
/// \param sizes  across and up [mm]
/// \throws InvalidParameter "bed" when a thing does not fit on one, or not all do
std::vector<Lay> side_by_side(const std::vector<Vec2>& sizes, const Beds& beds);

}  // namespace palio::write
