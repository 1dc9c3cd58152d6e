// Bracketed root finding and the involute function, on Boost.Math.
#pragma once

#include <functional>

namespace palio::math {

/// A root of `f` between `lo` and `hi`, to the last bits of a double (TOMS 748).
/// The values at the ends must differ in sign; an end that is exactly zero is the answer.
/// \throws NoConvergence when they do not, naming the bracket and both values
double find_root(const std::function<double(double)>& f, double lo, double hi);
/// The same where the values at the ends are known: they are not asked for again.
double find_root(const std::function<double(double)>& f, double lo, double hi, double at_lo, double at_hi);

/// inv α = tan α − α, for α in [0, π/2) [rad].
double inv(double alpha) noexcept;

/// The α ≥ 0 [rad] with inv α = `value` ≥ 0: safeguarded Newton from (3·value)^{1/3}. Relative error a few ε.
/// \throws InvalidParameter "involute" when value < 0 or not finite: no such angle exists
double arcinv(double value);

}  // namespace palio::math
