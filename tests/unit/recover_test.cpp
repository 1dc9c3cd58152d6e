// Gears found again from measurements of them: the truth is known, the measurements are drawn about it.
#include <algorithm>
#include <cmath>
#include <random>

#include <fmt/format.h>
#include <boost/random/normal_distribution.hpp>
#include <nlohmann/json.hpp>

#include <catch2/catch.hpp>

#include "palio/readings/reading.hpp"
#include "palio/solve/recover.hpp"
#include "random_gear.hpp"
#include "try_job.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using solve::Recovered;
using solve::Slip;

namespace {

/// A pair as it was once made.
struct Truth {
  double module, angle, x1, x2, distance;
  int z1, z2;

  std::string job(bool open) const {
    const auto value = [&](double v) { return open ? std::string("\"find\"") : fmt::format("{:.17g}", v); };
    return fmt::format(
        "[shared]\nmodule = {}\npressure_angle = {}\n[gear.a]\nkind = \"spur\"\nteeth = {}\nprofile_shift = {}\n"
        "[gear.b]\nkind = \"spur\"\nteeth = {}\nprofile_shift = {}\n[pair.p]\ndriver = \"a\"\ndriven = \"b\"\n"
        "center_distance = {}\n",
        value(module), value(angle), z1, value(x1), z2, value(x2), value(distance));
  }
};

/// What is measured of it, and how.
struct Reading {
  std::string of;
  int teeth;  // spanned; 0: no span
  double sigma, is = 0;

  std::string path() const { return teeth > 0 ? of + ".length" : of; }
  std::string text() const {
    return fmt::format("[[measured]]\nof = \"{}\"\n{}is = {:.17g}\nuncertainty = {}\n", of,
                       teeth > 0 ? fmt::format("teeth = {}\n", teeth) : "", is, sigma);
  }
};

class Bench {
 public:
  explicit Bench(unsigned seed) : engine_(seed) {}

  std::optional<Truth> truth() {
    test::Draw draw(static_cast<unsigned>(engine_()));
    Truth t{draw.of({0.8, 1.0, 1.5, 2.0, 3.0, 4.0}),
            draw.of({17.5, 20.0, 20.0, 22.5, 25.0}),
            draw.between(0, 0.5),
            draw.between(-0.3, 0.4),
            0,
            draw.whole(14, 30),
            draw.whole(31, 70)};
    t.distance = t.module * (t.z1 + t.z2) / 2 * draw.between(1.005, 1.02);
    const auto design = test::try_job(t.job(false));
    if (!design || !design->pairs[0].meshes() || design->pairs[0].circumferential_backlash() < 0) return std::nullopt;
    return t;
  }

  /// Tips, roots, two spans of each gear, distance and play; as a careful hand with a caliper reads them.
  std::vector<Reading> readings(const Truth& t) {
    std::vector<Reading> all;
    const job::Design design = job::resolve(t.job(false), "v");
    for (const auto& [g, z] : {std::pair{"a", t.z1}, {"b", t.z2}}) {
      const std::string gear = std::string("gear.") + g;
      const int k = static_cast<int>(*job::reading_number(design, gear + ".span.teeth"));
      all.push_back({gear + ".tip_diameter", 0, 0.01});
      all.push_back({gear + ".root_diameter", 0, 0.02});
      all.push_back({gear + ".span", k, 0.01});
      all.push_back({gear + ".span", k + 1, 0.01});
    }
    all.push_back({"pair.p.center_distance", 0, 0.01});
    all.push_back({"pair.p.normal_backlash", 0, 0.02});
    for (Reading& r : all)
      r.is = right(t, r) + r.sigma * normal_(engine_);
    return all;
  }

  static double right(const Truth& t, const Reading& r) {
    const std::string gear = r.of.substr(0, 6);
    const job::Design design =
        job::resolve(t.job(false), "v",
                     r.teeth > 0 ? std::vector<std::string>{fmt::format("{}.span_teeth={}", gear, r.teeth)}
                                 : std::vector<std::string>{});
    return *job::reading_number(design, r.path());
  }

  std::mt19937& engine() { return engine_; }

 private:
  std::mt19937 engine_;
  boost::random::normal_distribution<double> normal_;
};

Recovered recovered(const Truth& t, const std::vector<Reading>& readings) {
  std::string text = t.job(true);
  for (const Reading& r : readings)
    text += r.text();
  return solve::recover(job::Values::read(text, "v"));
}

double true_value(const Truth& t, const std::string& path) {
  if (path == "shared.module") return t.module;
  if (path == "shared.pressure_angle") return t.angle;
  if (path == "gear.a.profile_shift") return t.x1;
  if (path == "gear.b.profile_shift") return t.x2;
  return t.distance;
}

}  // namespace

TEST_CASE("exact measurements give the gear back to the last digits") {
  Bench bench(5);
  unsigned looked = 0;
  for (unsigned i = 0; i < test::share(12); ++i) {
    const auto t = bench.truth();
    if (!t) continue;
    std::vector<Reading> readings = bench.readings(*t);
    for (Reading& r : readings)
      r.is = Bench::right(*t, r);
    const Recovered found = recovered(*t, readings);
    INFO(t->job(false));
    CHECK(!found.contradiction);
    CHECK(found.undetermined.empty());
    for (const Recovered::Value& v : found.values)
      CHECK_THAT(v.value, WithinAbs(true_value(*t, v.path), 1e-6 * std::max(1.0, std::abs(v.value))));
    ++looked;
  }
  CHECK(looked > 0);
}

TEST_CASE("the truth lies within two stated uncertainties as often as it should, and no mistake is invented") {
  unsigned values = 0, within = 0, sets = 0, contradicted = 0, suspected = 0;
  double squares = 0, freedom = 0;
  Bench bench(6);
  while (sets < test::share(400)) {
    const auto t = bench.truth();
    if (!t) continue;
    const Recovered found = recovered(*t, bench.readings(*t));
    ++sets;
    contradicted += found.contradiction ? 1U : 0U;
    suspected += found.suspect ? 1U : 0U;
    squares += found.chi2, freedom += static_cast<double>(found.degrees_of_freedom);
    for (const Recovered::Value& v : found.values) {
      if (!v.uncertainty) continue;
      ++values;
      constexpr double kNineteenOfTwenty = 1.959964;
      if (std::getenv("PALIO_SEE") && std::abs(v.value - true_value(*t, v.path)) > 2.6 * *v.uncertainty)
        WARN(fmt::format("{} {:.2f} chi2 {:.2f} m {} z {} {} of {}", v.path,
                         (v.value - true_value(*t, v.path)) / *v.uncertainty, found.chi2, t->module, t->z1, t->z2,
                         true_value(*t, v.path)));
      within += std::abs(v.value - true_value(*t, v.path)) <= kNineteenOfTwenty * *v.uncertainty ? 1U : 0U;
    }
  }
  const double rate = static_cast<double>(within) / values;
  WARN(
      fmt::format("{} of {} values within 1.96 σ ({:.1f} %), χ² per degree {:.3f}, {} of {} sets contradicted, {} "
                  "suspects",
                  within, values, 100 * rate, squares / freedom, contradicted, sets, suspected));
  if (!test::whole_search()) return;
  CHECK(values > 4 * sets);
  CHECK_THAT(rate, WithinAbs(0.95, 0.02));
  CHECK_THAT(squares / freedom, WithinAbs(1, 0.1));
  CHECK(suspected <= sets / 50);
}

TEST_CASE("planted mistakes are named") {
  Bench bench(7);
  unsigned planted = 0, place = 0, named = 0, wrong = 0;
  std::string missed;
  while (planted < test::share(100)) {
    const auto t = bench.truth();
    if (!t) continue;
    std::vector<Reading> readings = bench.readings(*t);
    for (Reading& r : readings)
      r.is = std::round(r.is * 100) / 100;
    const auto kinds = {Slip::span_miscounted, Slip::radius_for_diameter, Slip::wrong_unit, Slip::digits_swapped};
    const Slip slip = *(kinds.begin() + planted % kinds.size());
    std::size_t at = 0;
    switch (slip) {
      case Slip::span_miscounted: {
        at = planted % 2 == 0 ? 2 : 7;
        Reading other = readings[at];
        other.teeth += at == 2 ? -1 : 1;
        if (other.teeth < 2) other.teeth += 2;
        readings[at].is = std::round(Bench::right(*t, other) * 100) / 100;
        break;
      }
      case Slip::radius_for_diameter: at = 4, readings[at].is /= 2; break;
      case Slip::wrong_unit: at = 8, readings[at].is = std::round(readings[at].is / 25.4 * 1000) / 1000; break;
      default: {
        at = 0;
        std::string digits = fmt::format("{:.2f}", readings[at].is);
        if (std::abs(digits[digits.size() - 4] - digits[digits.size() - 5]) < 2) continue;
        std::swap(digits[digits.size() - 4], digits[digits.size() - 5]);
        readings[at].is = std::stod(digits);
      }
    }
    ++planted;
    const Recovered found = recovered(*t, readings);
    const bool right_place = found.suspect && found.suspect->index == at;
    place += right_place ? 1U : 0U;
    named += right_place && found.suspect->explained_as == slip ? 1U : 0U;
    wrong += found.suspect && !right_place ? 1U : 0U;
    if (!right_place) missed += fmt::format(" {}@{}", solve::name(slip), planted);
  }
  WARN(fmt::format("{} planted, {} found, {} named, {} wrongly accused; missed:{}", planted, place, named, wrong,
                   missed));
  if (!test::whole_search()) return;
  CHECK(place >= planted * 95 / 100);
  CHECK(named >= planted * 90 / 100);
  CHECK(wrong <= planted / 50);
}

TEST_CASE("a worn flank is told as wear") {
  Bench bench(8);
  unsigned worn = 0, sets = 0;
  while (sets < test::share(20)) {
    const auto t = bench.truth();
    if (!t) continue;
    std::vector<Reading> readings = bench.readings(*t);
    readings[2].is -= 0.137 * t->module / 2 + 0.09;
    ++sets;
    const Recovered found = recovered(*t, readings);
    worn += found.suspect && found.suspect->index == 2 && found.suspect->explained_as == Slip::worn ? 1U : 0U;
  }
  if (test::whole_search()) CHECK(worn >= sets * 3 / 4);
}

TEST_CASE("what the measurements leave open is named, and what would settle it does") {
  const Truth t{2, 20, 0.2, 0, 58, 17, 40};
  std::string text = t.job(true);
  // Tips and a distance: module and shifts apart need one measurement more.
  const std::string angle = "pressure_angle = \"find\"";
  text.replace(text.find(angle), angle.size(), "pressure_angle = 20");
  for (const Reading& r : {Reading{"pair.p.center_distance", 0, 0.01}, Reading{"gear.a.tip_diameter", 0, 0.01},
                           Reading{"gear.b.tip_diameter", 0, 0.01}}) {
    Reading exact = r;
    exact.is = Bench::right(t, r);
    text += exact.text();
  }
  const Recovered found = solve::recover(job::Values::read(text, "v"));
  CHECK(!found.undetermined.empty());
  CHECK(found.degrees_of_freedom == 0);
  CHECK(!found.contradiction);
  REQUIRE(!found.combinations.empty());
  for (const Recovered::Value& v : found.values) {
    const bool open =
        std::find(found.undetermined.begin(), found.undetermined.end(), v.path) != found.undetermined.end();
    CHECK(v.uncertainty.has_value() != open);
  }
  REQUIRE(!found.would_settle.empty());
  // With that measurement nothing is left open, and it was left open without.
  const std::string more = found.would_settle[0].path;
  const std::string gear = more.substr(0, 6);
  const bool span = more.find(".span.length") != std::string::npos;
  Reading r{span ? gear + ".span" : more, 0, 0.02};
  const job::Design design = job::resolve(t.job(false), "v");
  if (span) r.teeth = static_cast<int>(*job::reading_number(design, gear + ".span.teeth"));
  r.is = Bench::right(t, r);
  INFO("settled by " << more);
  if (more.find("over_") == std::string::npos)
    CHECK(solve::recover(job::Values::read(text + r.text(), "v")).undetermined.empty());
}

TEST_CASE("as new, standard sizes near by are put in, and the cost is told") {
  Bench bench(9);
  unsigned looked = 0;
  for (unsigned i = 0; i < test::share(10); ++i) {
    auto t = bench.truth();
    if (!t) continue;
    t->angle = 20, t->distance = t->module * (t->z1 + t->z2) / 2 * 1.01;
    if (!test::try_job(t->job(false))) continue;
    std::string text = t->job(true);
    for (const Reading& r : bench.readings(*t))
      text += r.text();
    const Recovered fresh = solve::recover(job::Values::read(text, "v"), true);
    for (const Recovered::Value& v : fresh.values) {
      if (v.path == "shared.module") CHECK(v.value == t->module);
    }
    const bool snapped = std::any_of(fresh.snaps.begin(), fresh.snaps.end(), [&](const Recovered::Snap& s) {
      return s.path == "shared.module" && s.to == t->module && s.chi2_more < 12;
    });
    CHECK(snapped);
    ++looked;
  }
  CHECK(looked > 0);
}

TEST_CASE("a measurement with a mistake is told with its place and what to do") {
  const std::string gear = "[gear.a]\nkind = \"spur\"\nteeth = 20\nmodule = \"find\"\n";
  const std::vector<std::pair<std::string, std::string>> cases{
      {"", "[[measured]]"},
      {"[[measured]]\nof = \"gear.a.span\"\nis = 3\nby = \"caliper\"\n", "over how many teeth"},
      {"[[measured]]\nof = \"gear.a.tip_diameter\"\nis = 3\n", "name the instrument"},
      {"[[measured]]\nof = \"gear.a.tip_diameter\"\nis = 3\nby = \"calliper\"\n", "did you mean \"caliper\""},
      {"[[measured]]\nof = \"gear.a.tip_diameter\"\nby = \"caliper\"\n", "is missing"},
      {"[[measured]]\nof = \"gear.a.tip_diameter\"\nis = \"3 deg\"\nby = \"caliper\"\n", "told in mm"},
      {"[[measured]]\nof = \"gear.a.tip_diametre\"\nis = 3\nby = \"caliper\"\n", "tip_diameter"},
      {"[[measured]]\nof = \"gear.a.over_pins\"\nis = 3\nby = \"pins\"\n", "pin_diameter"},
      {"[[measured]]\nof = \"gear.a.tip_diameter\"\nis = 44\nbye = \"caliper\"\n", "did you mean \"by\""},
      {"measured = 3\n", "unknown-key"}};
  for (const auto& [text, part] : cases) {
    INFO(text);
    std::string message;
    try {
      solve::recover(job::Values::read(gear + text, "v"));
    } catch (const std::exception& e) {
      message = e.what();
    }
    if (part != "unknown-key") CHECK_THAT(message, Contains(part));
    CHECK(!message.empty());
  }
}

TEST_CASE("wants and measurements mean the same in a job rewritten in other units") {
  const std::string text =
      "units = \"mm\"\n[gear.a]\nkind = \"spur\"\nteeth = 20\nmodule = 2\nprofile_shift = 0.2\n[want]\n"
      "gear.a.tip_diameter = [40, 50]\ngear.a.tip_thickness = \"at least 0.4\"\ngear.a.volume = \"greatest\"\n"
      "gear.a.teeth = 20\n[[measured]]\nof = \"gear.a.span\"\nteeth = 3\nis = 15.6\nuncertainty = 0.02\n"
      "[[measured]]\nof = \"gear.a.over_pins\"\npin_diameter = 3.5\nis = \"1.8 in\"\nuncertainty = 0.001\n";
  const std::string inches = job::in_units(text, "v", job::Units::inch, [](const std::string& path) {
    return job::reading_unit(path, job::Units::inch) == "in";
  });
  CAPTURE(inches);
  const job::Tables before = job::Values::read(text, "v").tables(), after = job::Values::read(inches, "v").tables();
  after.mistakes.stop();
  const auto mm = [](double value, const std::string& unit, job::Units units) {
    return value * (unit == "in" ? 25.4 : unit == "mm" ? 1 : job::mm_per(units));
  };
  REQUIRE(after.wanted.size() == 4);
  CHECK_THAT(mm(after.wanted[0].low, after.wanted[0].unit, after.units), WithinAbs(40, 1e-10));
  CHECK_THAT(mm(after.wanted[1].low, after.wanted[1].unit, after.units), WithinAbs(0.4, 1e-10));
  CHECK(after.wanted[2].aim == job::Wanted::Aim::greatest);
  CHECK(after.wanted[3].low == 20);
  REQUIRE(after.measured.size() == 2);
  for (std::size_t i = 0; i < 2; ++i) {
    const job::Measurement &a = before.measured[i], &b = after.measured[i];
    CHECK_THAT(mm(b.is, b.unit, after.units), WithinAbs(mm(a.is, a.unit, before.units), 1e-10));
    CHECK_THAT(mm(b.uncertainty, b.unit, after.units), WithinAbs(mm(a.uncertainty, a.unit, before.units), 1e-10));
  }
  CHECK_THAT(*after.measured[1].pin_diameter * 25.4, WithinAbs(3.5, 1e-10));
}

TEST_CASE("measurements that no gear can have contradict each other, even where as many values are open") {
  const auto worn = [](const char* teeth) {
    return job::Values::read(
        fmt::format("[shared]\nkind = \"spur\"\nmodule = \"find\"\n[gear.a]\nteeth = 18\nprofile_shift = \"find\"\n"
                    "[[measured]]\nof = \"gear.a.tip_diameter\"\nis = 40.12\nby = \"caliper\"\n[[measured]]\n"
                    "of = \"gear.a.span\"\nteeth = {}\nis = 15.4\nby = \"caliper\"\n",
                    teeth),
        "worn.toml");
  };
  CHECK_FALSE(solve::recover(worn("3")).contradiction);
  CHECK(solve::recover(worn("14")).contradiction);
  CHECK_THROWS_WITH(solve::recover(worn("18")), Contains("measured.1.teeth") && Contains("18 in all"));
}
