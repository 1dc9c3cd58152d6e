// Seeded random gears and pairs: a failing seed runs alone.
#pragma once

#include <cmath>
#include <optional>
#include <random>

#include "palio/error.hpp"
#include "palio/gear/rack_root.hpp"
#include "palio/pair/parallel.hpp"

namespace palio::test {

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
  const double largest = gear::largest_tip_radius(s.pressure_angle.radians(), s.dedendum);
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
