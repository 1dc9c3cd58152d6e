// Curves that rolling circles draw.
#include "complex.hpp"
#include "taylor.hpp"

namespace palio::curve {

Jet Cycloid::jet(double u) const {
  // p' = A e^{iφ}: the tangent turns evenly, φ' = k ± ½, and its length is one sine.
  const double s = outside ? 1 : -1, k = rolling_radius / pitch_radius, theta = k * u, phi = theta + s * u / 2,
               turning = k + s / 2;
  const double reach = s * rolling_radius * (1 + s * k), A = 2 * reach * std::sin(u / 2) - distance * turning,
               A1 = reach * std::cos(u / 2);
  const Complex along = std::polar(1.0, phi);
  const Complex p = std::polar(pitch_radius + s * rolling_radius, theta) -
                    std::polar(s * rolling_radius, theta + s * u) + kI * distance * along;
  return jet_of({p, A * along, (A1 + kI * turning * A) * along}, sense, start);
}

Jet LobeCurve::jet(double t) const {
  const double N = rollers, R = circle_radius, E = eccentricity;
  const Complex once = std::polar(1.0, t), often = std::polar(1.0, N * t), between = often * std::conj(once);
  const double c = between.real(), s = between.imag();  // of (N − 1) t
  const double w = R * R + E * E * N * N - 2 * R * E * N * c;
  const double w1 = 2 * R * E * N * (N - 1) * s, w2 = 2 * R * E * N * (N - 1) * (N - 1) * c;
  const Complex a = R * once, b = E * often;
  const Taylor<Complex> p{a - b, kI * (a - N * b), -(a - N * N * b)},
      n{a - N * b, kI * (a - N * N * b), -(a - N * N * N * b)};
  const Taylor<double> S = root(Taylor<double>{w, w1, w2}), shrink = constant(-roller_radius);
  return jet_of(p + shrink * over(n, S), 1, start);
}

}  // namespace palio::curve
