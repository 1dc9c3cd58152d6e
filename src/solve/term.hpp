// What is wanted or measured: the number at a path, or an arithmetic of several. Private to solve.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/readings/reading.hpp"

namespace palio::solve {

/// "pair.p.center_distance", or "pair.a.gear_ratio * pair.b.gear_ratio".
class Term {
 public:
  /// \throws InvalidParameter "path"  where it is no arithmetic
  explicit Term(std::string said);

  const std::string& said() const noexcept { return said_; }
  const std::vector<std::string>& paths() const noexcept { return paths_; }
  /// In the units of the job, degrees. None where a path is there and has no finite number.
  /// \throws InvalidParameter "path"  where the design has nothing there
  std::optional<double> of(const job::Design& design, job::Inquiry& inquiry) const;
  /// Of numbers for its paths, in their order.
  double of(const std::vector<double>& numbers) const;
  /// The unit of a single path: "mm", "°"; empty of an arithmetic.
  std::string unit(job::Units units) const;

  /// One factor of a product: the place of its path, and +1 or −1.
  using Factor = std::pair<std::size_t, int>;
  /// Where it is a product and quotient of paths, without numbers or sums between them.
  const std::optional<std::vector<Factor>>& factors() const noexcept { return factors_; }

 private:
  std::string said_, formula_;  // the formula with names v0, v1 … for the paths
  std::vector<std::string> paths_;
  std::optional<std::vector<Factor>> factors_;
};

/// The reading at a path, or the value of a key that no reading repeats.
/// \throws InvalidParameter "path"
std::optional<double> number_at(const job::Design& design, job::Inquiry& inquiry, const std::string& path);

}  // namespace palio::solve
