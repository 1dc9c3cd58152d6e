// What is wrong or doubtful in a design.
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// Findings of the whole design, in the order of the job: pairs that cannot be, gears, pairs.
std::vector<Finding> findings(const Design& design);
std::vector<Finding> findings(const Reducer& reducer);
/// Called between the pieces of long work; what it throws ends that.
using Between = std::function<void()>;
/// The same for people to read: with what would explain a difference from the drawing, which takes some fifty designs.
std::vector<Finding> explained_findings(const Design& design, const Between& between = {});
/// The same with what is known of how reducers roll through 120 positions.
using RolledOf = std::function<const reducer::Rolled&(const Reducer&)>;
std::vector<Finding> findings(const Design& design, const RolledOf& rolled_of, const Between& between = {});

/// What the making leaves of the play, where it changes teeth and the files do not make up for it [mm].
std::optional<double> play_as_made(const Design& design, const Pair& pair);

}  // namespace palio::job
