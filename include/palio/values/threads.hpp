// Screws and nuts in common use, by thread.
#pragma once

#include <string_view>
#include <vector>

namespace palio::job {

struct Thread {
  std::string_view name;                ///< "M3"
  double diameter, pitch;               ///< [mm]
  double clearance_hole;                ///< through which it goes [mm]
  double nut_across_flats, nut_height;  ///< [mm]

  /// Into which it is cut [mm].
  double tapping_hole() const { return diameter - pitch; }
};

/// Metric threads of coarse pitch (ISO 261), through holes of the middle row of ISO 273, hexagon nuts in the manner of
/// ISO 4032. As commonly tabulated; not compared with the printed standards.
const std::vector<Thread>& threads();

/// Null where the table has none of that name.
const Thread* thread_named(std::string_view name);

}  // namespace palio::job
