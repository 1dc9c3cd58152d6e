// Teeth whose axes stand off those they turn about: what play and motion become over the turns.
#pragma once

#include <optional>

#include "palio/pair/pair.hpp"

namespace palio::pair {

/// Over all turns of both gears, in the driven's coordinate [rad; of a rack mm].
struct Eccentric {
  roll::Range play;   ///< least and greatest; below 0 the teeth overlap
  roll::Range error;  ///< of the driven from the even ratio while it is pushed, of either flank, without its own play
};

/// The middles of two sets of teeth are carried round by as much as they stand off; at every moment the two are a
/// pair at the distance and in the direction in which those middles then stand. What comes is the worst that they
/// reach, in any direction. docs/theory/machine.md.
/// \param off  of both together, 0 or more [mm]
/// \return none where the teeth have no mesh in one of those places, and of pairs in space
std::optional<Eccentric> eccentric(const Pair& pair, double off);

}  // namespace palio::pair
