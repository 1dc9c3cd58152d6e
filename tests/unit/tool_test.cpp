// Independent constructions: tools swept past the blank by brute force, and a pinion pushed into its ring.
#include <tuple>
#include <vector>

#include <catch2/catch.hpp>

#include "random_gear.hpp"
#include "view/tool_shape.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

/// Half the angle of the space at each radius as dense positions of the tool leave it; the tool's outline densified.
struct Swept {
  double most_beyond = -1e9;  // furthest that any place of the tool lies beyond the exact space [mm]
  double least_short = 1e9;   // and how near the nearest comes to it, worst over the radii [mm]
};

Swept sweep(const gear::CylindricalGear& g, const view::CuttingTool& tool, double lo, double hi) {
  constexpr int kBins = 16, kTurns = 900;
  std::vector<double> nearest(kBins, 1e9);
  Swept result;
  const double pitch = 2 * kPi / g.spec().teeth;
  std::vector<Vec2> dense;
  for (std::size_t i = 0; i < tool.outline.size(); ++i) {
    const Vec2 a = tool.outline[i], b = tool.outline[(i + 1) % tool.outline.size()];
    // Only the teeth that come near: a rack's middle ones, a cutter's first.
    if (tool.rack ? std::abs(a.y()) > 2.2 * pitch * tool.rolling_radius
                  : std::abs(std::atan2(a.y(), a.x())) > 3.5 * kPi * tool.ratio / g.spec().teeth)
      continue;
    dense.push_back(a);
    if ((b - a).norm() > 0.02 * g.spec().module && (b - a).norm() < 3 * g.spec().module) {
      for (int k = 1; k < 30; ++k)
        dense.push_back(a + (b - a) * k / 30);
    }
  }
  for (int n = -kTurns; n <= kTurns; ++n) {
    const double turn = std::min(tool.reach, 0.9) * n / kTurns;
    for (const Vec2& p : dense) {
      const Vec2 world = tool.rack ? Vec2(tool.distance + p.x(), p.y() + tool.rolling_radius * turn)
                                   : Vec2(Vec2(tool.distance, 0) + turned(p, turn * tool.ratio));
      const double R = world.norm();
      if (R < lo || R > hi) continue;
      const auto half = g.half_space_angle(R);
      if (!half) continue;
      const double angle = std::atan2(world.y(), world.x()) - turn, off = std::abs(std::remainder(angle, pitch));
      const double beyond = (off - half->radians()) * R;
      result.most_beyond = std::max(result.most_beyond, beyond);
      double& bin = nearest[std::min(kBins - 1, static_cast<int>((R - lo) / (hi - lo) * kBins))];
      bin = std::min(bin, std::abs(beyond));
    }
  }
  result.least_short = *std::max_element(nearest.begin(), nearest.end());
  return result;
}

}  // namespace

TEST_CASE(
    "what a rack, swept past the blank, leaves is the outline: no place of it cuts deeper, and all of it is cut") {
  const std::vector<std::tuple<int, double, double>> all{
      {9, 0.0, 0.0}, {17, 0.18, 0.0}, {13, -0.1, 25.0}, {40, 0.4, -15.0}};
  for (std::size_t i = 0; i < test::share(4); ++i) {
    const auto [teeth, shift, helix] = all[i];
    gear::CylindricalSpec s;
    s.module = 1.5, s.teeth = teeth, s.profile_shift = shift, s.helix_angle = Angle::degrees(helix), s.face_width = 10;
    const gear::CylindricalGear g(s);
    const Swept swept =
        sweep(g, view::cutting_tool(g), g.sizes().root_diameter / 2 * 1.0001, g.sizes().tip_diameter / 2 * 0.9999);
    CAPTURE(teeth, shift, helix);
    CHECK(swept.most_beyond < 1e-6);
    CHECK(swept.least_short < 6e-3);
  }
}

TEST_CASE("what a pinion cutter, swept inside the ring, leaves is the outline") {
  for (const auto& [teeth, shift, helix] : {std::tuple{61, -0.4, 0.0}, {43, 0.0, 0.0}, {50, 0.2, 18.0}}) {
    gear::CylindricalSpec s;
    s.module = 1.5, s.teeth = teeth, s.profile_shift = shift, s.helix_angle = Angle::degrees(helix), s.face_width = 10,
    s.internal = true, s.addendum = 0.9;
    const gear::CylindricalGear g(s);
    const view::CuttingTool tool = view::cutting_tool(g);
    const Swept swept = sweep(g, tool, std::max(g.sizes().tip_diameter, g.sizes().base_diameter) / 2 * 1.001,
                              g.sizes().root_diameter / 2 * 0.99999);
    CAPTURE(teeth, shift, helix, g.sizes().cutter->teeth, tool.deviation);
    CHECK(swept.most_beyond < 1e-6);
    CHECK(swept.least_short < 6e-3);
  }
}

TEST_CASE("a pinion pushed radially into its ring is stopped where the theory says so, and only there") {
  int stopped = 0, free = 0;
  for (unsigned seed = 1; seed <= 60; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1;
    s1.module = 1, s1.face_width = 5, s1.teeth = draw.whole(14, 30);
    gear::CylindricalSpec s2 = s1;
    s2.internal = true, s2.teeth = s1.teeth + draw.whole(8, 40);
    s1.profile_shift = draw.between(0.2, 0.5), s2.profile_shift = -s1.profile_shift, s2.addendum = 0.9;
    const auto g1 = test::try_gear(s1), g2 = test::try_gear(s2);
    if (!g1 || !g2) continue;
    const double a = *pair::zero_play_center_distance(*g1, *g2);
    const pair::ParallelPair p(*g1, *g2, a);
    const double clash = pair::radial_assembly_clash(*g1, *g2, p.working_pressure_angle());
    // The pinion's flank and tip places on the way in, for every way the teeth may stand.
    double deepest = -1e9;
    for (int phase = 0; phase < 8; ++phase) {
      const double start = 2 * kPi / s1.teeth * phase / 8, ring = pair::driven_phase(*g1, *g2, start, Angle());
      for (int step = 0; step <= 30; ++step) {
        const double at = a - 2.2 * step / 30;
        for (int tooth = 0; tooth < s1.teeth; ++tooth) {
          for (int k = 0; k <= 12; ++k) {
            const double R1 = g1->sizes().base_diameter / 2 * 1.001 +
                              (g1->sizes().tip_diameter - g1->sizes().base_diameter * 1.001) / 2 * k / 12;
            for (const int side : {-1, 1}) {
              const Vec2 q = Vec2(at, 0) + from_polar(R1, start + 2 * kPi * tooth / s1.teeth +
                                                              side * g1->half_tooth_angle(R1).radians());
              const double R = q.norm();
              if (R < g2->sizes().tip_diameter / 2 || R > g2->sizes().root_form_diameter / 2) continue;
              const double off = std::abs(std::remainder(std::atan2(q.y(), q.x()) - ring, 2 * kPi / s2.teeth));
              deepest = std::max(deepest, (off - g2->half_space_angle(R)->radians()) * R);
            }
          }
        }
      }
    }
    CAPTURE(seed, s1.teeth, s2.teeth, clash, deepest);
    if (clash > 0.02) {
      ++stopped;
      CHECK(deepest > 1e-4);
    }
    if (clash < -0.01) {
      ++free;
      CHECK(deepest < 1e-9);
    }
  }
  CHECK(stopped > 1);
  CHECK(free > 5);
}

TEST_CASE("mirrored hands mirror the teeth, and doubling all lengths doubles all lengths") {
  for (const auto& [what, teeth] : test::one_of_each()) {
    CAPTURE(what);
    gear::CylindricalSpec other = teeth.spec(), twice = teeth.spec();
    other.helix_angle = -1 * other.helix_angle;
    for (double* length : {&twice.module, &twice.face_width, &twice.bore_diameter, &twice.tip_chamfer, &twice.tip_round,
                           &twice.gap, &twice.thickness_allowance})
      *length *= 2;
    for (auto* length : {&twice.length, &twice.base_height, &twice.outer_diameter}) {
      if (*length) **length *= 2;
    }
    const gear::Teeth mirrored =
        teeth.is_rack() ? gear::Teeth(gear::Rack(other)) : gear::Teeth(gear::CylindricalGear(other));
    const gear::Teeth doubled =
        teeth.is_rack() ? gear::Teeth(gear::Rack(twice)) : gear::Teeth(gear::CylindricalGear(twice));
    CHECK(mirrored.twist() == -teeth.twist());
    REQUIRE(mirrored.chain().period.size() == teeth.chain().period.size());
    for (std::size_t i = 0; i < teeth.chain().period.size(); ++i) {
      // The mid-face section has no hand: mirroring a helix at mid-face leaves it as it is.
      CHECK((mirrored.chain().period[i].first() - teeth.chain().period[i].first()).norm() < 1e-12);
      CHECK((doubled.chain().period[i].last() - 2 * teeth.chain().period[i].last()).norm() < 1e-10);
    }
  }
}

TEST_CASE("balls and pins touch both flanks of a space where the inspection dimension puts them") {
  // The distance of a ball's centre from the flank along the normal is its radius: in the transverse section, D/(2 cos
  // β_b).
  for (const auto& [what, teeth] : test::one_of_each()) {
    if (teeth.is_rack()) continue;
    CAPTURE(what);
    const gear::CylindricalGear& g = teeth.gear();
    const gear::OverBalls balls = g.over_balls();
    const bool odd = g.spec().teeth % 2 != 0;
    const double across = g.internal() ? balls.length + balls.pin_diameter : balls.length - balls.pin_diameter;
    const double centre = (odd ? across / std::cos(kPi / (2 * g.spec().teeth)) : across) / 2;
    double least = 1e9;
    for (const curve::Segment& s : g.outline().period) {
      if (s.role != curve::Role::flank) continue;
      for (int k = 0; k <= 4000; ++k) {
        const Vec2 p = turned(s.point(s.from + (s.to - s.from) * k / 4000), g.internal() ? 0 : kPi / g.spec().teeth);
        for (const double turn : {0.0, -2 * kPi / g.spec().teeth})
          least = std::min(least, (turned(p, turn) - Vec2(centre, 0)).norm());
      }
    }
    CHECK_THAT(least * std::cos(g.sizes().base_helix_angle.radians()), WithinAbs(balls.pin_diameter / 2, 2e-5));
    if (g.spec().helix_angle.radians() == 0)
      CHECK(g.over_pins()->length == balls.length);
    else if (g.internal())
      CHECK_FALSE(g.over_pins());
    else
      CHECK_THAT(g.over_pins()->length, WithinAbs(2 * centre + balls.pin_diameter, 1e-12));
  }
}
