// Private to the curves: what flattening and biarcs share.
#pragma once

#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cmath>
#include <cstdint>
#include <vector>

#include "palio/curve/segment.hpp"

namespace palio::curve {

void check_tolerance(double tolerance);

/// Parameters that share ∫√|κ| ds evenly over `pieces` pieces. A chord of length s strays κ s²/8.
std::vector<double> even_cuts(const Segment& segment, int pieces);

constexpr int kLooks = 8;  // see flatten.cpp

/// Largest |f| over [a, b].
template <class F>
double largest(F f, double a, double b) {
  int best = 1;
  double value = 0;
  for (int i = 1; i < kLooks; ++i) {
    const double v = std::abs(f(a + (b - a) * i / kLooks));
    if (v > value) value = v, best = i;
  }
  const double lo = a + (b - a) * (best - 1) / kLooks, hi = a + (b - a) * (best + 1) / kLooks;
  const auto negative = [&](double t) { return -std::abs(f(t)); };
  std::uintmax_t steps = 12;
  return std::max(
      value, -boost::math::tools::brent_find_minima(negative, std::min(lo, hi), std::max(lo, hi), 20, steps).second);
}

}  // namespace palio::curve
