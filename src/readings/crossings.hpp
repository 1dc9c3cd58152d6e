// Bodies that stand askew to each other, and what does not turn about an axis of its gears: plates, racks, reducers.
#pragma once

#include <cstddef>
#include <functional>
#include <set>
#include <utility>
#include <vector>

#include "palio/design/design.hpp"
#include "swept.hpp"

namespace palio::job {

/// "at (12.5, 0, −3) mm", in the frame of the whole.
std::string placed_at(const Design& design, const Vec3& at);

/// What is found where the axes of bodies cross, or a plate, a rack or a reducer is in the way of another body; those
/// on parallel axes are found as rings (collisions.cpp). \param mates  pairs of gears, the lower place first, that are
/// made to be within one another
/// \param mechanism  of each gear, as `mechanisms` tells
/// \param of_gear  what a gear that turns sweeps
std::vector<Finding> crossings(const Design& design, const std::set<std::pair<std::size_t, std::size_t>>& mates,
                               const std::vector<std::size_t>& mechanism,
                               const std::function<const Swept&(std::size_t)>& of_gear);

}  // namespace palio::job
