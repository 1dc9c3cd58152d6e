// From where on report and roll call it an overlap. Both take it from here.
#pragma once

#include <algorithm>

namespace palio::pair {

/// Gaps and overlaps up to this count as touching: what positions are known to [mm].
inline double touching(double module) { return 1e-9 * std::max(1.0, module); }

/// The overlap up to which nothing binds [mm]: 1e-8 of the module. The corner of a basic rack digs 1.6e-9 of the module
/// into the root that the rack's own rounded tool leaves.
inline double binding(double module) { return 1e-8 * std::max(0.1, module); }

}  // namespace palio::pair
