// Two jobs side by side: only what differs.
#pragma once

#include <string>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// What one job says and the other otherwise, or not at all.
struct Difference {
  std::string path;  ///< "gear.pinion.teeth", "pair.stage.center_distance"
  std::string a, b;  ///< JSON, in the units of the first job: a number, a text, a list; "null" where there is none
  bool number() const;
  std::string unit;  ///< of both: "mm", "°"; empty for plain numbers and texts
};

struct Comparison {
  std::vector<Difference> values;           ///< of keys, as they hold for each gear with what it takes over
  std::vector<Difference> readings;         ///< of everything that is reported
  std::vector<std::string> only_a, only_b;  ///< gears, pairs, plates and reducers of one alone: "gear.idler"
  bool alike() const { return values.empty() && readings.empty() && only_a.empty() && only_b.empty(); }
};

/// Things of the same name are held against each other. Numbers that differ by less than rounding are alike.
Comparison compare(const Design& a, const Design& b);

std::string compare_text(const Comparison& comparison, const std::string& a, const std::string& b);
std::string compare_json(const Comparison& comparison);

}  // namespace palio::job
