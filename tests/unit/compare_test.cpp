// Two jobs side by side: what is told differs, what is not told does not.
#include <cmath>
#include <set>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/readings/compare.hpp"
#include "palio/readings/reading.hpp"
#include "palio/view/draw.hpp"
#include "random_gear.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;

TEST_CASE("a job and itself are alike, in its units and in others") {
  for (const std::string& kind : test::job_kinds()) {
    const auto one = test::try_job(test::random_job(kind, 3, false, false));
    if (!one) continue;
    CAPTURE(kind);
    CHECK(compare(*one, *one).alike());
    const std::string text = one->values.text();
    const Design inches = resolve(in_units(text, "v", Units::inch), "v");
    // The same lengths, to the twelve digits in which they are rewritten.
    for (const Difference& d : compare(*one, inches).readings) {
      CAPTURE(d.path, d.a, d.b);
      REQUIRE(d.number());
      const double a = std::stod(d.a), b = std::stod(d.b);
      CHECK(std::abs(a - b) < 1e-8 * std::max(1.0, std::abs(a)));
    }
  }
}

TEST_CASE("of a changed number every reading that changes is told, and no other") {
  unsigned looked = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 1; seed <= test::share(3); ++seed) {
      const std::string text = test::random_job(kind, seed, false, seed % 2 == 0);
      const auto before = test::try_job(text);
      if (!before || before->gears.empty()) continue;
      const std::string path = "gear." + before->gears[0].name + ".face_width";
      const auto after = test::try_job(text, {path + "=7.5"});
      if (!after) continue;
      CAPTURE(kind, seed, text);
      const Comparison found = compare(*before, *after);
      CHECK(std::any_of(found.values.begin(), found.values.end(), [&](const Difference& d) { return d.path == path; }));
      std::set<std::string> told;
      for (const Difference& d : found.readings) {
        told.insert(d.path);
        CAPTURE(d.path);
        if (d.a != "null") CHECK(d.a == reading_json(*before, d.path));
        if (d.b != "null") CHECK(d.b == reading_json(*after, d.path));
        CHECK(d.a != d.b);
      }
      // One that is not told is the same in both.
      for (const Gear& g : before->gears) {
        for (const char* key : {"tip_diameter", "root_diameter", "face_width", "volume", "tip_thickness"}) {
          const std::string reading = fmt::format("gear.{}.{}", g.name, key);
          if (told.count(reading) > 0) continue;
          std::optional<double> a, b;
          try {
            a = reading_number(*before, reading), b = reading_number(*after, reading);
          } catch (const InvalidParameter&) {
            continue;  // this kind has none
          }
          CHECK(a.has_value() == b.has_value());
          if (a && b) CHECK(std::abs(*a - *b) <= 1e-10 * std::max(1.0, std::abs(*a)));
        }
      }
      ++looked;
    }
  }
  if (test::whole_search()) CHECK(looked > 12);
}

TEST_CASE("what only one of two jobs has is named once, not number by number") {
  const char* shared = "[shared]\nkind = \"spur\"\nmodule = 1\n";
  const std::string a = std::string(shared) + "[gear.a]\nteeth = 17\n[gear.b]\nteeth = 30\n";
  const std::string b = std::string(shared) + "[gear.a]\nteeth = 18\n[gear.c]\nteeth = 30\n";
  const Comparison found = compare(resolve(a, "a"), resolve(b, "b"));
  CHECK(found.only_a == std::vector<std::string>{"gear.b"});
  CHECK(found.only_b == std::vector<std::string>{"gear.c"});
  REQUIRE(found.values.size() == 1);
  CHECK(found.values[0].path == "gear.a.teeth");
  const nlohmann::json told = nlohmann::json::parse(compare_json(found));
  CHECK(told["values"][0]["a"] == 17);
  CHECK(told["values"][0]["b"] == 18);
  for (const auto& reading : told["readings"])
    CHECK(reading["path"].get<std::string>().rfind("gear.a.", 0) == 0);
  CHECK_THAT(compare_text(found, "one", "two"), Contains("only in A: gear.b") && Contains("gear.a.tip_diameter"));
}

TEST_CASE("teeth are laid over each other as pictures, bevel teeth are refused with a word") {
  const Design one = resolve("[gear.a]\nkind = \"spur\"\nteeth = 17\nmodule = 1\n", "a"),
               two = resolve("[gear.a]\nkind = \"spur\"\nteeth = 17\nmodule = 1\nprofile_shift = 0.3\n", "b");
  const std::string svg = view::draw_overlay(one, one.gears[0], "one", two, two.gears[0], "two", "svg");
  CHECK_THAT(svg, Contains("<svg"));
  CHECK(view::draw_overlay(one, one.gears[0], "one", two, two.gears[0], "two", "png").substr(1, 3) == "PNG");
  const Design bevel = resolve("[gear.a]\nkind = \"bevel\"\nteeth = 17\nmodule = 1\npitch_cone_angle = 45\n", "c");
  CHECK_THROWS_AS(view::draw_overlay(one, one.gears[0], "one", bevel, bevel.gears[0], "two", "svg"), InvalidParameter);
}
