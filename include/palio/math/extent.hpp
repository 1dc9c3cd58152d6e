// From where to where: what a search for the least or the greatest begins with.
#pragma once

#include <algorithm>
#include <limits>

namespace palio::math {

/// Where a running least begins (a greatest: minus it): whatever is found is less.
inline constexpr double kInfinite = std::numeric_limits<double>::infinity();

/// Least and greatest of the numbers held so far.
class Extent {
 public:
  void hold(double x) noexcept { low_ = std::min(low_, x), high_ = std::max(high_, x); }
  bool empty() const noexcept { return low_ > high_; }
  double low() const noexcept { return low_; }    ///< infinite while empty
  double high() const noexcept { return high_; }  ///< minus infinite while empty
  double size() const noexcept { return high_ - low_; }
  double middle() const noexcept { return 0.5 * (low_ + high_); }

 private:
  double low_ = kInfinite, high_ = -kInfinite;
};

}  // namespace palio::math
