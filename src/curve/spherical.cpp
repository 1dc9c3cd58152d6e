// Curves on the unit sphere, by the stereographic projection about a gear's axis.
#include "complex.hpp"
#include "taylor.hpp"

namespace palio::curve {
Jet SphericalInvolute::jet(double v) const {
  const double S = std::sin(base_cone), C = std::cos(base_cone), sigma = v * S, c = std::cos(sigma),
               s = std::sin(sigma);
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
  const Taylor<double> sr = constant(std::sin(corner_radius)), cr = constant(std::cos(corner_radius)),
                       f = over(sr, across);
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
