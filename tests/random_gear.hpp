// Seeded random gears and pairs: a failing seed runs alone.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <optional>
#include <random>
#include <utility>
#include <vector>

#include "palio/error.hpp"
#include "palio/gear/rack_root.hpp"
#include "palio/pair/crossed.hpp"
#include "palio/pair/parallel.hpp"

namespace palio::test {

/// How many of `n` random jobs to draw: PALIO_FUZZ says how many per cent (100), for a long search or a slow build.
inline unsigned share(unsigned n) {
  const char* percent = std::getenv("PALIO_FUZZ");
  return percent ? std::max(1u, static_cast<unsigned>(n * std::max(0.0, std::strtod(percent, nullptr)) / 100)) : n;
}
/// Whether a whole search is run, of which enough must come out one way or the other.
inline bool whole_search() { return share(100) >= 100; }

class Draw {
 public:
  explicit Draw(unsigned seed) : engine_(seed) {}
  double between(double lo, double hi) { return lo + (hi - lo) * (static_cast<double>(engine_()) / 4294967296.0); }
  int whole(int lo, int hi) { return lo + static_cast<int>(engine_() % static_cast<unsigned>(hi - lo + 1)); }
  template <class T, std::size_t N>
  T of(const T (&list)[N]) {
    return list[engine_() % N];
  }

 private:
  std::mt19937 engine_;
};

/// The rack both gears of a pair share.
inline gear::CylindricalSpec any_rack(Draw& draw) {
  gear::CylindricalSpec s;
  s.module = draw.of({0.3, 0.5, 1.0, 1.5, 2.0, 4.0, 25.4 / 16});
  s.pressure_angle = Angle::degrees(draw.of({14.5, 17.5, 20.0, 20.0, 25.0}));
  s.addendum = draw.of({0.8, 1.0, 1.0, 1.1});
  s.dedendum = s.addendum + draw.of({0.2, 0.25, 0.25, 0.4});
  const double largest = gear::largest_tip_radius(s.pressure_angle, s.dedendum);
  if (draw.whole(0, 2) > 0) s.tool_tip_radius = draw.of({0.0, 0.3, 0.7, 1.0}) * largest;
  s.face_width = 8 * s.module;
  return s;
}

inline std::optional<gear::CylindricalGear> try_gear(const gear::CylindricalSpec& spec) {
  try {
    return gear::CylindricalGear(spec);
  } catch (const InvalidParameter&) {
    return std::nullopt;
  }
}

/// Teeth 6 … 90, shifts large enough to be undercut or pointed now and then.
inline std::optional<gear::CylindricalGear> any_gear(unsigned seed) {
  Draw draw(seed);
  gear::CylindricalSpec s = any_rack(draw);
  s.teeth = draw.whole(0, 2) == 0 ? draw.whole(6, 16) : draw.whole(12, 90);
  s.profile_shift = draw.between(-0.6, 0.9);
  s.thickness_allowance = draw.of({0.0, 0.0, -0.02, -0.05}) * s.module;
  return try_gear(s);
}

/// One of each sort of teeth, of the greenhouse's size, for bodies and files.
inline std::vector<std::pair<const char*, gear::Teeth>> one_of_each() {
  gear::CylindricalSpec s;
  s.module = 1.5, s.teeth = 13, s.face_width = 14, s.bore_diameter = 6, s.profile_shift = 0.12;
  std::vector<std::pair<const char*, gear::Teeth>> all{{"spur", gear::CylindricalGear(s)}};
  s.helix_angle = Angle::degrees(18);
  all.emplace_back("helical, right hand", gear::CylindricalGear(s));
  s.helix_angle = Angle::degrees(-45);
  s.tip_chamfer = 0.2;
  all.emplace_back("helical, left hand, 45°, chamfered tips", gear::CylindricalGear(s));
  s.tip_chamfer = 0, s.tip_round = 0.15;
  s.double_helical = true, s.helix_angle = Angle::degrees(28);
  all.emplace_back("double helical", gear::CylindricalGear(s));
  s.gap = 2;
  all.emplace_back("double helical with a gap", gear::CylindricalGear(s));
  gear::CylindricalSpec ring;
  ring.module = 1.5, ring.teeth = 35, ring.face_width = 12, ring.internal = true;
  all.emplace_back("internal", gear::CylindricalGear(ring));
  ring.helix_angle = Angle::degrees(15), ring.tip_round = 0.1;
  all.emplace_back("internal, helical", gear::CylindricalGear(ring));
  gear::CylindricalSpec rack;
  rack.module = 1.5, rack.teeth = 5, rack.face_width = 12;
  all.emplace_back("rack", gear::Rack(rack));
  rack.helix_angle = Angle::degrees(-20), rack.length = 33, rack.teeth = 0, rack.tip_round = 0.2;
  all.emplace_back("rack, helical", gear::Rack(rack));
  return all;
}

/// And of the cycloidal forms.
inline std::vector<std::pair<const char*, gear::Teeth>> one_of_each_cycloidal() {
  gear::CycloidalSpec s;
  s.teeth = 14, s.module = 1.5, s.face_rolling_radius = 9, s.flank_rolling_radius = 5.25, s.fillet_radius = 0.2;
  std::vector<std::pair<const char*, gear::Teeth>> all{
      {"true", gear::CycloidalTeeth(gear::CycloidalGear(s), {10, 6, 0})}};
  s.teeth = 41, s.internal = true, s.face_rolling_radius = s.flank_rolling_radius = 5;
  all.emplace_back("true, ring", gear::CycloidalTeeth(gear::CycloidalGear(s), {10, 0, 0}));
  gear::ClockSpec c;
  c.teeth = 30, c.mate_teeth = 8, c.module = 1.5;
  all.emplace_back("clock wheel", gear::CycloidalTeeth(gear::ClockGear(c), {4, 8, 0}));
  c.teeth = 8, c.mate_teeth = 30, c.pinion = true;
  all.emplace_back("clock pinion", gear::CycloidalTeeth(gear::ClockGear(c), {8, 2, 0}));
  gear::LanternWheelSpec w;
  w.teeth = 30, w.pins = 9, w.module = 1.5, w.pin_diameter = 1.4, w.backlash = 0.04;
  all.emplace_back("lantern wheel", gear::CycloidalTeeth(gear::LanternWheel(w), {6, 8, 0}));
  gear::LanternSpec l;
  l.pins = 9, l.module = 1.5, l.pin_diameter = 1.4;
  all.emplace_back("lantern", gear::CycloidalTeeth(gear::LanternPinion(l), {8, 4, 0}));
  return all;
}

struct AnyPair {
  gear::CylindricalGear driver, driven;
  double center_distance;
};

/// A pair whose axes stand between a little play and much.
inline std::optional<AnyPair> any_pair(unsigned seed) {
  Draw draw(seed);
  gear::CylindricalSpec s1 = any_rack(draw), s2 = s1;
  s1.teeth = draw.whole(8, 45);
  s2.teeth = draw.whole(8, 90);
  s1.profile_shift = draw.between(-0.3, 0.8);
  s2.profile_shift = draw.between(-0.5, 0.8);
  s1.thickness_allowance = draw.of({0.0, -0.03}) * s1.module;
  s2.thickness_allowance = draw.of({0.0, -0.02, -0.06}) * s2.module;
  const auto g1 = try_gear(s1), g2 = try_gear(s2);
  if (!g1 || !g2) return std::nullopt;
  const auto a = pair::zero_play_center_distance(*g1, *g2);
  if (!a) return std::nullopt;
  return AnyPair{*g1, *g2, *a + draw.of({0.0, 0.0, 0.02, 0.1, 0.3}) * s1.module};
}

}  // namespace palio::test
