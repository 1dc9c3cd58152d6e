// Points of a loop with the length of it that each stands for. Private to this folder.
#pragma once

#include <vector>

#include "palio/foreign/drawing.hpp"

namespace palio::foreign {

struct Sample {
  Vec2 p;
  double weight;  ///< [mm]
};

/// The corners of a loop: what its file says lies on the outline.
std::vector<Sample> corners(const Loop& loop);

/// Points all along it: `each` within every chord that is longer than `apart` [mm], fewer in shorter ones, and none
/// further apart; no more than some 400000 beside one for every chord.
std::vector<Sample> samples_of(const Loop& loop, int each, double apart);

/// Direction in which a loop reaches furthest, by the part of its radius that goes up and down once a tooth [rad].
double phase_of(const Loop& loop, const Vec2& centre, int teeth);

}  // namespace palio::foreign
