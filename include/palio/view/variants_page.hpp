// Many jobs to flip through, with their teeth and what is doubtful.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::view {

/// One job of many.
struct Leaf {
  std::string name;
  std::vector<std::pair<std::string, std::string>> cells;  ///< head and what stands below it
  std::vector<std::string> doubts;
  std::string problem;                  ///< why there is no such job
  const job::Design* design = nullptr;  ///< drawn where it is given
};

/// A page of thumbnails; one leaf large, the keys ← and → go on. Pictures are worked out on all cores.
/// \param heading  "vent.toml over table.csv"
std::string variants_page(const std::string& heading, const std::vector<Leaf>& leaves);

}  // namespace palio::view
