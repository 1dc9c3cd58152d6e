// A job turned round: what is found is held against the job it makes, against brute force, and against closed forms.
#include <algorithm>
#include <array>
#include <cmath>
#include <set>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/readings/reading.hpp"
#include "palio/solve/find.hpp"
#include "random_gear.hpp"
#include "try_job.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using solve::Found;
using solve::Solution;

namespace {

Found found(const std::string& text, std::size_t most = 10) {
  solve::FindRequest request;
  request.most = most;
  return solve::find(job::Values::read(text, "v"), request);
}

double value(const Solution& s, const std::string& path) {
  const auto it = std::find_if(s.values.begin(), s.values.end(), [&](const auto& v) { return v.first == path; });
  REQUIRE(it != s.values.end());
  return it->second;
}

/// The job with a solution's values in its text.
job::Design made(const std::string& text, const Solution& s) {
  return job::resolve(job::Values::read(text, "v").filled_in(s.values), "v");
}

double reading(const job::Design& design, const std::string& path) {
  const auto is = job::reading_number(design, path);
  REQUIRE(is);
  return *is;
}

/// A pair, with what is said of each gear and of the pair.
std::string stage(const std::string& shared, const std::string& a, const std::string& b, const std::string& pair,
                  const std::string& want) {
  return fmt::format(
      "# a stage\n[shared]\n{}\n[gear.a]\nkind = \"spur\"\n{}\n[gear.b]\nkind = \"spur\"\n{}\n[pair.p]\ndriver = "
      "\"a\"\ndriven = \"b\"\n{}\n[want]\n{}\n",
      shared, a, b, pair, want);
}

std::string message(const std::string& text) {
  try {
    found(text);
  } catch (const std::exception& e) {
    return e.what();
  }
  return "";
}

}  // namespace

TEST_CASE("a module is found from a center distance, and the text keeps its remarks and order") {
  const std::string text = stage("module = \"find\"   # normal, bought by the dozen", "teeth = 17", "teeth = 43", "",
                                 "pair.p.center_distance = 50");
  const Found f = found(text);
  REQUIRE(f.solutions.size() == 1);
  CHECK_THAT(value(f.solutions[0], "shared.module"), WithinAbs(50.0 / 30, 1e-14));
  const std::string filled = job::Values::read(text, "v").filled_in(f.solutions[0].values);
  CHECK_THAT(filled, Contains("module = 1.666") && Contains("   # normal, bought by the dozen") && Contains("[want]"));
  CHECK(std::count(filled.begin(), filled.end(), '\n') == std::count(text.begin(), text.end(), '\n'));
  CHECK_THAT(reading(job::resolve(filled, "v"), "pair.p.center_distance"), WithinAbs(50, 1e-12 * 50));
}

TEST_CASE("a shift sum and its split are found together") {
  const std::string text =
      stage("module = 1.5", "teeth = 17\nprofile_shift = \"find\"", "teeth = 43\nprofile_shift = \"find\"",
            "center_distance = 45.5", "pair.p.circumferential_backlash = 0\npair.p.sliding_imbalance = 0");
  const Found f = found(text);
  REQUIRE(!f.solutions.empty());
  const job::Design design = made(text, f.solutions[0]);
  CHECK_THAT(reading(design, "pair.p.circumferential_backlash"), WithinAbs(0, 1e-12));
  CHECK_THAT(reading(design, "pair.p.sliding_imbalance"), WithinAbs(0, 1e-11));
  CHECK(f.solutions[0].errors == 0);
  // The sum by the involute function alone.
  const double alpha = 20 * kPi / 180, working = std::acos(45 * std::cos(alpha) / 45.5);
  const double sum = ((std::tan(working) - working) - (std::tan(alpha) - alpha)) * 60 / (2 * std::tan(alpha));
  CHECK_THAT(value(f.solutions[0], "gear.a.profile_shift") + value(f.solutions[0], "gear.b.profile_shift"),
             WithinAbs(sum, 1e-11));
}

TEST_CASE("an undercut split is the one of the closed form") {
  const std::string text =
      stage("module = 2", "teeth = 13\nprofile_shift = \"find\"", "teeth = 37\nprofile_shift = \"find\"", "",
            "pair.p.undercut_imbalance = 0\npair.p.center_distance = 51");
  const Found f = found(text);
  REQUIRE(!f.solutions.empty());
  const double x1 = value(f.solutions[0], "gear.a.profile_shift"), x2 = value(f.solutions[0], "gear.b.profile_shift");
  const double s = std::sin(20 * kPi / 180);
  CHECK_THAT(x1, WithinAbs((x1 + x2 + (37 - 13) * s * s / 2) / 2, 1e-11));
}

TEST_CASE("wants hold to the last digits for random pairs of any unknown") {
  unsigned looked = 0;
  for (unsigned i = 0; i < test::share(60); ++i) {
    test::Draw draw(2000 + i);
    const int z1 = draw.whole(11, 30), z2 = draw.whole(31, 90);
    const double m = draw.between(0.5, 4), x1 = draw.between(-0.1, 0.5), x2 = draw.between(-0.1, 0.5);
    const std::string plain =
        stage(fmt::format("module = {}", m), fmt::format("teeth = {}\nprofile_shift = {}", z1, x1),
              fmt::format("teeth = {}\nprofile_shift = {}", z2, x2), "backlash = 0.1", "");
    const auto known = test::try_job(plain);
    if (!known) continue;
    // The reading of the known job, wanted of one in which one value is open.
    const std::vector<std::pair<std::string, std::string>> open{
        {"shared.module", "pair.p.center_distance"},
        {"gear.a.profile_shift", "gear.a.tip_thickness"},
        {"gear.b.profile_shift", "pair.p.center_distance"},
        {"gear.a.profile_shift", "gear.a.span.length"},
        {"pair.p.backlash", "pair.p.normal_backlash"},
        {"gear.a.profile_shift", "gear.a.over_pins.length"},
        {"gear.b.addendum", "pair.p.total_contact_ratio"},
        {"shared.pressure_angle", "gear.a.base_diameter"},
        {"pair.p.center_distance", "pair.p.total_contact_ratio"}};
    const std::string &path = open[i % open.size()].first, &want = open[i % open.size()].second;
    const double wanted = reading(*known, want);
    const job::Values values =
        job::Values::read(plain, "v", {path + "=find", "want." + want + "=" + fmt::format("{}", wanted)});
    INFO(path << " for " << want << " = " << wanted << " of\n" << plain);
    const Found f = solve::find(values);
    REQUIRE(!f.solutions.empty());
    for (const Solution& s : f.solutions) {
      const job::Design design = job::resolve(values.filled_in(s.values), "v");
      CHECK_THAT(reading(design, want), WithinAbs(wanted, 1e-12 * std::max(1.0, std::abs(wanted))));
    }
    // The value it was made with is among them.
    if (path == "gear.a.profile_shift" || path == "gear.b.profile_shift") {
      const auto was = job::reading_number(*known, path);
      CHECK(std::any_of(f.solutions.begin(), f.solutions.end(),
                        [&](const Solution& s) { return std::abs(value(s, path) - *was) < 1e-7; }));
    }
    ++looked;
  }
  CHECK(looked > test::share(60) / 2);
}

TEST_CASE("tooth counts for a ratio are all those that brute force finds, the smallest first") {
  for (unsigned i = 0; i < test::share(8); ++i) {
    const double low = test::Draw(2100 + i).between(1.2, 3), high = low * 1.01;
    const std::string text = stage("module = 1", "teeth = \"find 12..40\"", "teeth = \"find 12..60\"", "",
                                   fmt::format("pair.p.gear_ratio = [{}, {}]", low, high));
    std::set<std::pair<double, double>> expected;
    for (int a = 12; a <= 40; ++a) {
      for (int b = 12; b <= 60; ++b) {
        const double u = static_cast<double>(b) / a;
        if (u >= low && u <= high) expected.emplace(a, b);
      }
    }
    INFO(text);
    const Found f = found(text, 1000);
    std::set<std::pair<double, double>> is;
    for (const Solution& s : f.solutions)
      is.emplace(value(s, "gear.a.teeth"), value(s, "gear.b.teeth"));
    CHECK(is == expected);
    for (std::size_t k = 1; k < f.solutions.size(); ++k) {
      const Solution &before = f.solutions[k - 1], &after = f.solutions[k];
      CHECK(std::pair(before.errors > 0, before.size) <= std::pair(after.errors > 0, after.size));
    }
  }
}

TEST_CASE("where most of what was tried makes no job, the reason is told beside the contradiction") {
  // Inclined teeth want a hand: only an angle of nothing makes a job.
  const std::string text =
      "[shared]\nkind = \"helical\"\nmodule = 2\nface_width = 20\n[gear.a]\nteeth = 20\nhelix_angle = \"find\"\n"
      "[gear.b]\nteeth = 30\nhelix_angle = \"find\"\n[pair.p]\ndriver = \"a\"\ndriven = \"b\"\n"
      "[want]\npair.p.center_distance = 54\n";
  const Found f = found(text);
  CHECK(f.solutions.empty());
  CHECK_THAT(f.refused, Contains("hand"));
  CHECK_THAT(solve::find_text(f), Contains("make no job"));
  CHECK(found(stage("module = 1", "teeth = 20", "teeth = \"find 20..40\"", "", "pair.p.gear_ratio = 3.01"))
            .refused.empty());
}

TEST_CASE("hunting teeth on request: of all counts for a ratio those without a common factor") {
  for (unsigned i = 0; i < test::share(6); ++i) {
    const double low = test::Draw(2700 + i).between(1.2, 3), high = low * 1.02;
    const std::string text = stage("module = 1", "teeth = \"find 12..40\"", "teeth = \"find 12..60\"", "",
                                   fmt::format("pair.p.gear_ratio = [{}, {}]\npair.p.common_factor = 1", low, high));
    std::set<std::pair<int, int>> expected, is;
    for (int a = 12; a <= 40; ++a) {
      for (int b = 12; b <= 60; ++b) {
        int common = 0;
        for (int d = 1; d <= a; ++d)
          common = a % d == 0 && b % d == 0 ? d : common;
        if (common == 1 && b >= low * a && b <= high * a) expected.emplace(a, b);
      }
    }
    INFO(text);
    for (const Solution& s : found(text, 1000).solutions)
      is.emplace(std::lround(value(s, "gear.a.teeth")), std::lround(value(s, "gear.b.teeth")));
    CHECK(is == expected);
  }
}

TEST_CASE("of two stages every pair of pairs is found, and the nearest of a ratio that none has") {
  std::string text = "[shared]\nmodule = 1\n";
  for (const char* g : {"a", "b", "c", "d"})
    text += fmt::format("[gear.{}]\nkind = \"spur\"\nteeth = \"find 12..24\"\n", g);
  text += "[pair.p]\ndriver = \"a\"\ndriven = \"b\"\n[pair.q]\ndriver = \"c\"\ndriven = \"d\"\n[want]\n";
  const auto ratio = [](int a, int b, int c, int d) {
    return static_cast<double>(b) * d / (static_cast<double>(a) * c);
  };
  std::size_t exact = 0;
  double best = 1e9;
  const double odd = 2.7182818;
  for (int a = 12; a <= 24; ++a) {
    for (int b = 12; b <= 24; ++b) {
      for (int c = 12; c <= 24; ++c) {
        for (int d = 12; d <= 24; ++d) {
          exact += b * d * 2 == a * c * 5 ? 1U : 0U;
          best = std::min(best, std::abs(ratio(a, b, c, d) - odd));
        }
      }
    }
  }
  const Found all = found(text + "\"pair.p.gear_ratio * pair.q.gear_ratio\" = 2.5\n", 5000);
  CHECK(all.count == exact);
  const Found none = found(text + fmt::format("\"pair.p.gear_ratio * pair.q.gear_ratio\" = {}\n", odd));
  CHECK(none.solutions.empty());
  REQUIRE(none.nearest);
  CHECK_THAT(std::abs(none.nearest->wants[0].is - odd), WithinAbs(best, 1e-12));
  CHECK(none.contradiction == std::vector<std::string>{"pair.p.gear_ratio * pair.q.gear_ratio"});
}

TEST_CASE("tooth counts of a planetary set for a ratio are all that close and fit, and quickly found") {
  const std::string text =
      "[shared]\nmodule = 1\n[gear.s]\nkind = \"spur\"\nteeth = \"find 15..30\"\n[gear.p]\nkind = \"spur\"\n"
      "teeth = \"find 15..40\"\n[gear.r]\nkind = \"internal\"\nteeth = \"find 45..100\"\nrim_thickness = 5\n"
      "[planetary.k]\nsun = \"s\"\nplanet = \"p\"\nring = \"r\"\nheld = \"r\"\n[want]\n"
      "planetary.k.ratio_value = 4.5\npair.k_ring.circumferential_backlash = 0\n";
  const Found f = found(text, 50);
  std::set<std::array<int, 3>> is, wanted;
  for (const Solution& s : f.solutions)
    is.insert({static_cast<int>(value(s, "gear.s.teeth")), static_cast<int>(value(s, "gear.p.teeth")),
               static_cast<int>(value(s, "gear.r.teeth"))});
  // Without shifts the circles have to close by themselves: r = s + 2 p, and 1 + r/s = 4.5.
  for (int s = 15; s <= 30; ++s) {
    for (int p = 15; p <= 40; ++p) {
      const int r = s + 2 * p;
      if (2 * r == 7 * s && r <= 100) wanted.insert({s, p, r});
    }
  }
  CHECK(wanted.size() == 4);
  CHECK(is == wanted);
}

TEST_CASE(
    "three stages of a train by its ratio: all that brute force finds, and as the product of their ratios finds") {
  std::string text = "[shared]\nmodule = 1\nkind = \"spur\"\nface_width = 5\n";
  for (const char* pinion : {"a", "c", "e"})
    text += fmt::format("[gear.{}]\nteeth = \"find 17..21\"\n", pinion);
  for (const char* wheel : {"b", "d", "f"})
    text += fmt::format("[gear.{}]\nteeth = \"find 40..52\"\n", wheel);
  text +=
      "[pair.one]\ndriver = \"a\"\ndriven = \"b\"\n[pair.two]\ndriver = \"c\"\ndriven = \"d\"\n[pair.three]\n"
      "driver = \"e\"\ndriven = \"f\"\n[shaft.m]\ngears = [\"b\", \"c\"]\ngap = 2\n[shaft.n]\ngears = [\"d\", \"e\"]\n"
      "gap = 2\n[train.t]\ninput = \"a\"\noutput = \"f\"\n[want]\n";
  using Counts = std::array<int, 6>;
  const auto counts = [&](const std::string& want) {
    std::set<Counts> all;
    for (const Solution& s : found(text + want, 100000).solutions) {
      Counts c{};
      for (std::size_t k = 0; k < 6; ++k)
        c[k] = static_cast<int>(value(s, fmt::format("gear.{}.teeth", "abcdef"[k])));
      all.insert(c);
    }
    return all;
  };
  std::set<Counts> wanted;
  const double low = 14.195, high = 14.205;
  for (int a = 17; a <= 21; ++a)
    for (int c = 17; c <= 21; ++c)
      for (int e = 17; e <= 21; ++e)
        for (int b = 40; b <= 52; ++b)
          for (int d = 40; d <= 52; ++d)
            for (int f = 40; f <= 52; ++f) {
              const double ratio = static_cast<double>(b) * d * f / (static_cast<double>(a) * c * e);
              if (ratio >= low && ratio <= high) wanted.insert({a, b, c, d, e, f});
            }
  CHECK(wanted.size() > 3);
  CHECK(counts("train.t.ratio_value = [-14.205, -14.195]\n") == wanted);
  CHECK(counts("\"pair.one.gear_ratio*pair.two.gear_ratio*pair.three.gear_ratio\" = [14.195, 14.205]\n") == wanted);
}

TEST_CASE("wheels and leaves of a clock from its beats and hours: all that brute force finds") {
  const auto text = [](const std::string& winding, const std::string& wants) {
    return "[shared]\nkind = \"cycloidal\"\nform = \"clock\"\nmodule = 0.5\nface_width = 2\n"
           "[gear.great]\nteeth = \"find 60..72\"\n[gear.leaves]\nteeth = \"find 7..8\"\n"
           "[gear.centre]\nteeth = \"find 56..64\"\n[gear.third]\nteeth = \"find 7..8\"\n"
           "[gear.last]\nteeth = \"find 56..60\"\n[gear.escape]\nteeth = 8\n"
           "[pair.one]\ndriver = \"great\"\ndriven = \"leaves\"\n[pair.two]\ndriver = \"centre\"\n"
           "driven = \"third\"\ndirection = 90\n[pair.three]\ndriver = \"last\"\ndriven = \"escape\"\n"
           "[shaft.a]\ngears = [\"leaves\", \"centre\"]\ngap = 3\n[shaft.b]\ngears = [\"third\", \"last\"]\ngap = 3\n"
           "[train.going]\ninput = \"great\"\noutput = \"escape\"\nhour = \"a\"\n"
           "escape_teeth = \"find 28..32\"\nwinding_turns = " +
           winding + "\n[want]\n" + wants;
  };
  std::set<std::array<int, 6>> wanted, is;
  for (int great = 60; great <= 72; ++great)
    for (int leaves = 7; leaves <= 8; ++leaves)
      for (int centre = 56; centre <= 64; ++centre)
        for (int third = 7; third <= 8; ++third)
          for (int last = 56; last <= 60; ++last)
            for (int teeth = 28; teeth <= 32; ++teeth) {
              const bool beats = 2 * teeth * centre * last == 3600 * third * 8;
              if (beats && 20 * great >= 192 * leaves) wanted.insert({great, leaves, centre, third, last, teeth});
            }
  const std::string wants = "train.going.beats_per_hour = 3600\ntrain.going.hours = \"at least 192\"\n";
  for (const Solution& s : found(text("20", wants), 100000).solutions) {
    const auto of = [&](const char* gear) { return static_cast<int>(value(s, fmt::format("gear.{}.teeth", gear))); };
    is.insert({of("great"), of("leaves"), of("centre"), of("third"), of("last"),
               static_cast<int>(value(s, "train.going.escape_teeth"))});
  }
  CHECK(wanted.size() > 3);
  CHECK(is == wanted);
  // With the turns of winding open too, hours are no matter of counts: every solution winds as far as it has to.
  const std::string open = text("\"find 10..30\"", "train.going.beats_per_hour = 3600\ntrain.going.hours = 192\n");
  const Found f = found(open);
  REQUIRE_FALSE(f.solutions.empty());
  for (const Solution& s : f.solutions) {
    const double turns = value(s, "train.going.winding_turns");
    CHECK_THAT(turns * value(s, "gear.great.teeth") / value(s, "gear.leaves.teeth"), WithinAbs(192, 1e-8));
  }
}

TEST_CASE("a value is found whichever of several wants it decides, those that hold anyhow first or last") {
  for (const char* first : {"pair.p.gear_ratio = 2.5\n", ""}) {
    for (const char* last : {"pair.p.gear_ratio = 2.5\n", ""}) {
      if (*first && *last) continue;
      const std::string text = stage("module = 1.5", "teeth = 16\nprofile_shift = \"find\"", "teeth = 40", "",
                                     fmt::format("{}pair.p.center_distance = 42.6\n{}", first, last));
      const Found f = found(text);
      REQUIRE(f.solutions.size() == 1);
      CHECK_THAT(reading(made(text, f.solutions[0]), "pair.p.center_distance"), WithinAbs(42.6, 1e-10));
    }
  }
}

TEST_CASE("crossed helix angles from a center distance: all there are, and none where none is") {
  const auto text = [](double distance) {
    return fmt::format(
        "[shared]\nmodule = 2\n[gear.a]\nkind = \"helical\"\nhand = \"right\"\nteeth = 20\nhelix_angle = \"find\"\n"
        "[gear.b]\nkind = \"helical\"\nhand = \"right\"\nteeth = 24\nhelix_angle = \"find\"\n[pair.p]\ndriver = \"a\"\n"
        "driven = \"b\"\nshaft_angle = 90\n[want]\npair.p.center_distance = {}\n",
        distance);
  };
  // a(β) = z₁/cos β + z₂/sin β is convex: its least, and how often it has a value, by looking everywhere.
  const auto distance = [](double degrees) {
    const double b = degrees * kPi / 180;
    return 20 / std::cos(b) + 24 / std::sin(b);
  };
  for (const double a : {61.9, 62.1, 62.12, 62.3, 62.5, 63.0, 64.0, 66.0}) {
    std::vector<double> roots;
    double least = 1e9;
    for (double b = 30; b < 60; b += 1e-3) {
      least = std::min(least, distance(b));
      if ((distance(b) - a) * (distance(b + 1e-3) - a) <= 0) roots.push_back(b);
    }
    INFO("center distance " << a << ", least " << least);
    const Found f = found(text(a));
    CHECK(f.solutions.size() == roots.size());
    for (const double root : roots) {
      CHECK(std::any_of(f.solutions.begin(), f.solutions.end(),
                        [&](const Solution& s) { return std::abs(value(s, "gear.a.helix_angle") - root) < 2e-3; }));
    }
    for (const Solution& s : f.solutions) {
      CHECK(s.errors == 0);
      CHECK_THAT(value(s, "gear.a.helix_angle") + value(s, "gear.b.helix_angle"), WithinAbs(90, 1e-12));
    }
    if (roots.empty()) {
      REQUIRE(f.nearest);
      CHECK_THAT(f.nearest->wants[0].is, WithinAbs(least, 1e-6));
    }
  }
}

TEST_CASE("the greatest contact ratio is no less than any that a fine grid finds") {
  const std::string text =
      stage("module = 2", "teeth = 12\nprofile_shift = \"find\"", "teeth = 30\nprofile_shift = \"find\"", "",
            "pair.p.center_distance = 43\ngear.a.tip_thickness = \"at least 1.1\"\npair.p.total_contact_ratio = "
            "\"greatest\"");
  const Found f = found(text);
  REQUIRE(f.solutions.size() == 1);
  double greatest = 0;
  // The shift sum is fixed by the distance: along it.
  const double sum = value(f.solutions[0], "gear.a.profile_shift") + value(f.solutions[0], "gear.b.profile_shift");
  for (double x = -0.6; x < 1; x += 0.004) {
    const auto design = test::try_job(
        text, {fmt::format("gear.a.profile_shift={}", x), fmt::format("gear.b.profile_shift={}", sum - x)});
    if (!design || reading(*design, "gear.a.tip_thickness") < 1.1) continue;
    greatest = std::max(greatest, reading(*design, "pair.p.total_contact_ratio"));
  }
  const job::Design best = made(text, f.solutions[0]);
  CHECK(reading(best, "pair.p.total_contact_ratio") >= greatest - 1e-9);
  CHECK(reading(best, "gear.a.tip_thickness") >= 1.1 - 1e-12);
}

TEST_CASE("largest tool radius, largest gear in an envelope, a reducer for a ratio") {
  const Found tool = found(
      "[gear.a]\nkind = \"spur\"\nteeth = 20\nmodule = 1\ntool_tip_radius = \"find\"\n[want]\n"
      "gear.a.tool_tip_radius = \"greatest\"\n");
  REQUIRE(tool.solutions.size() == 1);
  const double alpha = 20 * kPi / 180;
  CHECK_THAT(value(tool.solutions[0], "gear.a.tool_tip_radius"),
             WithinAbs((kPi / 4 - 1.25 * std::tan(alpha)) * std::cos(alpha) / (1 - std::sin(alpha)), 1e-9));
  const Found wheel = found(
      "[gear.a]\nkind = \"spur\"\nteeth = \"find\"\nmodule = 1.25\n[want]\n"
      "gear.a.reference_diameter = \"greatest\"\ngear.a.tip_diameter = \"at most 60\"\n");
  REQUIRE(!wheel.solutions.empty());
  CHECK(value(wheel.solutions[0], "gear.a.teeth") == 46);
  const Found reducer = found(
      "[reducer.r]\nrollers = \"find 5..40\"\nroller_circle_diameter = \"find 20..100\"\nroller_diameter = 4\n"
      "eccentricity = 0.8\n[want]\nreducer.r.ratio = -15\nreducer.r.undercut_margin = \"at least 0.5\"\n"
      "reducer.r.roller_circle_diameter = \"least\"\n");
  REQUIRE(!reducer.solutions.empty());
  CHECK(value(reducer.solutions[0], "reducer.r.rollers") == 16);
}

TEST_CASE("module lists and standard series are gone through, and mates share what they must") {
  const std::string text = stage("", "teeth = 20\nmodule = \"find standard\"", "teeth = 30\nmodule = \"find\"", "",
                                 "pair.p.center_distance = [30, 45]");
  const Found f = found(text, 50);
  std::vector<double> modules;
  for (const Solution& s : f.solutions) {
    CHECK(value(s, "gear.a.module") == value(s, "gear.b.module"));
    modules.push_back(value(s, "gear.a.module"));
  }
  // Preferred ones first, then those of the second series.
  CHECK(modules == std::vector<double>{1.25, 1.5, 1.375, 1.75});
}

TEST_CASE("thickness for a least play over a range of distance") {
  // External gears have the least play where the axes are nearest.
  const std::string text =
      stage("module = 2", "teeth = 15\nthickness_allowance = \"find\"", "teeth = 40",
            "center_distance = 55\nmounted_center_distance = 54.96", "pair.p.circumferential_backlash = 0.08");
  const Found f = found(text);
  REQUIRE(f.solutions.size() == 1);
  for (const double at : {54.96, 55.0, 55.04}) {
    const auto design = test::try_job(
        text, {fmt::format("gear.a.thickness_allowance={:.17g}", value(f.solutions[0], "gear.a.thickness_allowance")),
               fmt::format("pair.p.mounted_center_distance={}", at)});
    REQUIRE(design);
    CHECK(reading(*design, "pair.p.circumferential_backlash") >= 0.08 - 1e-12);
  }
}

TEST_CASE("clock modules and cycloidal gears are found too") {
  const Found f = found(
      "[shared]\nmodule = \"find\"\n[gear.a]\nkind = \"cycloidal\"\nform = \"clock\"\nteeth = 60\n[gear.b]\n"
      "kind = \"cycloidal\"\nform = \"clock\"\nteeth = 8\n[pair.p]\ndriver = \"a\"\ndriven = \"b\"\n[want]\n"
      "pair.p.center_distance = 17\n");
  REQUIRE(f.solutions.size() == 1);
  CHECK_THAT(value(f.solutions[0], "shared.module"), WithinAbs(0.5, 1e-14));
  CHECK(f.solutions[0].decimals == 0);
}

TEST_CASE("wants that contradict are named, those that have no part in it are not") {
  const std::string text =
      stage("module = \"find\"", "teeth = 17", "teeth = 43", "",
            "pair.p.center_distance = 50\ngear.a.tip_diameter = 40\ngear.a.teeth = \"at least 5\"");
  const Found f = found(text);
  CHECK(f.solutions.empty());
  CHECK(f.contradiction == std::vector<std::string>{"pair.p.center_distance", "gear.a.tip_diameter"});
  REQUIRE(f.nearest);
  CHECK(!f.nearest->wants[0].holds);
  const nlohmann::json told = nlohmann::json::parse(solve::find_json(f));
  CHECK(told["solutions"].empty());
  CHECK(told["contradiction"].size() == 2);
  CHECK(told["nearest"]["values"].contains("shared.module"));
}

TEST_CASE("what cannot be asked is told with place, key and what to do") {
  const auto gear = [](const std::string& lines) { return "[gear.a]\nkind = \"spur\"\n" + lines; };
  const std::vector<std::pair<std::string, std::string>> cases{
      {gear("teeth = 20\nmodule = 1\n[want]\ngear.a.teeth = 3\n"), "nothing is left open"},
      {gear("teeth = \"find\"\nmodule = 1\n"), "[want]"},
      {gear("teeth = \"find 40..12\"\nmodule = 1\n[want]\ngear.a.tip_diameter = 3\n"), "find 12..40"},
      {gear("teeth = \"find standard\"\nmodule = 1\n[want]\ngear.a.tip_diameter = 3\n"), "no standard series"},
      {gear("teeth = \"find\"\nmodule = 1\n[want]\ngear.a.tip_diametre = 3\n"), "tip_diameter"},
      {gear("teeth = \"find\"\nmodule = 1\n[want]\ngear.b.tip_diameter = 3\n"), "no \"b\""},
      {gear("teeth = \"find\"\nmodule = 1\n[want]\ngear.a.tip_diameter = \"about 3\"\n"), "want.gear.a.tip_diameter"},
      {gear("teeth = \"find\"\nmodule = 1\n[want]\ngear.a.tip_diameter = \"30 deg\"\n"), "told in mm"},
      {gear("teeth = \"find\"\nmodule = 1\nhand = \"find\"\n[want]\ngear.a.tip_diameter = 3\n"), "only numbers"},
      {gear("teeth = \"find 1.5..4\"\nmodule = 1\n[want]\ngear.a.tip_diameter = 3\n"), "whole number"},
      {gear("teeth = 20\nmodule = \"find\"\nface_width = -3\n[want]\ngear.a.tip_diameter = 3\n"), "face_width"}};
  for (const auto& [text, part] : cases) {
    INFO(text);
    CHECK_THAT(message(text), Contains(part));
  }
}

TEST_CASE("a value that changes nothing of what is wanted is told, others are not") {
  const Found f =
      found(stage("module = 1\nprofile_shift = \"find\"", "teeth = 17\nprofile_shift = 0.1",
                  "teeth = \"find 20..60\"\nprofile_shift = 0", "", "pair.p.reference_center_distance = 30"));
  REQUIRE(!f.solutions.empty());
  CHECK(f.idle == std::vector<std::string>{"shared.profile_shift"});
}
