// What a drawing says ([expect]), held against the design. Private to the readings.
#pragma once

#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// For each size the drawing gives, that it is met or by how much it is missed.
/// \throws JobError where the drawing speaks of what is no reading
std::vector<Finding> against_drawing(const Design& design);

/// To findings of differences from the drawing, the one other number of a gear that would explain all that is said of
/// it, where there is one: some fifty designs are tried.
void explain_differences(const Design& design, std::vector<Finding>& found);

}  // namespace palio::job
