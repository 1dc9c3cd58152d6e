// What a drawing says of readings: the table [expect]. Private to the values.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "node.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

/// \param node   the table [expect], tables within tables: paths
/// \param named  of [values]
std::vector<Expected> read_expected(const Node& node, const std::map<std::string, double>& named, Mistakes& mistakes);

}  // namespace palio::job
