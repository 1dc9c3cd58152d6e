// Two external cylindrical gears on parallel axes: distance, play, contact, and where each has to stand.
//
// Notation (ISO 21771): a center distance, α_w working transverse pressure angle, j play, L = a sin α_w the length of
// the line of action between its two points of tangency, T tangent lengths on it counted from those points; indices
// 1 driver, 2 driven. Derivations: docs/theory/pair.md.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "palio/angle.hpp"
#include "palio/gear/cylindrical.hpp"

namespace palio::pair {

/// r₁ + r₂ [mm].
double reference_center_distance(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven);

/// The distance without play for the nominal shifts x (allowances left aside) [mm]; none when no mesh exists
/// (the shifts are so negative that inv α_w would be).
std::optional<double> zero_play_center_distance(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven);

/// Whether the two can mesh at all: same normal module, pressure angle and helix. The findings say what differs.
std::vector<Finding> mismatches(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven, const std::string& subject);

/// Total thinning Σ(x − x_E) [modules] that gives the play `backlash` (circumferential, at the working pitch circle)
/// [mm] at center distance `a` [mm]; negative when the play is already wider.
/// \throws InvalidParameter "center_distance" when the pair has no mesh there
double thinning_for_backlash(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven, double a, double backlash);

/// The gears as they run: everything that depends on both.
class ParallelPair {
 public:
  /// \param center_distance  as mounted [mm]
  /// \throws InvalidParameter "center_distance" when it is not above (r_b1 + r_b2), where the line of action ends
  ParallelPair(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven, double center_distance);

  const gear::CylindricalGear& driver() const noexcept { return driver_; }
  const gear::CylindricalGear& driven() const noexcept { return driven_; }
  double center_distance() const noexcept { return a_; }
  double gear_ratio() const noexcept;  ///< z₂/z₁
  Angle working_pressure_angle() const noexcept { return Angle::radians(alpha_w_); }
  std::array<double, 2> working_pitch_diameters() const noexcept;  ///< [mm]

  double circumferential_backlash() const noexcept { return play_; }  ///< j_wt, exact (theory 2.2) [mm]
  double normal_backlash() const noexcept;                            ///< j_bn [mm]
  std::array<double, 2> angular_backlash() const noexcept;            ///< of each with the other held [rad]

  double line_of_action() const noexcept { return L_; }       ///< between the points of tangency [mm]
  double contact_begin() const noexcept { return T_begin_; }  ///< T on the driver where contact begins [mm]
  double contact_end() const noexcept { return T_end_; }      ///< and ends
  double contact_path_length() const noexcept;                ///< 0 or more [mm]
  double transverse_contact_ratio() const noexcept;
  double overlap_ratio() const noexcept;  ///< over the common face, mid-faces aligned

  std::array<double, 2> tip_clearance() const noexcept;  ///< at the driver's tip, at the driven's tip [mm]
  /// ζ = 1 − (speed ratio of the flanks): [driver, driven][where contact starts, where it ends]; −∞ at a base circle.
  std::array<std::array<double, 2>, 2> specific_sliding() const noexcept;

  std::vector<Finding> findings(const std::string& subject, const std::string& driver_subject, const std::string& driven_subject) const;

 private:
  gear::CylindricalGear driver_, driven_;
  double a_, alpha_w_, play_, L_, T_begin_, T_end_;
};

/// Rotation of the driven gear [rad, in one pitch around 0] that puts one of its spaces before a tooth of the driver:
/// at the pitch point, tooth of one meets space of the other, the play shared evenly to both sides.
/// \param driver_phase  rotation of the driver: 0 has a tooth on +x [rad]
/// \param direction     from the driver's axis to the driven's [rad]
double driven_phase(int driver_teeth, int driven_teeth, double driver_phase, double direction);

}  // namespace palio::pair
