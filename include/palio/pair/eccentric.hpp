// Teeth whose axes stand off those they turn about: what play and motion become over the turns.
#pragma once

#include <optional>

#include "palio/pair/pair.hpp"

namespace palio::pair {

/// The middles of two sets of teeth are carried round by as much as they stand off; at every moment the two are a
/// pair at the distance and in the direction in which those middles then stand. What comes is the worst that they
/// reach over all turns of both, in the driven's coordinate [rad; of a rack mm]. docs/theory/machine.md.
///
/// Least and greatest play; below 0 the teeth overlap.
/// \param off  of both together, 0 or more [mm]
/// \return none where the teeth have no mesh in one of those places, and of pairs in space
std::optional<roll::Range> eccentric_play(const Pair& pair, double off);

/// Of the driven from the even ratio while it is pushed, on either flank, without its own play. \return as above
std::optional<roll::Range> eccentric_error(const Pair& pair, double off);

}  // namespace palio::pair
