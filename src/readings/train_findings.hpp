// What is wrong or doubtful in the machine as a whole. Private to the readings.
#pragma once

#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

std::vector<Finding> train_findings(const Design& design);

}  // namespace palio::job
