// The starter jobs by name.
#pragma once

#include <string>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::test {

inline std::vector<std::string> starters() { return job::starter_names(); }

}  // namespace palio::test
