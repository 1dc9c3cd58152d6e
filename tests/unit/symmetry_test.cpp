// What a job says does not depend on how it is said: larger, mirrored, turned, driven from the other side, in another
// notation.
#include <catch2/catch.hpp>
#include <map>
#include <sstream>

#include <toml++/toml.h>
#include <nlohmann/json.hpp>

#include "palio/readings/report.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::WithinAbs;
using Json = nlohmann::ordered_json;

namespace {

Json report(const Design& design) { return Json::parse(report_json(design, false)); }

/// How many of each kind to draw; fewer of those whose reports roll.
unsigned how_many(const std::string& kind) {
  const bool rolls = kind == "reducer" || kind == "true_cycloid" || kind == "cycloidal_ring";
  return test::share(rolls ? 3 : 12);
}

/// Every number of a report by its path: "gears.a.tip_diameter", lists by their place.
void flatten(const Json& json, const std::string& path, std::map<std::string, double>& numbers) {
  if (json.is_number()) numbers[path] = json.get<double>();
  if (json.is_structured()) {
    for (const auto& [key, value] : json.items())
      flatten(value, path.empty() ? key : path + "." + key, numbers);
  }
}

std::map<std::string, double> numbers(const Json& report) {
  std::map<std::string, double> all;
  flatten(report, "", all);
  return all;
}

/// Which findings there are, and of what.
std::string told(const Json& report) {
  std::string all;
  for (const Json& f : report["findings"])
    all += f["id"].get<std::string>() + " " + f["subject"].get<std::string>() + "\n";
  return all;
}

bool near(double a, double b, double size = 1) {
  return std::abs(a - b) <= 1e-9 * std::max({size, std::abs(a), std::abs(b)});
}

/// Two reports say the same, but for what is named.
void same(const Json& a, const Json& b, const std::vector<std::string>& but = {}) {
  const auto x = numbers(a), y = numbers(b);
  REQUIRE(x.size() == y.size());
  for (const auto& [path, value] : x) {
    const bool left_out = std::any_of(
        but.begin(), but.end(), [&, p = path](const std::string& part) { return p.find(part) != std::string::npos; });
    if (left_out) continue;
    CAPTURE(path, value);
    REQUIRE(y.count(path) == 1);
    // What a roll found, it found at its own positions.
    const bool sampled = path.find("angle_error_deg") != std::string::npos || path.find("rolled_") != std::string::npos;
    if (sampled)
      CHECK(std::abs(value - y.at(path)) <= 0.01 * std::abs(value) + 1e-4);
    else
      CHECK(near(value, y.at(path)));
  }
  CHECK(told(a) == told(b));
}

/// Every `from` of a text made `to`, and the other way round.
std::string exchanged(std::string text, const std::string& from, const std::string& to) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    if (text.compare(i, from.size(), from) == 0)
      out += to, i += from.size();
    else if (text.compare(i, to.size(), to) == 0)
      out += from, i += to.size();
    else
      out += text[i++];
  }
  return out;
}

/// The number that follows "key = " in a text, replaced.
std::string with_number(const std::string& text, const std::string& key, double (*change)(double)) {
  const auto at = text.find(key + " = ");
  if (at == std::string::npos) return text;
  const auto from = at + key.size() + 3, to = text.find('\n', from);
  return text.substr(0, from) + fmt::format("{:.17g}", change(std::strtod(text.c_str() + from, nullptr))) +
         text.substr(to);
}

}  // namespace

TEST_CASE(
    "ten times as large, every length is ten times as large, every volume a thousand times, and nothing else changes") {
  // How each number grows, found from the reports themselves: a power of the size, one for each key in all jobs and
  // kinds.
  std::map<std::string, int> power;
  int jobs = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 1; seed <= how_many(kind); ++seed) {
      const auto small = test::try_job(test::random_job(kind, seed)),
                 large = test::try_job(test::random_job(kind, seed, false, false, 10));
      CAPTURE(kind, seed);
      REQUIRE(small.has_value() == large.has_value());
      if (!small) continue;
      ++jobs;
      const Json a = report(*small), b = report(*large);
      CHECK(told(a) == told(b));
      const auto x = numbers(a), y = numbers(b);
      REQUIRE(x.size() == y.size());
      for (const auto& [path, value] : x) {
        const double grown = y.at(path);
        CAPTURE(path, value, grown);
        // Findings have quantities of their own; balls and pins come in sizes that can be bought; a mark is not sunk
        // deeper for the disc that is larger.
        const auto about = [&path = path](const char* what) { return path.find(what) != std::string::npos; };
        if (path.rfind("findings.", 0) == 0 || about("_balls.") || about("_pins.") ||
            (kind == "reducer" && about("_volume")))
          continue;
        if (std::abs(value) < 1e-7) {
          CHECK(std::abs(grown) < 1e-3);
          continue;
        }
        const double exponent = std::log10(grown / value);
        const int k = static_cast<int>(std::lround(exponent));
        REQUIRE(std::abs(exponent - k) < 1e-7);
        std::string key = path.substr(path.rfind('.') + 1);
        if (key.find_first_not_of("0123456789") == std::string::npos) {
          const auto to = path.rfind('.'), from = path.rfind('.', to - 1);
          key = path.substr(from + 1, to - from - 1);
        }
        const auto [known, fresh] = power.emplace(key, k);
        CAPTURE(key);
        CHECK(known->second == k);
      }
    }
  }
  if (test::whole_search()) CHECK(jobs > 100);
  // What the powers must be, by what the keys mean.
  int angles = 0, circles = 0;
  for (const auto& [key, k] : power) {
    CAPTURE(key);
    const auto ends = [&key = key](const std::string& with) {
      return key.size() >= with.size() && key.compare(key.size() - with.size(), with.size(), with) == 0;
    };
    if (ends("_deg")) {
      CHECK(k == 0);
      ++angles;
    }
    if (ends("diameter") || ends("_width") || ends("_distance") || ends("backlash") || ends("pitch") ||
        ends("module")) {
      CHECK(k == (key == "diametral_pitch" ? -1 : 1));
      ++circles;
    }
    if (ends("ratio") || ends("teeth") || key == "profile_shift") CHECK(k == 0);
  }
  CHECK(power.at("volume") == 3);
  CHECK(power.at("center_of_mass") == 1);
  CHECK(angles > 6);
  CHECK(circles > 15);
}

TEST_CASE(
    "a job in JSON, or with what is shared said by each gear, or with its tables in another order, is the same job") {
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 21; seed < 21 + how_many(kind); ++seed) {
      const std::string text = test::random_job(kind, seed);
      const auto design = test::try_job(text);
      if (!design) continue;
      CAPTURE(kind, seed, text);
      const Json told_once = report(*design);
      const toml::table table = toml::parse(text);
      std::ostringstream as_json;
      as_json << toml::json_formatter(table);
      const auto json = test::try_job(as_json.str(), {}, "v.json");
      REQUIRE(json);
      CHECK(report(*json) == told_once);
      const auto shared = text.find("[shared]\n"), first = text.find("[gear.a]\n"), second = text.find("[gear.b]\n"),
                 pair = text.find("[pair.p]\n");
      if (shared == std::string::npos) continue;
      const std::string keys = text.substr(shared + 9, first - shared - 9),
                        a = text.substr(first + 9, second - first - 9), b = text.substr(second + 9, pair - second - 9),
                        head = text.substr(0, shared);
      const auto each = test::try_job(head + "[gear.a]\n" + keys + a + "[gear.b]\n" + keys + b + text.substr(pair));
      REQUIRE(each);
      CHECK(report(*each) == told_once);
      // The pair before its gears, what is shared at the end.
      const auto turned =
          test::try_job(head + text.substr(pair) + "[gear.a]\n" + a + "[gear.b]\n" + b + "[shared]\n" + keys);
      REQUIRE(turned);
      CHECK(report(*turned) == told_once);
    }
  }
}

TEST_CASE(
    "driven from the other side, distances, plays and contact ratios stay, and what is told of each gear changes "
    "places") {
  int pairs = 0;
  for (const std::string& kind : test::job_kinds()) {
    // Clock teeth and lanterns are made for one driver; which gear of a reducer drives is no choice.
    if (kind == "clock" || kind == "lantern" || kind == "reducer" || kind == "rack") continue;
    for (unsigned seed = 41; seed < 41 + how_many(kind); ++seed) {
      // Thinning is divided evenly, whichever drives: left to its default here.
      const std::string text = test::random_job(kind, seed);
      const auto one = test::try_job(text),
                 other =
                     test::try_job(exchanged(text, "driver = \"a\"\ndriven = \"b\"", "driver = \"b\"\ndriven = \"a\""));
      CAPTURE(kind, seed, text);
      REQUIRE(one.has_value() == other.has_value());
      if (!one) continue;
      const Json a = report(*one), b = report(*other);
      const Json &p = a["pairs"]["p"], &q = b["pairs"]["p"];
      for (const auto& [name, gear] : a["gears"].items()) {
        CAPTURE(name);
        same(Json{{"findings", Json::array()}, {"gear", gear}},
             Json{{"findings", Json::array()}, {"gear", b["gears"][name]}});
      }
      CHECK(near(p["gear_ratio"].get<double>() * q["gear_ratio"].get<double>(), 1));
      for (const auto& [key, value] : p.items()) {
        CAPTURE(key);
        REQUIRE(q.contains(key));
        // What slides, per what the driver's circle runs, is another number for another driver.
        // An angle error of what runs evenly is noise.
        if (key == "gear_ratio" || key == "phase_deg" || key == "sliding_ratio") continue;
        if (key == "angle_error_deg" && std::abs(value.get<double>()) < 1e-4) continue;
        // What the driver has more than the driven.
        const bool imbalance = key.find("_imbalance") != std::string::npos;
        if (value.is_number()) CHECK(near((imbalance ? -1 : 1) * value.get<double>(), q[key].get<double>()));
        if (!value.is_array() || value.size() != 2 || !value[0].is_number()) continue;
        CHECK(near(value[0].get<double>(), q[key][1].get<double>()));
        CHECK(near(value[1].get<double>(), q[key][0].get<double>()));
      }
      ++pairs;
    }
  }
  if (test::whole_search()) CHECK(pairs > 50);
}

TEST_CASE("seen in a mirror, hands and the sense of turning change, and no dimension does") {
  for (const char* kind : {"spur", "helical", "double_helical", "internal", "rack", "crossed"}) {
    for (unsigned seed = 61; seed < 61 + how_many(kind); ++seed) {
      const std::string text = test::random_job(kind, seed);
      std::string mirrored =
          exchanged(exchanged(text, "\"left\"", "\"right\""), "\"clockwise\"", "\"counter-clockwise\"");
      mirrored = with_number(mirrored, "direction", [](double d) { return -d; });
      mirrored = with_number(mirrored, "shaft_angle", [](double d) { return -d; });
      const auto one = test::try_job(text), other = test::try_job(mirrored);
      CAPTURE(kind, seed, text, mirrored);
      REQUIRE(one.has_value() == other.has_value());
      if (!one) continue;
      const Json a = report(*one), b = report(*other);
      // Where a tooth stands is told by an angle that goes the other way round; where a body's middle is, by y. A
      // rack's own frame is not mirrored with it: its teeth are counted from the other end.
      same(a, b, {"phase_deg", "shaft_angle_deg", "placing", "center_of_mass"});
      for (std::size_t i = 0; i < 2; ++i) {
        const Vec2 at = one->gears[i].axis, there = other->gears[i].axis;
        CHECK_THAT((Vec2(at.x(), -at.y()) - there).norm(), WithinAbs(0, 1e-9));
      }
      if (std::string(kind) == "rack") continue;
      // A tooth stands on the line of centres of both, or a space: the turn of each is mirrored, up to a pitch.
      for (std::size_t i = 0; i < 2 && std::string(kind) != "crossed"; ++i) {
        const double pitches = (one->gears[i].phase + other->gears[i].phase) * one->gears[i].teeth.count() / (2 * kPi);
        CHECK_THAT(pitches - std::round(pitches), WithinAbs(0, 1e-7));
      }
    }
  }
}

TEST_CASE("turned as a whole, a job is the same job, its places turned") {
  for (const std::string& kind : test::job_kinds()) {
    if (kind == "reducer") continue;
    for (unsigned seed = 81; seed < 81 + how_many(kind); ++seed) {
      std::string text = test::random_job(kind, seed);
      if (text.find("direction = ") == std::string::npos) text += "direction = 20\n";
      const auto one = test::try_job(text),
                 other =
                     test::try_job(with_number(text, "direction", [](double d) { return d > 0 ? d - 67 : d + 113; }));
      CAPTURE(kind, seed, text);
      REQUIRE(one.has_value() == other.has_value());
      if (!one) continue;
      same(report(*one), report(*other), {"phase_deg", "placing"});
      const auto between = [](const Design& d) {
        return Vec3(d.groups[d.gears[1].group].origin + Vec3(d.gears[1].axis.x(), d.gears[1].axis.y(), 0));
      };
      if (kind != "bevel" && kind != "crossed") CHECK(near(between(*one).norm(), between(*other).norm()));
      // And it rolls alike: the play is that of the same flanks, met at another turn.
      if (!one->pairs[0].plane() || kind == "clock" || seed % 4 != 1) continue;
      const roll::Result r = rolled(one->pairs[0], 36), s = rolled(other->pairs[0], 36);
      CHECK(r.verdict == s.verdict);
      REQUIRE(r.play.has_value() == s.play.has_value());
      if (r.play && r.verdict == roll::Verdict::meshes) CHECK_THAT(r.play->min, WithinAbs(s.play->min, 1e-10));
    }
  }
}
