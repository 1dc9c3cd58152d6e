#include "palio/readings/compare.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include <fmt/format.h>

#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/utf8.hpp"
#include "quantities.hpp"
#include "things.hpp"

namespace palio::job {
namespace {

/// Numbers nearer than this, of their size, are one: sums in another order differ by rounding.
constexpr double kRounded = 1e-11;

/// By path, in the order of the file.
struct Leaf {
  std::string path;
  Json value;
  std::string unit;
};
using Flat = std::vector<Leaf>;

Json value_of(const Value& v, Type type, Units units) {
  if (!v.by_diameter.empty()) {
    Json all = Json::array();
    for (const auto& [d, length] : v.by_diameter)
      all.push_back({d / mm_per(units), length / mm_per(units)});
    return all;
  }
  if (!v.numbers.empty()) {
    Json all = Json::array();
    for (const double n : v.numbers)
      all.push_back(type == Type::lengths ? n / mm_per(units) : n);
    return all;
  }
  if (!v.texts.empty()) return v.texts;
  if (!v.text.empty()) return v.text;
  if (v.share) return fmt::format("{} %", 100 * v.number);
  if (type == Type::flag) return v.number != 0;
  return is_length(type) ? v.number / mm_per(units) : v.number;
}

void add_values(const std::vector<Settings>& all, Units units, Flat& flat) {
  for (const Settings& s : all) {
    for (const auto& [key, value] : s.values) {
      const Key* k = find_key(s.section, without_numbers(key));
      const Type type = k ? k->type : Type::plain;
      flat.push_back({fmt::format("{}.{}.{}", std::string(name(s.section)), s.name, key), value_of(value, type, units),
                      unit_of(type, units)});
    }
  }
}

Flat values_of(const Design& design, Units units) {
  const Tables& t = design.values.tables();
  Flat flat;
  for (const std::vector<Settings>* all : t.with_names())
    add_values(*all, units, flat);
  if (t.process) {
    for (const auto& [key, value] : t.process->values) {
      const Key* k = find_key(Section::process, key);
      const Type type = k ? k->type : Type::plain;
      flat.push_back({"process." + key, value_of(value, type, units), unit_of(type, units)});
    }
  }
  return flat;
}

/// Leaves of a report: tables are gone into, lists stay whole.
void add_readings(const Json& at, const std::string& path, Units units, Flat& flat) {
  if (!at.is_object()) {
    flat.push_back({path, at, reading_unit(path, units)});
    return;
  }
  for (const auto& [key, child] : at.items())
    add_readings(child, path + "." + key, units, flat);
}

Flat readings_of(const Design& design, Units units, std::vector<std::string>& things) {
  Design in_units = design;
  in_units.units = units;
  const Json report = Json::parse(report_json(in_units));
  Flat flat;
  for (const auto& [section, head] : {std::pair{"gears", "gear"},
                                      {"pairs", "pair"},
                                      {"frames", "frame"},
                                      {"reducers", "reducer"},
                                      {"planetaries", "planetary"},
                                      {"trains", "train"},
                                      {"shafts", "shaft"}}) {
    if (!report.contains(section)) continue;
    for (const auto& [thing, all] : report[section].items()) {
      things.push_back(fmt::format("{}.{}", head, thing));
      for (const auto& [key, child] : all.items())
        add_readings(child, things.back() + "." + key, units, flat);
    }
  }
  return flat;
}

bool same(const Json& a, const Json& b) {
  if (a.is_number() && b.is_number()) {
    const double x = a.get<double>(), y = b.get<double>();
    return std::abs(x - y) <= kRounded * std::max({1.0, std::abs(x), std::abs(y)});
  }
  if (a.is_array() && b.is_array() && a.size() == b.size()) {
    for (std::size_t i = 0; i < a.size(); ++i) {
      if (!same(a[i], b[i])) return false;
    }
    return true;
  }
  return a == b;
}

bool among(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}

/// What differs, in the order of the first, then what only the second has; of things that both have.
std::vector<Difference> differences(const Flat& a, const Flat& b, const std::vector<std::string>& alone) {
  std::map<std::string, const Json*> of_b;
  for (const Leaf& leaf : b)
    of_b[leaf.path] = &leaf.value;
  std::vector<Difference> all;
  const auto add = [&](const Leaf& leaf, const Json& x, const Json& y) {
    if (among(alone, thing_and_word(leaf.path).first)) return;
    all.push_back({leaf.path, x.dump(), y.dump(), x.is_string() || y.is_string() ? "" : leaf.unit});
  };
  for (const Leaf& leaf : a) {
    const auto it = of_b.find(leaf.path);
    if (it == of_b.end())
      add(leaf, leaf.value, nullptr);
    else if (!same(leaf.value, *it->second))
      add(leaf, leaf.value, *it->second);
    if (it != of_b.end()) of_b.erase(it);
  }
  for (const Leaf& leaf : b) {
    if (of_b.count(leaf.path) > 0) add(leaf, nullptr, leaf.value);
  }
  return all;
}

std::string told(const std::string& json) {
  const Json value = Json::parse(json);
  if (value.is_null()) return "–";
  if (value.is_string()) return value.get<std::string>();
  if (value.is_number()) return fmt::format("{:.8g}", value.get<double>());
  if (!value.is_array()) return value.dump();
  std::string text;
  for (const Json& item : value)
    text += (text.empty() ? "" : ", ") + told(item.dump());
  return "[" + text + "]";
}

std::string lines_of(const std::vector<Difference>& all) {
  std::size_t paths = 0, left = 0, right = 0;
  for (const Difference& d : all) {
    paths = std::max(paths, columns(d.path));
    left = std::max(left, columns(told(d.a))), right = std::max(right, columns(told(d.b)));
  }
  constexpr std::size_t kWidest = 13;  // a list may stand out of its column
  left = std::min(left, kWidest), right = std::min(right, kWidest);
  const auto padded = [](const std::string& text, std::size_t width) {
    return std::string(width > columns(text) ? width - columns(text) : 0, ' ') + text;
  };
  std::string text;
  for (const Difference& d : all) {
    text += fmt::format("  {}{}  {}  {}", d.path, std::string(paths - columns(d.path), ' '), padded(told(d.a), left),
                        padded(told(d.b), right));
    if (!d.unit.empty()) text += " " + d.unit;
    if (d.number()) text += fmt::format("  ({:+.4g})", Json::parse(d.b).get<double>() - Json::parse(d.a).get<double>());
    text += "\n";
  }
  return text;
}

Json json_of(const std::vector<Difference>& all) {
  Json list = Json::array();
  for (const Difference& d : all)
    list.push_back({{"path", d.path}, {"a", Json::parse(d.a)}, {"b", Json::parse(d.b)}});
  return list;
}

}  // namespace

bool Difference::number() const { return Json::parse(a).is_number() && Json::parse(b).is_number(); }

Comparison compare(const Design& a, const Design& b) {
  Comparison all;
  std::vector<std::string> of_a, of_b;
  const Flat readings_a = readings_of(a, a.units, of_a), readings_b = readings_of(b, a.units, of_b);
  for (const std::string& thing : of_a) {
    if (!among(of_b, thing)) all.only_a.push_back(thing);
  }
  for (const std::string& thing : of_b) {
    if (!among(of_a, thing)) all.only_b.push_back(thing);
  }
  std::vector<std::string> alone = all.only_a;
  alone.insert(alone.end(), all.only_b.begin(), all.only_b.end());
  all.values = differences(values_of(a, a.units), values_of(b, a.units), alone);
  all.readings = differences(readings_a, readings_b, alone);
  return all;
}

std::string compare_text(const Comparison& c, const std::string& a, const std::string& b) {
  if (c.alike()) return "the two are alike, in all values and readings\n";
  std::string text = fmt::format("what differs between A, {}, and B, {}\n", a, b);
  for (const auto& [only, of] : {std::pair{&c.only_a, "A"}, {&c.only_b, "B"}}) {
    for (const std::string& thing : *only)
      text += fmt::format("  only in {}: {}\n", of, thing);
  }
  if (!c.values.empty()) text += "\nvalues\n" + lines_of(c.values);
  if (!c.readings.empty()) text += "\nreadings\n" + lines_of(c.readings);
  return text;
}

std::string compare_json(const Comparison& c) {
  return Json{{"values", json_of(c.values)},
              {"readings", json_of(c.readings)},
              {"only_a", c.only_a},
              {"only_b", c.only_b}}
             .dump(2) +
         "\n";
}

}  // namespace palio::job
