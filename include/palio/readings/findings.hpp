// What is wrong or doubtful in a design.
#pragma once

#include <optional>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// Findings of the whole design, in the order of the job: pairs that cannot be, gears, pairs.
std::vector<Finding> findings(const Design& design);
std::vector<Finding> findings(const Reducer& reducer);

}  // namespace palio::job
