// Readings: asked for one by one they are the report's, of every kind; and remedies do what they say.
#include "palio/readings/reading.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <set>

#include "palio/error.hpp"
#include "palio/readings/remedy.hpp"
#include "palio/readings/report.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Json = nlohmann::ordered_json;

namespace {

const std::pair<const char*, const char*> kSections[] = {{"gears", "gear"},   {"pairs", "pair"},
                                                         {"frames", "frame"}, {"reducers", "reducer"},
                                                         {"trains", "train"}, {"planetaries", "planetary"},
                                                         {"shafts", "shaft"}};

bool has(const Design& design, const Finding& finding) {
  for (const Finding& f : findings(design)) {
    if (f.id == finding.id && f.subject == finding.subject) return true;
  }
  return false;
}

std::set<std::string> error_set(const Design& design) {
  std::set<std::string> all;
  for (const Finding& f : findings(design)) {
    if (f.kind().severity == Severity::error) all.insert(std::string(f.kind().text_id) + f.subject);
  }
  return all;
}

}  // namespace

TEST_CASE("a reading asked for alone is the report's, and what the report does not have is refused by name") {
  std::set<std::pair<std::string, std::string>> seen;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 101; seed < 101 + test::share(kind == "reducer" ? 2 : 4); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed, false, seed % 2 == 0));
      if (!design) continue;
      CAPTURE(kind, seed);
      const Json report = Json::parse(report_json(*design, false));
      for (const auto& [section, head] : kSections) {
        for (const auto& [name, thing] : report[section].items()) {
          const std::string start = std::string(head) + "." + name + ".";
          for (const Reading& r : readings()) {
            if (r.of != *reading_of(head) || r.cost == ReadingCost::rolls) continue;
            const std::string path = start + std::string(r.key);
            CAPTURE(path);
            if (!thing.contains(std::string(r.key))) {
              CHECK_THROWS_AS(reading_json(*design, path), InvalidParameter);
              continue;
            }
            seen.insert({head, std::string(r.key)});
            const Json& told = thing[std::string(r.key)];
            CHECK(Json::parse(reading_json(*design, path)) == told);
            if (told.is_number()) CHECK(reading_number(*design, path) == told.get<double>());
            if (told.is_array() && !told.empty()) {
              CHECK(Json::parse(reading_json(*design, path + ".0")) == told[0]);
              CHECK_THROWS_AS(reading_json(*design, path + "." + std::to_string(told.size())), InvalidParameter);
            }
            for (const auto& [deeper, value] : told.items()) {
              if (told.is_object()) CHECK(Json::parse(reading_json(*design, path + "." + deeper)) == value);
            }
          }
          // Nothing is reported that the table does not have.
          for (const auto& [key, value] : thing.items()) {
            CHECK(
                std::any_of(readings().begin(), readings().end(), [&, section_head = head, k = key](const Reading& r) {
                  return r.of == *reading_of(section_head) && r.key == k;
                }));
          }
        }
      }
    }
  }
  if (test::whole_search()) CHECK(seen.size() > 150);
}

TEST_CASE("every reading has words of its own, a heading, and a unit where it is a length or an angle") {
  std::set<std::pair<int, std::string_view>> keys;
  for (const Reading& r : readings()) {
    CAPTURE(r.key);
    CHECK(keys.insert({static_cast<int>(r.of), r.key}).second);
    CHECK(r.label.size() > 2);
    CHECK(r.meaning.size() > 5);
    const auto& groups = reading_groups();
    CHECK(std::find(groups.begin(), groups.end(), r.group) != groups.end());
    const std::string path = fmt::format("{}.p.{}", name(r.of), r.key);
    const std::string unit = reading_unit(path, Units::inch);
    if (r.quantity == Quantity::length || r.quantity == Quantity::circle) CHECK(unit == "in");
    if (r.quantity == Quantity::angle) CHECK(unit == "°");
    if (r.quantity == Quantity::count || r.quantity == Quantity::ratio) CHECK(unit.empty());
  }
  CHECK(keys.size() > 180);
}

TEST_CASE("what is near is named where a path leads nowhere") {
  const Design d = resolve(starter("spur", Units::mm), "v");
  const std::pair<const char*, const char*> wrong[] = {
      {"gear.motor_pinion.tip_diamter", "tip_diameter"}, {"gear.motor_pinio.teeth", "motor_pinion"},
      {"pair.first_stage.span", "first_stage.span"},     {"gaer.motor_pinion.teeth", "gear"},
      {"gear.motor_pinion", "gear.NAME.tip_diameter"},   {"frame.plate.thickness", "none at all"},
      {"gear.motor_pinion.span.lenght", "length"},       {"gear.motor_pinion.teeth.0", "leave it out"}};
  for (const auto& [path, told] : wrong) {
    CAPTURE(path);
    CHECK_THROWS_WITH(reading_json(d, path), Contains(told));
  }
}

TEST_CASE("a remedy takes its finding away and brings no error, and half the way to it does not") {
  int remedies = 0, halfway = 0, doubts = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 301;
         seed < 301 + test::share(kind == "reducer" || kind == "bevel" || kind == "crossed" ? 3 : 10); ++seed) {
      const std::string text = test::random_job(kind, seed, true);
      const auto design = test::try_job(text);
      if (!design) continue;
      CAPTURE(kind, seed, text);
      const Verdict v = verdict(*design, findings(*design), 2);
      const std::set<std::string> before = error_set(*design);
      for (const Verdict::Doubt& d : v.doubts) {
        ++doubts;
        if (!d.remedy) continue;
        ++remedies;
        CAPTURE(d.finding.kind().text_id, d.finding.subject, d.remedy->path, d.remedy->value);
        const Design after = resolve(text, "v", {fmt::format("{}={}", d.remedy->path, d.remedy->value)});
        CHECK_FALSE(has(after, d.finding));
        const std::set<std::string> left = error_set(after);
        CHECK(std::includes(before.begin(), before.end(), left.begin(), left.end()));
        // A number half as far from what the job has leaves the finding, or the remedy would not be the nearest.
        const auto dot = d.remedy->path.rfind('.');
        const std::string key = d.remedy->path.substr(dot + 1);
        if (key != "profile_shift") continue;
        const auto now = reading_number(*design, d.remedy->path);
        REQUIRE(now);
        if (std::abs(d.remedy->value - *now) < 0.01) continue;
        const double middle = 0.5 * (*now + d.remedy->value);
        CHECK(has(resolve(text, "v", {fmt::format("{}={}", d.remedy->path, middle)}), d.finding));
        ++halfway;
      }
    }
  }
  if (test::whole_search()) {
    CHECK(doubts > 40);
    CHECK(remedies > 20);
    CHECK(halfway > 3);
  }
}

TEST_CASE("a verdict is at most ten lines, whatever the job, and says how many doubts there are") {
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 401; seed < 401 + test::share(kind == "reducer" ? 1 : 3); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed, true));
      if (!design) continue;
      CAPTURE(kind, seed);
      const std::string text = verdict_text(*design, false);
      CHECK(std::count(text.begin(), text.end(), '\n') <= 10);
      const Json json = Json::parse(verdict_json(*design));
      std::size_t wrong = 0, doubtful = 0;
      for (const Finding& f : findings(*design)) {
        wrong += f.kind().severity == Severity::error;
        doubtful += f.kind().severity == Severity::warning;
      }
      CHECK(json["errors"] == wrong);
      CHECK(json["warnings"] == doubtful);
      CHECK(json["works"] == (wrong == 0));
      CHECK_THAT(text, Contains(wrong > 0      ? "cannot work"
                                : doubtful > 0 ? "with doubts"
                                               : "nothing stands against it"));
    }
  }
  // Many pairs: the rest is counted.
  std::string many = "[shared]\nmodule=1\nkind='spur'\n";
  for (int i = 0; i < 16; ++i)
    many += fmt::format("[gear.g{}]\nteeth={}\n", i, 20 + i);
  for (int i = 0; i < 15; ++i)
    many += fmt::format("[pair.p{}]\ndriver='g{}'\ndriven='g{}'\nbacklash=0.1\n", i, i, i + 1);
  const std::string text = verdict_text(resolve(many, "v"), false);
  CHECK(std::count(text.begin(), text.end(), '\n') == 10);
  CHECK_THAT(text, Contains("more pairs below"));
}
