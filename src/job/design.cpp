#include "palio/job/design.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace palio::job {

double mm_per(Units units) noexcept { return units == Units::inch ? 25.4 : 1.0; }
std::string_view symbol(Units units) noexcept { return units == Units::inch ? "in" : "mm"; }

const Gear& Design::gear(const std::string& name) const {
  const auto it = std::find_if(gears.begin(), gears.end(), [&](const Gear& g) { return g.name == name; });
  if (it == gears.end()) throw std::out_of_range("no gear named " + name);
  return *it;
}

std::vector<Finding> findings(const Design& design) {
  std::vector<Finding> all;
  const auto append = [&](std::vector<Finding> more) { all.insert(all.end(), more.begin(), more.end()); };
  for (const Pair& p : design.pairs) append(p.mismatches);
  for (const Gear& g : design.gears) append(gear::findings(g.teeth, "gear." + g.name));
  for (const Pair& p : design.pairs) {
    if (!p.running) continue;
    append(p.running->findings("pair." + p.name, "gear." + design.gears[p.driver].name, "gear." + design.gears[p.driven].name));
  }
  return all;
}

roll::Member member(const Gear& gear) { return {gear.name, gear.teeth.outline(), roll::Motion::rotation(gear.axis), gear.phase}; }

roll::Law law(const Design& design, const Pair& pair, int positions) {
  const auto& driver = design.gears[pair.driver].teeth.spec();
  const auto& driven = design.gears[pair.driven].teeth.spec();
  const double touch = 1e-9 * std::max(1.0, driver.module);
  return {-static_cast<double>(driver.teeth) / driven.teeth, pair.running.value().angular_backlash()[1], touch, positions};
}

roll::Result rolled(const Design& design, const Pair& pair, int positions) {
  return roll::roll(member(design.gears[pair.driver]), member(design.gears[pair.driven]), law(design, pair, positions));
}

}  // namespace palio::job
