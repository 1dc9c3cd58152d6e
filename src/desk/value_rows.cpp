#include "value_rows.hpp"

#include <algorithm>
#include <map>
#include <set>
#include <vector>

#include <fmt/format.h>

#include "palio/values/edit.hpp"

namespace palio::desk {
namespace {

constexpr std::string_view kNamed = "values";

/// The number of a value in the unit of the file; none of texts and lists.
std::optional<double> number_of(const job::Key& key, const job::Value& value, job::Units units) {
  if (!job::is_number(key.type) || !value.text.empty() || value.share) return std::nullopt;
  return job::is_length(key.type) ? value.number / job::mm_per(units) : value.number;
}

/// A value as it would be written.
std::string written(const job::Key& key, const job::Value& value, job::Units units) {
  if (!value.text.empty()) return value.text;
  if (key.type == job::Type::flag) return value.number != 0 ? "true" : "false";
  if (value.share) return fmt::format("{} %", 100 * value.number);
  if (const auto number = number_of(key, value, units)) return fmt::format("{}", *number);
  if (!value.texts.empty()) return fmt::format("{}", fmt::join(value.texts, ", "));
  std::vector<double> numbers = value.numbers;
  for (double& n : numbers)
    n /= key.type == job::Type::lengths ? job::mm_per(units) : 1;
  return fmt::format("{}", fmt::join(numbers, ", "));
}

std::string_view type_of(const job::Key& key) {
  switch (key.type) {
    case job::Type::whole: return "whole";
    case job::Type::flag: return "flag";
    case job::Type::choice: return "choice";
    default: return job::is_number(key.type) ? "number" : "text";
  }
}

/// "gear.bore.diameter": by which a row tells what its key means.
std::string key_name(const job::Key& key) {
  return key.section == job::Section::top ? std::string(key.path)
                                          : fmt::format("{}.{}", job::name(key.section), key.path);
}

/// Rows of one table.
class Rows {
 public:
  Rows(job::Section section, const job::Settings* settings, job::Units units,
       const std::map<std::string, std::string>& said)
      : section_(section), settings_(settings), units_(units), said_(said) {}

  /// \param head  "gear.pinion", "" of the top
  Json of(const std::string& head) const {
    Json rows = Json::array();
    const std::string start = head.empty() ? "" : head + ".";
    for (const job::Key& key : job::keys()) {
      const bool shared = section_ == job::Section::shared && key.section == job::Section::gear && !key.is_own;
      if (key.section != section_ && !shared) continue;
      const bool in_list = job::is_list(std::string(key.path.substr(0, key.path.find('.'))));
      for (const std::string& path : said_paths(start, key))
        rows.push_back(row(key, path, &said_.at(path), nullptr));
      if (in_list || said_as(start, key)) continue;
      const job::Value* inherited = settings_ ? settings_->find(std::string(key.path)) : nullptr;
      if (key.type == job::Type::table || (!inherited && !applies(key))) continue;
      rows.push_back(row(key, start + std::string(key.path), nullptr, inherited));
    }
    return rows;
  }

 private:
  bool applies(const job::Key& key) const {
    if (section_ != job::Section::gear) return true;
    const auto kind = settings_ ? settings_->kind() : std::nullopt;
    return !kind || key.kinds.has(*kind);
  }
  /// The short form of `bore.diameter` is `bore`; leaves are teeth.
  static std::string key_path(const std::string& path) {
    const std::string plain = job::leaves_as_teeth(job::without_numbers(path));
    return plain == "bore" ? "bore.diameter" : plain;
  }
  std::vector<std::string> said_paths(const std::string& start, const job::Key& key) const {
    std::vector<std::string> paths;
    for (auto it = said_.lower_bound(start); it != said_.end() && it->first.compare(0, start.size(), start) == 0;
         ++it) {
      const std::string below = it->first.substr(start.size());
      if (start.empty() && below.find('.') != std::string::npos) continue;
      if (key_path(below) == key.path) paths.push_back(it->first);
    }
    return paths;
  }
  bool said_as(const std::string& start, const job::Key& key) const { return !said_paths(start, key).empty(); }

  Json row(const job::Key& key, const std::string& path, const std::string* said, const job::Value* inherited) const {
    Json r{{"path", path}, {"key", key_name(key)}};
    r["said"] = said ? Json(*said) : Json(nullptr);
    const bool from_elsewhere = !said && inherited;
    if (from_elsewhere) r["inherited"] = written(key, *inherited, units_);
    if (!said && !inherited) r["absent"] = absent(key);
    return r;
  }
  std::string absent(const job::Key& key) const {
    if (key.absent.rule && settings_ && settings_->kind()) {
      const double number = key.absent.rule(*settings_);
      return fmt::format("{:.6g}", job::is_length(key.type) ? number / job::mm_per(units_) : number);
    }
    // Where words say more than the number, the number is that of all kinds but the cycloidal ones.
    const auto kind = settings_ ? settings_->kind() : std::nullopt;
    const bool holds = key.absent.words.empty() || (kind && !job::kCycloidalKinds.has(*kind));
    return key.absent.number && holds ? fmt::format("{}", *key.absent.number) : key.absent.words;
  }

  job::Section section_;
  const job::Settings* settings_;
  job::Units units_;
  const std::map<std::string, std::string>& said_;
};

}  // namespace

Json value_rows(const job::Values& values, const std::string& text, const std::string& source) {
  const job::Tables& tables = values.tables();
  std::map<std::string, std::string> said;
  std::vector<std::string> heads;  // of tables, in the order of the file
  for (const auto& [path, value] : job::said_values(text, source)) {
    said.emplace(path, value);
    const auto parts = job::parts_of_path(path);
    const std::string first = path.substr(0, path.find('.'));
    const auto section = job::section_named(first);
    std::string head;
    if (section && job::has_names(*section) && parts)
      head = parts->thing();
    else if (first == "shared" || first == "process")
      head = first;
    if (!head.empty() && std::find(heads.begin(), heads.end(), head) == heads.end()) heads.push_back(head);
  }
  Json all = Json::array();
  Json named = Json::array();  // numbers that other values name
  for (const auto& [path, value] : said) {
    if (path.compare(0, kNamed.size() + 1, std::string(kNamed) + ".") == 0)
      named.push_back({{"path", path}, {"key", std::string(kNamed)}, {"said", value}});
  }
  all.push_back({{"path", ""}, {"keys", Rows(job::Section::top, nullptr, tables.units, said).of("")}});
  if (!named.empty()) all.push_back({{"path", std::string(kNamed)}, {"keys", std::move(named)}});
  for (const std::string& head : heads) {
    const auto dot = head.find('.');
    const job::Settings* settings = dot == std::string::npos
                                        ? (head == "process" && tables.process ? &*tables.process : nullptr)
                                        : tables.thing(head.substr(0, dot), head.substr(dot + 1));
    const job::Section section = head == "shared"    ? job::Section::shared
                                 : head == "process" ? job::Section::process
                                                     : *job::section_named(head.substr(0, dot));
    Json table{{"path", head}};
    if (section == job::Section::gear && settings) table["kind"] = settings->text("kind");
    table["keys"] = Rows(section, settings, tables.units, said).of(head);
    all.push_back(std::move(table));
  }
  return all;
}

Json key_words(job::Units units) {
  Json all = Json::object();
  all[std::string(kNamed)] = {{"word", ""},
                              {"type", "number"},
                              {"unit", ""},
                              {"allowed", "a number in the units of the job, or with a unit of its own"},
                              {"meaning", "a number that other values may name"}};
  for (const job::Key& key : job::keys()) {
    Json& words =
        all[key_name(key)] = {{"word", std::string(key.path)},
                              {"type", type_of(key)},
                              {"unit", key.type == job::Type::per_inch ? "/in" : job::unit_of(key.type, units)},
                              {"allowed", job::allowed(key, std::string(job::symbol(units)))},
                              {"meaning", std::string(key.meaning)}};
    if (key.type == job::Type::choice) words["choices"] = job::words_of(key.choices);
  }
  return all;
}

std::optional<double> number_at(const job::Values& values, const std::string& path) {
  const job::Tables& tables = values.tables();
  const auto parts = job::parts_of_path(path);
  if (parts) {
    const job::Settings* settings = tables.thing(parts->head, parts->name);
    const job::Value* value = settings ? settings->find(parts->word) : nullptr;
    const job::Key* key = settings ? job::find_key(settings->section, job::without_numbers(parts->word)) : nullptr;
    return value && key ? number_of(*key, *value, tables.units) : std::nullopt;
  }
  if (const auto point = path.find('.'); point != std::string::npos) {
    const std::string word = path.substr(point + 1);
    if (path.compare(0, point, kNamed) == 0) {
      const auto named = tables.named.find(word);
      return named == tables.named.end() ? std::nullopt : std::optional(named->second);
    }
    const job::Value* value =
        path.compare(0, point, "process") == 0 && tables.process ? tables.process->find(word) : nullptr;
    if (value) return number_of(*job::find_key(job::Section::process, word), *value, tables.units);
  }
  // Of [shared] as the first gear that took it over has it.
  const std::string shared = "shared.";
  if (path.compare(0, shared.size(), shared) != 0) return std::nullopt;
  const std::string word = path.substr(shared.size());
  const job::Key* key = job::find_key(job::Section::gear, word);
  for (const job::Settings& gear : tables.gears) {
    const job::Value* value = gear.find(word);
    if (value && value->inherited && key) return number_of(*key, *value, tables.units);
  }
  return std::nullopt;
}

}  // namespace palio::desk
