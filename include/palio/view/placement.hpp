// Where a part stands in the whole.
#pragma once

#include "palio/job/design.hpp"
#include "palio/write/formats.hpp"

namespace palio::view {

/// A part's own frame (teeth from z = 0) at the start of the motion: the driver's mid-face at z = 0.
write::Placement placement(const job::Design& design, const job::Gear& gear);

}  // namespace palio::view
