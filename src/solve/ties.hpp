// What the gears of a pair have to share: a value left open on both sides is one unknown. Private to solve.
#pragma once

#include <cstddef>
#include <vector>

#include "palio/values/values.hpp"

namespace palio::solve {

/// One number as a sum over others.
struct Linear {
  double constant = 0;
  std::vector<double> slopes;  // of each unknown
};

/// Module, pitch and pressure angle are those of the mate; helix angles too, or on crossed shafts make up the shaft
/// angle with it.
class Ties {
 public:
  explicit Ties(const job::Tables& tables);

  /// Whether it follows from the others.
  bool tied(std::size_t unknown) const { return tied_[unknown]; }
  /// Fills in those that follow from the others.
  void complete(std::vector<double>& numbers) const;

 private:
  /// Of the sum that has to be 0, one unknown follows.
  void hold(Linear zero);

  std::vector<Linear> are_;
  std::vector<bool> tied_;
};

}  // namespace palio::solve
