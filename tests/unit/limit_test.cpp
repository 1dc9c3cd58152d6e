// Limits that `vary` tells, of random jobs of every kind: each is where the job changes its mind, told from the right
// side, and where a roll can see it, the roll changes its verdict there too.
#include <catch2/catch.hpp>
#include <map>

#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "random_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::WithinAbs;

namespace {

/// What is varied of a kind, and how far: numbers that bring doubts of all sorts.
struct Range {
  const char* key;
  double from, to;
  int steps;
};

std::vector<Range> ranges(const std::string& kind) {
  if (kind == "reducer")
    return {{"reducer.r.disc_offset", -0.05, 0.3, 4},
            {"reducer.r.roller_diameter", 1, 12, 6},
            {"reducer.r.eccentricity", 0.2, 4, 5}};
  if (kind == "bevel") return {{"gear.a.addendum", 0.7, 1.5, 3}, {"gear.a.teeth", 7, 22, 3}};
  if (kind == "crossed") return {{"gear.a.addendum", 0.7, 1.6, 4}, {"gear.a.teeth", 6, 30, 4}};
  if (kind == "clock") return {{"pair.p.mounted_center_distance", 10, 80, 3}, {"gear.a.teeth", 4, 12, 3}};
  if (kind == "lantern") return {{"gear.a.teeth", 4, 20, 4}, {"gear.a.pin_diameter", 0.4, 4, 6}};
  if (kind == "true_cycloid" || kind == "cycloidal_ring")
    return {{"gear.a.teeth", 5, 40, 5}, {"gear.a.addendum", 0.5, 1.6, 5}};
  return {{"gear.a.profile_shift", -0.8, 1.1, 7},
          {"gear.a.addendum", 0.6, 1.7, 7},
          {"gear.a.teeth", 6, 40, 5},
          {"pair.p.backlash", 0, 1, 4}};
}

/// The doubts of a job with one number changed, as `vary` words them; "impossible" alone where it cannot be made.
std::vector<std::string> doubts_at(const std::string& job, const std::string& key, double value) {
  std::vector<std::string> all;
  try {
    for (const Finding& f : findings(resolve(job, "v", {fmt::format("{}={:.17g}", key, value)}))) {
      if (f.kind().severity != Severity::note)
        all.push_back(fmt::format("{} {} {}", name(f.kind().severity), f.kind().text_id, f.subject));
    }
  } catch (const JobError&) {
    all.assign(1, "impossible");
  }
  return all;
}

bool has(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}

/// Whether the pair or the reducer of a job is sound in the eyes of the roll; none where it cannot be rolled, or where
/// a tip only grazes a root by less than a nanometre.
std::optional<bool> roll_says(const std::string& job, const std::string& key, double value) {
  const Design d = resolve(job, "v", {fmt::format("{}={:.17g}", key, value)});
  if (!d.reducers.empty()) return rolled(d.reducers[0], 48).verdict == roll::Verdict::meshes;
  if (!d.pairs[0].meshes()) return std::nullopt;
  bool wrong = false, grazes = true;
  for (const Finding& f : findings(d)) {
    if (f.kind().severity != Severity::error) continue;
    wrong = true;
    grazes = grazes && f.id == FindingId::tip_digs_root && *f.value < 1e-6;
  }
  if (wrong && grazes) return std::nullopt;
  bool meshes = rolled(d.pairs[0], d.pairs[0].crossed() ? 12 : 120).verdict == roll::Verdict::meshes;
  if (meshes && wrong && !d.pairs[0].crossed())
    meshes = rolled(d.pairs[0], 1500).verdict == roll::Verdict::meshes;  // a small part of the period
  return meshes;
}

bool any_error(const std::vector<std::string>& all) {
  return std::any_of(all.begin(), all.end(),
                     [](const std::string& d) { return d == "impossible" || d.rfind("error", 0) == 0; });
}

/// Errors of pairs and reducers are overlaps, jams and contact that is lost: the roll sees them. End plates stand
/// beside its plane.
bool seen_by_rolling(const std::string& doubt) {
  return doubt.rfind("error", 0) == 0 && doubt.find("lantern-plates") == std::string::npos;
}

}  // namespace

TEST_CASE("a limit of any random job is where the job changes its mind, and the side told is the side that is so") {
  if (!test::whole_search())
    return;  // thousands of jobs and rolls: too long under sanitizers, which look at these elsewhere
  std::map<std::string, int> told, rolls;
  for (const std::string& kind : test::job_kinds()) {
    const bool rolls_often =
        kind == "bevel" || kind == "reducer" || kind == "true_cycloid" || kind == "cycloidal_ring";  // to be reported
    const unsigned most = test::share(rolls_often ? 2 : kind == "crossed" ? 4 : 10);
    unsigned made = 0;
    for (unsigned seed = 1; seed <= 40 && made < most; ++seed) {
      const std::string job = test::random_job(kind, seed);
      try {
        resolve(job, "v");
      } catch (const JobError&) {
        continue;
      }
      const std::vector<Range> all = ranges(kind);
      const Range range = all[made++ % all.size()];
      VaryRequest request;
      VaryKey key;
      key.key = range.key, key.from = range.from, key.to = range.to, key.steps = range.steps;
      request.keys = {key};
      Varied v;
      try {
        v = vary(Values::read(job, "v"), request);
      } catch (const InvalidParameter&) {
        continue;  // a key that this kind has not, or no row that can be made
      }
      const bool whole = std::string(range.key).find(".teeth") != std::string::npos;
      // As many limits of a doubt as changes between the rows, at least: none is passed over.
      std::map<std::string, int> changes;
      for (std::size_t i = 0; i + 1 < v.rows.size(); ++i) {
        const auto before = doubts_at(job, range.key, v.rows[i].at[0]),
                   after = doubts_at(job, range.key, v.rows[i + 1].at[0]);
        for (const auto& d : before)
          changes[d] += has(after, d) ? 0 : 1;
        for (const auto& d : after)
          changes[d] += has(before, d) ? 0 : 1;
      }
      std::map<std::string, int> limits;
      for (const VaryLimit& l : v.limits)
        ++limits[l.what];
      for (const auto& [what, least] : changes) {
        CAPTURE(kind, seed, range.key, what);
        CHECK(limits[what] >= least);
      }
      for (const VaryLimit& l : v.limits) {
        CAPTURE(kind, seed, range.key, l.what, l.at, l.above);
        ++told[kind];
        // The limit itself of whole numbers is the last that is so; of others a place between the two sides.
        const double step = whole ? 1 : 2e-8 * (range.to - range.from);
        const double so = whole ? l.at : l.at + (l.above ? step : -step), not_so = l.above ? l.at - step : l.at + step;
        const auto there = doubts_at(job, range.key, so), beyond = doubts_at(job, range.key, not_so);
        CHECK(has(there, l.what));
        CHECK_FALSE(has(beyond, l.what));
        // Some way off on both sides the roll is asked, where nothing else is wrong.
        if (!seen_by_rolling(l.what)) continue;
        const double way = whole ? 1 : 0.02 * (range.to - range.from),
                     wrong = whole ? l.at : l.at + (l.above ? way : -way), right = l.above ? l.at - way : l.at + way;
        const auto at_wrong = doubts_at(job, range.key, wrong), at_right = doubts_at(job, range.key, right);
        if (has(at_wrong, l.what) && !has(at_wrong, "impossible")) {
          if (const auto says = roll_says(job, range.key, wrong)) {
            CHECK_FALSE(*says);
            ++rolls[kind];
          }
        }
        // Cycloidal teeth at another distance than theirs are warned of as such: how far contact lasts there only the
        // roll can say.
        const bool off_distance = std::any_of(at_right.begin(), at_right.end(), [](const std::string& d) {
          return d.find("off-distance") != std::string::npos;
        });
        if (!any_error(at_right) && !off_distance) {
          if (const auto says = roll_says(job, range.key, right)) {
            CHECK(*says);
            ++rolls[kind];
          }
        }
      }
    }
  }
  for (const std::string& kind : test::job_kinds()) {
    CAPTURE(kind, told[kind]);
    if (test::whole_search()) CHECK(told[kind] > 0);
  }
  int all = 0;
  for (const auto& [kind, n] : rolls)
    all += n;
  if (test::whole_search()) CHECK(all > 12);
}

TEST_CASE(
    "values between the limits have the doubts of the rows between them: nothing comes and goes unseen at whole "
    "numbers") {
  if (!test::whole_search())
    return;  // thousands of jobs and rolls: too long under sanitizers, which look at these elsewhere
  for (const char* kind : {"spur", "internal", "rack", "lantern"}) {
    for (unsigned seed = 1; seed <= test::share(4); ++seed) {
      const std::string job = test::random_job(kind, seed);
      VaryRequest request;
      request.keys = {parse_vary_key("gear.a.teeth=8:26:2")};
      Varied coarse;
      try {
        resolve(job, "v");
        coarse = vary(Values::read(job, "v"), request);
      } catch (const JobError&) {
        continue;
      } catch (const InvalidParameter&) {
        continue;
      }
      CAPTURE(kind, seed);
      // From the first row on, doubts are switched on and off by the limits alone; every whole number must come out
      // right.
      std::vector<std::string> now = coarse.rows.front().impossible.empty() ? coarse.rows.front().findings
                                                                            : std::vector<std::string>{"impossible"};
      for (int z = 9; z <= 26; ++z) {
        for (const VaryLimit& l : coarse.limits) {
          if (l.above && l.at == z) now.push_back(l.what);
          if (!l.above && l.at == z - 1) now.erase(std::remove(now.begin(), now.end(), l.what), now.end());
        }
        auto told = now, found = doubts_at(job, "gear.a.teeth", z);
        std::sort(told.begin(), told.end()), std::sort(found.begin(), found.end());
        CAPTURE(z);
        CHECK(told == found);
      }
    }
  }
}
