// Bodies of a machine that run into each other where they do not mesh. Private to the readings.
#pragma once

#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// Of gears and axles at standstill and in any position they turn to, on parallel axes and across; of racks where they
/// stand and along their way; of plates and reducers.
std::vector<Finding> collisions(const Design& design);

}  // namespace palio::job
