// Points of the plane as complex numbers. Private to the curves.
#pragma once

#include <complex>

namespace palio::curve {

using Complex = std::complex<double>;
inline constexpr Complex kI{0, 1};

}  // namespace palio::curve
