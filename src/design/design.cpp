#include "palio/design/design.hpp"

#include <algorithm>
#include <cmath>

namespace palio::job {

const Gear& Design::gear(const std::string& name) const {
  const auto it = std::find_if(gears.begin(), gears.end(), [&](const Gear& g) { return g.name == name; });
  if (it == gears.end()) throw std::out_of_range("no gear named " + name);
  return *it;
}

std::vector<std::size_t> mechanisms(const Design& design) {
  std::vector<std::size_t> first(design.gears.size());
  for (std::size_t i = 0; i < first.size(); ++i)
    first[i] = i;
  const auto join = [&](std::size_t a, std::size_t b) {
    const auto [low, high] = std::minmax({first[a], first[b]});
    for (std::size_t& m : first)
      m = m == high ? low : m;
  };
  for (const Pair& p : design.pairs)
    join(p.driver, p.driven);
  for (const Member& m : design.machine.members) {
    for (const std::size_t g : m.gears)
      join(m.gears.front(), g);
  }
  for (const Carrier& c : design.machine.carriers) {
    for (const std::size_t m : c.carried) {
      const auto &planets = design.machine.members[m].gears, &beside = design.machine.members[c.member].gears;
      if (!planets.empty() && !beside.empty()) join(planets.front(), beside.front());
    }
  }
  // The two ends of a reducer.
  for (std::size_t i = 0; i < design.machine.meshes.size(); ++i) {
    const auto &in = design.machine.members[design.machine.meshes[i].a].gears,
               &out = design.machine.members[design.machine.meshes[i].b].gears;
    if (!design.machine.pair_of[i] && !in.empty() && !out.empty()) join(in.front(), out.front());
  }
  return first;
}

std::optional<double> speed(const Design& design, std::size_t gear) {
  for (const Train& t : design.machine.trains) {
    if (!t.speed) continue;
    const std::size_t member = design.machine.of_gear[gear];
    const auto turns = t.motion.turns[member];
    if (!turns) continue;
    const gear::Teeth& teeth = design.gears[gear].teeth;
    return *t.speed * turns->value * (teeth.is_rack() ? -teeth.rack().pitch() / (2 * kPi) : design.machine.sense[gear]);
  }
  if (std::none_of(design.pairs.begin(), design.pairs.end(), [](const Pair& p) { return p.speed.has_value(); }))
    return std::nullopt;
  const std::vector<std::size_t> mechanism = mechanisms(design);
  for (const Pair& p : design.pairs) {
    if (!p.speed || mechanism[p.driver] != mechanism[gear]) continue;
    // A rack that drives moves; the speed given is then its mate's.
    const std::size_t said = design.gears[p.driver].teeth.is_rack() ? p.driven : p.driver;
    const auto own = design.gears[gear].speed_ratio, other = design.gears[said].speed_ratio;
    if (own && other && *other != 0) return *p.speed * *own / *other;
  }
  return std::nullopt;
}

roll::Result rolled(const Pair& pair, int positions) {
  roll::Result result = pair::roll(pair, positions);
  if (!pair.loop && pair.planets.empty()) return result;
  const auto [driver, driven] = pair.members();
  const double ratio = pair.loop ? pair.loop->ratio : pair.motion_ratio(), binding = pair.law(positions).binding();
  const gear::Teeth& teeth = pair.gears()[1].teeth;
  const double pitch = teeth.is_rack() ? teeth.rack().pitch() : driven.outline.pitch();
  const auto held = [&, &first = driver, &second = driven](double beyond) {
    return roll::held(result, first.start, second.start + beyond, ratio, pitch, binding, second.name);
  };
  if (pair.loop) return held(0);
  roll::Result worst = result;
  for (std::size_t k = 0; k < pair.planets.size(); ++k) {
    roll::Result other = held(pair.planets[k]);
    if (other.max_overlap <= worst.max_overlap && worst.verdict != roll::Verdict::meshes) continue;
    worst = std::move(other);
    if (worst.worst) worst.worst->where = "planet " + std::to_string(k + 2) + ", where its carrier puts it";
  }
  return worst;
}

}  // namespace palio::job
