// Teeth that stand off their axes, held against polygons that are really set off and rolled.
#include <cmath>
#include <string>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "filled.hpp"
#include "palio/math/extent.hpp"
#include "palio/pair/eccentric.hpp"
#include "palio/roll/polygon.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::finds;
using test::report;
using Json = nlohmann::json;

namespace {

/// Its teeth as chords, their middle off the axis.
roll::Cut cut(const gear::Teeth& teeth, const Vec2& axis, double start, const Vec2& off) {
  constexpr int kChords = 24;
  roll::Cut c{{}, axis, start};
  for (int copy = 0; copy < teeth.count(); ++copy) {
    for (std::size_t k = 0; k < teeth.outline().period.size(); ++k) {
      const curve::Segment s = teeth.outline().segment(copy, k);
      const int chords = s.role == curve::Role::tip ? 4 : kChords;
      const auto point = [&](int i) { return Vec2(s.point(s.from + (s.to - s.from) * i / chords) + off); };
      for (int i = 0; i < chords; ++i)
        c.pieces.push_back({point(i), point(i + 1)});
    }
  }
  return c;
}

struct Extent {
  roll::Range play, error;
};

std::optional<Extent> told_of(const pair::Pair& pair, double off) {
  const auto play = pair::eccentric_play(pair, off), error = pair::eccentric_error(pair, off);
  return play && error ? std::optional(Extent{*play, *error}) : std::nullopt;
}

struct Reached {
  math::Extent play, error;
};

/// Over a turn of the driver in steps, the middles off in directions of their own; an error counts from the even ratio,
/// half the play of the pair as it should be taken off.
Reached rolled(const pair::Pair& p, const std::array<double, 2>& off, const std::array<double, 2>& high) {
  const auto& [driver, driven] = p.gears();
  Reached all;
  constexpr int kSteps = 36;
  for (int k = 0; k < kSteps; ++k) {
    const double forward = 2 * kPi * k / kSteps;
    const roll::CutResult r = roll::roll(
        cut(driver.teeth, driver.axis, driver.phase + forward, from_polar(off[0], high[0])),
        cut(driven.teeth, driven.axis, driven.phase + p.motion_ratio() * forward, from_polar(off[1], high[1])),
        test::law(p.motion_ratio(), p.driven_play(), 8), 2 * kPi / driver.teeth.count(),
        2 * kPi / driven.teeth.count());
    all.play.hold(r.play.min), all.play.hold(r.play.max);
    all.error.hold(r.transmission_error.min), all.error.hold(r.transmission_error.max);
  }
  return all;
}

std::string pair_job(const std::string& gears, const std::string& more) {
  return "[shared]\nmodule=1.5\n" + gears + "[pair.p]\ndriver='a'\ndriven='b'\n" + more +
         "[train.t]\ninput='a'\noutput='b'\n";
}

void check_alike(const Json& range, const Json& other) {
  for (const char* end : {"min", "max"})
    CHECK_THAT(range[end].get<double>(), WithinAbs(other[end].get<double>(), 1e-12));
}

}  // namespace

TEST_CASE("eccentric teeth, set off as polygons and rolled, stay within what is told, and come near it") {
  struct Kind {
    const char* gears;
    const char* pair;
  };
  const Kind kinds[] = {
      {"[gear.a]\nkind='spur'\nteeth=25\naddendum=0.9\n{}[gear.b]\nkind='spur'\nteeth=31\naddendum=0.9\n",
       "backlash=0.3\n"},
      {"[gear.a]\nkind='cycloidal'\nform='clock'\nteeth=40\n{}[gear.b]\nkind='cycloidal'\nform='clock'\nteeth=10\n",
       ""}};
  for (const Kind& kind : kinds) {
    const std::array<double, 2> off{0.05, 0.03};
    const std::string eccentric = fmt::format("eccentricity={}\n", off[0] + off[1]);
    const job::Design design = job::resolve(pair_job(fmt::format(kind.gears, eccentric), kind.pair), "job.toml");
    const job::Pair& p = design.pairs[0];
    CAPTURE(kind.gears);
    const auto told = told_of(p, off[0] + off[1]);
    REQUIRE(told);
    Reached most;
    for (int k = 0; k < 4; ++k) {
      const Reached r = rolled(p, off, {1.1 + 0.9 * k, 0.4 + 2.3 * k});
      for (const double v : {r.play.low(), r.play.high()})
        most.play.hold(v);
      for (const double v : {r.error.low(), r.error.high()})
        most.error.hold(v);
    }
    const double r2 = p.gears()[1].teeth.reference_diameter() / 2, chord = 4e-3 / r2;  // what chords miss
    CHECK(most.play.low() > told->play.min - chord);
    CHECK(most.play.high() < told->play.max + chord);
    CHECK(most.error.low() > told->error.min - chord);
    CHECK(most.error.high() < told->error.max + chord);
    const double near = 0.12 * (told->error.max - told->error.min);
    CHECK(most.error.low() < told->error.min + near);
    CHECK(most.error.high() > told->error.max - near);
    CHECK(most.play.low() < told->play.min + 0.12 * (told->play.max - told->play.min));
    CHECK(most.play.high() > told->play.max - 0.12 * (told->play.max - told->play.min));
  }
}

TEST_CASE(
    "tips that dig into roots where eccentric gears come closest are told, and take play that flanks would leave") {
  // The flank of few teeth ends high: the polygons jam on its root.
  const auto job = [](double addendum) {
    return job::resolve(
        pair_job(fmt::format("[gear.a]\nkind='spur'\nteeth=19\neccentricity=0.3\n[gear.b]\nkind='spur'\n"
                             "teeth=31\naddendum={}\n",
                             addendum),
                 "backlash=0.3\n"),
        "job.toml");
  };
  const auto least_play = [](const job::Design& d) {
    double least = 1e9;
    for (int k = 0; k < 8; ++k)
      least = std::min(least, rolled(d.pairs[0], {0.3, 0}, {0.3 * k, 0}).play.low());
    return least;
  };
  const job::Design digs = job(1.2), clear = job(0.8);
  CHECK(finds(digs, "eccentric-reach"));
  CHECK_FALSE(finds(clear, "eccentric-reach"));
  CHECK(least_play(digs) < pair::eccentric_play(digs.pairs[0], 0.3)->min - 2e-4);
  CHECK(least_play(clear) > pair::eccentric_play(clear.pairs[0], 0.3)->min - 2e-4);
}

TEST_CASE("an eccentric pinion in an eccentric ring: flank points against the ring's teeth") {
  const std::array<double, 2> off{0.05, 0.03};
  const job::Design design =
      job::resolve(pair_job("[gear.a]\nkind='spur'\nteeth=21\neccentricity=0.05\n[gear.b]\nkind='internal'\nteeth=61\n"
                            "eccentricity=0.03\n",
                            "backlash=0.3\n"),
                   "job.toml");
  const job::Pair& p = design.pairs[0];
  const auto told = told_of(p, p.eccentricity);
  REQUIRE(told);
  const auto& [driver, driven] = p.gears();
  const gear::CylindricalGear &pinion = driver.teeth.gear(), &ring = driven.teeth.gear();
  const double pitch = 2 * kPi / 61, half = p.driven_play() / 2;
  math::Extent play, error;
  for (int k = 0; k < 400; ++k) {
    const double phi = driver.phase + 0.37 * k, psi = driven.phase + p.motion_ratio() * 0.37 * k;
    const Vec2 c1 = driver.axis + from_polar(off[0], phi + 0.2 * k), c2 = driven.axis + from_polar(off[1], 1.7 * k);
    double up = math::kInfinite, down = math::kInfinite;
    for (int copy = 0; copy < 21; ++copy) {
      for (std::size_t i = 0; i < pinion.outline().period.size(); ++i) {
        const curve::Segment s = pinion.outline().segment(copy, i);
        if (s.role != curve::Role::flank) continue;
        for (int n = 0; n <= 60; ++n) {
          const Vec2 q = c1 + turned(s.point(s.from + (s.to - s.from) * n / 60), phi) - c2;
          const double R = q.norm();
          if (2 * R < ring.sizes().tip_diameter || 2 * R > ring.sizes().root_form_diameter) continue;
          const double beside = std::remainder(std::atan2(q.y(), q.x()) - psi - pitch / 2, pitch);
          const double gap = std::abs(beside) - ring.half_tooth_angle(R).radians();
          double& least = beside > 0 ? up : down;
          least = std::min(least, gap);
        }
      }
    }
    play.hold(up + down), error.hold(up - half), error.hold(half - down);
  }
  const double sampled = 2e-5;  // between flank points [rad]
  CHECK(play.low() > told->play.min - sampled);
  CHECK(play.high() < told->play.max + sampled);
  CHECK(error.low() > told->error.min - sampled);
  CHECK(error.high() < told->error.max + sampled);
  CHECK(play.low() < told->play.min + 0.05 * (told->play.max - told->play.min));
  CHECK(play.high() > told->play.max - 0.05 * (told->play.max - told->play.min));
  CHECK(error.low() < 0.95 * told->error.min);
  CHECK(error.high() > 0.95 * told->error.max);
}

TEST_CASE("involute teeth that stand off stray by the offset over the base radius, in first order") {
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const int z1 = draw.whole(17, 40), z2 = draw.whole(17, 60);
    const double off = draw.between(0.005, 0.02), helix = draw.of({0.0, 15.0});
    const std::string kind = helix > 0 ? fmt::format("kind='helical'\nhelix_angle={}\n", helix) : "kind='spur'\n";
    const std::string hand = helix > 0 ? "hand='left'\n" : "", other = helix > 0 ? "hand='right'\n" : "";
    const Json all = report(pair_job(
        fmt::format("[gear.a]\n{0}{1}teeth={3}\neccentricity={5}\n[gear.b]\n{0}{2}teeth={4}\neccentricity={6}\n", kind,
                    hand, other, z1, z2, 0.4 * off, 0.6 * off),
        "backlash=0.2\n"));
    const double base = all["gears"]["b"]["base_diameter"].get<double>() / 2;
    const Json& error = all["pairs"]["p"]["error_over_turns_deg"];
    const double expected = off / base * 180 / kPi;
    CHECK_THAT(error["max"].get<double>(), WithinAbs(expected, 0.01 * expected));
    CHECK_THAT(error["min"].get<double>(), WithinAbs(-expected, 0.01 * expected));
    // A train of the two says the same.
    check_alike(all["trains"]["t"]["error_of_output_deg"], error);
    check_alike(all["trains"]["t"]["play_of_output_deg"], all["pairs"]["p"]["play_over_turns_deg"]);
  }
}

TEST_CASE("a rack follows an eccentric pinion by the offset along its line of action, exactly") {
  const double off = 0.04;
  const Json all = report(
      pair_job(fmt::format("[gear.a]\nkind='spur'\nteeth=18\neccentricity={}\n[gear.b]\nkind='rack'\nteeth=20\n", off),
               "backlash=0.2\n"));
  const Json& pair = all["pairs"]["p"];
  const double alpha = 20 * kPi / 180;
  CHECK_THAT(pair["error_over_turns"]["max"].get<double>(), WithinAbs(off / std::cos(alpha), 1e-12));
  CHECK_THAT(pair["play_over_turns"]["max"].get<double>() - pair["play_over_turns"]["min"].get<double>(),
             WithinAbs(4 * off * std::tan(alpha), 1e-12));
  check_alike(all["trains"]["t"]["error_of_output"], pair["error_over_turns"]);
}

TEST_CASE("of two stages each error comes to the output by the ratio of what follows") {
  const std::string gears =
      "[gear.a]\nkind='spur'\nteeth=18\neccentricity=0.02\n[gear.b]\nkind='spur'\nteeth=36\n[gear.c]\nkind='spur'\n"
      "teeth=20\neccentricity=0.03\n[gear.d]\nkind='spur'\nteeth=60\n[shaft.m]\ngears=['b','c']\ngap=2\n";
  const Json all = report("[shared]\nmodule=1.5\n" + gears +
                          "[pair.p]\ndriver='a'\ndriven='b'\nbacklash=0.2\n[pair.q]\ndriver='c'\ndriven='d'\n"
                          "backlash=0.2\n[train.t]\ninput='a'\noutput='d'\n");
  const auto most = [&](const char* pair) { return all["pairs"][pair]["error_over_turns_deg"]["max"].get<double>(); };
  CHECK_THAT(all["trains"]["t"]["error_of_output_deg"]["max"].get<double>(),
             WithinAbs(most("p") / 3 + most("q"), 1e-9));
}

TEST_CASE("eccentric teeth that jam once in a while are told, with a backlash that does") {
  int told = 0;
  for (unsigned seed = 1; seed <= test::share(20); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const double off = draw.between(0.01, 0.1), backlash = draw.between(0.0, 0.06);
    const auto job = [&](double play) {
      return pair_job(fmt::format("[gear.a]\nkind='spur'\nteeth={}\neccentricity={}\n[gear.b]\nkind='spur'\nteeth=40\n",
                                  draw.whole(20, 20), off),
                      fmt::format("backlash={}\n", play));
    };
    const job::Design design = job::resolve(job(backlash), "job.toml");
    // The change of distance is felt twice by tan α: once at either flank.
    const bool jams = backlash < 2 * off * std::tan(20 * kPi / 180);
    CHECK(finds(design, "eccentric-jam") == jams);
    if (!jams) continue;
    ++told;
    for (const Finding& f : job::findings(design)) {
      if (f.kind().text_id != "eccentric-jam") continue;
      const double give = std::strtod(f.detail.c_str() + f.detail.find("= ") + 2, nullptr);
      CHECK_FALSE(finds(job::resolve(job(give), "job.toml"), "eccentric-jam"));
      CHECK(finds(job::resolve(job(give - 0.004), "job.toml"), "eccentric-jam"));
    }
  }
  if (test::whole_search()) CHECK(told > 5);
}

TEST_CASE("where nothing is known of eccentric teeth, they are refused") {
  CHECK_THAT(test::mistakes("[shared]\nmodule=2\n[gear.a]\nkind='helical'\nhelix_angle=45\nhand='right'\nteeth=13\n"
                            "eccentricity=0.02\n[gear.b]\nkind='helical'\nhelix_angle=45\nhand='right'\nteeth=20\n"
                            "[pair.p]\ndriver='a'\ndriven='b'\nshaft_angle=90\n"),
             Contains("gear.a.eccentricity") && Contains("pair.p"));
  CHECK_THAT(test::mistakes("[gear.a]\nkind='rack'\nmodule=1\nteeth=20\neccentricity=0.1\n"), Contains("eccentricity"));
}
