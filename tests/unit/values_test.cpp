// The first stage of a job: values that change without any text are those that the changed text gives.
#include <algorithm>
#include <cmath>
#include <set>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/readings/report.hpp"
#include "palio/values/edit.hpp"
#include "palio/values/keys.hpp"
#include "random_job.hpp"
#include "starters.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;

namespace {

/// The whole report, or all mistakes.
std::string outcome(const Values& values) {
  try {
    return report_json(resolve(values), false);
  } catch (const JobError& e) {
    return e.what();
  }
}

/// The messages without where they stand: a changed text names the option, changed values do too, a rewritten text does
/// not.
std::string without_places(const std::string& text) {
  std::string out;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t to = std::min(text.find('\n', from), text.size());
    const std::string line = text.substr(from, to - from);
    const std::size_t colon = line.find(": ");
    out += (text[0] == '{' || colon == std::string::npos ? line : line.substr(colon)) + "\n";
    from = to + 1;
  }
  return out;
}

struct Given {
  std::string path;
  double number;
};

/// Every plain number that stands in the text of a job, with its path.
std::vector<Given> numbers_in(const std::string& text) {
  std::vector<Given> all;
  std::string head;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t to = std::min(text.find('\n', from), text.size());
    const std::string line = text.substr(from, to - from);
    from = to + 1;
    if (line.empty()) continue;
    if (line[0] == '[') {
      head = line.substr(1, line.size() - 2) + ".";
      continue;
    }
    const std::size_t equal = line.find(" = ");
    if (equal == std::string::npos || head.empty()) continue;
    const std::string value = line.substr(equal + 3);
    char* end = nullptr;
    const double number = std::strtod(value.c_str(), &end);
    if (end == value.c_str() + value.size()) all.push_back({head + line.substr(0, equal), number});
  }
  return all;
}

}  // namespace

TEST_CASE("a number changed in the values is the number changed in the text") {
  int changed = 0, differing = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 301; seed < 301 + test::share(kind == "reducer" ? 2 : 5); ++seed) {
      test::Draw draw(seed);
      const std::string text = test::random_job(kind, seed, false, seed % 2 == 0);
      const Values values = Values::read(text, "v");
      const std::string before = outcome(values);
      const std::vector<Given> given = numbers_in(text);
      REQUIRE_FALSE(given.empty());
      const Given& one = given[static_cast<std::size_t>(draw.whole(0, static_cast<int>(given.size()) - 1))];
      // Teeth stay whole.
      const bool whole = one.number == std::round(one.number);
      const double other = whole ? one.number + draw.whole(1, 3) : one.number * draw.between(0.9, 1.1);
      CAPTURE(kind, seed, one.path, one.number, other);
      const Values by_number = values.with(one.path, other);
      const Values by_text = Values::read(text, "v", {fmt::format("{}={}", one.path, other)});
      CHECK(outcome(by_number) == outcome(by_text));
      CHECK(by_number.text() == by_text.text());
      // What a file carries along makes the same design.
      CHECK(without_places(outcome(Values::read(by_number.text(), "v"))) == without_places(outcome(by_number)));
      // The values it was made from are as before, and changing back is no change.
      CHECK(outcome(values) == before);
      CHECK(values.text() == text);
      CHECK(without_places(outcome(by_number.with(one.path, one.number))) == without_places(before));
      ++changed;
      differing += outcome(by_number) != before;
    }
  }
  CHECK(differing > changed / 2);
}

TEST_CASE("numbers can be changed in any order") {
  for (const std::string& kind : test::job_kinds()) {
    const std::string text = test::random_job(kind, 77);
    const Values values = Values::read(text, "v");
    const std::vector<Given> given = numbers_in(text);
    REQUIRE(given.size() >= 2);
    const Given &a = given.front(), &b = given.back();
    CAPTURE(kind, a.path, b.path);
    const auto more = [](const Given& g) { return g.number + (g.number == std::round(g.number) ? 1 : 0.013); };
    CHECK(without_places(outcome(values.with(a.path, more(a)).with(b.path, more(b)))) ==
          without_places(outcome(values.with(b.path, more(b)).with(a.path, more(a)))));
  }
}

TEST_CASE("a named number changes all that is worked out from it") {
  const auto job = [](double shaft) {
    return fmt::format(
        "[values]\nshaft = {}\nplay = 'shaft/50'\n[shared]\nmodule=1\nkind='spur'\n[gear.a]\nteeth=20\n"
        "bore.diameter='shaft'\n[gear.b]\nteeth=40\nbore={{diameter='shaft+2', allowance='play'}}\n",
        shaft);
  };
  const Values values = Values::read(job(6), "v");
  const Design wider = resolve(values.with("values.shaft", 8));
  CHECK(wider.gear("a").teeth.bore_diameter() == 8);
  CHECK(wider.gear("b").bore_given == 10);
  CHECK(wider.gear("b").bore_play == Approx(0.16).epsilon(1e-12));
  CHECK(report_json(wider) == report_json(resolve(job(8), "v")));
}

TEST_CASE("what is no place of the job is refused, what is no key is told") {
  const Values values = Values::read("[gear.a]\nkind='spur'\nteeth=20\nmodule=1\n", "v");
  CHECK_THROWS_WITH(values.with("gear.b.teeth", 21), Contains("no gear named \"b\""));
  CHECK_THROWS_WITH(values.with("gear..teeth", 21), Contains("names joined by points"));
  CHECK_THROWS_WITH(resolve(values.with("gear.a.teth", 21)), Contains("did you mean \"teeth\"?"));
  CHECK_THROWS_WITH(resolve(values.with("gear.a.teeth", 20.5)), Contains("whole number"));
  CHECK_THROWS_WITH(resolve(values.with("gear.a.module", std::nan(""))), Contains("gear.a.module"));
  CHECK(resolve(values.with("gear.a.leaves", 23)).gear("a").teeth.count() == 23);
}

TEST_CASE("what a gear takes over is marked so, and stands where it was written") {
  const Values values = Values::read(
      "[shared]\nmodule=2\n[gear.a]\nkind='spur'\nteeth=20\nprofile_shift=0.1\n[gear.b]\nlike='a'\nteeth=31\n", "v");
  const Settings& b = *values.tables().gear("b");
  CHECK(b.number("profile_shift") == 0.1);
  CHECK(b.find("profile_shift")->inherited);
  CHECK(b.find("profile_shift")->where.line == 6);
  CHECK(b.find("module")->inherited);
  CHECK(b.find("module")->where.line == 2);
  CHECK_FALSE(b.find("teeth")->inherited);
  CHECK(b.find("teeth")->where.line == 9);
  CHECK(values.tables().gear("c") == nullptr);
}

TEST_CASE("every mistake is told once, where it stands, in the order of the file") {
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 1; seed <= test::share(4); ++seed) {
      // One unknown key in each table.
      std::string text;
      std::vector<int> lines;
      int line = 0;
      const std::string job =
          test::random_job(kind, seed) + "[process]\npreset = 'print'\n[material.oak]\ndensity = 700\n";
      for (std::size_t from = 0; from < job.size();) {
        const std::size_t to = std::min(job.find('\n', from), job.size());
        const std::string one = job.substr(from, to - from);
        from = to + 1;
        text += one + "\n", ++line;
        if (!one.empty() && one[0] == '[') text += "zzzzzzzz = 1\n", lines.push_back(++line);
      }
      CAPTURE(text);
      try {
        resolve(text, "v");
        FAIL("no mistake");
      } catch (const JobError& e) {
        std::vector<int> told;
        for (const Mistake& m : e.mistakes()) {
          if (m.key.find("zzzzzzzz") != std::string::npos) told.push_back(m.where.line);
        }
        CHECK(told == lines);
        CHECK(std::is_sorted(e.mistakes().begin(), e.mistakes().end(),
                             [](const Mistake& a, const Mistake& b) { return a.where.line < b.where.line; }));
      }
    }
  }
}

TEST_CASE("a value that cannot be read is told once, where it stands, and not again by what takes it over") {
  int tried = 0;
  for (const std::string& kind : test::starters()) {
    const std::string text = starter(kind, Units::mm);
    std::set<std::string> like_others;  // "gear.NAME"
    for (const auto& [path, said] : said_values(text, "v")) {
      if (path.rfind(".like") == path.size() - 5) like_others.insert(path.substr(0, path.size() - 5));
    }
    const Values values = Values::read(text, "v");
    for (const Settings& gear : values.tables().gears) {
      for (const auto& [key, value] : gear.values) {
        if (value.inherited || key == "kind" || is_list(key.substr(0, key.find('.')))) continue;
        const std::string path = "gear." + gear.name + "." + key;
        CAPTURE(kind, path);
        std::vector<Mistake> mistakes;
        try {
          resolve(Values::read(text, "v", {path + "=\"?\""}));
        } catch (const JobError& e) {
          mistakes = e.mistakes();
        }
        int told = 0;
        for (const Mistake& m : mistakes) {
          CAPTURE(m.text());
          if (m.key == path) {
            ++told;
            continue;
          }
          CHECK(m.message.find("\"?\"") == std::string::npos);
          // What follows from it may be missing elsewhere; itself it is not, where it would have been taken over.
          for (const std::string& heir : like_others)
            CHECK_FALSE((m.id == "missing-key" && m.key == heir + "." + key));
        }
        CHECK(told == 1);
        ++tried;
      }
    }
  }
  CHECK(tried > 150);
}

TEST_CASE("a table in which nothing stands is told with what may stand in it") {
  std::set<std::string> tried;
  for (const Key& key : keys()) {
    const auto point = key.path.rfind('.');
    if (key.section != Section::gear || point == std::string_view::npos) continue;
    const std::string group(key.path.substr(0, point)), word(key.path.substr(point + 1));
    std::vector<std::string> ways{group + " = {}"};
    if (is_list(group)) ways.push_back(group + " = [{}]");
    for (const std::string& way : ways) {
      CAPTURE(way);
      try {
        resolve("[gear.a]\nkind = 'spur'\nteeth = 20\nmodule = 1\n" + way + "\n", "v");
        FAIL("an empty table was taken for nothing");
      } catch (const JobError& e) {
        const std::vector<Mistake>& all = e.mistakes();
        REQUIRE(all.size() == 1);
        CHECK(all[0].where.line == 5);
        CHECK_THAT(all[0].message, Contains("is empty") && Contains(word));
        tried.insert(all[0].key);
      }
    }
  }
  CHECK(tried.size() > 12);
}
