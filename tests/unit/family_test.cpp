// Pairs of every sort on parallel axes, drawn at random: what the theory says, the roll of the exact curves finds.
#include <catch2/catch.hpp>

#include "arcsec.hpp"
#include "palio/math/roots.hpp"
#include "palio/pair/tolerance.hpp"
#include "palio/roll/roll.hpp"
#include "palio/roll/space.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

/// The two members as the theory places them, the pitch point lying in `direction` from the driver's axis.
roll::Result rolled(const pair::ParallelPair& p, int positions, double start, Angle direction) {
  const gear::Teeth &g1 = p.driver(), &g2 = p.driven();
  const Vec2 away = from_polar(p.center_distance(), direction.radians());
  const Vec2 at1(3, -2), at2 = g2.internal() ? Vec2(at1 - away) : Vec2(at1 + away);
  const auto motion = [&](const gear::Teeth& g, const Vec2& at, Angle faces) {
    return g.is_rack() ? roll::Motion::translation(at, faces - Angle::degrees(90)) : roll::Motion::rotation(at);
  };
  const roll::Member driver{"driver", g1.chain(), motion(g1, at1, direction), start, g1.twist()};
  const roll::Member driven{"driven", g2.chain(), motion(g2, at2, direction + Angle::degrees(180)),
                            pair::driven_phase(g1, g2, start, direction), g2.twist()};
  const double m = g1.spec().module;
  roll::Law law;
  law.ratio = p.motion_ratio();
  law.theoretical_play = p.driven_play();
  law.touch_mm = pair::touching(m);
  law.positions = positions;
  law.face_from = p.face().from;
  law.face_to = p.face().to;
  law.overlap_mm = pair::binding(m);
  return roll::roll(driver, driven, law);
}

double radius(const pair::ParallelPair& p) { return p.driven().is_rack() ? 1 : p.working_pitch_diameters()[1] / 2; }

struct Verdicts {
  bool sound = true, tips = false, fouling = false, axial = false, parts = false, jams = false;
};

Verdicts verdicts(const pair::ParallelPair& p) {
  Verdicts v;
  for (const Finding& f : p.findings("pair", "driver", "driven")) {
    if (f.kind().severity == Severity::error) v.sound = false;
    v.tips |= f.id == FindingId::tip_in_fillet || f.id == FindingId::tip_digs_root || f.id == FindingId::tip_bottoms;
    v.fouling |= f.id == FindingId::tip_fouling;
    v.parts |= f.id == FindingId::contact_ratio_below_one;
    v.jams |= f.id == FindingId::negative_play;
  }
  return v;
}

struct Counts {
  int sound = 0, interfering = 0, fouling = 0;
};

/// Rolls what the theory says about one pair.
void hold_against_roll(const pair::ParallelPair& p, unsigned seed, Counts& counts) {
  const Verdicts v = verdicts(p);
  CAPTURE(seed, p.driver().spec().teeth, p.driven().spec().teeth, p.driver().spec().module, p.center_distance(),
          p.driver().spec().helix_angle.degrees());
  CAPTURE(p.driver().spec().profile_shift, p.driven().spec().profile_shift, p.transverse_contact_ratio(),
          p.overlap_ratio());
  for (const Finding& f : p.findings("pair", "driver", "driven"))
    UNSCOPED_INFO(f.kind().text_id << " " << f.subject << " " << f.value.value_or(0) << " " << f.limit.value_or(0));
  const double start = 0.1 * seed;
  const Angle direction = Angle::radians(0.7 * seed);
  const roll::Result r = rolled(p, 48, start, direction);
  if (v.sound) {
    ++counts.sound;
    CAPTURE(r.worst ? r.worst->where : "");
    CHECK(name(r.verdict) == "meshes");
    REQUIRE(r.play);
    CHECK_THAT(r.play->min * radius(p), WithinAbs(p.circumferential_backlash(), 1e-9));
    CHECK_THAT(r.play->max * radius(p), WithinAbs(p.circumferential_backlash(), 1e-9));
    CHECK(std::max(-r.transmission_error->min, r.transmission_error->max) *
              (p.driven().is_rack() ? 1e6 : test::kArcsec) <
          1e-4 * (p.driven().is_rack() ? 10 : 1));
    // The corner of a basic rack runs along the root of its own tool so closely that the roll takes it for touching a
    // little longer.
    CHECK_THAT(r.pairs_mean, WithinAbs(p.transverse_contact_ratio() + p.overlap_ratio(), p.with_rack() ? 5e-4 : 1e-6));
    CHECK(r.max_overlap == 0);
  } else if (v.tips || v.fouling) {
    counts.fouling += v.fouling;
    ++counts.interfering;
    // A tip edge may graze the fillet for a hundredth of the period only: then look more closely.
    const roll::Result close = r.verdict == roll::Verdict::meshes ? rolled(p, 2000, start, direction) : r;
    CHECK(name(close.verdict) != "meshes");
  } else if (v.parts || v.jams) {
    CHECK(name(r.verdict) != "meshes");
  }
}

double helix(test::Draw& draw) { return draw.of({0.0, 8.0, 18.0, 30.0, 45.0}) * draw.of({-1.0, 1.0}); }

}  // namespace

TEST_CASE("helical pairs: the play is that of the plane section, and overlap adds to the contact ratio") {
  Counts counts;
  for (unsigned seed = 1; seed <= 100; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1 = test::any_rack(draw), s2;
    s1.helix_angle = Angle::degrees(helix(draw));
    s1.face_width = draw.between(2, 14) * s1.module;
    s2 = s1;
    s2.helix_angle = -1 * s1.helix_angle;
    s1.teeth = draw.whole(8, 45), s2.teeth = draw.whole(8, 90);
    s1.profile_shift = draw.between(-0.2, 0.6), s2.profile_shift = draw.between(-0.4, 0.6);
    s2.thickness_allowance = draw.of({0.0, -0.03}) * s2.module;
    const auto g1 = test::try_gear(s1), g2 = test::try_gear(s2);
    const auto a = g1 && g2 ? pair::zero_play_center_distance(*g1, *g2) : std::nullopt;
    if (!a) continue;
    CHECK(pair::parallel_mismatches(*g1, *g2, "").empty());
    hold_against_roll(
        pair::ParallelPair(*g1, *g2, *a + draw.of({0.0, 0.02, 0.2}) * s1.module, draw.of({0.0, 0.7}) * s1.module), seed,
        counts);
  }
  CHECK(counts.sound > 30);
}

TEST_CASE("internal pairs: play, contact ratio and the three interferences") {
  Counts counts;
  for (unsigned seed = 1; seed <= 250; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1 = test::any_rack(draw), s2;
    s1.helix_angle = Angle::degrees(draw.of({0.0, 0.0, 15.0, -25.0}));
    s2 = s1;
    s2.internal = true;
    s1.teeth = draw.whole(10, 40), s2.teeth = s1.teeth + draw.whole(6, 60);
    s1.profile_shift = draw.between(-0.2, 0.7), s2.profile_shift = draw.between(-0.8, 0.3);
    s1.thickness_allowance = draw.of({0.0, -0.03}) * s1.module;
    s2.thickness_allowance = draw.of({0.0, -0.04}) * s2.module;
    const auto g1 = test::try_gear(s1), g2 = test::try_gear(s2);
    const auto a = g1 && g2 ? pair::zero_play_center_distance(*g1, *g2) : std::nullopt;
    if (!a) continue;
    const double mounted = *a - draw.of({0.0, 0.02, 0.1}) * s1.module;  // nearer means more play
    if (mounted <= pair::least_center_distance(*g1, *g2)) continue;
    draw.whole(0, 1) ? hold_against_roll(pair::ParallelPair(*g1, *g2, mounted), seed, counts)
                     : hold_against_roll(pair::ParallelPair(*g2, *g1, mounted), seed, counts);
  }
  CHECK(counts.sound > 50);
  CHECK(counts.interfering > 5);
  CHECK(counts.fouling > 3);
}

TEST_CASE("rack pairs: distance and play by the rack's own law, driving or driven") {
  Counts counts;
  for (unsigned seed = 1; seed <= 200; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1 = test::any_rack(draw), s2;
    s1.helix_angle = Angle::degrees(helix(draw));
    s2 = s1;
    s2.helix_angle = -1 * s1.helix_angle;
    s1.teeth = draw.whole(8, 60), s2.teeth = 12;
    s1.profile_shift = draw.between(-0.3, 0.7), s2.profile_shift = draw.of({0.0, 0.0, 0.1, -0.2});
    s1.thickness_allowance = draw.of({0.0, -0.03}) * s1.module;
    const auto g1 = test::try_gear(s1);
    if (!g1) continue;
    try {
      const gear::Rack rack(s2);
      const double H = *pair::zero_play_center_distance(*g1, rack) + draw.of({0.0, 0.02, 0.15}) * s1.module;
      draw.whole(0, 1) ? hold_against_roll(pair::ParallelPair(*g1, rack, H), seed, counts)
                       : hold_against_roll(pair::ParallelPair(rack, *g1, H), seed, counts);
    } catch (const InvalidParameter&) {
      continue;
    }
  }
  CHECK(counts.sound > 60);
}

TEST_CASE("crossed helical pairs: a point contact at constant ratio, with the play of the common rack") {
  int sounds = 0;
  for (unsigned seed = 1; seed <= 40; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1 = test::any_rack(draw), s2 = s1;
    s1.teeth = draw.whole(9, 30), s2.teeth = draw.whole(9, 40);
    const double hand = draw.of({-1.0, 1.0});
    s1.helix_angle = Angle::degrees(hand * draw.between(20, 55)),
    s2.helix_angle = Angle::degrees(hand * draw.between(-10, 50));
    if (std::abs((s1.helix_angle + s2.helix_angle).degrees()) < 15) continue;
    s1.profile_shift = draw.between(0, 0.5), s2.profile_shift = draw.between(-0.1, 0.4);
    s1.thickness_allowance = draw.of({0.0, -0.03}) * s1.module;
    s1.face_width = s2.face_width = draw.between(8, 16) * s1.module;
    const auto g1 = test::try_gear(s1), g2 = test::try_gear(s2);
    if (!g1 || !g2) continue;
    const double a = pair::crossed_center_distance(*g1, *g2) + draw.of({0.0, 0.02, 0.1}) * s1.module;
    const pair::CrossedPair p(*g1, *g2, a);
    bool sound = true;
    for (const Finding& f : p.findings("pair", "driver", "driven", {}))
      sound &= f.kind().severity != Severity::error;
    const double start = 0.3 * seed;
    const Angle direction;
    const roll::Twisted driver{"driver", g1->outline(), g1->twist(), s1.face_width, {}, start};
    const roll::Twisted driven{"driven",
                               g2->outline(),
                               g2->twist(),
                               s2.face_width,
                               roll::crossed_axis(direction, a, p.shaft_angle()),
                               pair::driven_phase(*g1, *g2, start, direction)};
    roll::Law law;
    law.ratio = p.motion_ratio();
    law.theoretical_play = p.angular_backlash()[1].radians();
    law.touch_mm = 1e-9 * std::max(1.0, s1.module);
    law.positions = 12;
    const roll::Result r = roll::roll(driver, driven, law);
    CAPTURE(seed, s1.teeth, s2.teeth, s1.module, s1.helix_angle.degrees(), s2.helix_angle.degrees(), p.contact_ratio(),
            r.worst ? r.worst->where : "");
    if (!sound) continue;
    ++sounds;
    CHECK(name(r.verdict) == "meshes");
    REQUIRE(r.play);
    const double arm = p.normal_backlash() == 0 ? 1 : p.circumferential_backlash() / p.angular_backlash()[1].radians();
    CHECK_THAT(r.play->min * arm, WithinAbs(p.circumferential_backlash(), 1e-9));
    CHECK_THAT(r.play->max * arm, WithinAbs(p.circumferential_backlash(), 1e-9));
    CHECK(std::max(-r.transmission_error->min, r.transmission_error->max) * test::kArcsec < 1e-3);
    CHECK_THAT(r.pairs_mean, WithinAbs(p.contact_ratio(), 1e-6));
  }
  CHECK(sounds > 12);
}

TEST_CASE("how deep the tip edge of a crossed gear digs into a root is what points of edge and root say") {
  if (!test::whole_search()) return;  // a cloud of points: too long under sanitizers
  int dug = 0;
  for (unsigned seed = 1; seed <= 60 && dug < 3; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1 = test::any_rack(draw), s2 = s1;
    s1.teeth = draw.whole(10, 24), s2.teeth = draw.whole(14, 40);
    s1.addendum = draw.between(1.1, 1.35), s1.dedendum = s2.dedendum = 1.25,
    s1.tool_tip_radius = s2.tool_tip_radius = {};
    const double beta1 = draw.between(20, 60), beta2 = draw.between(20, 40);
    s1.helix_angle = Angle::degrees(beta1), s2.helix_angle = Angle::degrees(beta2),
    s1.face_width = s2.face_width = 12 * s1.module;
    const auto g1 = test::try_gear(s1), g2 = test::try_gear(s2);
    if (!g1 || !g2) continue;
    const pair::CrossedPair p(*g1, *g2, pair::crossed_center_distance(*g1, *g2));
    for (const Finding& f : p.findings("pair", "driver", "driven", {})) {
      if (f.id != FindingId::tip_digs_root || f.subject != "driven" || *f.value < 0.01 * s1.module) continue;
      ++dug;
      CAPTURE(seed, s1.teeth, s2.teeth, beta1, beta2, *f.value);
      // The driven's root as a cloud on its surface, its outline as a polygon; both in its own frame, axis z.
      const curve::Outline& outline = g2->outline();
      const double twist2 = std::tan(s2.helix_angle.radians()) / (g2->sizes().reference_diameter / 2);
      const double twist1 = std::tan(s1.helix_angle.radians()) / (g1->sizes().reference_diameter / 2),
                   ratio = static_cast<double>(s1.teeth) / s2.teeth;
      std::vector<Vec2> section;
      for (const curve::Segment& s : outline.period) {
        for (int i = 0; i < 60; ++i)
          section.push_back(s.point(s.from + (s.to - s.from) * i / 60));
      }
      // The driver's frame seen from the driven: its axis at a on −x, turned by Σ; the driver's tooth on the common
      // normal at the start.
      const double a = p.center_distance(), sigma = p.shaft_angle().radians(), r_a = g1->sizes().tip_form_diameter / 2;
      const double half_tip = g1->half_tooth_angle(r_a).radians();
      const auto edge = [&](double turn, double height) -> Vec3 {
        const double angle = half_tip + twist1 * height + turn;
        const Vec3 own(r_a * std::cos(angle), r_a * std::sin(angle), height);
        // Into the world of the driver, then about the common normal into the driven's axes: x the normal from there.
        return {own.x() - a, own.y() * std::cos(sigma) - own.z() * std::sin(sigma),
                own.y() * std::sin(sigma) + own.z() * std::cos(sigma)};
      };
      // The driven stands so that its flank touches the driver's: play is none, a space lies on the driver's tooth.
      const auto deepest_when = [&](double phase) {
        double deepest = 0;
        for (int i = -90; i <= 90; ++i) {
          const double turn = 2.4 * kPi / s1.teeth * i / 90;
          for (int k = -60; k <= 60; ++k) {
            const Vec3 q = edge(turn, 2.5 * s1.module * k / 60);
            const Vec2 flat = turned(Vec2(q.x(), q.y()), -(phase - turn * ratio) - twist2 * q.z());
            const double R = flat.norm();
            if (2 * R >= g2->sizes().root_form_diameter) continue;
            const double off =
                std::abs(std::remainder(std::atan2(flat.y(), flat.x()) - kPi / s2.teeth, 2 * kPi / s2.teeth));
            const auto half = g2->half_space_angle(R);
            if (half && off <= half->radians()) continue;
            // Nearest point of the screw surface: the section carried a little up and down.
            double least = 1e9;
            for (const Vec2& c : section) {
              const double place = std::remainder(std::atan2(c.y(), c.x()) + kPi / s2.teeth, 2 * kPi / s2.teeth);
              for (int h = -24; h <= 24; ++h) {
                const double z = 0.02 * s1.module * h, angle = place + twist2 * z;
                least = std::min(least, (Vec3(c.norm() * std::cos(angle), c.norm() * std::sin(angle), z) -
                                         Vec3(R * std::cos(off), R * std::sin(off), 0))
                                            .norm());
              }
            }
            if (least > deepest && least < s1.module) deepest = least;
          }
        }
        return deepest;
      };
      // A tooth of the driven on −x's side turned to a space: the middle of a space points to the driver's axis.
      const double found = deepest_when(kPi - kPi / s2.teeth);
      CHECK_THAT(found, WithinAbs(*f.value, 0.06 * *f.value + 0.004 * s1.module));
    }
  }
  CHECK(dug >= 3);
}
