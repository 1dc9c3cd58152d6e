// The reducer as an assembly: everything touches without play, play by geometry against first order, forces against the
// conservation of power, bodies against their places.
#include <catch2/catch.hpp>

#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/reducer/load.hpp"
#include "palio/reducer/parts.hpp"
#include "palio/reducer/play.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

constexpr double kTouch = 1e-9;

/// The greenhouse's motor reducer, without play.
reducer::Spec motor() {
  reducer::Spec s;
  s.rollers = 24, s.roller_circle_diameter = 80, s.roller_diameter = 5, s.eccentricity = 1.2;
  s.output_pins = 6, s.output_pin_circle_diameter = 46, s.output_pin_diameter = 6;
  s.bore_diameter = 19, s.face_width = 6, s.disc_gap = 0.6;
  return s;
}

reducer::Spec any(unsigned seed) {
  test::Draw draw(seed);
  reducer::Spec s = motor();
  s.rollers = draw.whole(8, 32);
  s.roller_circle_diameter = 80;
  s.eccentricity = draw.between(0.2, 0.8) * 40 / s.rollers;
  s.roller_diameter = draw.between(2.0, 5.0);
  s.discs = draw.whole(1, 3);
  s.output_pins = draw.whole(3, 9);
  s.output_pin_diameter = 3, s.output_pin_circle_diameter = 40;
  s.bore_diameter = 16;
  return s;
}

std::string refused(const reducer::Spec& s) {
  try {
    reducer::Reducer made(s);
    return "";
  } catch (const InvalidParameter& e) {
    return e.name();
  }
}

}  // namespace

TEST_CASE(
    "without play every roller touches every disc, every output pin its holes, at all input angles; nothing can move "
    "and nothing jams") {
  int made = 0, flipped = 0, alike = 0, own = 0;
  for (unsigned seed = 1; seed <= 60; ++seed) {
    std::optional<reducer::Reducer> r;
    try {
      r.emplace(any(seed));
    } catch (const InvalidParameter&) {
      continue;  // undercut, or holes that break out
    }
    ++made;
    CAPTURE(seed, r->spec().rollers, r->spec().output_pins, r->spec().discs);
    (r->sizes().discs_flip ? flipped : r->sizes().same_disc_part ? alike : own) += 1;
    for (const double input : {0.0, 0.7, 2.9, 5.1, 40.0}) {
      for (std::size_t d = 0; d < r->discs().size(); ++d) {
        for (const reducer::RollerGap& g : reducer::roller_gaps(*r, d, input, 0))
          CHECK_THAT(g.gap, WithinAbs(0, 1e-12));
        for (const reducer::RollerGap& g : reducer::pin_gaps(*r, d, input, 0, 0))
          CHECK_THAT(g.gap, WithinAbs(0, 1e-12));
        // The disc turns about the point E N from the axis: all normals go through it.
        const Vec2 pole = from_polar(r->spec().eccentricity * r->spec().rollers, input + r->discs()[d].ahead);
        for (const reducer::RollerGap& g : reducer::roller_gaps(*r, d, input, 0))
          CHECK_THAT(cross(Vec2(pole - g.point), g.normal), WithinAbs(0, 1e-10));
      }
    }
    const reducer::Rolled rolled = reducer::roll(*r, 12, kTouch);
    CHECK(rolled.verdict == roll::Verdict::meshes);
    CHECK_THAT(rolled.play->max, WithinAbs(0, 1e-9));
    CHECK_THAT(rolled.error->max, WithinAbs(0, 1e-9));
  }
  CHECK(made > 25);
  CHECK(std::min({flipped, alike, own}) > 0);
}

TEST_CASE(
    "play is found by geometry and agrees with first order: a normal offset or a larger cut roller alike, a wider "
    "circle not") {
  reducer::Spec s = motor();
  const double Z = 23, R = 40, lambda = s.eccentricity * 24 / R, D = 1e-4;
  const auto play = [](const reducer::Spec& spec) {
    return *reducer::roll(reducer::Reducer(spec), 48, kTouch).disc_play;
  };
  s.disc_offset = D;
  const roll::Range offset = play(s);
  // The roller whose normal stands straight across the arm is not always there: a little more play, never less.
  CHECK_THAT(offset.min, WithinRel(2 * D / (Z * s.eccentricity), 5e-4));
  CHECK(offset.min > 2 * D / (Z * s.eccentricity) * (1 - 1e-5));
  CHECK(offset.max < 1.01 * offset.min);
  s.disc_offset = 0, s.cut_roller_diameter = s.roller_diameter + 2 * D;
  const roll::Range cut = play(s);
  CHECK_THAT(cut.min, WithinAbs(offset.min, 1e-14));
  CHECK_THAT(cut.max, WithinAbs(offset.max, 1e-14));
  s = motor();
  s.cut_roller_circle_diameter = s.roller_circle_diameter - 2 * D;
  const roll::Range circle = play(s);
  CHECK_THAT(circle.min, WithinRel(2 * D * std::sqrt(1 - lambda * lambda) / (Z * s.eccentricity), 0.01));
  // Slack c of the output pins on radius adds 2c/R_p up to 2c/(R_p cos(π/n)).
  s = motor();
  s.output_hole_clearance = 2e-4;
  const roll::Range pins = *reducer::roll(reducer::Reducer(s), 360, kTouch).play;
  const double c = 1e-4, R_p = 23;
  CHECK_THAT(pins.min, WithinRel(2 * c / R_p, 1e-4));
  CHECK_THAT(pins.max, WithinRel(2 * c / (R_p * std::cos(kPi / 6)), 4e-3));
  CHECK(pins.max < 2 * c / (R_p * std::cos(kPi / 6)) * (1 + 1e-6));
}

TEST_CASE("a jam is found with its depth, and the input at fault is named") {
  const auto jam = [](auto change, const char* at_fault, double depth) {
    reducer::Spec s = motor();
    s.discs = 2;
    change(s);
    const reducer::Rolled r = reducer::roll(reducer::Reducer(s), 36, kTouch);
    CAPTURE(at_fault);
    CHECK(r.verdict == roll::Verdict::jams);
    CHECK(r.wrong == at_fault);
    CHECK_THAT(r.max_overlap, WithinRel(depth, 1e-3));
    CHECK(r.play->max < 0);
    CHECK(r.worst.has_value());
  };
  jam([](reducer::Spec& s) { s.disc_offset = -0.01; }, "disc_offset", 0.01);
  jam([](reducer::Spec& s) { s.cut_roller_diameter = 4.98; }, "cut_roller_diameter", 0.01);
  jam([](reducer::Spec& s) { s.cut_roller_circle_diameter = 80.05; }, "cut_roller_circle_diameter", 0.025);
  jam([](reducer::Spec& s) { s.output_hole_clearance = -0.02; }, "output_hole_clearance", 0.01);
  // Two faults: the larger one is named.
  jam([](reducer::Spec& s) { s.disc_offset = -0.01, s.output_hole_clearance = -0.002; }, "disc_offset", 0.01);
  // Three discs cut to one drawing, seven pins: one part cannot serve.
  reducer::Spec three = motor();
  three.discs = 3, three.output_pins = 7, three.disc_parts = reducer::DiscParts::one;
  const reducer::Rolled r = reducer::roll(reducer::Reducer(three), 36, kTouch);
  CHECK(r.verdict == roll::Verdict::jams);
  CHECK(r.wrong == "output_pins");
  three.disc_parts = reducer::DiscParts::own;
  CHECK(reducer::roll(reducer::Reducer(three), 36, kTouch).verdict == roll::Verdict::meshes);
}

TEST_CASE("limits name the input; one disc part serves where the theory says") {
  const auto with = [](auto change) {
    reducer::Spec s = motor();
    change(s);
    return refused(s);
  };
  CHECK(refused(motor()).empty());
  CHECK(with([](auto& s) { s.eccentricity = 1.7; }) == "eccentricity");
  CHECK(with([](auto& s) { s.eccentricity = 1.6; }) == "roller_diameter");
  CHECK(with([](auto& s) { s.eccentricity = 1.6, s.cut_roller_diameter = 5.1; }) == "cut_roller_diameter");
  CHECK(with([](auto& s) { s.roller_diameter = 10.5; }) == "roller_diameter");
  CHECK(with([](auto& s) { s.output_pins = 20; }) == "output_pins");
  CHECK(with([](auto& s) { s.output_pin_circle_diameter = 66; }) == "output_pin_circle_diameter");
  CHECK(with([](auto& s) { s.output_pin_circle_diameter = 26; }) == "output_pin_circle_diameter");
  CHECK(with([](auto& s) { s.journal_diameter = 20; }) == "journal_diameter");
  CHECK(with([](auto& s) { s.shaft_diameter = 17; }) == "shaft_diameter");
  CHECK(with([](auto& s) { s.discs = 4; }) == "discs");
  CHECK_FALSE(with([](auto& s) { s.bore_diameter = std::nan(""); }).empty());
  // Two discs: n (2k + 1) a multiple of 2 Z for some k.
  for (int Z = 5; Z <= 31; ++Z) {
    for (int n = 3; n <= 12; ++n) {
      bool serves = false;
      for (int k = 0; k < Z; ++k)
        serves |= n * (2 * k + 1) % (2 * Z) == 0;
      CAPTURE(Z, n);
      CHECK(reducer::one_disc_serves(Z, n, 2) == serves);
      CHECK(reducer::one_disc_serves(Z, n, 1));
    }
  }
}

TEST_CASE(
    "forces: no power is lost without friction, rollers on pins lose less, and the unbalance of one, two and three "
    "discs") {
  const reducer::Reducer r(motor());
  CHECK_THAT(reducer::efficiency(r, 0).forward, WithinAbs(1, 1e-12));
  CHECK_THAT(reducer::efficiency(r, 0).backward, WithinAbs(1, 1e-12));
  const reducer::Efficiency fixed = reducer::efficiency(r, 0.1);
  reducer::Spec s = motor();
  s.roller_pin_diameter = 2.5;
  const reducer::Efficiency turning = reducer::efficiency(reducer::Reducer(s), 0.1);
  CHECK(fixed.forward < 1);
  CHECK(fixed.backward < fixed.forward);
  CHECK(turning.forward > fixed.forward);
  CHECK(turning.backward > fixed.backward);
  // Little friction, first order: what is lost is the same either way.
  const reducer::Efficiency little = reducer::efficiency(r, 1e-5);
  CHECK_THAT((1 - little.forward) / (1 - little.backward), WithinAbs(1, 1e-3));
  CHECK(reducer::efficiency(r, 1).backward < 0);
  // One disc: m E. Two: no force, m E times their distance. Three: √3 m E times it.
  const double m = 0.03, arm = m * 1.2, apart = 6.6;
  CHECK_THAT(reducer::unbalance(motor(), 1, m).force, WithinRel(arm, 1e-12));
  CHECK(reducer::unbalance(motor(), 1, m).couple == 0);
  CHECK(reducer::unbalance(motor(), 2, m).force == 0);
  CHECK_THAT(reducer::unbalance(motor(), 2, m).couple, WithinRel(arm * apart, 1e-12));
  CHECK(reducer::unbalance(motor(), 3, m).force == 0);
  CHECK_THAT(reducer::unbalance(motor(), 3, m).couple, WithinRel(std::sqrt(3.0) * arm * apart, 1e-12));
}

TEST_CASE(
    "bodies of a reducer are closed, of the volume of their curves, alike where they should be, and do not touch where "
    "they stand") {
  for (const auto& [discs, pins, ring] : {std::tuple{1, 6, reducer::RingForm::seats},
                                          {2, 7, reducer::RingForm::one_piece},
                                          {3, 5, reducer::RingForm::seats}}) {
    reducer::Spec s = motor();
    s.discs = discs, s.output_pins = pins, s.ring = ring;
    const reducer::Reducer r(s);
    CAPTURE(discs, pins);
    int rollers = 0, like_first = 0, of_their_own = 0;
    for (const reducer::Part& p : reducer::parts(r)) {
      CAPTURE(p.name);
      const body::TriangleMesh mesh = body::mesh(p.body, 0.005);
      CHECK_THAT(body::volume(mesh), WithinRel(body::mass_properties(p.body).volume, 4e-3));
      rollers += p.kind == reducer::PartKind::roller ? 1 : 0;
      if (p.kind == reducer::PartKind::disc && p.number > 0) (p.alike.empty() ? of_their_own : like_first) += 1;
      if (p.kind == reducer::PartKind::disc) {
        const double R_p = s.output_pin_circle_diameter / 2, hole = r.sizes().output_hole_diameter / 2,
                     bore = s.bore_diameter / 2;
        const double marks = kPi * std::pow(std::min(2.0, s.roller_diameter / 2) / 2, 2) * 0.4;
        const double plain =
            s.face_width * (curve::signed_area(r.edge()) - kPi * bore * bore - pins * kPi * hole * hole) - marks;
        CHECK_THAT(body::mass_properties(p.body).volume, WithinRel(plain, 1e-9));
        // Its holes stand around the pins, as it is placed, turned over or not.
        for (const body::Loop& l : p.body.loops) {
          if (l.feature != "holes") continue;
          Vec2 c = std::get<curve::Arc>(l.outline.period[0].curve).centre;
          if (p.flipped) c.y() = -c.y();
          c = turned(c, p.turn) + Vec2(p.at.x(), p.at.y());
          double nearest = 1e9;
          for (int i = 0; i < pins; ++i)
            nearest = std::min(nearest, (c - from_polar(R_p, r.flange_phase().radians() + 2 * kPi * i / pins)).norm());
          CHECK_THAT(nearest, WithinAbs(s.eccentricity, 1e-10));
        }
      }
    }
    CHECK(rollers == (ring == reducer::RingForm::seats ? 24 : 0));
    CHECK(like_first + of_their_own == discs - 1);
    CHECK(of_their_own == (discs == 3 ? 2 : 0));  // seven pins and two discs: turned over
  }
}
