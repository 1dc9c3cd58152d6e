// A job in the other units is the same job: its design to the last bits, its comments, formulas and order untouched.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "random_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Json = nlohmann::ordered_json;

namespace {

/// Every number of two reports, lengths of the second brought to the first's unit by what its key is.
void compare(const Json& a, const Json& b, const std::string& path, int& numbers) {
  if (a.is_object()) {
    for (const auto& [key, value] : a.items()) {
      CAPTURE(path, key);
      REQUIRE(b.contains(key));
      compare(value, b[key], path + "." + key, numbers);
    }
    return;
  }
  if (a.is_array()) {
    REQUIRE(a.size() == b.size());
    for (std::size_t i = 0; i < a.size(); ++i)
      compare(a[i], b[i], path, numbers);
    return;
  }
  if (!a.is_number() || !b.is_number()) {
    CAPTURE(path);
    if (path.find("message") == std::string::npos && path != ".units") CHECK(a == b);
    return;
  }
  ++numbers;
  const double x = a.get<double>(), y = b.get<double>();
  CAPTURE(path, x, y);
  CHECK(std::abs(x - y) <= 1e-11 * std::max(1.0, std::abs(x)));
}

/// The report in millimetres, whatever the units of the job are.
Json in_mm(const std::string& job) {
  Design d = resolve(job, "v");
  d.units = Units::mm;
  return Json::parse(report_json(d, false));
}

}  // namespace

TEST_CASE("every starter rewritten in inches and back is the same design, to the last digits") {
  for (const char* kind : {"spur", "helical", "double_helical", "internal", "rack", "crossed", "bevel", "cycloidal",
                           "clock", "lantern", "reducer", "coupon", "planetary", "train", "clock_train"}) {
    const std::string mm = starter(kind, Units::mm), inches = in_units(mm, "v", Units::inch),
                      back = in_units(inches, "v", Units::mm);
    CAPTURE(kind);
    CHECK(resolve(inches, "v").units == Units::inch);
    int numbers = 0;
    compare(in_mm(mm), in_mm(inches), "", numbers);
    compare(in_mm(mm), in_mm(back), "", numbers);
    CHECK(numbers > 50);
    // Comments stay, line by line.
    CHECK(std::count(inches.begin(), inches.end(), '#') == std::count(mm.begin(), mm.end(), '#'));
    CHECK(std::count(inches.begin(), inches.end(), '\n') == std::count(mm.begin(), mm.end(), '\n'));
  }
}

TEST_CASE("random jobs of every kind keep their design through the other units") {
  int kept = 0;
  for (const std::string& kind : test::job_kinds()) {
    const bool costly = kind == "reducer" || kind == "bevel";  // whose reports roll
    for (unsigned seed = 1; seed <= test::share(costly ? 4 : 10); ++seed) {
      for (const bool inch : {false, true}) {
        const std::string job = test::random_job(kind, seed, false, inch);
        try {
          resolve(job, "v");
        } catch (const JobError&) {
          continue;
        }
        CAPTURE(kind, seed, inch);
        int numbers = 0;
        compare(in_mm(job), in_mm(in_units(job, "v", inch ? Units::mm : Units::inch)), "", numbers);
        ++kept;
      }
    }
  }
  if (test::whole_search()) CHECK(kept > 120);
}

TEST_CASE("numbers are edited where they stand: units, formulas, [values], tables by diameter, inline tables, JSON") {
  const std::string job =
      "# für das Dach: °, µm\ntitle = 'ä — é'  # stays\n[values]\nshaft = 5 # a name\nhub = '1/2 in'\nlean = '0.3 "
      "rad'\n[shared]\nmodule = 1.5\n"
      "[gear.a]\nkind = 'spur'\nteeth = 30\nbore.diameter = 'shaft + 0.1' # a formula\nface_width = '1/2 in'\nhubs = "
      "[{ diameter = 'hub + 1', length = 3 }] # "
      "ü\n"
      "flat = { height = 4.9, angle = 'lean' }\n[gear.b]\nlike = 'a'\nteeth = 40\nholes = { count = 3, circle_diameter "
      "= 30, diameter = 4, angle = '0.3 rad' "
      "}\n"
      "[pair.p]\ndriver = 'a'\ndriven = 'b'\nbacklash = '4 %'\n[process]\nhole_allowance = { '3' = 0.3, '10' = 0.2, "
      "'1/2 in' = '0.15 mm' }\nshrinkage = '1 "
      "%'\n";
  const std::string inches = in_units(job, "v", Units::inch);
  CAPTURE(inches);
  int numbers = 0;
  compare(in_mm(job), in_mm(inches), "", numbers);
  compare(in_mm(job), in_mm(in_units(inches, "v", Units::mm)), "", numbers);
  CHECK(numbers > 100);
  for (const char* stays :
       {"# für das Dach: °, µm", "title = 'ä — é'  # stays", "shaft = 5 # a name", "'4 %'", "'0.3 rad'", "'1 %'",
        "face_width = '1/2 in'", "# a formula", "(shaft + 0.1)/25.4", "module = 1.5", "'1/2 in'"}) {
    CHECK_THAT(inches, Contains(stays));
  }
  // A bore on the border of two keys keeps its own.
  for (const double bore : {10.0, 12.0, 17.0, 38.0, 44.0, 50.0, 58.0, 110.0}) {
    const std::string keyed =
        fmt::format("[gear.a]\nkind='spur'\nteeth=200\nmodule=1\nbore.diameter={}\nkeyway='standard'\n", bore);
    CAPTURE(bore);
    const Design mm = resolve(keyed, "v"), in = resolve(in_units(keyed, "v", Units::inch), "v");
    REQUIRE(mm.gears[0].features.keyway);
    REQUIRE(in.gears[0].features.keyway);
    CHECK(in.gears[0].features.keyway->width == mm.gears[0].features.keyway->width);
    CHECK(in.gears[0].teeth.bore_diameter() == mm.gears[0].teeth.bore_diameter());
  }
  const std::string json =
      R"({"gear":{"a":{"kind":"spur","teeth":30,"module":1,"bore":{"diameter":6},"face_width":"1/2 in"}}})";
  compare(in_mm(json), in_mm(in_units(json, "v.json", Units::inch)), "", numbers);
}
