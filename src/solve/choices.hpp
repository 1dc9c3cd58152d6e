// Whole numbers and lists: all choices, with bounds that prune. Private to solve.
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "question.hpp"

namespace palio::solve {

/// Numbers of the unknowns that are one of a list, in their order.
using Choice = std::vector<double>;

struct Choices {
  std::vector<Choice> all;
  std::size_t count = 0;    ///< of all that there are, also those that were not kept
  bool pruned = false;      ///< wants of tooth counts alone were held to on the way
  bool only_teeth = false;  ///< they are all the wants there are
};

/// All choices that can meet the wants of tooth counts alone (products and quotients of gear ratios and teeth), each
/// miss of one allowed to be `room` of its scale. Where these are all the wants there are and nothing is continuous,
/// only the `most` with the fewest teeth are kept, and more than can be gone through are counted by the widest want.
/// \param chosen  which wants count
/// \throws InvalidParameter "find"  where there are more than can be looked into
Choices choices(const Question& question, const std::vector<bool>& chosen, double room, std::size_t most);

}  // namespace palio::solve
