// One loop of the motion: turns of every gear that end as they began. Gears that hang together turn by whole numbers;
// where a rack hangs on them, all go forth and back.
#include <algorithm>
#include <cmath>
#include <limits>

#include "palio/design/train.hpp"
#include "palio/make/make.hpp"

namespace palio::make {

namespace {

/// Turns of the first driver that every rack goes along with before a gear comes to its end: the way on which there are
/// more. 0 where there is none.
template <class Hangs>
double swing_of(const job::Design& design, Hangs hangs) {
  constexpr double kShare = 0.3;  // of a rack's length
  constexpr double kEndless = std::numeric_limits<double>::infinity();
  double on = kEndless, back = kEndless;
  for (std::size_t i = 0; i < design.gears.size(); ++i) {
    const job::Gear& g = design.gears[i];
    if (!hangs(i) || !g.teeth.is_rack() || !g.speed_ratio || *g.speed_ratio == 0) continue;
    const double per_turn = *g.speed_ratio * 2 * kPi, most = kShare * g.teeth.rack().sizes().length;
    const auto way = job::rack_way(design, i);
    double up = way ? std::min(most, way->back) : most, down = way ? std::min(most, way->on) : most;
    if (per_turn < 0) std::swap(up, down);
    on = std::min(on, up / std::abs(per_turn)), back = std::min(back, down / std::abs(per_turn));
  }
  if (on == kEndless) return 0;
  return on >= back ? on : -back;
}

}  // namespace

double set_in_motion(const job::Design& design, const std::vector<const view::Part*>& parts,
                     std::vector<write::PackedPart>& packed) {
  const std::size_t n = design.gears.size();
  const std::vector<std::size_t> mechanism = job::mechanisms(design);
  constexpr int kMost = 2000;
  std::vector<double> whole(n, 0), swing(n, 0);
  double most = 1;
  for (std::size_t m = 0; m < n; ++m) {
    if (mechanism[m] != m) continue;
    swing[m] = swing_of(design, [&](std::size_t gear) { return mechanism[gear] == m; });
    for (int turns = 1; turns <= kMost && whole[m] == 0; ++turns) {
      constexpr double kWhole = 1e-7;  // turns: ratios of whole numbers are far from others
      bool closes = true;
      for (std::size_t i = 0; i < n; ++i) {
        const job::Gear& g = design.gears[i];
        if (mechanism[i] == m && g.speed_ratio && !g.teeth.is_rack())
          closes = closes && std::abs(std::remainder(turns * *g.speed_ratio, 1.0)) < kWhole;
      }
      for (const job::Carrier& c : design.machine.carriers) {
        const bool hangs = !c.carried.empty() && mechanism[design.machine.members[c.carried[0]].gears[0]] == m;
        if (hangs && c.speed_ratio) closes = closes && std::abs(std::remainder(turns * *c.speed_ratio, 1.0)) < kWhole;
      }
      if (closes) whole[m] = turns;
    }
    if (swing[m] == 0) most = std::max(most, whole[m]);
  }
  for (const view::Part* p : parts) {
    if (p->motion) most = std::max(most, static_cast<double>(p->motion->loop));
  }
  // Of the first driver of a mechanism in one loop, or one way of it.
  const auto turns_of = [&](std::size_t m) {
    if (swing[m] != 0) return swing[m];
    return whole[m] > 0 ? whole[m] * std::floor(most / whole[m]) : 0;
  };
  for (std::size_t k = 0; k < packed.size(); ++k) {
    if (const auto& motion = parts[k]->motion) {
      const double input = motion->loop * std::floor(most / motion->loop);
      packed[k].turns = input * motion->turns;
      if (motion->orbit > 0) packed[k].orbit = input, packed[k].orbit_axis = motion->axis;
      continue;
    }
    // An axle turns as the first gear on it does.
    const job::Gear* g = parts[k]->gear;
    if (parts[k]->axle) {
      const auto& on = design.machine.members[*parts[k]->member].gears;
      g = on.empty() ? nullptr : &design.gears[on.front()];
    }
    // A carrier's plate turns with it, as often as its planets let it.
    const auto arms = std::find_if(design.machine.carriers.begin(), design.machine.carriers.end(), [&](const auto& c) {
      return !g && !parts[k]->axle && parts[k]->member == c.member;
    });
    if (arms != design.machine.carriers.end() && arms->speed_ratio && !arms->carried.empty()) {
      const std::size_t m = mechanism[design.machine.members[arms->carried[0]].gears[0]];
      packed[k].swings = swing[m] != 0, packed[k].turns = turns_of(m) * *arms->speed_ratio * parts[k]->sense;
      continue;
    }
    if (!g || !g->speed_ratio) continue;
    const std::size_t m = mechanism[static_cast<std::size_t>(g - design.gears.data())];
    packed[k].swings = swing[m] != 0;
    const double turns = turns_of(m);
    if (g->teeth.is_rack())
      packed[k].slides = turns * 2 * kPi * *g->speed_ratio;
    else
      packed[k].turns = turns * *g->speed_ratio;
    if (!parts[k]->carrier) continue;
    // A planet's axis goes round with its carrier: about an axis of the first group.
    const job::Carrier& c = design.machine.carriers[*parts[k]->carrier];
    if (c.speed_ratio && c.group == 0) packed[k].orbit = turns * *c.speed_ratio, packed[k].orbit_axis = c.axis;
  }
  return 2 * most;
}

}  // namespace palio::make
