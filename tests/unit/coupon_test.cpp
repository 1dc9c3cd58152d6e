// A machine of known faults prints a coupon; what is read off it has to give the faults back, as surely as it says.
#include <catch2/catch.hpp>
#include <cmath>

#include <fmt/format.h>

#include "palio/design/design.hpp"
#include "palio/readings/reading.hpp"
#include "palio/solve/coupon.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;

namespace {

std::string coupon() { return job::starter("coupon", job::Units::mm); }

std::string measured(const std::string& of, double is, const std::string& more) {
  return fmt::format("[[measured]]\nof = \"{}\"\nis = {:.6f}\n{}\n", of, is, more);
}

solve::Process recovered(const std::string& readings) {
  const job::Values values = job::Values::read(coupon() + readings, "coupon.toml");
  REQUIRE(solve::is_coupon(values));
  return solve::recover_process(values);
}

std::string refusal(const std::string& readings) {
  try {
    recovered(readings);
  } catch (const job::JobError& e) {
    return e.what();
  }
  return "";
}

/// Pairs of the coupon's largest module with their play.
const std::pair<const char*, double> kPairs[] = {{"m15_play05", 0.05}, {"m15_play15", 0.15}, {"m15_play25", 0.25}};

}  // namespace

TEST_CASE("what the process makes of the coupon gives the process back: the made state is the evidence") {
  for (const auto& [offset, shrinkage] : {std::pair{0.04, 0.0}, {-0.03, 0.005}, {0.0, 0.01}}) {
    CAPTURE(offset, shrinkage);
    std::string text = coupon();
    const std::string before = "preset = \"print\"\n";
    text.replace(text.find(before), before.size(),
                 fmt::format("corrected = []\nsurface_offset = {}\nshrinkage = {}\n", offset, shrinkage));
    const job::Design made = job::as(job::resolve(text, "v"), job::As::made);
    std::string readings = measured("frame.hole_strip.hole", 3.8, "diameter = 4\nby = \"pins\"");
    for (const char* gear : {"m6_middle", "m15_middle"}) {
      const std::string path = fmt::format("gear.{}", gear);
      readings +=
          measured(path + ".tip_diameter", *job::reading_number(made, path + ".tip_diameter"), "by = \"caliper\"");
      const double z = *job::reading_number(made, path + ".span.teeth");
      readings += measured(path + ".span", *job::reading_number(made, path + ".span.length"),
                           fmt::format("teeth = {}\nby = \"caliper\"", z));
    }
    const solve::Process p = recovered(readings);
    REQUIRE(p.surface_offset);
    REQUIRE(p.shrinkage);
    CHECK(p.surface_offset->value == Approx(offset).margin(1e-3));
    CHECK(p.shrinkage->value == Approx(shrinkage).margin(2e-4));
    CHECK_FALSE(p.contradiction);
    // And the table is one that a job takes.
    std::string vent = job::starter("spur", job::Units::mm) + solve::process_toml(p, "coupon.toml");
    CHECK(job::resolve(vent, "v").process.surface_offset == Approx(p.surface_offset->value).margin(1e-4));
  }
}

TEST_CASE("holes, offset and shrinkage lie within what is said of them as often as is said") {
  int within = 0, of = 0;
  const unsigned runs = test::share(150);
  const job::Design nominal = job::resolve(coupon(), "v");
  for (unsigned seed = 1; seed <= runs; ++seed) {
    std::mt19937 engine(seed);
    std::normal_distribution<double> noise(0, 1);
    test::Draw draw(seed);
    const double offset = draw.between(-0.05, 0.08), shrinkage = draw.between(0, 0.008), hole = draw.between(0.1, 0.3);
    std::string readings;
    for (int i = 0; i < 3; ++i)
      readings += measured("frame.hole_strip.hole", 5 - hole + 0.02 * noise(engine), "diameter = 5\nby = \"caliper\"");
    for (const char* gear : {"m6_middle", "m10_middle", "m15_middle", "m15_play05"}) {
      for (const auto& [what, reading, more] :
           {std::tuple{"tip_diameter", "tip_diameter", ""}, {"span", "span.length", "teeth = 2\n"}}) {
        const std::string path = fmt::format("gear.{}.", gear);
        const double is = *job::reading_number(nominal, path + reading) * (1 - shrinkage) + 2 * offset;
        readings += measured(path + what, is + 0.02 * noise(engine), std::string(more) + "by = \"caliper\"");
      }
    }
    const solve::Process p = recovered(readings);
    REQUIRE(p.shrinkage);
    const auto count = [&](const solve::Estimate& e, double truth) {
      within += std::abs(e.value - truth) < 1.96 * e.uncertainty ? 1 : 0, ++of;
    };
    count(*p.surface_offset, offset), count(*p.shrinkage, shrinkage), count(p.holes.at(0).allowance, hole);
  }
  CHECK(within > 0.92 * of);
}

TEST_CASE("of the prints that a play is said to let turn, so many turn") {
  // Thresholds of prints about 0.13 mm, 0.03 mm apart; five prints tried at three plays.
  double promised = 0, kept = 0, sum = 0;
  const unsigned runs = test::share(80);
  for (unsigned seed = 1; seed <= runs; ++seed) {
    std::mt19937 engine(seed);
    std::normal_distribution<double> threshold(0.13, 0.03);
    std::string readings;
    for (const auto& [name, play] : kPairs) {
      int turned = 0;
      for (int i = 0; i < 5; ++i)
        turned += threshold(engine) < play ? 1 : 0;
      readings += measured(fmt::format("pair.{}_pair.turns", name), turned, "prints = 5");
    }
    const solve::Process p = recovered(readings);
    REQUIRE(p.plays.size() == 4);
    for (std::size_t i = 0; i + 1 < p.plays.size(); ++i)
      CHECK(p.plays[i].play < p.plays[i + 1].play);
    for (std::size_t i = 0; i + 1 < p.turned.size(); ++i)
      CHECK(p.turned[i].share < p.turned[i + 1].share);
    CHECK(p.turned[0].play == Approx(0.05).margin(1e-3));
    const double play = p.plays[2].play;  // for 95 %
    for (int i = 0; i < 200; ++i)
      kept += threshold(engine) < play ? 1 : 0, promised += 1;
    sum += p.needed->value;
  }
  CHECK(kept / promised > 0.93);
  CHECK(sum / runs == Approx(0.13).margin(0.015));
}

TEST_CASE("a coupon that says too little or contradicts itself is told so") {
  const std::string by = "diameter = 4\nby = \"pins\"";
  CHECK(
      recovered(measured("frame.hole_strip.hole", 3.8, by) + measured("frame.hole_strip.hole", 3.9, by)).contradiction);
  CHECK_FALSE(recovered(measured("frame.hole_strip.hole", 3.8, by) + measured("frame.hole_strip.hole", 3.81, by))
                  .contradiction);
  const solve::Process one = recovered(measured("frame.hole_strip.hole", 3.8, by) +
                                       measured("gear.m15_middle.span", 7.4, "teeth = 2\nby = \"caliper\""));
  CHECK_FALSE(one.shrinkage);
  CHECK_THAT(solve::process_text(one), Contains("left open"));
  for (const int turned : {0, 3}) {
    const solve::Process p = recovered(measured("pair.m15_play05_pair.turns", turned, "prints = 3"));
    CHECK_THAT(solve::process_text(p), Contains(turned == 0 ? "try more" : "try less"));
    CHECK_THAT(solve::process_json(p), Contains("\"play_for\": []"));
  }
  CHECK_THAT(refusal(measured("frame.hole_strip.hole", 3.8, "by = \"pins\"")), Contains("measured.0.diameter"));
  CHECK_THAT(refusal(measured("frame.hole_strip.hole", 1.9, by)), Contains("radius"));
  CHECK_THAT(refusal(measured("pair.m15_play05_pair.turns", 4, "prints = 3")), Contains("from 0 to 3"));
  CHECK_THAT(refusal(measured("pair.none.turns", 1, "")), Contains("no pair.none"));
  CHECK_THAT(refusal(measured("frame.hole_strip.hole", 3.8, by) +
                     measured("gear.m15_middle.root_diameter", 9, "by = \"caliper\"")),
             Contains("span"));
  CHECK_THAT(refusal(measured("frame.hole_strip.hole", 3.8, by + "\nprints = 2")), Contains("prints"));
}
