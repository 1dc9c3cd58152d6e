// Ball bearings that are bought by their designation.
#pragma once

#include <string_view>
#include <vector>

namespace palio::job {

struct Bearing {
  std::string_view designation;
  double bore, outside, width;                   ///< [mm]
  double flange_diameter = 0, flange_width = 0;  ///< of a flanged one, within its width [mm]

  /// How deep it sits: a flange lies on the end of the part.
  double seat_depth() const noexcept { return width - flange_width; }
};

/// Deep-groove ball bearings of the dimension series in common use (boundary dimensions in the manner of ISO 15), those
/// that are as wide open as shielded; with an F before it, flanged ones (in the manner of ISO 8443). The numbers are as
/// commonly tabulated; they were not compared with the printed standard.
const std::vector<Bearing>& ball_bearings();

/// Null where the table has none of that designation.
const Bearing* ball_bearing(std::string_view designation);

}  // namespace palio::job
