#include "palio/pair/line_of_action.hpp"

#include <algorithm>

namespace palio::pair {

Vec2 pitch_point(const Pair& pair) {
  const auto& [driver, driven] = pair.gears();
  const auto working = pair.working_pitch_diameters();
  // A rack has no pitch circle: the point lies on that of its gear.
  return driver.teeth.is_rack() ? Vec2(driven.axis - from_polar(working[1] / 2, pair.direction().radians()))
                                : Vec2(driver.axis + from_polar(working[0] / 2, pair.direction().radians()));
}

std::array<Vec2, 2> line_of_action(const Pair& pair, bool upper) {
  const auto& [driver, driven] = pair.gears();
  const double lean = pair.parallel()->working_pressure_angle().radians(), module = driver.teeth.module();
  // At the upper limit an external driven must not turn further counter-clockwise; the flank in its way lies below the
  // line of centres as seen from the driver, so that line leans forward. Inside a ring it is the other way round.
  const bool ring = pair.parallel()->internal();
  const double turn = pair.direction().radians() + (upper != ring ? -lean : lean);
  const Vec2 at = pitch_point(pair);
  const auto foot = [&](const Placed& g, double sign) {
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

std::vector<ContactArc> contact_arcs(const Pair& pair, bool upper) {
  if (!pair.cycloidal()) return {};
  // Given for the driver turning counter-clockwise, which pushes an external mate at its upper limit, a ring at its
  // lower: then as they are, else their mirror image.
  const double side = upper != pair.cycloidal()->internal() ? 1 : -1, turn = pair.direction().radians();
  std::vector<ContactArc> arcs = pair.cycloidal()->contact_arcs();
  for (ContactArc& arc : arcs) {
    arc.centre = pair.gears()[0].axis + turned(arc.centre, turn);  // on the line of centres
    arc.from = turn + side * arc.from, arc.to = turn + side * arc.to;
  }
  return arcs;
}

std::vector<std::vector<Vec2>> contact_paths(const Pair& pair, bool upper) {
  if (pair.parallel()) {
    const auto ends = line_of_action(pair, upper);
    return {{ends[0], ends[1]}};
  }
  std::vector<std::vector<Vec2>> all;
  for (const ContactArc& arc : contact_arcs(pair, upper)) {
    all.emplace_back();
    for (int i = 0; i <= 32; ++i)
      all.back().push_back(arc.centre + from_polar(arc.radius, arc.from + (arc.to - arc.from) * i / 32));
  }
  if (!all.empty()) return all;
  std::vector<Vec2> found;
  for (const roll::Position& p : pair::roll(pair, 120).positions) {
    for (const roll::Contact& c : upper ? p.touching_upper : p.touching_lower)
      found.push_back(c.point);
  }
  // Along the way across the line of centres; a gap begins another chain.
  const Vec2 across = from_polar(1, pair.direction().radians() + kPi / 2);
  std::sort(found.begin(), found.end(), [&](const Vec2& a, const Vec2& b) { return a.dot(across) < b.dot(across); });
  for (const Vec2& p : found) {
    if (all.empty() || (p - all.back().back()).norm() > 0.3 * pair.gears()[0].teeth.module()) all.emplace_back();
    all.back().push_back(p);
  }
  return all;
}

const char* path_name(const Pair& pair) { return pair.parallel() ? "line of action" : "path of contact"; }

roll::Result roll_section(const Pair& pair, int positions) {
  auto [driver, driven] = pair.members();
  driver.twist = driven.twist = 0;
  return roll::roll(driver, driven, pair.law(positions));
}

Start start_of_roll(const Pair& pair) {
  constexpr int kFewest = 8;
  roll::Position first = roll_section(pair, kFewest).positions.front();
  const auto members = pair.members();
  const double driven = first.upper ? first.upper->driven : members[1].start;
  return {std::move(first), members[0].start, driven};
}

}  // namespace palio::pair
