// What a job says of readings: the tables [expect] and [want]. Private to the values.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "node.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

/// A text of [expect] in its parts: "at least 2" has words and a number, "11.598 ± 0.01" two numbers with a sign
/// between.
struct SaidParts {
  std::string words, first, sign, second;  // empty where there is none; without blanks around
};
SaidParts parts_of_said(const std::string& text);

/// \param node   the table [expect], tables within tables: paths
/// \param named  of [values]
std::vector<Expected> read_expected(const Node& node, const std::map<std::string, double>& named, Mistakes& mistakes);

/// The table [want]: as [expect], but a number is meant exactly; also "greatest", "least", and lists of such texts.
std::vector<Wanted> read_wanted(const Node& node, const std::map<std::string, double>& named, Mistakes& mistakes);

}  // namespace palio::job
