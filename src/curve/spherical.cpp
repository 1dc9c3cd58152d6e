// Curves on the unit sphere, by the stereographic projection about a gear's axis.
#include <complex>

#include "palio/curve/segment.hpp"

namespace palio::curve {
namespace {

using Complex = std::complex<double>;
constexpr Complex kI{0, 1};

/// A value with its first two derivatives by one parameter.
template <class T>
struct Taylor {
  T value, d1, d2;
};

template <class A, class B>
auto operator*(const Taylor<A>& a, const Taylor<B>& b) {
  using T = decltype(a.value * b.value);
  return Taylor<T>{a.value * b.value, a.d1 * b.value + a.value * b.d1, a.d2 * b.value + 2.0 * (a.d1 * b.d1) + a.value * b.d2};
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
Taylor<double> root(const Taylor<double>& a) {
  const double r = std::sqrt(a.value), r1 = a.d1 / (2 * r);
  return {r, r1, (a.d2 - 2 * r1 * r1) / (2 * r)};
}
Taylor<double> constant(double c) { return {c, 0, 0}; }
Taylor<Complex> complex(const Taylor<double>& x, const Taylor<double>& y) { return {{x.value, y.value}, {x.d1, y.d1}, {x.d2, y.d2}}; }

Jet jet_of(const Taylor<Complex>& p, int sense, double turn) {
  const Complex place = std::polar(1.0, turn);
  const auto vec = [&](Complex z) {
    z = place * (sense < 0 ? std::conj(z) : z);
    return Vec2(z.real(), z.imag());
  };
  return {vec(p.value), vec(p.d1), vec(p.d2)};
}

}  // namespace

Jet SphericalInvolute::jet(double v) const {
  const double S = std::sin(base_cone), C = std::cos(base_cone), sigma = v * S, c = std::cos(sigma), s = std::sin(sigma);
  // The terms of the numerator's derivative that do not vanish at the cusp cancel: N' = e^{iv} C² sin σ.
  const Complex turn = std::polar(1.0, v);
  const Taylor<Complex> N{turn * Complex(S * c, -s), turn * (C * C * s), turn * Complex(C * C * S * c, C * C * s)};
  return jet_of(over(N, {1 + C * c, -C * S * s, -C * S * S * c}), sense, start);
}

Jet CrownTrochoid::jet(double chi) const {
  const double sd = std::sin(pitch_cone), cd = std::cos(pitch_cone);
  // γ = π/2 + θ_c: cos γ = −sin θ_c, sin γ = cos θ_c. Coordinates along I, y and z_c.
  const double cg = -std::sin(corner_depth), sg = std::cos(corner_depth), c = std::cos(chi), s = std::sin(chi);
  const Taylor<double> Ci{sg * c, -sg * s, -sg * c}, Cy{sg * s, sg * c, -sg * s}, Cz = constant(cg);
  // n = (C (C·I) − I)/√(1 − (C·I)²), C·I being Ci.
  const Taylor<double> minus{-1, 0, 0}, across = root(constant(1) + minus * (Ci * Ci));
  const Taylor<double> sr = constant(std::sin(corner_radius)), cr = constant(std::cos(corner_radius)), f = over(sr, across);
  const Taylor<double> scale = cr + f * Ci;  // P = scale C − f I
  const Taylor<double> Pi = scale * Ci + minus * f, Py = scale * Cy, Pz = scale * Cz;
  // I = (sin δ, 0, cos δ), z_c = (cos δ, 0, −sin δ) in the gear's frame.
  const Taylor<double> x = constant(sd) * Pi + constant(cd) * Pz, z = constant(cd) * Pi + constant(-sd) * Pz;
  const double k = 1 / sd;
  const Complex turn = std::polar(1.0, -(chi - corner_angle) * k);
  const Taylor<Complex> turning{turn, -kI * k * turn, -k * k * turn};
  return jet_of(over(turning * complex(x, Py), constant(1) + z), side, centre);
}

}  // namespace palio::curve
