// What is doubtful about a part's body and its making. Private to the jobs.
#pragma once

#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

std::vector<Finding> body_findings(const Design& design, const Gear& gear);

}  // namespace palio::job
