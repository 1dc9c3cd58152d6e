// Dividing the thinning that backlash asks for among the gears of all pairs at once.
#pragma once

#include <cstddef>
#include <vector>

namespace palio::pair {

/// One pair's demand.
struct Demand {
  std::size_t driver, driven;  ///< gear numbers
  double total;                ///< δ_driver + δ_driven it needs (in modules of shift), 0 or more
  double driver_share;         ///< the driver's wanted fraction of it, 0…1
};

struct Allowances {
  std::vector<double> thinning;    ///< δ of each gear, 0 or more; 0 for gears in no demand
  std::vector<std::size_t> unmet;  ///< demands that cannot hold together with the others; empty on success
};

/// Finds δ_i ≥ 0 with δ_driver + δ_driven = total for every demand, as near to the wanted shares as can be (least
/// squares). A gear in one pair gets exactly its share; a gear in several keeps one δ that suits all.
Allowances divide_thinning(std::size_t gears, const std::vector<Demand>& demands);

}  // namespace palio::pair
