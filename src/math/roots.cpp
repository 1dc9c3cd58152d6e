#include "palio/math/roots.hpp"

#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <cstdint>
#include <utility>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::math {

double find_root(const std::function<double(double)>& f, double lo, double hi) {
  return find_root(f, lo, hi, f(lo), f(hi));
}

double find_root(const std::function<double(double)>& f, double lo, double hi, double at_lo, double at_hi) {
  if (hi < lo) std::swap(lo, hi), std::swap(at_lo, at_hi);
  if (at_lo == 0) return lo;
  if (at_hi == 0) return hi;
  if (!(at_lo * at_hi < 0)) {
    throw NoConvergence(fmt::format("no sign change between {:.17g} (value {:.17g}) and {:.17g} (value {:.17g})", lo,
                                    at_lo, hi, at_hi));
  }
  std::uintmax_t iterations = 200;
  const auto bracket = boost::math::tools::toms748_solve(f, lo, hi, at_lo, at_hi,
                                                         boost::math::tools::eps_tolerance<double>(52), iterations);
  return 0.5 * (bracket.first + bracket.second);
}

double inv(double alpha) noexcept {
  // Below 0.02 rad tan α − α loses digits; the series tan α − α = α³/3 + 2α⁵/15 + 17α⁷/315 + 62α⁹/2835 keeps them.
  if (std::abs(alpha) < 0.02) {
    const double a2 = alpha * alpha;
    return alpha * a2 * (1.0 / 3 + a2 * (2.0 / 15 + a2 * (17.0 / 315 + a2 * (62.0 / 2835))));
  }
  return std::tan(alpha) - alpha;
}

double arcinv(double value) {
  if (!(value >= 0) || !std::isfinite(value)) {
    throw InvalidParameter("involute", fmt::format("{}", value), "an involute function value is 0 or more and finite",
                           "check the angle or distance it was made from");
  }
  if (value == 0) return 0;
  // inv is convex and increasing: Newton from above converges monotonically, and (3v)^{1/3} is above the root for
  // small v, since inv α > α³/3. For large v the root is below π/2; start there by α = atan(v + π/2).
  double alpha = std::cbrt(3 * value);
  if (alpha > 1) alpha = std::atan(value + kPi / 2);
  for (int i = 0; i < 60; ++i) {
    const double t = std::tan(alpha);
    const double step = (inv(alpha) - value) / (t * t);
    alpha -= step;
    if (std::abs(step) <= 4e-16 * alpha) break;
  }
  return alpha;
}

}  // namespace palio::math
