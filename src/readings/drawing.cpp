#include "drawing.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/readings/reading.hpp"
#include "things.hpp"

namespace palio::job {
namespace {

[[noreturn]] void refuse(const Expected& e, const char* id, const std::string& message) {
  throw JobError({{id, e.where, "expect." + e.path, message}});
}

/// "gear.pinion" of "gear.pinion.span.length".
std::string thing_of(const std::string& path) { return thing_and_word(path).first; }

/// The bounds of an expectation in the unit in which its reading is told.
std::pair<double, double> in_unit_of_reading(const Expected& e, const std::string& unit) {
  const std::optional<double> factor = unit_factor(e.unit, unit);
  if (!factor) refuse(e, "bad-value", wrong_unit(e.said, unit));
  return {e.low * *factor, e.high * *factor};
}

/// An expectation and what the design has in its place.
struct Held {
  const Expected* expected;
  double low, high;  // in the reading's unit
  double is;
  std::string unit;

  bool met() const {
    const double room = math::kAlike * std::max(1.0, std::abs(is));
    return is >= low - room && is <= high + room;
  }
  /// Missed by so much that it is no matter of tolerance.
  bool far_off() const {
    constexpr double kTolerances = 3;
    return std::abs(is - (low + high) / 2) > kTolerances * (high - low) / 2;
  }
};

Held held(Inquiry& inquiry, const Expected& e, Units units) {
  const std::string unit = reading_unit(e.path, units);
  std::optional<double> is;
  try {
    is = inquiry.number(e.path);
  } catch (const InvalidParameter& problem) {
    refuse(e, "bad-path", fmt::format("{}; {}", problem.allowed(), problem.remedy()));
  }
  if (!is) refuse(e, "bad-path", "is no number of this job; name one, as palio report --json has them");
  const auto [low, high] = in_unit_of_reading(e, unit);
  return {&e, low, high, *is, unit};
}

/// A number of a gear that drawings are often wrong about, or that are made otherwise elsewhere.
struct Suspect {
  const char* key;
  bool shared;  // by gears that mesh
  std::vector<double> instead;
};

std::vector<Suspect> suspects(const Gear& gear) {
  const double z = gear.teeth.count(), m = gear.teeth.module();
  std::vector<double> modules;
  for (const double other : {0.5, 0.6,  0.7, 0.8, 0.9, 1.0, 1.125, 1.25, 1.375, 1.5, 1.75, 2.0, 2.25,
                             2.5, 2.75, 3.0, 3.5, 4.0, 4.5, 5.0,   5.5,  6.0,   7.0, 8.0,  9.0, 10.0})
    modules.push_back(other);
  for (const double pitch : {48, 40, 36, 32, 28, 24, 20, 18, 16, 14, 12, 10, 8, 6, 5, 4, 3})
    modules.push_back(25.4 / pitch);
  modules.erase(std::remove_if(modules.begin(), modules.end(),
                               [m](double other) { return other < 0.75 * m || other > 1.35 * m; }),
                modules.end());
  return {{"pressure_angle", true, {14.5, 15, 17.5, 20, 22.5, 25}},
          {"teeth", false, {z - 2, z - 1, z + 1, z + 2}},
          {"module", true, modules},
          {"profile_shift", false, {0}},
          {"helix_angle", true, {0}},
          {"addendum", false, {0.8, 1, 1.1}},
          {"dedendum", false, {1, 1.157, 1.2, 1.25, 1.35, 1.4}}};
}

/// The job with another number of a gear; what a gear shares with those it meshes with changes with them.
Design otherwise(const Design& design, const Gear& gear, const Suspect& suspect, double instead) {
  Values values = design.values.with("gear." + gear.name + "." + suspect.key, instead);
  for (const Pair& p : design.pairs) {
    const Gear &driver = design.gears[p.driver], &driven = design.gears[p.driven];
    if (!suspect.shared || (driver.name != gear.name && driven.name != gear.name)) continue;
    values = values.with(fmt::format("gear.{}.{}", driver.name == gear.name ? driven.name : driver.name, suspect.key),
                         instead);
  }
  return resolve(values);
}

/// Over how many teeth a gear's span goes; none where it has none.
std::optional<double> spanned(Inquiry& inquiry, const std::string& gear) {
  try {
    return inquiry.number(gear + ".span.teeth");
  } catch (const InvalidParameter&) {
    return std::nullopt;
  }
}

/// "as if pressure_angle were 14.5": the one number with which all that the drawing says of a gear holds. Empty where
/// none or more than one does.
std::string explanation(const Design& design, const std::string& thing, const std::vector<const Expected*>& said) {
  if (thing.rfind("gear.", 0) != 0) return "";
  const Gear& gear = design.gear(thing.substr(5));
  const bool spans = std::any_of(said.begin(), said.end(),
                                 [](const Expected* e) { return e->path.find(".span.") != std::string::npos; });
  Inquiry own(design);
  const std::optional<double> over = spanned(own, thing);
  std::string words;
  for (const Suspect& suspect : suspects(gear)) {
    for (const double instead : suspect.instead) {
      try {
        const Design other = otherwise(design, gear, suspect, instead);
        Inquiry inquiry(other);
        if (spans && spanned(inquiry, thing) != over) continue;  // a span over another number of teeth is another size
        const bool all = std::all_of(said.begin(), said.end(),
                                     [&](const Expected* e) { return held(inquiry, *e, design.units).met(); });
        if (!all) continue;
        if (!words.empty()) return "";
        words = fmt::format("as if {} were {:.6g}", suspect.key, instead);
      } catch (const JobError&) {
        continue;  // no such gear can be made, or it has no such key
      }
    }
  }
  return words;
}

std::string number(double value, const std::string& unit, int digits = 7) {
  return fmt::format("{:.{}g}{}{}", value, digits, unit.empty() || unit == "°" ? "" : " ", unit);
}

}  // namespace

std::vector<Finding> against_drawing(const Design& design) {
  const std::vector<Expected>& expected = design.values.tables().expected;
  if (expected.empty() || design.as != As::nominal) return {};
  Inquiry inquiry(design);
  std::vector<Finding> found;
  for (const Expected& e : expected) {
    const Held h = held(inquiry, e, design.units);
    const std::string is = number(h.is, h.unit);
    if (h.met()) {
      found.push_back({FindingId::agrees_with_drawing, e.path, h.is, {}, is + " for " + e.said});
      continue;
    }
    const double limit = h.is < h.low ? h.low : h.high;
    found.push_back({FindingId::differs_from_drawing, e.path, h.is, limit,
                     fmt::format("{} is {} too {} for {}", is, number(std::abs(h.is - limit), h.unit, 3),
                                 h.is < h.low ? "little" : "much", e.said)});
  }
  return found;
}

void explain_differences(const Design& design, std::vector<Finding>& found) {
  Inquiry inquiry(design);
  std::map<std::string, std::string> why;  // of things that miss something
  for (Finding& f : found) {
    if (f.id != FindingId::differs_from_drawing) continue;
    const std::string thing = thing_of(f.subject);
    std::vector<const Expected*> said;
    bool far_off = false;
    for (const Expected& e : design.values.tables().expected) {
      if (thing_of(e.path) != thing) continue;
      said.push_back(&e);
      const Held h = held(inquiry, e, design.units);
      far_off = far_off || (!h.met() && h.far_off());
    }
    if (far_off && why.count(thing) == 0) why[thing] = explanation(design, thing, said);
    if (!why[thing].empty()) f.detail += ", " + why[thing];
  }
}

}  // namespace palio::job
