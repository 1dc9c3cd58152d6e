// What a drawing says ([expect]), held against the design. Private to the readings.
#pragma once

#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// For each size the drawing gives, that it is met or by how much it is missed; where one other number of a gear would
/// explain all that is missed of it, that number.
/// \throws JobError where the drawing speaks of what is no reading
std::vector<Finding> against_drawing(const Design& design);

}  // namespace palio::job
