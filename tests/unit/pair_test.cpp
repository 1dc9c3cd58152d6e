#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/pair/allowances.hpp"
#include "palio/pair/parallel.hpp"
#include "random_gear.hpp"

using namespace palio;
using namespace palio::pair;
using Catch::Matchers::WithinAbs;

TEST_CASE("the distance without play has none, and the thinning for a play gives that play") {
  for (unsigned seed = 1; seed <= 200; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s1 = test::any_rack(draw), s2 = s1;
    s1.teeth = draw.whole(10, 40), s2.teeth = draw.whole(10, 90);
    s1.profile_shift = draw.between(-0.3, 0.6), s2.profile_shift = draw.between(-0.3, 0.6);
    const auto g1 = test::try_gear(s1), g2 = test::try_gear(s2);
    if (!g1 || !g2) continue;
    const auto a = zero_play_center_distance(*g1, *g2);
    if (!a) continue;
    CAPTURE(seed, *a);
    CHECK_THAT(ParallelPair(*g1, *g2, *a).circumferential_backlash() / s1.module, WithinAbs(0, 1e-11));
    const double wanted = 0.08 * s1.module, total = thinning_for_backlash(*g1, *g2, *a, wanted);
    CHECK(total > 0);
    const double to_length = -2 * s1.module * std::tan(s1.pressure_angle.radians());
    s1.thickness_allowance = 0.3 * total * to_length, s2.thickness_allowance = 0.7 * total * to_length;
    const auto h1 = test::try_gear(s1), h2 = test::try_gear(s2);
    if (!h1 || !h2) continue;
    const ParallelPair p(*h1, *h2, *a);
    CHECK_THAT(p.circumferential_backlash() / s1.module, WithinAbs(0.08, 1e-11));
    CHECK_THAT(p.normal_backlash(),
               WithinAbs(p.circumferential_backlash() * std::cos(p.working_pressure_angle().radians()), 1e-15));
    CHECK_THAT(p.angular_backlash()[0].radians() * p.working_pitch_diameters()[0],
               WithinAbs(p.angular_backlash()[1].radians() * p.working_pitch_diameters()[1], 1e-14));
    // The working pitch circles touch.
    CHECK_THAT(p.working_pitch_diameters()[0] + p.working_pitch_diameters()[1], WithinAbs(2 * *a, 1e-12 * *a));
  }
}

TEST_CASE("published relations: standard gears of 20 and 40 teeth") {
  gear::CylindricalSpec s;
  s.module = 2, s.face_width = 20, s.teeth = 20;
  const gear::CylindricalGear g1(s);
  s.teeth = 40;
  const gear::CylindricalGear g2(s);
  const ParallelPair p(g1, g2, 60);
  // ε_α = [z₁(tan α_a1 − tan α) + z₂(tan α_a2 − tan α)]/2π, the form in which it is usually printed.
  const double tan20 = std::tan(kPi / 9), a1 = std::acos(20 * std::cos(kPi / 9) / 22),
               a2 = std::acos(40 * std::cos(kPi / 9) / 42);
  CHECK_THAT(p.transverse_contact_ratio(),
             WithinAbs((20 * (std::tan(a1) - tan20) + 40 * (std::tan(a2) - tan20)) / (2 * kPi), 1e-13));
  CHECK_THAT(p.circumferential_backlash(), WithinAbs(0, 1e-13));
  CHECK_THAT(p.tip_clearance()[0], WithinAbs(0.5, 1e-13));
  const auto sliding = p.specific_sliding();
  // At each end one flank slides against its mate's tip: the signs are opposite, and ζ₁ = −ζ₂/(1 − ζ₂).
  for (int end = 0; end < 2; ++end) {
    CHECK_THAT(sliding[0][end], WithinAbs(-sliding[1][end] / (1 - sliding[1][end]), 1e-12));
  }
  CHECK(sliding[0][0] < 0);
  CHECK(sliding[0][1] > 0);
}

TEST_CASE("no mesh below the base circles, and none for shifts too negative") {
  gear::CylindricalSpec s;
  s.module = 1, s.face_width = 5, s.teeth = 20;
  const gear::CylindricalGear g(s);
  CHECK_THROWS_WITH(ParallelPair(g, g, 18.0), Catch::Contains("center_distance") && Catch::Contains("18.79"));
  CHECK_THROWS_AS(ParallelPair(g, g, std::nan("")), InvalidParameter);
  s.profile_shift = -0.7;
  s.teeth = 26;
  const gear::CylindricalGear low(s);
  CHECK_FALSE(zero_play_center_distance(low, low));
}

TEST_CASE("the driven's phase puts a space before a tooth, wherever the pair lies") {
  for (unsigned seed = 1; seed <= 100; ++seed) {
    test::Draw draw(seed);
    const int z1 = draw.whole(5, 60), z2 = draw.whole(5, 60);
    const double start = draw.between(-9, 9), direction = draw.between(-9, 9);
    const auto gear = [](int teeth) {
      gear::CylindricalSpec s;
      s.module = 1, s.face_width = 5, s.teeth = teeth, s.profile_shift = 0.3;
      return gear::CylindricalGear(s);
    };
    const double phase = driven_phase(gear(z1), gear(z2), start, Angle::radians(direction));
    CAPTURE(seed, z1, z2);
    CHECK(std::abs(phase) <= kPi / z2 * (1 + 1e-12));
    // Pitches from a tooth's middle to the pitch point, on both gears, add up to half a pitch.
    const double sum = (start - direction) * z1 / (2 * kPi) + (phase - direction - kPi) * z2 / (2 * kPi);
    CHECK_THAT(std::abs(sum - std::round(sum)), WithinAbs(0.5, 1e-10));
  }
}

TEST_CASE("thinning is divided as wanted for one pair, and one for all where gears are shared") {
  const Allowances one = divide_thinning(2, {{0, 1, 0.1, 0.25}});
  CHECK_THAT(one.thinning[0], WithinAbs(0.025, 1e-15));
  CHECK_THAT(one.thinning[0] + one.thinning[1], WithinAbs(0.1, 0));

  const Allowances chain = divide_thinning(4, {{0, 1, 0.10, 0.5}, {1, 2, 0.06, 0.5}});
  CHECK(chain.unmet.empty());
  CHECK_THAT(chain.thinning[0] + chain.thinning[1], WithinAbs(0.10, 1e-14));
  CHECK_THAT(chain.thinning[1] + chain.thinning[2], WithinAbs(0.06, 1e-14));
  CHECK(chain.thinning[3] == 0);

  // One gear would have to grow: it is held, and the rest makes up for it.
  const Allowances held = divide_thinning(3, {{0, 1, 0.3, 0.0}, {1, 2, 0.01, 0.5}});
  CHECK(held.unmet.empty());
  for (const double t : held.thinning)
    CHECK(t >= 0);

  // Three gears in a ring fix all three; with these sums one would be negative, and the pairs are named.
  CHECK_FALSE(divide_thinning(3, {{0, 1, 0.1, 0.5}, {1, 2, 0.1, 0.5}, {2, 0, 0.5, 0.5}}).unmet.empty());
}

TEST_CASE("findings tell undercut, pointed and thin tips, thin rims, mismatches and common factors") {
  gear::CylindricalSpec s;
  s.module = 1, s.face_width = 5, s.teeth = 12;
  const auto ids = [](const std::vector<Finding>& found) {
    std::string all;
    for (const Finding& f : found)
      all += std::string(f.kind().text_id) + " ";
    return all;
  };
  CHECK_THAT(ids(findings(gear::CylindricalGear(s), "gear.a")), Catch::Contains("undercut"));
  s.bore_diameter = 8;
  CHECK_THAT(ids(findings(gear::CylindricalGear(s), "gear.a")), Catch::Contains("thin-rim"));
  s.bore_diameter = 0, s.profile_shift = 0.9;
  CHECK_THAT(ids(findings(gear::CylindricalGear(s), "gear.a")), Catch::Contains("pointed-tip"));
  s.profile_shift = 0.7;
  CHECK_THAT(ids(findings(gear::CylindricalGear(s), "gear.a")), Catch::Contains("thin-tip"));
  gear::CylindricalSpec other = s;
  other.module = 1.25, other.pressure_angle = Angle::degrees(25);
  const auto differ = parallel_mismatches(gear::CylindricalGear(s), gear::CylindricalGear(other), "pair.p");
  CHECK_THAT(ids(differ), Catch::Contains("module-differs") && Catch::Contains("pressure-angle-differs"));
  CHECK(differ[0].value == 1.0);
  CHECK(differ[0].limit == 1.25);
  gear::CylindricalSpec wheel;
  wheel.module = 1, wheel.face_width = 5, wheel.teeth = 36;
  const gear::CylindricalGear g(wheel);
  CHECK_THAT(ids(ParallelPair(g, g, 36).findings("pair.p", "gear.a", "gear.b")), Catch::Contains("common-factor"));
  CHECK_THAT(ids(ParallelPair(g, g, 37.3).findings("pair.p", "gear.a", "gear.b")), Catch::Contains("contact-ratio"));
  for (std::size_t i = 0; i < finding_kinds().size(); ++i)
    CHECK(static_cast<std::size_t>(finding_kinds()[i].id) == i);
}
