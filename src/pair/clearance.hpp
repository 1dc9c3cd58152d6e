// What is said of the room between a tip and the root it stands in. Private to the pairs.
#pragma once

#include <string>
#include <vector>

#include "palio/gear/finding.hpp"

namespace palio::pair {

/// An error where the tip runs on the bottom, a warning below a tenth of the module. What differs from a bound by
/// rounding alone (a job that gives exactly a tenth) is on the sound side of it.
inline void add_clearance(std::vector<Finding>& found, double clearance, double module, const std::string& subject) {
  const double noise = 1e-9 * module;
  if (clearance < -noise)
    found.push_back({FindingId::tip_bottoms, subject, clearance, 0.0});
  else if (clearance < 0.1 * module - noise)
    found.push_back({FindingId::small_tip_clearance, subject, clearance, 0.1 * module});
}

}  // namespace palio::pair
