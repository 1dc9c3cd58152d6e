// The mould of a body that is drawn out along its axis: two halves that leave its room between them.
#pragma once

#include "palio/body/layered.hpp"

namespace palio::body {

struct MouldSizes {
  double wall = 8;   ///< around the body, at its widest [mm]
  double floor = 8;  ///< below and above it [mm]
  double draft = 0;  ///< of round walls other than the teeth and the bore [rad]
};

/// Both in the frame of the body. Together with the body (without draft) they fill the block.
struct Mould {
  Body lower, upper;
  double parting;  ///< height at which they meet outside the body [mm]
};

/// Every place, seen along the axis, is material once from some height to another: what lies below it is the lower
/// half's, what above the upper one's. Where nothing is made they meet at the upper end of the teeth, or as near to it
/// as the material around reaches.
/// \throws InvalidParameter "mould" where the body cannot be drawn out so (holes across, undercuts, chamfered bores,
///   loops that cross as seen along the axis), "wall", "floor"
Mould mould(const Body& body, const MouldSizes& sizes);

}  // namespace palio::body
