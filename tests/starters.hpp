// The starter jobs by name.
#pragma once

#include <string>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::test {

inline std::vector<std::string> starters() {
  std::vector<std::string> names;
  std::string all = job::starter_kinds();
  for (std::size_t at = all.find(", "); at != std::string::npos; at = all.find(", ")) {
    names.push_back(all.substr(0, at));
    all.erase(0, at + 2);
  }
  names.push_back(all);
  return names;
}

}  // namespace palio::test
