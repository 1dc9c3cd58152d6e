// What was measured: the tables [[measured]]. Private to the values.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "node.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

std::vector<Measurement> read_measured(const Node& node, Units units, const std::map<std::string, double>& named,
                                       Mistakes& mistakes);

}  // namespace palio::job
