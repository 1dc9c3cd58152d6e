// Curves that rolling circles draw.
#include <cmath>

#include "complex.hpp"
#include "palio/angle.hpp"
#include "taylor.hpp"

namespace palio::curve {

namespace {

/// What the derivative of a cycloid is made of: p' = A e^{iφ}, A = 2 reach sin(u/2) − q turning, φ' = turning.
struct Rolling {
  double s, k, turning, reach;
  explicit Rolling(const Cycloid& c)
      : s(c.outside ? 1 : -1),
        k(c.rolling_radius / c.pitch_radius),
        turning(k + s / 2),
        reach(s * c.rolling_radius * (1 + s * k)) {}
};

}  // namespace

double Cycloid::speed(double u) const {
  const Rolling r(*this);
  return 2 * r.reach * std::sin(u / 2) - distance * r.turning;
}

Vec2 Cycloid::direction(double u) const { return from_polar(1, start + sense * Rolling(*this).turning * u); }

std::optional<double> Cycloid::fold() const {
  const Rolling r(*this);
  const double sine = distance * r.turning / (2 * r.reach);
  if (!(sine > 0)) return std::nullopt;
  return sine < 1 ? 2 * std::asin(sine) : kPi;
}

Jet Cycloid::jet(double u) const {
  const Rolling r(*this);
  const double s = r.s, theta = r.k * u, phi = theta + s * u / 2, turning = r.turning, A = speed(u),
               A1 = r.reach * std::cos(u / 2);
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
