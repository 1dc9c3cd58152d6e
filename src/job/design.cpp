#include "palio/job/design.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "body_findings.hpp"
#include "palio/roll/space.hpp"

namespace palio::job {

double mm_per(Units units) noexcept { return units == Units::inch ? 25.4 : 1.0; }
std::string_view symbol(Units units) noexcept { return units == Units::inch ? "in" : "mm"; }

const Gear& Design::gear(const std::string& name) const {
  const auto it = std::find_if(gears.begin(), gears.end(), [&](const Gear& g) { return g.name == name; });
  if (it == gears.end()) throw std::out_of_range("no gear named " + name);
  return *it;
}

namespace {

/// Whether the gear can be measured over its teeth as the report proposes.
void inspect(const Gear& g, std::vector<Finding>& found) {
  if (g.teeth.is_rack() || g.teeth.internal()) return;
  const gear::CylindricalGear& teeth = g.teeth.gear();
  const gear::Span span = teeth.span(g.span_teeth);
  const double low = teeth.sizes().root_form_diameter, high = teeth.sizes().tip_form_diameter;
  const std::string subject = "gear." + g.name;
  if (span.contact_diameter < low || span.contact_diameter > high) {
    found.push_back({FindingId::span_off_involute, subject, span.contact_diameter, span.contact_diameter < low ? low : high});
  }
  const double needed = span.length * std::sin(std::abs(teeth.sizes().base_helix_angle.radians()));
  const double face = teeth.spec().double_helical ? (teeth.spec().face_width - teeth.spec().gap) / 2 : teeth.spec().face_width;
  if (face < needed) found.push_back({FindingId::span_needs_face, subject, face, needed});
}

}  // namespace

std::vector<std::size_t> mechanisms(const Design& design) {
  std::vector<std::size_t> first(design.gears.size());
  for (std::size_t i = 0; i < first.size(); ++i) first[i] = i;
  for (const Pair& p : design.pairs) {
    const auto [low, high] = std::minmax({first[p.driver], first[p.driven]});
    for (std::size_t& m : first) m = m == high ? low : m;
  }
  return first;
}

std::vector<Finding> findings(const Design& design) {
  std::vector<Finding> all;
  const auto append = [&](std::vector<Finding> more) { all.insert(all.end(), more.begin(), more.end()); };
  for (const Pair& p : design.pairs) append(p.mismatches);
  for (const Gear& g : design.gears) {
    append(gear::findings(g.teeth, "gear." + g.name));
    inspect(g, all);
    append(body_findings(design, g));
  }
  for (const Pair& p : design.pairs) {
    const std::string subject = "pair." + p.name, driver = "gear." + design.gears[p.driver].name, driven = "gear." + design.gears[p.driven].name;
    if (p.running) append(p.running->findings(subject, driver, driven));
    if (p.crossed) append(p.crossed->findings(subject, driver, driven, p.friction));
  }
  return all;
}

roll::Member member(const Gear& gear, double datum) {
  // The upper half of a double helical gear leans the other way than the lower one, which its angle counts for.
  const double twist = gear.teeth.spec().double_helical ? -gear.teeth.twist() : gear.teeth.twist();
  const roll::Motion motion = gear.teeth.is_rack() ? roll::Motion::translation(gear.axis, gear.facing) : roll::Motion::rotation(gear.axis);
  return {gear.name, gear.teeth.chain(), motion, gear.phase + twist * (datum - gear.height), twist};
}

std::array<roll::Member, 2> members(const Design& design, const Pair& pair) {
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  return {member(driver, driver.height), member(driven, pair.crossed ? driven.height : driver.height)};
}

roll::Law law(const Design& design, const Pair& pair, int positions) {
  const double touch = 1e-9 * std::max(1.0, design.gears[pair.driver].teeth.spec().module);
  if (pair.crossed) return {pair.crossed->motion_ratio(), pair.crossed->angular_backlash()[1], touch, positions};
  const pair::ParallelPair& p = pair.running.value();
  return {p.motion_ratio(), p.driven_play(), touch, positions, p.face().from, p.face().to};
}

roll::Result rolled(const Design& design, const Pair& pair, int positions) {
  const auto [driver, driven] = members(design, pair);
  if (!pair.crossed) return roll::roll(driver, driven, law(design, pair, positions));
  const gear::CylindricalSpec &s1 = design.gears[pair.driver].teeth.spec(), &s2 = design.gears[pair.driven].teeth.spec();
  // In space: the driver's axis is z, the driven's stands in the direction of the common normal.
  const roll::Twisted first{driver.name, driver.outline, driver.twist, s1.face_width, {}, driver.start};
  const roll::Twisted second{driven.name,
                             driven.outline,
                             driven.twist,
                             s2.face_width,
                             roll::crossed_axis(pair.direction, pair.mounted_center_distance, pair.shaft_angle, pair.axial_offset),
                             driven.start};
  return roll::roll(first, second, law(design, pair, positions));
}

}  // namespace palio::job
