// What is measured on a finished gear: over teeth, over balls and pins, along a chord (theory 1.10-1.12).
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {

using math::arcinv;
using math::inv;

Span CylindricalGear::span(std::optional<int> teeth) const {
  const double m = spec_.module, alpha_n = spec_.pressure_angle.radians(), z = spec_.teeth;
  const double inv_t = inv(sizes_.transverse_pressure_angle.radians()), x_E = sizes_.generating_profile_shift;
  const double tan_n = std::tan(alpha_n), cos_n = std::cos(alpha_n), d_b = sizes_.base_diameter;
  if (!teeth) {
    const double target = std::max(sizes_.reference_diameter + 2 * x_E * m, d_b);
    const double ideal =
        (std::sqrt((target - d_b) * (target + d_b)) / (std::cos(sizes_.base_helix_angle.radians()) * m * cos_n) -
         z * inv_t - 2 * x_E * tan_n) /
            kPi +
        0.5;
    // Exact ties (z = 9, 18, … at 20°) come out a few ε to either side: nudge, so that halves round up.
    teeth = std::max(1, static_cast<int>(std::floor(ideal + 0.5 + math::kAlike)));
  }
  const double length = m * cos_n * ((*teeth - 0.5) * kPi + z * inv_t + 2 * x_E * tan_n);
  return {*teeth, length, std::hypot(d_b, length * std::cos(sizes_.base_helix_angle.radians()))};
}

OverBalls CylindricalGear::over_balls(std::optional<double> diameter) const {
  const double d = sizes_.reference_diameter, d_b = sizes_.base_diameter, m = spec_.module, sign = internal() ? -1 : 1;
  const double inv_t = inv(sizes_.transverse_pressure_angle.radians());
  const double cos_bb = std::cos(sizes_.base_helix_angle.radians());
  const double space = kPi * sizes_.transverse_module - sizes_.transverse_tooth_thickness;
  if (!diameter) {
    const double wanted = d + sign * 2 * sizes_.generating_profile_shift * m;
    const double d_v = internal() ? std::clamp(wanted, std::max(d_b * 1.0001, sizes_.tip_form_diameter),
                                               std::max(d_b * 1.0002, sizes_.root_form_diameter))
                                  : std::clamp(wanted, d_b * 1.0001, sizes_.tip_diameter);
    // The ball's centre lies in the middle of the space, at the end of the string that carries the touching point.
    const double tan_v = tangent_at(d_v, d_b) / d_b, alpha_K = tan_v + sign * (space / d) - inv_t;
    const double ideal = sign * d_b * cos_bb * (std::tan(std::clamp(alpha_K, 0.0, 1.4)) - tan_v);
    diameter = std::max(0.05, std::round(ideal / 0.05) * 0.05);
  }
  const double alpha_K = arcinv(std::max(0.0, inv_t + sign * (*diameter / (d_b * cos_bb) - space / d)));
  const double d_K = d_b / std::cos(alpha_K);
  const double across = spec_.teeth % 2 == 0 ? d_K : d_K * std::cos(kPi / (2 * spec_.teeth));
  return {*diameter, across + sign * *diameter};
}

std::optional<OverBalls> CylindricalGear::over_pins(std::optional<double> diameter) const {
  OverBalls pins = over_balls(diameter);
  if (spec_.helix_angle.radians() == 0) return pins;
  if (internal()) return std::nullopt;
  // Two pins in spaces that are not opposite slide along the helix until their axes' distance is that of the circle.
  if (spec_.teeth % 2 != 0)
    pins.length = (pins.length - pins.pin_diameter) / std::cos(kPi / (2 * spec_.teeth)) + pins.pin_diameter;
  return pins;
}

ChordalTooth CylindricalGear::chordal() const {
  const double d = sizes_.reference_diameter, beta = spec_.helix_angle.radians();
  const double psi = sizes_.transverse_tooth_thickness / d, c2 = std::pow(std::cos(beta), 2);
  const double height = (sizes_.tip_diameter - d * std::cos(psi * c2)) / 2;
  return {d * std::hypot(std::sin(psi * c2), psi * std::sin(beta) * std::cos(beta)), internal() ? -height : height};
}

}  // namespace palio::gear
