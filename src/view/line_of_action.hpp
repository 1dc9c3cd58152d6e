// Where teeth touch: the line of action between the base circles, or the path that cycloidal teeth follow. Private to
// the views.
#pragma once

#include <algorithm>
#include <array>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::view {

/// From the driver's axis (a rack's reference line) to the pitch point [mm].
inline Vec2 pitch_point(const job::Design& design, const job::Pair& pair) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const auto working = pair.working_pitch_diameters();
  // A rack has no pitch circle: the point lies on that of its gear.
  return driver.teeth.is_rack() ? Vec2(driven.axis - from_polar(working[1] / 2, pair.direction))
                                : Vec2(driver.axis + from_polar(working[0] / 2, pair.direction));
}

/// Ends of the line of action, at the driver's and at the driven's base circle [mm], for contact at the driven's upper
/// or lower limit: the common tangent of the base circles through the pitch point. At a rack or ring it is cut some way
/// on.
inline std::array<Vec2, 2> line_of_action(const job::Design& design, const job::Pair& pair, bool upper) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const double lean = pair.running->working_pressure_angle().radians(), module = driver.teeth.module();
  // At the upper limit an external driven must not turn further counter-clockwise; the flank in its way lies below the
  // line of centres as seen from the driver, so that line leans forward. Inside a ring it is the other way round.
  const bool ring = pair.running->internal();
  const double turn = pair.direction + (upper != ring ? -lean : lean);
  const Vec2 at = pitch_point(design, pair);
  const auto foot = [&](const job::Gear& g, double sign) {
    return Vec2(g.axis + sign * from_polar(g.teeth.gear().sizes().base_diameter / 2, turn));
  };
  // Beside a rack, and inside a ring, contact lies beyond the pitch point on one side: the line is cut some way on
  // there.
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

/// The path of contact as chains of points [mm]: the line of action of involutes; of true cycloidal teeth arcs of the
/// rolling circles; of clock teeth, lanterns and wherever the ratio wavers the places of contact that the roll found.
inline std::vector<std::vector<Vec2>> contact_paths(const job::Design& design, const job::Pair& pair, bool upper) {
  if (pair.running) {
    const auto ends = line_of_action(design, pair, upper);
    return {{ends[0], ends[1]}};
  }
  const pair::CycloidalMesh& mesh = *pair.cycloidal;
  const Vec2 axis = design.gears[pair.driver].axis;
  std::vector<std::vector<Vec2>> all;
  for (const pair::ContactArc& arc : mesh.contact_arcs()) {
    // Given for the driver turning counter-clockwise, which pushes an external mate at its upper limit, a ring at its
    // lower.
    const double side = upper != mesh.internal() ? 1 : -1;
    all.emplace_back();
    for (int i = 0; i <= 32; ++i) {
      const Vec2 p = arc.centre + from_polar(arc.radius, arc.from + (arc.to - arc.from) * i / 32);
      all.back().push_back(axis + turned(Vec2(p.x(), side * p.y()), pair.direction));
    }
  }
  if (!all.empty()) return all;
  std::vector<Vec2> found;
  for (const roll::Position& p : job::rolled(design, pair, 120).positions) {
    for (const roll::Contact& c : upper ? p.touching_upper : p.touching_lower)
      found.push_back(c.point);
  }
  // Along the way across the line of centres; a gap begins another chain.
  const Vec2 across = from_polar(1, pair.direction + kPi / 2);
  std::sort(found.begin(), found.end(), [&](const Vec2& a, const Vec2& b) { return a.dot(across) < b.dot(across); });
  for (const Vec2& p : found) {
    if (all.empty() || (p - all.back().back()).norm() > 0.3 * mesh.driver().module()) all.emplace_back();
    all.back().push_back(p);
  }
  return all;
}

/// What the path is called in pictures.
inline const char* path_name(const job::Pair& pair) { return pair.running ? "line of action" : "path of contact"; }

}  // namespace palio::view
