// What a job's text comes to: its report, the mistakes in it, the findings of its design.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include <nlohmann/json.hpp>

#include "palio/design/design.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/report.hpp"

namespace palio::test {

inline nlohmann::json report(const std::string& text) {
  return nlohmann::json::parse(job::report_json(job::resolve(text, "job.toml"), false));
}

/// Empty where a design can be made of it.
inline std::string mistakes(const std::string& text) {
  try {
    job::resolve(text, "job.toml");
  } catch (const job::JobError& e) {
    return e.what();
  }
  return "";
}

inline bool finds(const job::Design& design, const std::string& id) {
  const std::vector<Finding> all = job::findings(design);
  return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.kind().text_id == id; });
}

}  // namespace palio::test
