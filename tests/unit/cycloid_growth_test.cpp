// Cycloidal teeth with their surfaces moved: points of the grown outline are held against the old one by plain search,
// its area against the length of the old one, the play of pairs against their roll.
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "palio/curve/flatten.hpp"
#include "palio/error.hpp"
#include "palio/gear/cycloidal_teeth.hpp"
#include "palio/math/extent.hpp"
#include "palio/roll/roll.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;
using gear::CycloidalTeeth;

namespace {

std::vector<Vec2> cut(const curve::Segment& s, double error) {
  std::vector<Vec2> all;
  for (const double t : curve::flatten(s, error, 4).at)
    all.push_back(s.point(t));
  return all;
}

/// Three periods side by side as chords, and how long the middle one is.
struct Old {
  std::vector<std::vector<Vec2>> chains;
  double length = 0;

  explicit Old(const curve::Outline& o) {
    for (int copy = -1; copy <= 1; ++copy) {
      for (std::size_t i = 0; i < o.period.size(); ++i) {
        chains.push_back(cut(o.segment(copy, i), 1e-7));
        for (std::size_t k = 1; copy == 0 && k < chains.back().size(); ++k)
          length += (chains.back()[k] - chains.back()[k - 1]).norm();
      }
    }
  }
  double away(const Vec2& p) const {
    math::Extent all;
    for (const auto& chain : chains) {
      for (std::size_t k = 1; k < chain.size(); ++k) {
        const Vec2 &a = chain[k - 1], &b = chain[k];
        const double t = std::clamp((p - a).dot(b - a) / (b - a).squaredNorm(), 0.0, 1.0);
        all.hold((a + t * (b - a) - p).norm());
      }
    }
    return all.low();
  }
};

CycloidalTeeth true_teeth(std::mt19937& any, bool ring) {
  const auto between = [&](double low, double high) { return std::uniform_real_distribution(low, high)(any); };
  gear::CycloidalSpec s;
  s.teeth = std::uniform_int_distribution(ring ? 30 : 8, ring ? 80 : 60)(any);
  s.module = between(0.5, 4);
  const double r = s.teeth * s.module / 2;
  s.internal = ring;
  s.face_rolling_radius = between(2, 5) * s.module;
  s.flank_rolling_radius = ring ? between(2, 5) * s.module : between(0.25, 0.6) * r;
  s.addendum = ring ? 0.6 : 0.8, s.dedendum = ring ? 0.8 : 1;
  s.thickness_allowance = -between(0, 0.1) * s.module;
  s.fillet_radius = between(0, 1) < 0.5 ? 0 : 0.1 * s.module;
  return {gear::CycloidalGear(s), {5, 0, 0}};
}

CycloidalTeeth clock_teeth(std::mt19937& any) {
  gear::ClockSpec s;
  s.pinion = any() % 2 == 0;
  s.teeth = s.pinion ? 8 + static_cast<int>(any() % 6) : 40 + static_cast<int>(any() % 60);
  s.mate_teeth = s.pinion ? 60 : 8;
  s.module = 1;
  if (!s.pinion) s.tip_round = any() % 2 == 0 ? 0 : 0.15;
  return {gear::ClockGear(s), {3, 0, 0}};
}

CycloidalTeeth lantern_wheel(std::mt19937& any) {
  gear::LanternWheelSpec s;
  s.teeth = 20 + static_cast<int>(any() % 60), s.pins = 8 + static_cast<int>(any() % 6);
  s.module = 2, s.pin_diameter = 2.6, s.backlash = any() % 2 == 0 ? 0 : 0.1;
  return {gear::LanternWheel(s), {6, 0, 0}};
}

void check_parallel(const CycloidalTeeth& teeth, double by) {
  CAPTURE(name(teeth.form()), teeth.count(), teeth.module(), by);
  const CycloidalTeeth grown = teeth.grown(by);
  const curve::Outline &o = grown.outline(), &was = teeth.outline();
  const Old old(was);
  int exact = 0, all = 0;
  for (std::size_t i = 0; i < o.period.size(); ++i) {
    const curve::Segment& s = o.period[i];
    const Vec2 next = i + 1 < o.period.size() ? o.period[i + 1].first() : o.segment(1, 0).first();
    REQUIRE((s.last() - next).norm() < 1e-11 * teeth.sizes().tip_diameter);
    for (int k = 0; k <= 12; ++k) {
      const double away = old.away(s.point(s.from + k * (s.to - s.from) / 12));
      // Beyond an edge the parallels are drawn on until they meet: further off, nowhere nearer.
      REQUIRE(away > std::abs(by) - 1e-6 * teeth.module());
      exact += away < std::abs(by) + 1e-6 * teeth.module(), ++all;
    }
  }
  CHECK(exact > 0.8 * all);
  // What was added lies along the whole outline, on its outer side.
  const double sense = was.clockwise ? -1 : 1, change = curve::signed_area(o) - curve::signed_area(was);
  CHECK_THAT(sense * change / was.count, WithinRel((was.clockwise ? -1 : 1) * by * old.length, 0.15));
  // There and back again is the tooth that was, but for what was swallowed near the pitch circle.
  CHECK_THAT(grown.growth(), WithinAbs(by, 0.0));
}

}  // namespace

TEST_CASE("grown cycloidal teeth lie at their distance from the old ones all round") {
  std::mt19937 any(20261202);
  for (unsigned round = 0; round < test::share(6); ++round) {
    for (const CycloidalTeeth& teeth :
         {true_teeth(any, false), true_teeth(any, true), clock_teeth(any), lantern_wheel(any)}) {
      for (const double share : {0.03, -0.03, 0.002, -0.002})
        check_parallel(teeth, share * teeth.module());
    }
    // Where a lantern's flank cannot be drawn on, the round about the edge lies there.
    for (const double share : {0.08, 0.15})
      check_parallel(lantern_wheel(any), share * 2);
  }
}

TEST_CASE("beside the pitch circle no point of grown cycloidal teeth is missing or doubled") {
  // Radial flanks do not fold outwards; hollow ones do, and the other way the faces of both.
  gear::CycloidalSpec s;
  s.teeth = 24, s.module = 2, s.face_rolling_radius = 6, s.fillet_radius = 0.2;
  for (const double flank : {12.0, 6.0, 4.0, 15.0}) {
    s.flank_rolling_radius = flank;
    const CycloidalTeeth teeth(gear::CycloidalGear(s), {5, 0, 0});
    for (const double by : {0.08, -0.08}) {
      CAPTURE(flank, by);
      const curve::Outline o = teeth.grown(by).outline();
      // Up the flank the tooth narrows by its own: the polar angle never goes back by more than the flank's own way.
      std::vector<double> radii;
      for (const curve::Segment& part : o.period) {
        if (part.role != curve::Role::flank || part.first().y() > 0) continue;
        for (int k = 0; k <= 40; ++k)
          radii.push_back(part.point(part.from + k * (part.to - part.from) / 40).norm());
      }
      CHECK(std::is_sorted(radii.begin(), radii.end(), [](double a, double b) { return a < b - 1e-12; }));
      const bool meets_at_pitch = flank >= 12 && by > 0;
      double nearest = 1;
      for (const double r : radii)
        nearest = std::min(nearest, std::abs(r - std::hypot(24, by)));
      CHECK((nearest < 1e-9) == meets_at_pitch);
    }
  }
}

TEST_CASE("grown cycloidal pairs have at least the play that is told, met at the pitch point") {
  gear::CycloidalSpec a, b;
  a.teeth = 12, b.teeth = 31, a.module = b.module = 2, a.fillet_radius = b.fillet_radius = 0.2;
  a.thickness_allowance = b.thickness_allowance = -0.05;
  const gear::RollingCircles c = gear::radial_flanks(12, 31, 2);
  a.face_rolling_radius = c.first_face, a.flank_rolling_radius = c.first_flank;
  b.face_rolling_radius = c.second_face, b.flank_rolling_radius = c.second_flank;
  const CycloidalTeeth first(gear::CycloidalGear(a), {5, 0, 0}), second(gear::CycloidalGear(b), {5, 0, 0});
  for (const double by : {-0.02, 0.01}) {
    CAPTURE(by);
    const CycloidalTeeth g1 = first.grown(by), g2 = second.grown(by);
    CHECK_THAT(g1.space_width() + g2.space_width() - 2 * kPi, WithinAbs(0.1 - 4 * by, 1e-12));
    roll::Law law;
    law.ratio = -12.0 / 31, law.theoretical_play = (0.1 - 4 * by) / 31, law.touch_mm = 1e-9, law.positions = 60;
    const roll::Result r =
        roll::roll({"driver", g1.outline(), roll::Motion::rotation(Vec2::Zero()), 0.0},
                   {"driven", g2.outline(), roll::Motion::rotation(Vec2(43, 0)), kPi + kPi / 31}, law);
    REQUIRE(r.play);
    // Where the flanks lean, so much along the normal is more along the circle.
    const double told = 0.1 - 4 * by, least = r.play->min * 31, most = r.play->max * 31;
    CHECK((by < 0 ? least : most) == Approx(told).epsilon(0.02));
    CHECK((by < 0 ? most > told : least < told));
  }
}

namespace {

/// Whether the chords of one period cross each other anywhere.
bool crosses_itself(const curve::Outline& o) {
  std::vector<Vec2> all;
  for (const curve::Segment& s : o.period) {
    for (int k = 0; k < 24; ++k)
      all.push_back(s.point(s.from + k * (s.to - s.from) / 24));
  }
  const auto side = [](const Vec2& a, const Vec2& b, const Vec2& p) { return cross(Vec2(b - a), Vec2(p - a)); };
  for (std::size_t i = 1; i < all.size(); ++i) {
    for (std::size_t j = i + 2; j < all.size(); ++j) {
      const Vec2 &a = all[i - 1], &b = all[i], &c = all[j - 1], &d = all[j];
      if (side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0) return true;
    }
  }
  return false;
}

}  // namespace

TEST_CASE("a growth is refused, or what is left of cycloidal teeth goes once round") {
  std::mt19937 any(99);
  int taken = 0, refused = 0;
  for (int round = 0; round < 12; ++round) {
    for (const CycloidalTeeth& teeth :
         {true_teeth(any, false), true_teeth(any, true), clock_teeth(any), lantern_wheel(any)}) {
      const double by = std::uniform_real_distribution(-1.2, 1.2)(any) * teeth.module();
      CAPTURE(round, name(teeth.form()), teeth.count(), by / teeth.module());
      try {
        const curve::Outline o = teeth.grown(by).outline();
        CHECK_FALSE(crosses_itself(o));
        ++taken;
      } catch (const InvalidParameter& e) {
        CHECK(e.name() == "surface_offset");
        ++refused;
      }
    }
  }
  CHECK(taken > 8);
  CHECK(refused > 8);
}

TEST_CASE("a growth that leaves nothing of cycloidal teeth is refused by its name") {
  std::mt19937 any(7);
  for (const CycloidalTeeth& teeth :
       {true_teeth(any, false), true_teeth(any, true), clock_teeth(any), lantern_wheel(any),
        CycloidalTeeth(gear::LanternPinion({8, 2, 2.6, 0, 0}), {6, 0, 0})}) {
    for (const double share : {1.6, -1.6}) {
      CAPTURE(name(teeth.form()), share);
      try {
        teeth.grown(share * teeth.module());
        FAIL("taken");
      } catch (const InvalidParameter& e) {
        CHECK(e.name() == "surface_offset");
      }
    }
  }
}
