#include "palio/roll/roll.hpp"

#include <catch2/catch.hpp>

#include "arcsec.hpp"
#include "palio/error.hpp"
#include "palio/math/roots.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

roll::Result rolled(const pair::ParallelPair& p, int positions = 60, double start = 0, double direction = 0) {
  const double phase = pair::driven_phase(p.driver(), p.driven(), start, Angle::radians(direction));
  const roll::Member driver{"driver", p.driver().outline(), roll::Motion::rotation({3, -2}), start};
  const roll::Member driven{"driven", p.driven().outline(),
                            roll::Motion::rotation(Vec2(3, -2) + from_polar(p.center_distance(), direction)), phase};
  const double touch = 1e-9 * std::max(1.0, p.driver().spec().module);
  roll::Law law;
  law.ratio = -1 / p.gear_ratio();
  law.theoretical_play = p.angular_backlash()[1].radians();
  law.touch_mm = touch;
  law.positions = positions;
  return roll::roll(driver, driven, law);
}

bool sound(const pair::ParallelPair& p) {
  for (const Finding& f : p.findings("pair", "driver", "driven")) {
    if (f.kind().severity == Severity::error) return false;
  }
  return true;
}

bool finds(const pair::ParallelPair& p, FindingId id) {
  for (const Finding& f : p.findings("pair", "driver", "driven")) {
    if (f.id == id) return true;
  }
  return false;
}

gear::CylindricalSpec vent(int teeth, double shift) {
  gear::CylindricalSpec s;
  s.teeth = teeth;
  s.module = 1.5;
  s.profile_shift = shift;
  s.face_width = 12;
  return s;
}

/// The greenhouse's first stage, thinned for 0.14 mm at 45.5 mm, by tooth count.
std::pair<gear::CylindricalGear, gear::CylindricalGear> first_stage(double play = 0.14) {
  gear::CylindricalSpec s1 = vent(17, 0.18), s2 = vent(43, 0.09);
  const double total = pair::thinning_for_backlash(gear::CylindricalGear(s1), gear::CylindricalGear(s2), 45.5, play);
  const double to_length = -2 * 1.5 * std::tan(s1.pressure_angle.radians());
  s1.thickness_allowance = to_length * total * 17 / 60;
  s2.thickness_allowance = to_length * total * 43 / 60;
  return {gear::CylindricalGear(s1), gear::CylindricalGear(s2)};
}

}  // namespace

TEST_CASE("what the theory calls sound the roll finds sound, with the same play, and the ratio is constant") {
  int sounds = 0, interfering = 0;
  for (unsigned seed = 1; seed <= 500; ++seed) {
    const auto any = test::any_pair(seed);
    if (!any) continue;
    const pair::ParallelPair p(any->driver, any->driven, any->center_distance);
    CAPTURE(seed, any->driver.spec().teeth, any->driven.spec().teeth, any->driver.spec().module, any->center_distance);
    CAPTURE(any->driver.spec().profile_shift, any->driven.spec().profile_shift, p.transverse_contact_ratio());
    const roll::Result r = rolled(p, 48, 0.1 * seed, 0.7 * seed);
    if (sound(p)) {
      ++sounds;
      CHECK(name(r.verdict) == "meshes");
      REQUIRE(r.play);
      const double radius = p.working_pitch_diameters()[1] / 2;
      CHECK_THAT(r.play->min * radius, WithinAbs(p.circumferential_backlash(), 1e-9));
      CHECK_THAT(r.play->max * radius, WithinAbs(p.circumferential_backlash(), 1e-9));
      CHECK(std::max(-r.transmission_error->min, r.transmission_error->max) * test::kArcsec < 1e-4);
      CHECK_THAT(r.pairs_mean, WithinAbs(p.transverse_contact_ratio(), 1e-6));
      CHECK(r.max_overlap == 0);
    } else if (finds(p, FindingId::tip_in_fillet) || finds(p, FindingId::tip_digs_root)) {
      ++interfering;
      // A tip edge may graze the fillet for a hundredth of the period only: then look more closely.
      const roll::Result close = r.verdict == roll::Verdict::meshes ? rolled(p, 2000, 0.1 * seed, 0.7 * seed) : r;
      CHECK(name(close.verdict) != "meshes");
    } else if (finds(p, FindingId::contact_ratio_below_one)) {
      CHECK(name(r.verdict) != "meshes");
    }
  }
  CHECK(sounds > 100);
  CHECK(interfering > 5);
}

TEST_CASE("zero play does not jam by rounding") {
  for (const double module : {0.2, 1.5, 12.0}) {
    gear::CylindricalSpec s1 = vent(17, 0.3), s2 = vent(43, 0.2);
    s1.module = s2.module = module;
    s1.tip_diameter = module * (17 + 2.4), s2.tip_diameter = module * (43 + 2.2);
    const gear::CylindricalGear g1(s1), g2(s2);
    const pair::ParallelPair p(g1, g2, *pair::zero_play_center_distance(g1, g2));
    const roll::Result r = rolled(p, 360);
    CAPTURE(module, p.circumferential_backlash());
    CHECK(name(r.verdict) == "meshes");
    CHECK(r.max_overlap == 0);
  }
}

TEST_CASE("mounted 0.2 mm too close the first stage jams, by half the overlap along the normal, and says where") {
  const auto [g1, g2] = first_stage();
  const pair::ParallelPair p(g1, g2, 45.3);
  const roll::Result r = rolled(p, 120);
  CHECK(name(r.verdict) == "jams");
  // Both flanks of a tooth overlap alike at the best place, so each by half the normal play.
  CHECK_THAT(r.max_overlap, WithinAbs(-p.normal_backlash() / 2, 1e-9));
  REQUIRE(r.worst);
  CHECK_THAT(r.worst->where, Catch::Contains("flank of driver") && Catch::Contains("against flank of driven"));
}

TEST_CASE("mounted 1 mm too far it loses contact for the share that the contact ratio lacks") {
  const auto [g1, g2] = first_stage();
  const pair::ParallelPair p(g1, g2, 46.5);
  const roll::Result r = rolled(p, 120);
  CHECK(name(r.verdict) == "loses_contact");
  CHECK(p.transverse_contact_ratio() < 1);
  CHECK_THAT(r.lost_share, WithinAbs(1 - p.transverse_contact_ratio(), 1e-9));
  CHECK(r.pairs_min == 0);
}

TEST_CASE("teeth that are out of reach stand in nobody's way") {
  const auto [g1, g2] = first_stage();
  const roll::Result r = rolled(pair::ParallelPair(g1, g2, 49.0), 24);
  CHECK(name(r.verdict) == "loses_contact");
  CHECK(r.lost_share == 1);
  CHECK_FALSE(r.play);
}

TEST_CASE("a tip that is too long bottoms in the mate's root, by the clearance that lacks") {
  gear::CylindricalSpec s1 = vent(17, 0), s2 = vent(43, 0);
  s2.tip_diameter = 43 * 1.5 + 2 * 1.5 * 1.3;  // 1.3 modules of addendum against 1.25 of dedendum
  const gear::CylindricalGear g1(s1), g2(s2);
  const pair::ParallelPair p(g1, g2, 45.0);
  const roll::Result r = rolled(p, 120);
  CHECK(finds(p, FindingId::tip_bottoms));
  CHECK(name(r.verdict) == "jams");
  CHECK_THAT(r.min_tip_root_clearance, WithinAbs(p.tip_clearance()[1], 1e-9));
  CHECK(r.max_overlap >= -p.tip_clearance()[1] - 1e-12);
}

TEST_CASE("contacts lie on the line of action, and their normals pass through the pitch point") {
  const auto [g1, g2] = first_stage();
  const pair::ParallelPair p(g1, g2, 45.5);
  const roll::Result r = rolled(p, 36);
  const Vec2 pitch_point = Vec2(3, -2) + Vec2(p.working_pitch_diameters()[0] / 2, 0);
  int contacts = 0;
  for (const roll::Position& at : r.positions) {
    for (const auto& side : {at.touching_upper, at.touching_lower}) {
      for (const roll::Contact& c : side) {
        CHECK_THAT(cross(c.normal, pitch_point - c.point), WithinAbs(0, 1e-9));
        CHECK_THAT(c.arm, WithinAbs(p.driven().gear().sizes().base_diameter / 2, 1e-9));
        ++contacts;
      }
    }
  }
  CHECK(contacts > 90);
}

TEST_CASE("the clearance found between tip and root is the radial one") {
  const auto [g1, g2] = first_stage();
  const pair::ParallelPair p(g1, g2, 45.5);
  CHECK_THAT(rolled(p, 90).min_tip_root_clearance,
             WithinAbs(std::min(p.tip_clearance()[0], p.tip_clearance()[1]), 1e-9));
}

TEST_CASE("at its limit the driven clears every point of the driver, and by no more than points can tell") {
  // Independent of the solver: dense points of the driver's outline against the closed form of the driven's thickness.
  const auto [g1, g2] = first_stage();
  const pair::ParallelPair p(g1, g2, 45.5);
  const Vec2 axis1(3, -2), axis2 = axis1 + Vec2(45.5, 0);
  const double pitch = 2 * kPi / 43;
  for (const roll::Position& at : rolled(p, 9).positions) {
    double least_above = 1e9, least_below = 1e9;
    for (int tooth = 0; tooth < 17; ++tooth) {
      for (std::size_t i = 0; i < g1.outline().period.size(); ++i) {
        const curve::Segment s = g1.outline().segment(tooth, i);
        for (int k = 0; k <= 400; ++k) {
          const Vec2 v = axis1 + turned(s.point(s.from + (s.to - s.from) * k / 400), at.driver) - axis2;
          const double R = v.norm(), place = std::atan2(v.y(), v.x());
          if (R > g2.sizes().tip_diameter / 2 || R < g2.sizes().root_form_diameter / 2) continue;
          // From the driven's upper flank up to the point, and from the point up to its lower flank, folded into a
          // pitch.
          const double above = std::remainder(place - g2.half_tooth_angle(R).radians() - at.upper->driven, pitch);
          const double below = std::remainder(at.lower->driven - g2.half_tooth_angle(R).radians() - place, pitch);
          if (above > -0.2 * pitch) least_above = std::min(least_above, above);
          if (below > -0.2 * pitch) least_below = std::min(least_below, below);
        }
      }
    }
    for (const double least : {least_above, least_below}) {
      CHECK(least > -1e-12);        // nothing overlaps
      CHECK(least * 32.25 < 1e-5);  // and something touches: 400 points a segment stray by less
    }
  }
}

TEST_CASE("too few positions are refused with the range") {
  const auto [g1, g2] = first_stage();
  CHECK_THROWS_AS(rolled(pair::ParallelPair(g1, g2, 45.5), 3), InvalidParameter);
}
