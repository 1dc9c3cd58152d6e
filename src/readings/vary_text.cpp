// What was varied as a table for people, as CSV and as JSON.
#include <fmt/format.h>

#include "palio/readings/vary.hpp"
#include "quantities.hpp"

namespace palio::job {

std::string vary_csv(const Varied& v) {
  std::string text;
  const auto quoted = [](std::string s) {
    for (auto at = s.find('"'); at != std::string::npos; at = s.find('"', at + 2))
      s.replace(at, 1, "\"\"");
    return s.find_first_of(",\"\n") == std::string::npos ? s : "\"" + s + "\"";
  };
  for (const std::string& k : v.keys)
    text += k + ",";
  for (std::size_t i = 0; i < v.shows.size(); ++i)
    text += v.shows[i] + (v.units[i].empty() ? "" : " [" + v.units[i] + "]") + ",";
  text += "findings\n";
  for (const VaryRow& row : v.rows) {
    for (const double a : row.at)
      text += fmt::format("{},", a);
    for (const auto& value : row.values)
      text += value ? fmt::format("{},", *value) : ",";
    std::string all = row.impossible.empty() ? "" : "impossible: " + row.impossible;
    for (const std::string& f : row.findings)
      all += (all.empty() ? "" : "; ") + f;
    text += quoted(all) + "\n";
  }
  return text;
}

std::string vary_json(const Varied& v) {
  Json root;
  root["keys"] = v.keys;
  root["shown"] = Json::array();
  for (std::size_t i = 0; i < v.shows.size(); ++i)
    root["shown"].push_back({{"key", v.shows[i]}, {"unit", v.units[i]}});
  root["rows"] = Json::array();
  for (const VaryRow& row : v.rows) {
    Json j;
    j["at"] = row.at;
    j["values"] = Json::array();
    for (const auto& value : row.values)
      j["values"].push_back(value ? Json(*value) : Json(nullptr));
    j["findings"] = row.findings;
    if (!row.impossible.empty()) j["impossible"] = row.impossible;
    root["rows"].push_back(j);
  }
  if (!v.without_effect.empty()) root["without_effect"] = v.without_effect;
  root["limits"] = Json::array();
  for (const VaryLimit& l : v.limits)
    root["limits"].push_back({{"at", l.at}, {"holds", l.above ? "above" : "below"}, {"what", l.what}});
  return root.dump(2) + "\n";
}

std::string vary_text(const Varied& v) {
  std::string text;
  for (std::size_t i = 0; i < v.shows.size(); ++i)
    text += fmt::format("  [{}] {}{}\n", i + 1, v.shows[i], v.units[i].empty() ? "" : " in " + v.units[i]);
  text += "\n";
  for (const std::string& k : v.keys)
    text += fmt::format("{:>26}", k);
  for (std::size_t i = 0; i < v.shows.size(); ++i)
    text += fmt::format("{:>14}", fmt::format("[{}]", i + 1));
  text += "   findings\n";
  for (const VaryRow& row : v.rows) {
    for (const double a : row.at)
      text += fmt::format("{:>26.6g}", a);
    for (const auto& value : row.values)
      text += value ? fmt::format("{:>14.6g}", *value) : fmt::format("{:>14}", "-");
    std::string all = row.impossible.empty() ? "" : "cannot be made: " + row.impossible;
    for (const std::string& f : row.findings)
      all += (all.empty() ? "" : ", ") + f;
    text += "   " + all + "\n";
  }
  for (const VaryLimit& l : v.limits)
    text += fmt::format("\n{} {} {} {:.6g}", l.what, l.above ? "above" : "below", v.keys[0], l.at);
  if (!v.limits.empty()) text += "\n";
  if (!v.without_effect.empty())
    text +=
        fmt::format("\n{} has no effect on this job: its whole report is the same in every row\n", v.without_effect);
  return text;
}

}  // namespace palio::job
