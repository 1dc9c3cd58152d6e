// What is wrong or doubtful in a design.
#pragma once

#include <optional>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// Findings of the whole design, in the order of the job: pairs that cannot be, gears, pairs.
std::vector<Finding> findings(const Design& design);
std::vector<Finding> findings(const Reducer& reducer);

/// What the making leaves of the play, where it changes teeth and the files do not make up for it [mm].
std::optional<double> play_as_made(const Design& design, const Pair& pair);

}  // namespace palio::job
