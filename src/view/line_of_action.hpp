// Where the line of action touches the two base circles. Private to the views.
#pragma once

#include <array>

#include "palio/job/design.hpp"

namespace palio::view {

/// Ends of the line of action, at the driver's and at the driven's base circle [mm], for contact at the driven's upper
/// or lower limit: the common tangent of the base circles that crosses the line of centres.
inline std::array<Vec2, 2> line_of_action(const job::Gear& driver, const job::Gear& driven, bool upper) {
  const Vec2 along = driven.axis - driver.axis;
  const double r1 = driver.teeth.sizes().base_diameter / 2, r2 = driven.teeth.sizes().base_diameter / 2;
  const double direction = std::atan2(along.y(), along.x()), lean = std::acos((r1 + r2) / along.norm());
  // At the upper limit the driven must not turn further counter-clockwise; the flank in its way lies below the line of
  // centres as seen from the driver, so that line leans forward.
  const double turn = direction + (upper ? -lean : lean);
  return {driver.axis + from_polar(r1, turn), driven.axis - from_polar(r2, turn)};
}

}  // namespace palio::view
