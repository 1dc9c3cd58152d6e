// Two bevel gears with a common apex. Everything happens on spheres about it.
//
// Σ: shaft angle, between the axes as they point from the apex to the teeth; δ: cone angles, p pitch, b base; σ: arcs
// along the path of contact, a great circle tangent to both base cones, on which σ₁ + σ₂ = σ₁p + σ₂p. R_e: outer cone
// distance. Plays are those at the outer cone. Derivations: docs/theory/bevel.md.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "palio/gear/bevel.hpp"

namespace palio::pair {

/// The pitch cones of z₁ and z₂ teeth at shaft angle Σ: tan δ₁ = sin Σ/(z₂/z₁ + cos Σ), δ₂ = Σ − δ₁. A cone
/// angle above π/2 is that of an internal gear.
std::array<Angle, 2> pitch_cones(int z1, int z2, Angle shaft_angle);

/// Whether the two can mesh: same module and pressure angle, pitch cones that add up to the shaft angle.
std::vector<Finding> bevel_mismatches(const gear::BevelGear& driver, const gear::BevelGear& driven, Angle shaft_angle,
                                      const std::string& subject);

class BevelPair {
 public:
  BevelPair(const gear::BevelGear& driver, const gear::BevelGear& driven, Angle shaft_angle);

  const gear::BevelGear& driver() const noexcept { return driver_; }
  const gear::BevelGear& driven() const noexcept { return driven_; }
  Angle shaft_angle() const noexcept { return Angle::radians(sigma_); }
  double gear_ratio() const noexcept;                      ///< z₂/z₁
  double motion_ratio() const noexcept;                    ///< −z₁/z₂, each turn seen against its own axis
  double circumferential_backlash() const noexcept;        ///< π m less both thicknesses [mm]
  double normal_backlash() const noexcept;                 ///< times cos α
  std::array<Angle, 2> angular_backlash() const noexcept;  ///< of each with the other held
  std::array<double, 2> tip_clearance() const noexcept;  ///< at the driver's tip, at the driven's tip, at the heel [mm]
  /// In the section at the driver's cone distance R: the driver's σ along the usable path over its base pitch.
  double contact_ratio(double cone_distance) const;
  /// The driver's σ where contact begins and ends there [rad].
  std::array<double, 2> path(double cone_distance) const;
  /// Directions of the path of contact in the driver's frame, pitch element towards +x, on the flank that the driver
  /// turning counter-clockwise drives with, at the driver's σ.
  Vec3 path_direction(double sigma) const;

  std::vector<Finding> findings(const std::string& subject, const std::string& driver_subject,
                                const std::string& driven_subject) const;

 private:
  gear::BevelGear driver_, driven_;
  double sigma_, sum_;
};

/// A tooth of the driver at azimuth `driver_phase`: where a tooth of the driven then stands, so that both flanks have
/// the same play. The driven's axis lies in `direction` about the driver's.
double bevel_driven_phase(int z1, int z2, double driver_phase, Angle direction);

}  // namespace palio::pair
