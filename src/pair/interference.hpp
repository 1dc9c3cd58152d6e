// Places where teeth meet that should not. Private to the pairs.
#pragma once

#include "palio/gear/teeth.hpp"

namespace palio::pair {

/// How deep the edge of the mate's tip runs into the root curve of `own` while the flanks run in contact [mm, along the
/// circle or rack]; negative when it stays clear.
double tip_digs(const gear::Teeth& own, const gear::Teeth& mate, double a, double alpha_w);

/// Overlap of the tips of pinion and ring away from the mesh (theory 2.6 ii) [mm at the ring's tip circle]; negative when
/// they pass each other, −∞ when the tip circles do not cross.
double tip_fouling(const gear::CylindricalGear& pinion, const gear::CylindricalGear& ring, double a, double alpha_w);

}  // namespace palio::pair
