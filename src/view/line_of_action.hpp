// Where the line of action touches the two base circles. Private to the views.
#pragma once

#include <array>

#include "palio/job/design.hpp"

namespace palio::view {

/// From the driver's axis (a rack's reference line) to the pitch point [mm].
inline Vec2 pitch_point(const job::Design& design, const job::Pair& pair) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const auto working = pair.running->working_pitch_diameters();
  // A rack has no pitch circle: the point lies on that of its gear.
  return driver.teeth.is_rack() ? Vec2(driven.axis - from_polar(working[1] / 2, pair.direction))
                                : Vec2(driver.axis + from_polar(working[0] / 2, pair.direction));
}

/// Ends of the line of action, at the driver's and at the driven's base circle [mm], for contact at the driven's upper
/// or lower limit: the common tangent of the base circles through the pitch point. At a rack or ring it is cut some way on.
inline std::array<Vec2, 2> line_of_action(const job::Design& design, const job::Pair& pair, bool upper) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const double lean = pair.running->working_pressure_angle().radians(), module = driver.teeth.spec().module;
  // At the upper limit an external driven must not turn further counter-clockwise; the flank in its way lies below the
  // line of centres as seen from the driver, so that line leans forward. Inside a ring it is the other way round.
  const bool ring = pair.running->internal();
  const double turn = pair.direction + (upper != ring ? -lean : lean);
  const Vec2 at = pitch_point(design, pair);
  const auto foot = [&](const job::Gear& g, double sign) { return Vec2(g.axis + sign * from_polar(g.teeth.gear().sizes().base_diameter / 2, turn)); };
  // Beside a rack, and inside a ring, contact lies beyond the pitch point on one side: the line is cut some way on there.
  if (driven.teeth.is_rack() || driven.teeth.internal()) {
    const Vec2 first = foot(driver, 1);
    return {first, Vec2(at + 5 * module * (at - first).normalized())};
  }
  if (driver.teeth.is_rack() || driver.teeth.internal()) {
    const Vec2 last = foot(driven, driver.teeth.internal() ? 1 : -1);
    return {Vec2(at + 5 * module * (at - last).normalized()), last};
  }
  return {foot(driver, 1), foot(driven, -1)};
}

}  // namespace palio::view
