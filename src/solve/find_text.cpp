// What was found, in words and for scripts.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/readings/reading.hpp"
#include "palio/solve/find.hpp"
#include "table.hpp"

namespace palio::solve {
namespace {

using Json = nlohmann::ordered_json;

Json json_of(const Solution& s) {
  Json values = Json::object(), wants = Json::object();
  for (const auto& [path, number] : s.values) {
    if (number == std::round(number) && std::abs(number) < 1e15)
      values[path] = static_cast<std::int64_t>(number);
    else
      values[path] = number;
  }
  for (const Solution::Want& w : s.wants)
    wants[w.path] = {{"is", w.is}, {"holds", w.holds}};
  return {{"values", values},
          {"wants", wants},
          {"cost", {{"decimals", s.decimals}, {"size", s.size}, {"errors", s.errors}, {"warnings", s.warnings}}}};
}

std::string number(double value) { return fmt::format("{:.8g}", value == 0 ? 0.0 : value); }

std::vector<std::string> row_of(const std::string& head, const Solution& s) {
  std::vector<std::string> row{head};
  for (const auto& value : s.values)
    row.push_back(number(value.second));
  for (const Solution::Want& w : s.wants)
    row.push_back(number(w.is) + (w.holds ? "" : " ✗"));
  row.push_back(number(s.size));
  row.push_back(s.errors > 0     ? fmt::format("{} error{}", s.errors, s.errors == 1 ? "" : "s")
                : s.warnings > 0 ? fmt::format("{} warning{}", s.warnings, s.warnings == 1 ? "" : "s")
                                 : "none");
  return row;
}

/// The heads of the columns; long paths stand above the table with a letter of their own.
std::vector<std::string> heads_of(const Solution& s, job::Units units, std::string& legend) {
  std::vector<std::string> heads{""};
  char letter = 'a';
  const auto add = [&](const std::string& path, const char* what) {
    const std::string unit = job::reading_unit(path, units);
    legend += fmt::format("  {}  {} {}{}\n", letter, what, path, unit.empty() ? "" : " [" + unit + "]");
    heads.emplace_back(1, letter);
    letter = letter == 'z' ? 'A' : static_cast<char>(letter + 1);
  };
  for (const auto& value : s.values)
    add(value.first, "found ");
  for (const Solution::Want& w : s.wants)
    add(w.path, "wanted");
  heads.push_back(fmt::format("size [{}]", job::symbol(units)));
  heads.emplace_back("doubts");
  return heads;
}

}  // namespace

namespace {

std::string idle_text(const Found& found) {
  std::string text;
  for (const std::string& path : found.idle)
    text += path + " changes nothing of what is wanted: is it said again elsewhere?\n";
  return text;
}

}  // namespace

std::string find_text(const Found& found) {
  std::string text, legend;
  if (found.solutions.empty()) {
    text = fmt::format("no values make all wants hold: {} contradict{} what is given or each other\n",
                       listed(found.contradiction), found.contradiction.size() == 1 ? "s" : "");
    if (!found.refused.empty()) text += "most values that were tried make no job: " + found.refused + "\n";
    text += idle_text(found);
    if (!found.nearest) return text;
    const auto heads = heads_of(*found.nearest, found.units, legend);
    return text + "\n" + legend + "\n" + table({heads, row_of("nearest", *found.nearest)}) +
           "\nwant what the nearest has, or leave another value open\n";
  }
  text = found.count == 1 ? "one solution\n" : fmt::format("{} solutions\n", found.count);
  text += idle_text(found);
  if (found.more_open)
    text += "the wants leave more open than they decide: round values near the usual ones are taken\n";
  std::vector<std::vector<std::string>> rows{heads_of(found.solutions[0], found.units, legend)};
  for (std::size_t i = 0; i < found.solutions.size(); ++i)
    rows.push_back(row_of(std::to_string(i + 1), found.solutions[i]));
  text += "\n" + legend + "\n" + table(rows);
  if (found.count > found.solutions.size())
    text += fmt::format("  … and {} more: --most {}\n", found.count - found.solutions.size(), found.count);
  return text +
         "\nsize: reference circles added up; best first: without errors, roundest and most standard, smallest\n";
}

std::string find_json(const Found& found) {
  Json solutions = Json::array();
  for (const Solution& s : found.solutions)
    solutions.push_back(json_of(s));
  Json all{{"solutions", solutions},
           {"count", found.count},
           {"choices", found.choices},
           {"more_open", found.more_open},
           {"idle", found.idle}};
  if (found.solutions.empty()) {
    all["contradiction"] = found.contradiction;
    all["refused"] = found.refused;
    all["nearest"] = found.nearest ? json_of(*found.nearest) : Json(nullptr);
  }
  return all.dump(2) + "\n";
}

}  // namespace palio::solve
