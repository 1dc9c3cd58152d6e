// What a changed number does: what `vary` shows is what jobs with that number report, and what a verdict proposes
// helps.
#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/remedy.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;

namespace {

/// The values of a job that is one.
std::optional<Values> sound(const std::string& kind, unsigned seed, bool wild = false) {
  const auto design = test::try_job(test::random_job(kind, seed, wild));
  return design ? std::optional(design->values) : std::nullopt;
}

std::set<std::string> doubts(const Design& design, Severity worst = Severity::warning) {
  std::set<std::string> all;
  for (const Finding& f : findings(design)) {
    if (f.kind().severity <= worst) all.insert(fmt::format("{} {}", f.kind().text_id, f.subject));
  }
  return all;
}

/// A key that each kind has, with the range it is varied in.
struct Lever {
  const char* key;
  double from, to;
};
const std::map<std::string, Lever>& levers() {
  static const std::map<std::string, Lever> all{{"spur", {"gear.a.profile_shift", -0.3, 0.6}},
                                                {"helical", {"gear.b.addendum", 0.7, 1.2}},
                                                {"double_helical", {"gear.a.profile_shift", -0.3, 0.6}},
                                                {"internal", {"gear.a.addendum", 0.6, 1.1}},
                                                {"rack", {"gear.a.profile_shift", -0.2, 0.8}},
                                                {"crossed", {"gear.a.face_width", 4, 20}},
                                                {"bevel", {"gear.a.addendum", 0.7, 1.2}},
                                                {"true_cycloid", {"gear.b.addendum", 0.5, 1.2}},
                                                {"cycloidal_ring", {"gear.a.addendum", 0.5, 1.2}},
                                                {"clock", {"gear.a.face_width", 2, 8}},
                                                {"lantern", {"gear.a.face_width", 2, 8}},
                                                {"reducer", {"reducer.r.disc_offset", 0, 0.2}}};
  return all;
}

}  // namespace

TEST_CASE("each row of a table is the job with that number") {
  for (const std::string& kind : test::job_kinds()) {
    // Those whose rows are rolled, or searched in space, take their time.
    const bool slow = kind == "true_cycloid" || kind == "cycloidal_ring" || kind == "crossed" || kind == "reducer";
    if (slow && !test::whole_search()) continue;
    for (unsigned seed = 501; seed < 501 + test::share(kind == "reducer" ? 1 : 2); ++seed) {
      const auto values = sound(kind, seed);
      if (!values) continue;
      const Lever& lever = levers().at(kind);
      VaryRequest request;
      request.keys.push_back({lever.key, lever.from, lever.to, kind == "reducer" ? 3 : 6});
      const Varied v = vary(*values, request, true);
      REQUIRE(v.rows.size() == (kind == "reducer" ? 3 : 6));
      for (const VaryRow& row : v.rows) {
        CAPTURE(kind, seed, row.at[0]);
        REQUIRE(row.values.size() == v.shows.size());
        std::optional<Design> design;
        try {
          design = resolve(values->with(lever.key, row.at[0]));
        } catch (const JobError& e) {
          CHECK_FALSE(row.impossible.empty());
          CHECK(std::string(e.what()).find(row.impossible) != std::string::npos);
          continue;
        }
        CHECK(row.impossible.empty());
        REQUIRE(row.design.has_value());
        CHECK(row.design->values.text() == design->values.text());
        for (std::size_t i = 0; i < v.shows.size(); ++i) {
          CAPTURE(v.shows[i]);
          std::optional<double> alone;
          try {
            alone = reading_number(*design, v.shows[i]);
          } catch (const InvalidParameter&) {
          }
          CHECK(row.values[i] == alone);
        }
        std::set<std::string> told;
        for (const std::string& f : row.findings)
          told.insert(f.substr(f.find(' ') + 1));
        CHECK(told == doubts(*design));
      }
    }
  }
}

TEST_CASE("a map of two keys is the tables of one, side by side") {
  const Values values = Values::read(test::random_job("spur", 7), "v");
  VaryRequest map;
  map.keys = {{"gear.a.profile_shift", -0.2, 0.4, 3}, {"gear.b.profile_shift", -0.1, 0.3, 4}};
  map.shows = {"pair.p.transverse_contact_ratio", "gear.a.tip_thickness", "gear.b.tip_thickness"};
  const Varied both = vary(values, map);
  REQUIRE(both.rows.size() == 12);
  for (std::size_t i = 0; i < 3; ++i) {
    VaryRequest one;
    one.keys = {map.keys[1]}, one.shows = map.shows;
    const Varied line = vary(values.with("gear.a.profile_shift", both.rows[4 * i].at[0]), one);
    for (std::size_t k = 0; k < 4; ++k) {
      CHECK(both.rows[4 * i + k].at[1] == line.rows[k].at[0]);
      CHECK(both.rows[4 * i + k].values == line.rows[k].values);
      CHECK(both.rows[4 * i + k].findings == line.rows[k].findings);
    }
  }
}

TEST_CASE("what is held stays, whatever else is varied") {
  for (unsigned seed = 1; seed <= test::share(12); ++seed) {
    const auto values = sound("spur", seed);
    if (!values) continue;
    const Design base = resolve(*values);
    VaryRequest request;
    request.keys = {{"gear.a.profile_shift", -0.1, 0.3, 5}};
    request.holds = {"gear.a.profile_shift+gear.b.profile_shift"};
    request.shows = {"gear.a.profile_shift", "gear.b.profile_shift", "gear.a.reference_diameter"};
    const double sum = *reading_number(base, "gear.a.profile_shift") + *reading_number(base, "gear.b.profile_shift");
    CAPTURE(seed, sum);
    for (const VaryRow& row : vary(*values, request).rows) {
      if (!row.impossible.empty()) continue;
      CHECK(*row.values[0] == Approx(row.at[0]).margin(1e-12));
      CHECK(*row.values[0] + row.values[1].value() == Approx(sum).margin(1e-12));
      CHECK(*row.values[2] == reading_number(base, "gear.a.reference_diameter"));
    }
  }
}

TEST_CASE("every number that a verdict proposes clears what it was proposed for, and breaks nothing") {
  int proposed = 0, clean = 0;
  std::set<std::string> ids;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 701; seed < 701 + test::share(kind == "reducer" ? 1 : 10); ++seed) {
      const auto values = sound(kind, seed, true);
      if (!values) continue;
      const Design design = resolve(*values);
      const std::vector<Finding> found = findings(design);
      for (const Verdict::Doubt& doubt : verdict(design, found, 6).doubts) {
        if (!doubt.remedy) continue;
        const std::string id = fmt::format("{} {}", doubt.finding.kind().text_id, doubt.finding.subject);
        CAPTURE(kind, seed, id, doubt.remedy->path, doubt.remedy->value);
        const Design after = resolve(values->with(doubt.remedy->path, doubt.remedy->value));
        CHECK(doubts(after).count(id) == 0);
        const std::set<std::string> errors = doubts(after, Severity::error), before = doubts(design, Severity::error);
        CHECK(std::includes(before.begin(), before.end(), errors.begin(), errors.end()));
        // As the file would be written: the number is short enough to type.
        CHECK(fmt::format("{}", doubt.remedy->value).size() <= 9);
        ids.insert(std::string(doubt.finding.kind().text_id));
        ++proposed;
        clean += doubts(after).size() < doubts(design).size();
      }
    }
  }
  if (!test::whole_search()) return;
  CHECK(proposed > 40);
  CHECK(ids.size() > 8);
  CHECK(clean > proposed / 2);
}

TEST_CASE("where the teeth of a pair are not those its distance was made for, one number mends all errors of it") {
  int mended = 0;
  for (const char* kind : {"spur", "helical", "internal"}) {
    const Values values = Values::read(job::starter(kind, Units::mm), "v");
    const Design as_it_is = resolve(values);
    const std::string path = "pair." + as_it_is.pairs[0].name + ".center_distance",
                      teeth = "gear." + as_it_is.gears[as_it_is.pairs[0].driven].name + ".teeth";
    const int now = as_it_is.gears[as_it_is.pairs[0].driven].teeth.count();
    for (const int more : {-3, -2, -1, 1, 2, 3}) {
      std::optional<Design> design;
      try {
        design = resolve(values.with(teeth, now + more));
      } catch (const JobError&) {
        continue;
      }
      const std::set<std::string> errors = doubts(*design, Severity::error);
      CAPTURE(kind, more, errors.size());
      if (errors.size() < 2) continue;
      const Verdict told = verdict(*design, findings(*design));
      const auto& first = told.doubts.front().remedy;
      if (!first || first->path != path) continue;
      // It is the distance that these teeth have where nobody says one, within the last digit of it.
      CHECK(first->value ==
            Approx(*reading_number(resolve(design->values.without({path})), path)).margin(1.01e-3).epsilon(0));
      const std::set<std::string> after = doubts(resolve(design->values.with(path, first->value)), Severity::error);
      for (const std::string& e : errors)
        CHECK(after.count(e) == 0);
      ++mended;
    }
  }
  CHECK(mended >= 3);
}
