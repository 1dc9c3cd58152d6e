// Cycloidal teeth against the rolling that draws them, pairs against their roll, the reducer's disc against its
// rollers.
#include <catch2/catch.hpp>
#include <optional>
#include <random>
#include <string>

#include "arcsec.hpp"
#include "filled.hpp"
#include "palio/error.hpp"
#include "palio/gear/cycloidal.hpp"
#include "palio/gear/lobed_disc.hpp"
#include "palio/roll/roll.hpp"
#include "polygons.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

void check_derivatives(const curve::Segment& s) {
  for (const double share : {0.17, 0.5, 0.81}) {
    const double t = s.from + share * (s.to - s.from), h = 1e-5;
    const curve::Jet j = s.jet(t);
    CHECK(((s.point(t + h) - s.point(t - h)) / (2 * h) - j.d1).norm() < 1e-8 * (1 + j.d2.norm()));
    CHECK(((s.jet(t + h).d1 - s.jet(t - h).d1) / (2 * h) - j.d2).norm() < 1e-6 * (1 + j.d2.norm()));
  }
}

void check_closed(const curve::Outline& o) {
  for (std::size_t i = 0; i < o.period.size(); ++i) {
    const Vec2 next = i + 1 < o.period.size() ? o.period[i + 1].first() : o.segment(1, 0).first();
    CHECK((o.period[i].last() - next).norm() < 1e-11);
    check_derivatives(o.period[i]);
  }
  const double area = curve::signed_area(o);
  CHECK((o.clockwise ? area < 0 : area > 0));
}

roll::Result rolled(const gear::TrueCycloidPair& p, double distance, int positions, double start = 0.3) {
  const gear::CycloidalGear &a = p.driver(), &b = p.driven();
  const bool ring = b.spec().internal;
  // Tooth before space: an external driven has a space at π when the driver has a tooth at 0; a ring's +x is a space.
  const double z1 = a.spec().teeth, z2 = b.spec().teeth,
               phase = ring ? start * z1 / z2 : kPi + kPi / z2 - start * z1 / z2;
  const roll::Member driver{"driver", a.outline(), roll::Motion::rotation(Vec2::Zero()), start};
  const roll::Member driven{"driven", b.outline(), roll::Motion::rotation(Vec2(ring ? -distance : distance, 0)), phase};
  roll::Law law;
  law.ratio = p.motion_ratio();
  law.theoretical_play = p.angular_backlash()[1].radians();
  law.touch_mm = 1e-9 * std::max(1.0, a.spec().module);
  law.positions = positions;
  return roll::roll(driver, driven, law);
}

}  // namespace

TEST_CASE(
    "cycloids are drawn by a point of a rolling circle, their parallels lie at one distance, and both turn back where "
    "theory says") {
  for (const bool outside : {true, false}) {
    for (const double rho : {1.0, 2.5, 4.9}) {
      const double r = 10;
      const curve::Cycloid c{r, rho, outside, 0.4, +1}, parallel{r, rho, outside, 0.4, +1, 0.3},
          mirrored{r, rho, outside, -0.4, -1};
      for (const double u : {0.2, 1.0, 2.4}) {
        // The circle's centre goes round by ρu/r; on it the point has turned by u more, or back.
        const double theta = 0.4 + rho * u / r, arm = theta + (outside ? u + kPi : -u);
        const Vec2 expected = from_polar(outside ? r + rho : r - rho, theta) + from_polar(rho, arm);
        CAPTURE(outside, rho, u);
        const Vec2 p = c.jet(u).p;
        CHECK((p - expected).norm() < 1e-13);
        CHECK((mirrored.jet(u).p - Vec2(p.x(), -p.y())).norm() < 1e-13);
        CHECK_THAT(std::atan2(p.y(), p.x()), WithinAbs(0.4 + gear::cycloid_angle(r, rho, outside, u), 1e-13));
        CHECK_THAT(gear::roll_at_radius(r, rho, outside, p.norm()).value(), WithinAbs(u, 1e-12));
        const Vec2 off = parallel.jet(u).p - p;
        CHECK_THAT(off.norm(), WithinAbs(0.3, 1e-13));
        CHECK_THAT(off.dot(c.jet(u).d1), WithinAbs(0, 1e-12));
      }
      check_derivatives({c, 0, 2.5, curve::Role::flank});
      check_derivatives({parallel, 0.5, 2.5, curve::Role::flank});
    }
  }
  // Half the pitch radius draws a radial line.
  const curve::Cycloid radial{10, 5, false, 0, +1};
  for (const double u : {0.5, 1.5, 3.0})
    CHECK_THAT(radial.jet(u).p.y(), WithinAbs(0, 1e-14));
}

TEST_CASE(
    "true cycloidal pairs, external and ring, roll without error while contact lasts, and not at another distance") {
  int external = 0, rings = 0;
  for (unsigned seed = 1; seed <= test::share(120); ++seed) {
    test::Draw draw(seed);
    gear::CycloidalSpec a, b;
    a.module = b.module = draw.of({0.5, 1.0, 2.0});
    a.teeth = draw.whole(8, 30), b.teeth = draw.whole(12, 60);
    b.internal = draw.whole(0, 2) == 0;
    if (b.internal) b.teeth = a.teeth * draw.whole(2, 4) + 3;
    const double r1 = a.teeth * a.module / 2, r2 = b.teeth * b.module / 2;
    gear::RollingCircles circles{};
    if (b.internal || draw.whole(0, 1) == 0) {
      circles = gear::equal_circles(draw.between(0.35, 0.5) * std::min(r1, b.internal ? r2 - r1 : r2));
    } else {
      circles = gear::radial_flanks(a.teeth, b.teeth, a.module);
    }
    a.face_rolling_radius = circles.first_face, a.flank_rolling_radius = circles.first_flank;
    b.face_rolling_radius = circles.second_face, b.flank_rolling_radius = circles.second_flank;
    a.addendum = b.addendum = draw.between(0.8, 1.1), a.dedendum = b.dedendum = a.addendum + 0.25;
    a.thickness_allowance = -draw.of({0.0, 0.03}) * a.module, b.thickness_allowance = -draw.of({0.0, 0.05}) * a.module;
    if (draw.whole(0, 1) == 0) a.fillet_radius = b.fillet_radius = 0.15 * a.module;
    CAPTURE(seed, a.teeth, b.teeth, b.internal);
    std::optional<gear::TrueCycloidPair> p;
    try {
      p.emplace(gear::CycloidalGear(a), gear::CycloidalGear(b));
    } catch (const InvalidParameter&) {
      continue;
    }
    for (const gear::CycloidalGear* g : {&p->driver(), &p->driven()}) {
      check_closed(g->outline());
      // Points of the outline against the half angle in closed form.
      for (const curve::Segment& s : g->outline().period) {
        if (s.role != curve::Role::flank) continue;
        const Vec2 q = s.point(0.5 * (s.from + s.to));
        double at = std::abs(std::atan2(q.y(), q.x()));
        if (g->spec().internal)
          at = std::abs(std::remainder(std::atan2(q.y(), q.x()) - kPi / g->spec().teeth, 2 * kPi / g->spec().teeth));
        CHECK_THAT(at, WithinAbs(g->half_tooth_angle(q.norm()).radians(), 1e-12));
      }
    }
    REQUIRE(p->conjugate());
    if (!p->circles_clear() || p->contact_ratio() < 1.02 || p->driver().sizes().pointed || p->driven().sizes().pointed)
      continue;
    const roll::Result r = rolled(*p, p->center_distance(), 24);
    CAPTURE(p->contact_ratio());
    CHECK(r.verdict == roll::Verdict::meshes);
    REQUIRE(r.transmission_error);
    CHECK(std::max(r.transmission_error->max, -r.transmission_error->min) * test::kArcsec < 1e-7);
    CHECK_THAT(r.play->min, WithinAbs(p->angular_backlash()[1].radians(), 1e-10));
    CHECK_THAT(r.play->max, WithinAbs(p->angular_backlash()[1].radians(), 1e-10));
    CHECK_THAT(r.pairs_mean, WithinAbs(p->contact_ratio(), 1e-9));
    (b.internal ? rings : external) += 1;
    // Further apart by a fiftieth of the module they are no longer conjugate, unlike involutes.
    const roll::Result apart = rolled(*p, p->center_distance() + (b.internal ? -0.02 : 0.02) * a.module, 24);
    CHECK((apart.transmission_error->max - apart.transmission_error->min) * test::kArcsec > 1);
  }
  if (test::whole_search()) CHECK(external > 20);
  if (test::whole_search()) CHECK(rings > 5);
}

TEST_CASE(
    "beyond the pointed limit nothing is left of the tooth: the faces meet there, and an addendum asked for beyond it "
    "ends below") {
  for (const bool internal : {false, true}) {
    gear::CycloidalSpec s;
    s.teeth = internal ? 40 : 16, s.module = 2, s.face_rolling_radius = 5, s.flank_rolling_radius = 5,
    s.dedendum = 1.25, s.internal = internal;
    const gear::CycloidalGear usual(s);
    const double limit = gear::pointed_diameter(usual).value();
    CAPTURE(internal, limit);
    CHECK((internal ? limit < usual.sizes().tip_diameter : limit > usual.sizes().tip_diameter));
    CHECK_FALSE(usual.sizes().pointed);
    CHECK_THAT(usual.half_tooth_angle(limit / 2).radians(), WithinAbs(0, 1e-12));
    s.addendum = 2.4;
    const gear::CycloidalGear pointed(s);
    CHECK(pointed.sizes().pointed);
    CHECK_THAT(pointed.sizes().tip_diameter, WithinAbs(limit, 0.01));
  }
  // A small circle turns back before the faces meet.
  gear::CycloidalSpec s;
  s.teeth = 16, s.module = 2, s.face_rolling_radius = 0.45, s.flank_rolling_radius = 8, s.addendum = 0.4;
  CHECK_FALSE(gear::pointed_diameter(gear::CycloidalGear(s)).has_value());
}

TEST_CASE("clock teeth with rounds are smooth there and elsewhere as they are without") {
  std::mt19937 random(17);
  std::uniform_real_distribution<double> any(0, 1);
  const auto polygon = [](const curve::Outline& o) {
    test::Loop loop;
    for (int copy = 0; copy < o.count; ++copy) {
      for (std::size_t k = 0; k < o.period.size(); ++k) {
        const curve::Segment s = o.segment(copy, k);
        for (int i = 0; i < 24; ++i)
          loop.push_back(s.point(s.from + (s.to - s.from) * i / 24));
      }
    }
    return loop;
  };
  for (int n = 0; n < 30; ++n) {
    gear::ClockSpec s;
    s.pinion = n % 2 == 0, s.teeth = s.pinion ? 6 + n % 9 : 20 + n, s.mate_teeth = s.pinion ? 40 : 8;
    s.module = 0.3 + any(random);
    const gear::ClockGear plain(s);
    const auto most = [&](double gear::ClockSpec::*round) {
      // As it is told when it is too large: and that is allowed.
      gear::ClockSpec large = s;
      large.*round = 20 * s.module;
      try {
        gear::ClockGear made(large);
      } catch (const InvalidParameter& e) {
        const auto at = e.allowed().find_last_not_of(" m");
        return std::stod(e.allowed().substr(e.allowed().rfind(' ', at) + 1)) * (1 - 1e-5);
      }
      FAIL("so large a round was made");
      return 0.0;
    };
    const double widest = most(&gear::ClockSpec::fillet_radius), roundest = most(&gear::ClockSpec::tip_round);
    s.fillet_radius = widest * (n % 5 == 0 ? 1 : any(random)), s.tip_round = roundest * (n % 7 == 0 ? 1 : any(random));
    CAPTURE(n, s.teeth, s.module, s.fillet_radius, s.tip_round, widest, roundest);
    std::optional<gear::ClockGear> round;
    try {
      round.emplace(s);
    } catch (const InvalidParameter& e) {
      // A round that fits the space may yet reach the pitch circle: told with one that does not.
      REQUIRE(e.name() == "root.fillet_radius");
      s.fillet_radius =
          std::min(0.99 * s.fillet_radius, 0.9 * std::stod(e.allowed().substr(e.allowed().rfind("with ") + 5)));
      round.emplace(s);
    }
    check_closed(round->outline());
    const std::vector<curve::Segment>& period = round->outline().period;
    int tips = 0, roots = 0;
    for (std::size_t i = 0; i < period.size(); ++i) {
      const curve::Segment& a = period[i];
      const curve::Segment b = i + 1 < period.size() ? period[i + 1] : round->outline().segment(1, 0);
      const bool smooth = a.role != b.role || a.role == curve::Role::root;
      if (smooth) CHECK(std::abs(cross(a.tangent(a.to), b.tangent(b.from))) < 1e-7);
      const double bend = a.curvature((a.from + a.to) / 2);
      if (a.role == curve::Role::tip) {
        CHECK_THAT(1 / bend, WithinAbs(s.tip_round, 1e-9));
        ++tips;
      }
      if (a.role == curve::Role::root && bend < 0) {
        CHECK_THAT(-1 / bend, WithinAbs(s.fillet_radius, 1e-9));
        ++roots;
      }
    }
    CHECK((tips == 1 && roots == 2));
    CHECK_THAT(round->sizes().root_diameter, WithinAbs(plain.sizes().root_diameter, 1e-12));
    CHECK((round->sizes().tip_diameter < plain.sizes().tip_diameter &&
           round->sizes().form_diameter > plain.sizes().form_diameter));
    // Above the form circle and below the round nothing has changed; there is more at the root, less at the tip.
    const std::vector<test::Loop> before{polygon(plain.outline())}, after{polygon(round->outline())};
    double reach = 0;
    // The first tooth stands for all.
    for (std::size_t i = 0; i < after[0].size() / static_cast<std::size_t>(s.teeth); ++i) {
      const Vec2& p = after[0][i];
      reach = std::max(reach, p.norm());
      if (p.norm() < round->sizes().form_diameter / 2)
        CHECK((!test::inside(before, p) || test::distance(before, p) < 1e-3 * s.module));
      else
        CHECK((test::inside(before, p) || test::distance(before, p) < 1e-3 * s.module));
    }
    CHECK_THAT(2 * reach, WithinAbs(round->sizes().tip_diameter, 1e-3 * s.module));
  }
}

TEST_CASE("clock teeth: the addenda tied down by practice, and the angle error that practice accepts") {
  // Ratio 3, wheel addendum and arc in modules by leaves.
  for (const auto& [leaves, addendum, arc] :
       {std::tuple{6, 1.259, 1.855}, {7, 1.335, 1.967}, {8, 1.403, 2.068}, {10, 1.523, 2.244}}) {
    gear::ClockSpec s;
    s.teeth = 3 * leaves, s.mate_teeth = leaves, s.module = 1;
    const gear::ClockGear wheel(s);
    CAPTURE(leaves);
    CHECK_THAT(wheel.sizes().addendum, WithinAbs(addendum, 6e-4));
    CHECK_THAT(wheel.sizes().addendum_arc_radius, WithinAbs(arc, 6e-4));
    check_closed(wheel.outline());
  }
  // The season dial: 8 leaves drive 60 teeth.
  gear::ClockSpec wheel, pinion;
  wheel.teeth = pinion.mate_teeth = 60, pinion.teeth = wheel.mate_teeth = 8;
  wheel.module = pinion.module = 0.8;
  pinion.pinion = true;
  const gear::ClockGear w(wheel), p(pinion);
  check_closed(p.outline());
  const double distance = (w.sizes().pitch_diameter + p.sizes().pitch_diameter) / 2;
  // The wheel drives, as in clocks: error of the pinion.
  const roll::Member driver{"wheel", w.outline(), roll::Motion::rotation(Vec2::Zero()), 0.0};
  const roll::Member driven{"pinion", p.outline(), roll::Motion::rotation(Vec2(distance, 0)), kPi + kPi / 8};
  const double play = 2 * (kPi * 0.8 - w.sizes().tooth_width - p.sizes().tooth_width) / p.sizes().pitch_diameter;
  const roll::Result r = roll::roll(driver, driven, test::law(-60.0 / 8, play, 120));
  REQUIRE(r.transmission_error);
  double low = 1e9, high = -1e9;
  for (const roll::Position& position : r.positions) {
    REQUIRE(position.upper);
    const double nominal = kPi + kPi / 8 - 60.0 / 8 * position.driver;
    low = std::min(low, position.upper->driven - nominal), high = std::max(high, position.upper->driven - nominal);
  }
  const double peak_to_peak = (high - low) * 180 / kPi;
  CAPTURE(peak_to_peak);
  CHECK(peak_to_peak > 0.1);
  CHECK(peak_to_peak < 1.5);
  CHECK(r.verdict != roll::Verdict::jams);
}

TEST_CASE("a lantern pinion's pins roll on their wheel without error between the true start and the tip") {
  for (const auto& [pins, teeth, diameter] : {std::tuple{9, 40, 0.9}, {12, 36, 1.2}, {16, 50, 1.2}}) {
    gear::LanternWheelSpec s;
    s.pins = pins, s.teeth = teeth, s.module = 1, s.pin_diameter = diameter, s.addendum = 1.3, s.backlash = 0.03;
    const gear::LanternWheel wheel(s);
    CAPTURE(pins, teeth, wheel.contact_ratio());
    check_closed(wheel.outline());
    CHECK(wheel.start_roll() > wheel.fold_roll());
    REQUIRE(wheel.contact_ratio() > 1);
    const double r1 = teeth / 2.0, r2 = pins / 2.0;
    const roll::Member driver{"wheel", wheel.outline(), roll::Motion::rotation(Vec2::Zero()), 0.0};
    const roll::Member driven{"pinion", gear::lantern_pins(pins, 1, diameter), roll::Motion::rotation(Vec2(r1 + r2, 0)),
                              kPi + kPi / pins};
    const roll::Result r = roll::roll(driver, driven, test::law(-static_cast<double>(teeth) / pins, 0.03 / r2, 48));
    CHECK(r.verdict == roll::Verdict::meshes);
    REQUIRE(r.transmission_error);
    CHECK(std::max(r.transmission_error->max, -r.transmission_error->min) * test::kArcsec < 1e-4);
    CHECK_THAT(r.pairs_mean, WithinAbs(wheel.contact_ratio(), 1e-5));
  }
}

TEST_CASE("every roller touches the reducer's disc at every input angle, the second disc at half a turn too") {
  for (const auto& [rollers, circle, diameter, eccentricity] :
       {std::tuple{24, 80.0, 5.0, 1.2}, {12, 60.0, 8.0, 1.5}, {8, 40.0, 6.0, 1.8}}) {
    const gear::LobedDisc disc({rollers, circle, diameter, eccentricity});
    check_closed(disc.outline());
    const double R = circle / 2, Z = rollers - 1;
    CHECK_THAT(disc.outline().period[0].first().norm(), WithinAbs(disc.sizes().root_diameter / 2, 1e-12));
    CHECK_THAT(disc.outline().period[0].point(kPi / Z).norm(), WithinAbs(disc.sizes().crest_diameter / 2, 1e-12));
    for (const double other : {0.0, kPi}) {
      for (const double input : {0.0, 0.4, 1.7, 3.0, 5.5}) {
        // The second disc stands at half a turn of the shaft; half a lobe about its own axis brings it there.
        const Vec2 centre = disc.centre(input + other);
        const double turn = disc.turned(input) + (other > 0 ? kPi / Z : 0);
        CHECK_THAT(std::remainder(turn - disc.turned(input + other), 2 * kPi / Z),
                   WithinAbs(0, 1e-12) || WithinAbs(2 * kPi / Z, 1e-12));
        for (int k = 0; k < rollers; ++k) {
          const Vec2 seen = turned(from_polar(R, 2 * kPi * k / rollers) - centre, -turn);
          // Nearest place of the edge: a fine search, then a few steps of Newton on the derivative of the distance.
          const curve::LobeCurve edge{R, eccentricity, diameter / 2, static_cast<double>(rollers), 0};
          double t = 0, least = 1e9;
          for (int i = 0; i < 40 * rollers; ++i) {
            const double at = 2 * kPi * i / (40 * rollers), d = (edge.jet(at).p - seen).norm();
            if (d < least) least = d, t = at;
          }
          for (int i = 0; i < 20; ++i) {
            const curve::Jet j = edge.jet(t);
            t -= (j.p - seen).dot(j.d1) / (j.d1.squaredNorm() + (j.p - seen).dot(j.d2));
          }
          CHECK_THAT((edge.jet(t).p - seen).norm(), WithinAbs(diameter / 2, 1e-12));
        }
      }
    }
  }
}

TEST_CASE(
    "the limits of the reducer's disc: both branches of undercut, hollows, spacing, each against the curve itself") {
  int steep = 0, flat = 0, hollow = 0;
  for (unsigned seed = 1; seed <= 60; ++seed) {
    test::Draw draw(seed);
    gear::LobedDiscSpec s;
    s.rollers = draw.whole(6, 40), s.roller_circle_diameter = 80,
    s.eccentricity = draw.between(0.05, 0.98) * 40 / s.rollers, s.roller_diameter = 1e-3;
    const gear::LobedDiscSizes z = gear::lobed_disc_limits(s);
    const double N = s.rollers;
    // Curvature of the roller centre's path by brute force: the edge with rollers of no size, traversed with the
    // material on its left.
    const curve::Segment path{curve::LobeCurve{40, s.eccentricity, 0, N, 0}, 0, 2 * kPi / (N - 1), curve::Role::flank};
    double most = -1e9, least = 1e9;
    for (int i = 0; i <= 20000; ++i) {
      const double k = path.curvature(path.to * i / 20000);
      most = std::max(most, k), least = std::min(least, k);
    }
    CAPTURE(seed, s.rollers, s.eccentricity);
    CHECK_THAT(z.max_roller_radius_no_undercut, WithinRel(1 / most, 1e-5));
    CHECK(z.min_concave_radius.has_value() == (least < -1e-9));
    if (z.min_concave_radius) CHECK_THAT(*z.min_concave_radius - s.roller_diameter / 2, WithinRel(-1 / least, 1e-4));
    (s.eccentricity * N / 40 <= (N - 2) / (2 * N - 1) ? flat : steep) += 1;
    hollow += z.min_concave_radius ? 1 : 0;
  }
  CHECK(std::min({steep, flat, hollow}) > 10);
  const auto refused = [](gear::LobedDiscSpec s) {
    try {
      gear::LobedDisc disc(s);
      return std::string();
    } catch (const InvalidParameter& e) {
      return e.name();
    }
  };
  CHECK(refused({24, 80, 5, 1.2}).empty());
  CHECK(refused({24, 80, 5, 1.7}) == "eccentricity");        // R/N is 1.667
  CHECK(refused({24, 80, 5, 1.6}) == "roller_diameter");     // undercut
  CHECK(refused({24, 80, 10.6, 0.1}) == "roller_diameter");  // neighbours
  CHECK(refused({3, 80, 5, 1.2}) == "rollers");
}
