// Bodies of a machine that run into each other where they do not mesh. Private to the readings.
#pragma once

#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// Of gears on parallel axes, at standstill and in any position they turn to; and of gears with plates. Bodies whose
/// axes cross are not looked at.
std::vector<Finding> collisions(const Design& design);

}  // namespace palio::job
