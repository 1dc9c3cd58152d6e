// Values with their first two derivatives by one parameter: for curves whose formulas are long. Private to the curves.
#pragma once

#include <cmath>
#include <complex>

#include "palio/curve/segment.hpp"

namespace palio::curve {

template <class T>
struct Taylor {
  T value, d1, d2;
};

template <class A, class B>
auto operator*(const Taylor<A>& a, const Taylor<B>& b) {
  using T = decltype(a.value * b.value);
  return Taylor<T>{a.value * b.value, a.d1 * b.value + a.value * b.d1,
                   a.d2 * b.value + 2.0 * (a.d1 * b.d1) + a.value * b.d2};
}
template <class T>
Taylor<T> operator+(const Taylor<T>& a, const Taylor<T>& b) {
  return {a.value + b.value, a.d1 + b.d1, a.d2 + b.d2};
}
template <class T>
Taylor<T> over(const Taylor<T>& a, const Taylor<double>& b) {
  const T q = a.value / b.value, q1 = (a.d1 - q * b.d1) / b.value;
  return {q, q1, (a.d2 - 2.0 * q1 * b.d1 - q * b.d2) / b.value};
}
inline Taylor<double> root(const Taylor<double>& a) {
  const double r = std::sqrt(a.value), r1 = a.d1 / (2 * r);
  return {r, r1, (a.d2 - 2 * r1 * r1) / (2 * r)};
}
inline Taylor<double> constant(double c) { return {c, 0, 0}; }
inline Taylor<std::complex<double>> complex(const Taylor<double>& x, const Taylor<double>& y) {
  return {{x.value, y.value}, {x.d1, y.d1}, {x.d2, y.d2}};
}

/// A jet turned by `turn`, mirrored at the x axis before where `sense` is −1.
inline Jet jet_of(const Taylor<std::complex<double>>& p, int sense, double turn) {
  const std::complex<double> place = std::polar(1.0, turn);
  const auto vec = [&](std::complex<double> z) {
    z = place * (sense < 0 ? std::conj(z) : z);
    return Vec2(z.real(), z.imag());
  };
  return {vec(p.value), vec(p.d1), vec(p.d2)};
}

}  // namespace palio::curve
