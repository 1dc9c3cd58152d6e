// Loops of pairs: whether the way round by the others brings teeth before spaces. Private to the jobs.
#pragma once

#include <string>

#include "palio/design/design.hpp"

namespace palio::job {

/// How far the driven of a plane pair stands beyond the middle of its play, where the pitch point lies in `direction`
/// from the driver's axis; within half a pitch [rad].
double off_middle(const Gear& driver, const Gear& driven, double direction);

/// In words: what direction (and center distance) closes the loop that a pair closes out of phase. The gear moved is
/// one that stands in this pair and one other; so moved, both its pairs keep their teeth before spaces.
std::string loop_remedy(const Design& design, const Pair& closing);

}  // namespace palio::job
