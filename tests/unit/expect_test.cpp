// What a drawing says, held against the design: [expect].
#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <catch2/catch.hpp>

#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "random_gear.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

/// Paths of all plain numbers of a report.
void numbers_of(const nlohmann::json& at, const std::string& path, std::vector<std::pair<std::string, double>>& all) {
  if (at.is_number()) all.emplace_back(path, at.get<double>());
  if (!at.is_object()) return;
  for (const auto& [name, child] : at.items())
    numbers_of(child, path.empty() ? name : path + "." + name, all);
}

std::vector<std::pair<std::string, double>> told_of(const Design& design) {
  const nlohmann::json report = nlohmann::json::parse(report_json(design));
  std::vector<std::pair<std::string, double>> all;
  for (const auto& [section, head] : {std::pair{"gears", "gear"}, {"pairs", "pair"}, {"reducers", "reducer"}}) {
    if (report.contains(section)) numbers_of(report[section], head, all);
  }
  return all;
}

std::vector<Finding> of_drawing(const Design& design) {
  std::vector<Finding> all = explained_findings(design);
  all.erase(std::remove_if(all.begin(), all.end(),
                           [](const Finding& f) {
                             return f.id != FindingId::differs_from_drawing && f.id != FindingId::agrees_with_drawing;
                           }),
            all.end());
  return all;
}

std::vector<Finding> of_drawing(const std::string& job, const std::string& expect) {
  return of_drawing(resolve(job + "\n[expect]\n" + expect, "v"));
}

constexpr const char* kStage = R"(
[shared]
module = 1.5
[gear.pinion]
kind = "spur"
teeth = 17
[gear.wheel]
like = "pinion"
teeth = 43
[pair.stage]
driver = "pinion"
driven = "wheel"
backlash = 0.1
)";

}  // namespace

TEST_CASE("a drawing that says what is reported is met; one that says otherwise is missed by just that, in any job") {
  int agreed = 0, differed = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 1; seed <= test::share(3); ++seed) {
      const std::string job = test::random_job(kind, seed);
      const auto design = test::try_job(job);
      if (!design) continue;
      test::Draw draw(seed);
      const auto told = told_of(*design);
      REQUIRE_FALSE(told.empty());
      for (int i = 0; i < 6; ++i) {
        const auto& [path, is] = told[static_cast<std::size_t>(draw.whole(0, static_cast<int>(told.size()) - 1))];
        if (!std::isfinite(is)) continue;
        CAPTURE(kind, seed, path, is);
        const double room = draw.between(1e-6, 1e-2), off = draw.of({-3.0, -0.5, 0.0, 0.5, 3.0}) * room;
        const auto found = of_drawing(job, fmt::format("{} = \"{:.17g} ± {:.17g}\"", path, is + off, room));
        REQUIRE(found.size() == 1);
        CHECK_THAT(*found[0].value, WithinRel(is, 1e-12) || WithinAbs(is, 1e-12));
        CHECK(found[0].subject == path);
        if (std::abs(off) < room) {
          ++agreed;
          CHECK(found[0].id == FindingId::agrees_with_drawing);
        } else {
          ++differed;
          CHECK(found[0].id == FindingId::differs_from_drawing);
          CHECK_THAT(std::abs(*found[0].limit - *found[0].value), WithinRel(2 * room, 1e-6) || WithinAbs(0, 1e-12));
        }
      }
    }
  }
  CHECK(agreed > 10);
  CHECK(differed > 10);
}

TEST_CASE("where one other number explains all that a drawing says of a gear, that number is named") {
  struct Other {
    const char* key;
    double instead;
  };
  const auto other =
      GENERATE(Catch::Generators::as<Other>{}, Other{"pressure_angle", 14.5}, Other{"pressure_angle", 25},
               Other{"teeth", 18}, Other{"teeth", 16}, Other{"module", 25.4 / 16}, Other{"module", 1.75},
               Other{"dedendum", 1.35}, Other{"addendum", 1.1});
  CAPTURE(other.key, other.instead);
  // What gears that mesh share changes with both.
  std::vector<std::string> set{fmt::format("gear.pinion.{}={}", other.key, other.instead)};
  if (other.key != std::string("teeth")) set.push_back(fmt::format("gear.wheel.{}={}", other.key, other.instead));
  const Design drawn = resolve(kStage, "v", set);
  std::string expect;
  for (const char* reading : {"tip_diameter", "root_diameter", "base_diameter", "tip_thickness"}) {
    const std::string path = fmt::format("gear.pinion.{}", reading);
    expect += fmt::format("{} = \"{:.9g} ± 0.002\"\n", path, reading_number(drawn, path).value());
  }
  const auto found = of_drawing(kStage, expect);
  REQUIRE(found.size() == 4);
  const std::string words = fmt::format("as if {} were {:.6g}", other.key, other.instead);
  // For whoever only asks which findings there are no other designs are tried.
  for (const Finding& f : findings(resolve(kStage + std::string("\n[expect]\n") + expect, "v")))
    CHECK_THAT(f.detail, !Contains("as if"));
  int told = 0;
  for (const Finding& f : found) {
    if (f.id != FindingId::differs_from_drawing) continue;
    ++told;
    CHECK_THAT(f.detail, Contains(words));
  }
  CHECK(told > 0);
  // And none is named where a size is missed by little, or where no number explains it.
  const double tip = reading_number(resolve(kStage, "v"), "gear.pinion.tip_diameter").value();
  const auto near = of_drawing(kStage, fmt::format("gear.pinion.tip_diameter = \"{} ± 1\"", tip + 1.5));
  REQUIRE(near.size() == 1);
  CHECK(near[0].id == FindingId::differs_from_drawing);
  CHECK_THAT(near[0].detail, !Contains("as if"));
  const auto odd = of_drawing(kStage, "gear.pinion.tip_diameter = 27.7\ngear.pinion.root_diameter = 20.9");
  REQUIRE(odd.size() == 2);
  for (const Finding& f : odd)
    CHECK_THAT(f.detail, !Contains("as if"));
}

TEST_CASE("a drawing's numbers are as good as their last digit, in the unit they say") {
  const double span = reading_number(resolve(kStage, "v"), "gear.pinion.span.length").value();
  const auto id = [&](const std::string& says) {
    const auto found = of_drawing(kStage, "gear.pinion.span.length = " + says);
    REQUIRE(found.size() == 1);
    return found[0].id;
  };
  const FindingId agrees = FindingId::agrees_with_drawing, differs = FindingId::differs_from_drawing;
  CHECK(id(fmt::format("{:.3f}", span)) == agrees);
  CHECK(id(fmt::format("{:.3f}", span + 0.002)) == differs);
  CHECK(id(fmt::format("\"{:.1f}\"", span)) == agrees);
  CHECK(id(fmt::format("\"{:.4f} in\"", span / 25.4)) == agrees);
  CHECK(id(fmt::format("\"{:.4f} in\"", span / 25.4 + 3e-4)) == differs);
  CHECK(id("7") == differs);
  CHECK(id(fmt::format("[{}, {}]", span - 0.1, span + 0.1)) == agrees);
  CHECK(id(fmt::format("[\"{} mm\", \"{} mm\"]", span + 0.1, span + 0.2)) == differs);
  CHECK(id(fmt::format("\"at least {}\"", span - 0.1)) == agrees);
  CHECK(id(fmt::format("\"at least {}\"", span + 0.1)) == differs);
  CHECK(id(fmt::format("\"at most {}\"", span - 0.1)) == differs);
  CHECK(id(fmt::format("\"{} mm +/- 20 um\"", span - 0.01)) == agrees);
  CHECK(id("\"36/2\"") == differs);
}

TEST_CASE("a drawing that cannot be read is refused with its place; one with other units says the same") {
  for (const char* bad :
       {"gear.pinon.tip_diameter = 3", "gear.pinion.tip_diamter = 3", "gear.pinion = 3", "x = 3",
        "gear.pinion.tip_diameter = \"3 ±\"", "gear.pinion.kind = 4", "gear.pinion.tip_diameter = \"28 deg\"",
        "gear.pinion.tip_diameter = [3]", "gear.pinion.tip_diameter = [3, 2]",
        "gear.pinion.tip_diameter = \"28 mm ± 0.1\"", "gear.pinion.tip_diameter = true",
        "gear.pinion.tip_diameter = \"at least\"", "gear.pinion.tip_diameter = \"3 ± -1\"",
        "gear.pinion.tip_diameter = \"find\"", "gear.pinion.span.length = \"1e999\""}) {
    CAPTURE(bad);
    try {
      of_drawing(kStage, bad);
      FAIL("was taken");
    } catch (const JobError& e) {
      REQUIRE(e.mistakes().size() == 1);
      CHECK(e.mistakes()[0].where.line == 16);
      CHECK(e.mistakes()[0].key.rfind("expect.", 0) == 0);
      CHECK_FALSE(e.mistakes()[0].message.empty());
    }
  }
  const std::string job = std::string(kStage) +
                          "[expect]\ngear.pinion.tip_diameter = \"28.6 ± 0.01\"\ngear.wheel.tip_diameter = [67, 68]\n"
                          "pair.stage.center_distance = 45\npair.stage.transverse_contact_ratio = \"at least 1.2\"\n";
  const auto is_length = [](const std::string& path) { return reading_unit(path, Units::inch) == "in"; };
  const auto before = of_drawing(resolve(job, "v")),
             after = of_drawing(resolve(in_units(job, "v", Units::inch, is_length), "v"));
  REQUIRE(before.size() == 4);
  REQUIRE(after.size() == 4);
  for (std::size_t i = 0; i < 4; ++i)
    CHECK(before[i].id == after[i].id);
  CHECK(before[0].id == FindingId::differs_from_drawing);
  CHECK_THROWS_AS(in_units(job, "v", Units::inch), JobError);
}
