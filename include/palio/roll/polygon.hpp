// Turning two gears through each other as straight pieces: for outlines that come from files. Nothing but points and
// edges is known of them, so edges touch corners; the exact roll (roll/roll.hpp) knows the curves themselves.
#pragma once

#include <vector>

#include "palio/curve/piece.hpp"
#include "palio/roll/roll.hpp"

namespace palio::roll {

using Piece = curve::Piece;  ///< in the gear's own frame

struct Cut {
  std::vector<Piece> pieces;  ///< in any order; only those of the teeth matter
  Vec2 axis;                  ///< where it stands [mm]
  double start;               ///< coordinate at the start [rad]
};

struct CutResult {
  Range play;                ///< of the driven [rad]; negative where the two overlap
  Range transmission_error;  ///< as in roll/roll.hpp [rad]
};

/// Rolls two cuts over one period of the driver.
/// \param law           ratio, theoretical play and positions are used
/// \param driver_pitch, driven_pitch  angles from tooth to tooth [rad]; flanks further than 0.15 of a pitch from
/// touching
///   are those of other teeth
/// \throws NoConvergence when at some position nothing stands in the way
CutResult roll(const Cut& driver, const Cut& driven, const Law& law, double driver_pitch, double driven_pitch);

}  // namespace palio::roll
