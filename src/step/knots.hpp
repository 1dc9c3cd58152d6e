// Knots of the splines that are handed to the kernel. Private to the STEP module.
#pragma once

#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <vector>

namespace palio::step {

/// Of a spline in Bézier spans that meet at `breaks`.
inline TColStd_Array1OfReal knots(const std::vector<double>& breaks) {
  TColStd_Array1OfReal k(1, static_cast<int>(breaks.size()));
  for (std::size_t i = 0; i < breaks.size(); ++i)
    k.SetValue(static_cast<int>(i) + 1, breaks[i]);
  return k;
}
/// How often each of `count` knots stands: once more than the degree at the ends, the degree between.
inline TColStd_Array1OfInteger multiplicities(std::size_t count, int degree) {
  TColStd_Array1OfInteger m(1, static_cast<int>(count));
  m.Init(degree);
  m.SetValue(1, degree + 1), m.SetValue(static_cast<int>(count), degree + 1);
  return m;
}

}  // namespace palio::step
