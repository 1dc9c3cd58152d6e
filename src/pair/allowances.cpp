#include "palio/pair/allowances.hpp"

#include <Eigen/OrderingMethods>
#include <Eigen/SparseCore>
#include <Eigen/SparseQR>
#include <algorithm>
#include <cmath>

namespace palio::pair {

Allowances divide_thinning(std::size_t gears, const std::vector<Demand>& demands) {
  Allowances result{std::vector<double>(gears, 0.0), {}};
  if (demands.empty()) return result;
  if (demands.size() == 1) {
    const Demand& d = demands.front();
    result.thinning[d.driver] = d.total * d.driver_share;
    result.thinning[d.driven] = d.total - d.total * d.driver_share;
    return result;
  }
  // min Σ (δ − wanted)² subject to the sums, by its optimality conditions; gears that would come out negative are held
  // at 0 and the rest solved again. Each round fixes at least one gear, so it ends.
  const auto n = static_cast<Eigen::Index>(gears), k = static_cast<Eigen::Index>(demands.size());
  std::vector<bool> held(gears, false);
  double size = 0;
  for (const Demand& d : demands) size = std::max(size, std::abs(d.total));
  for (std::size_t round = 0; round <= gears; ++round) {
    // Few gears stand in many pairs: the system is sparse, and a train of a thousand costs ten times one of a hundred.
    std::vector<Eigen::Triplet<double>> filled;
    Eigen::VectorXd b = Eigen::VectorXd::Zero(n + k);
    const auto is_held = [&](Eigen::Index g) { return held[static_cast<std::size_t>(g)]; };
    for (Eigen::Index i = 0; i < n; ++i) filled.emplace_back(i, i, is_held(i) ? 1 : 1e-30);  // gears in no demand stay at 0
    for (Eigen::Index j = 0; j < k; ++j) {
      const Demand& d = demands[static_cast<std::size_t>(j)];
      const std::pair<std::size_t, double> ends[] = {{d.driver, d.total * d.driver_share}, {d.driven, d.total * (1 - d.driver_share)}};
      for (const auto& [gear, wanted] : ends) {
        const auto g = static_cast<Eigen::Index>(gear);
        filled.emplace_back(n + j, g, 1);
        if (is_held(g)) continue;
        filled.emplace_back(g, g, 1);
        filled.emplace_back(g, n + j, 1);
        b(g) += wanted;
      }
      b(n + j) = d.total;
    }
    Eigen::SparseMatrix<double> A(n + k, n + k);
    A.setFromTriplets(filled.begin(), filled.end());
    A.makeCompressed();
    Eigen::SparseQR<Eigen::SparseMatrix<double>, Eigen::COLAMDOrdering<int>> qr(A);
    const Eigen::VectorXd x = qr.solve(b);
    bool negative = false;
    for (std::size_t i = 0; i < gears; ++i) {
      result.thinning[i] = x(static_cast<Eigen::Index>(i));
      if (!held[i] && result.thinning[i] < -1e-12 * std::max(1.0, size)) held[i] = negative = true;
    }
    if (!negative) break;
  }
  for (std::size_t j = 0; j < demands.size(); ++j) {
    const Demand& d = demands[j];
    const double sum = result.thinning[d.driver] + result.thinning[d.driven];
    if (!(std::abs(sum - d.total) <= 1e-10 * std::max(1.0, size))) result.unmet.push_back(j);
  }
  std::vector<bool> asked(gears, false);
  for (const Demand& d : demands) asked[d.driver] = asked[d.driven] = true;
  for (std::size_t i = 0; i < gears; ++i) result.thinning[i] = asked[i] ? std::max(0.0, result.thinning[i]) : 0.0;
  return result;
}

}  // namespace palio::pair
