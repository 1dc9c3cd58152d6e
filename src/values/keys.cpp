#include "palio/values/keys.hpp"

#include <algorithm>
#include <unordered_map>

#include <fmt/format.h>

#include "palio/values/spelling.hpp"

namespace palio::job {

bool among(std::string_view choices, std::string_view word) {
  for (std::size_t from = 0; from < choices.size();) {
    const std::size_t to = std::min(choices.find(' ', from), choices.size());
    if (to > from && choices.substr(from, to - from) == word) return true;
    from = to + 1;
  }
  return false;
}

bool is_list(std::string_view path) {
  return path == "hubs" || path == "holes" || path == "cutouts" || path == "bore.steps" || path == "motors" ||
         path == "set_screw" || path == "cross_pin";
}

Absent::Absent(double n) : words(fmt::format("{}", n)), number(n) {}

Key& Key::also(std::string_view words) {
  for (std::string& word : words_of(words))
    others.push_back({std::move(word)});
  return *this;
}

Key& Key::also(std::string_view word, double factor, std::string_view remark) {
  others.push_back({std::string(word), factor, remark});
  return *this;
}

std::vector<std::string> words_of(std::string_view list) {
  std::vector<std::string> words;
  for (std::size_t from = 0; from < list.size();) {
    const std::size_t to = std::min(list.find(' ', from), list.size());
    if (to > from) words.emplace_back(list.substr(from, to - from));
    from = to + 1;
  }
  return words;
}

std::string_view name(Section section) noexcept {
  switch (section) {
    case Section::top: return "job";
    case Section::shared:
    case Section::gear: return "gear";
    case Section::pair: return "pair";
    case Section::process: return "process";
    case Section::frame: return "frame";
    case Section::material: return "material";
    case Section::reducer: return "reducer";
    case Section::shaft: return "shaft";
    case Section::carrier: return "carrier";
    case Section::train: return "train";
    case Section::planetary: return "planetary";
  }
  return "";
}

const std::vector<Section>& sections() {
  static const std::vector<Section> all{Section::top,     Section::gear,     Section::pair,      Section::shaft,
                                        Section::carrier, Section::train,    Section::planetary, Section::process,
                                        Section::frame,   Section::material, Section::reducer};
  return all;
}

bool has_names(Section section) noexcept {
  return section != Section::top && section != Section::shared && section != Section::process;
}

std::optional<Section> section_named(std::string_view head) noexcept {
  if (head == "shared") return Section::shared;
  for (const Section section : sections()) {
    if (section != Section::top && head == name(section)) return section;
  }
  return std::nullopt;
}

std::string leaves_as_teeth(std::string path) {
  const auto last = path.rfind('.') + 1;  // 0 where there is no point
  const std::string_view word = std::string_view(path).substr(last);
  if (word == "leaves")
    path.replace(last, std::string::npos, "teeth");
  else if (word == "mate_leaves")
    path.replace(last, std::string::npos, "mate_teeth");
  return path;
}

std::string without_numbers(const std::string& path) {
  std::string out;
  for (std::size_t i = 0; i < path.size(); ++i) {
    if (path[i] == '.' && i + 1 < path.size() && std::isdigit(static_cast<unsigned char>(path[i + 1]))) {
      while (i + 1 < path.size() && path[i + 1] != '.')
        ++i;
      continue;
    }
    out += path[i];
  }
  return out;
}

const Key* find_key(Section section, std::string_view path) {
  // A design asks some hundred times.
  static const std::unordered_map<std::string_view, std::vector<const Key*>> kByPath = [] {
    std::unordered_map<std::string_view, std::vector<const Key*>> all;
    for (const Key& key : keys())
      all[key.path].push_back(&key);
    return all;
  }();
  const auto found = kByPath.find(path);
  if (found == kByPath.end()) return nullptr;
  const Section table = section == Section::shared ? Section::gear : section;
  for (const Key* key : found->second) {
    if (key->section == table && !(section == Section::shared && key->is_own)) return key;
  }
  return nullptr;
}

bool is_group(Section section, std::string_view path) {
  const Section table = section == Section::shared ? Section::gear : section;
  const std::string start = std::string(path) + ".";
  return std::any_of(keys().begin(), keys().end(),
                     [&](const Key& key) { return key.section == table && key.path.substr(0, start.size()) == start; });
}

std::string nearest(Section section, std::string_view path) {
  const Section table = section == Section::shared ? Section::gear : section;
  std::string best;
  std::size_t least = std::max<std::size_t>(2, path.size() / 2) + 1;
  for (const Key& key : keys()) {
    if (key.section != table) continue;
    const std::size_t distance = spelling_distance(path, key.path);
    if (distance < least) least = distance, best = key.path;
  }
  if (!best.empty() || path.size() < 4) return best;
  for (const Key& key : keys()) {  // "shift" is a part of "profile_shift"
    const bool holds = key.section == table && key.path.find(path) != std::string_view::npos;
    if (holds && (best.empty() || key.path.size() < best.size())) best = key.path;
  }
  return best;
}

std::string unit_of(Type type, Units units) {
  switch (type) {
    case Type::length:
    case Type::lengths:
    case Type::length_or_share:
    case Type::length_by_diameter: return std::string(symbol(units));
    case Type::millimetres: return "mm";
    case Type::angle:
    case Type::angles: return "°";
    default: return "";
  }
}

std::string allowed(const Bounds& key, std::string_view length_unit) {
  std::string unit;
  switch (key.type) {
    case Type::length:
    case Type::length_or_share: unit = fmt::format(" {}", length_unit); break;
    case Type::millimetres: unit = " mm"; break;
    case Type::per_inch: unit = " per inch"; break;
    case Type::angle: unit = "°"; break;
    default: break;
  }
  std::string range;
  if (key.least && key.greatest) {
    range = fmt::format(" {} {}{} to {}{}", key.above_least ? "above" : "from", *key.least, unit, *key.greatest, unit);
  } else if (key.least) {
    range = key.above_least ? fmt::format(" above {}{}", *key.least, unit)
                            : fmt::format(" of {}{} or more", *key.least, unit);
  }
  switch (key.type) {
    case Type::whole: return "a whole number" + range;
    case Type::plain:
    case Type::per_inch: return "a number" + range;
    case Type::length:
    case Type::millimetres: return "a length" + range;
    case Type::angle: return "an angle in degrees" + range;
    case Type::length_or_share: return "a length" + range + ", or a share of the module as \"4 %\"";
    case Type::share: return "\"teeth\", \"even\", or the driver's fraction from 0 to 1";
    case Type::text: return "a text";
    case Type::flag: return "true or false";
    case Type::fraction: return "a fraction" + range + ", or as \"0.6 %\"";
    case Type::angles: return "a list of angles in degrees, as [0, 180]";
    case Type::lengths: return "a list of lengths, as [0, 14]";
    case Type::names: return "a list of names";
    case Type::length_by_diameter:
      return "a length, or a table from diameters to lengths as { \"3\" = 0.3, \"10\" = 0.2 }";
    case Type::choices: return "a list of " + std::string(key.choices);
    case Type::table: return "a table";
    case Type::choice: {
      std::string list;
      for (const char c : key.choices)
        list += c == ' ' ? std::string("\", \"") : std::string(1, c);
      return (list.find(',') == std::string::npos ? "\"" : "one of \"") + list + "\"";
    }
  }
  return "";
}

OtherWord other_word(Section section, std::string_view word) {
  const Section table = section == Section::shared ? Section::gear : section;
  for (const Key& key : keys()) {
    if (key.section != table) continue;
    for (const TradeWord& t : key.others) {
      if (t.word == word) return {&key, &t};
    }
  }
  return {};
}

const std::vector<ReferenceProfile>& reference_profiles() {
  // iso53-a … d: ISO 53:1998, table 1. full-depth-20: the coarse-pitch 20° full-depth rack in use in inch practice.
  // full-depth-14.5: its 14½° forerunner, 1.157 deep, corner 0.209. stub-20: 0.8 and 1.0. fine-pitch-20: 1.2 deep (the
  // constant 0.002 in that fine-pitch practice adds to the depth is left out: it is no multiple of the module).
  static const std::vector<ReferenceProfile> all{{"iso53-a", 20, 1, 1.25, 0.38},
                                                 {"iso53-b", 20, 1, 1.25, 0.30},
                                                 {"iso53-c", 20, 1, 1.25, 0.25},
                                                 {"iso53-d", 20, 1, 1.40, 0.39},
                                                 {"full-depth-14.5", 14.5, 1, 1.157, 0.209},
                                                 {"full-depth-20", 20, 1, 1.25, 0.30},
                                                 {"stub-20", 20, 0.8, 1.0, 0.20},
                                                 {"fine-pitch-20", 20, 1, 1.20, 0.20}};
  return all;
}

bool is_number(Type type) noexcept {
  switch (type) {
    case Type::whole:
    case Type::plain:
    case Type::length:
    case Type::millimetres:
    case Type::per_inch:
    case Type::angle:
    case Type::length_or_share:
    case Type::share:
    case Type::fraction: return true;
    default: return false;
  }
}

std::optional<PathParts> parts_of_path(const std::string& path) {
  const auto dot = path.find('.');
  const auto second = dot == std::string::npos ? dot : path.find('.', dot + 1);
  if (second == std::string::npos) return std::nullopt;
  return PathParts{path.substr(0, dot), path.substr(dot + 1, second - dot - 1), path.substr(second + 1)};
}

}  // namespace palio::job
