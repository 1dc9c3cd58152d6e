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
  for (const Pair& p : design.pairs) {
    const auto [low, high] = std::minmax({first[p.driver], first[p.driven]});
    for (std::size_t& m : first)
      m = m == high ? low : m;
  }
  return first;
}

std::optional<double> speed(const Design& design, std::size_t gear) {
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
  if (!pair.loop) return result;
  const auto [driver, driven] = pair.members();
  return roll::held(std::move(result), driver.start, driven.start, pair.loop->ratio, driven.outline.pitch(),
                    pair.law(positions).binding(), driven.name);
}

}  // namespace palio::job
