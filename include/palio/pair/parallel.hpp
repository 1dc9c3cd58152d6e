// Two cylindrical gears on parallel axes, external or internal, or a gear and a rack: distance, play, contact, and
// where each has to stand.
//
// Notation (ISO 21771): a center distance, α_w working transverse pressure angle, j play, L = a sin α_w the length of
// the line of action between its two points of tangency, T tangent lengths on it counted from those points; indices
// 1 driver, 2 driven. Internal pairs: Σz = z of the pinion − z of the ring. A rack's "center distance" is from the
// gear's axis to the rack's reference line. Derivations: docs/theory/pair.md.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "palio/angle.hpp"
#include "palio/gear/teeth.hpp"

namespace palio::pair {

/// r₁ + r₂, for internal pairs |r₁ − r₂|, for a rack r of the gear [mm].
double reference_center_distance(const gear::Teeth& driver, const gear::Teeth& driven);

/// The distance without play for the nominal shifts x (allowances left aside) [mm]; none when no mesh exists
/// (the shifts are such that inv α_w would be negative).
std::optional<double> zero_play_center_distance(const gear::Teeth& driver, const gear::Teeth& driven);

/// The least distance at which there is a line of action [mm]: the sum (difference) of the base radii; 0 for a rack.
double least_center_distance(const gear::Teeth& driver, const gear::Teeth& driven);

/// Whether the two can mesh at all on parallel axes: module, pressure angle, helix, hands, kinds. The findings say what
/// differs.
std::vector<Finding> parallel_mismatches(const gear::Teeth& driver, const gear::Teeth& driven,
                                         const std::string& subject);

/// Total thinning Σ(x − x_E) [modules] that gives the play `backlash` (circumferential, at the working pitch circle)
/// [mm] at center distance `a` [mm]; negative when the play is already wider.
/// \throws InvalidParameter "center_distance" when the pair has no mesh there
double thinning_for_backlash(const gear::Teeth& driver, const gear::Teeth& driven, double a, double backlash);

/// Where two faces lie on each other along the axis.
struct CommonFace {
  double from, to;  ///< z, the driver's mid-face being 0; of a double helical pair the upper half, from the apex [mm]
  double width() const noexcept { return to > from ? to - from : 0; }
};
CommonFace common_face(const gear::Teeth& driver, const gear::Teeth& driven, double axial_offset);

/// The gears as they run: everything that depends on both.
class ParallelPair {
 public:
  /// \param center_distance  as mounted [mm]
  /// \param axial_offset     of the driven's mid-face against the driver's [mm]
  /// \throws InvalidParameter "center_distance" when there is no line of action
  ParallelPair(const gear::Teeth& driver, const gear::Teeth& driven, double center_distance, double axial_offset = 0);

  const gear::Teeth& driver() const noexcept { return driver_; }
  const gear::Teeth& driven() const noexcept { return driven_; }
  double center_distance() const noexcept { return a_; }
  bool internal() const noexcept { return driver_.internal() || driven_.internal(); }
  bool with_rack() const noexcept { return driver_.is_rack() || driven_.is_rack(); }
  double gear_ratio() const noexcept;  ///< z₂/z₁
  /// Coordinate of the driven per coordinate of the driver, signed: rad, or mm along −x for a rack.
  double motion_ratio() const noexcept;
  Angle working_pressure_angle() const noexcept { return Angle::radians(alpha_w_); }
  std::array<double, 2> working_pitch_diameters() const noexcept;  ///< [mm]; NaN for a rack

  double circumferential_backlash() const noexcept { return play_; }  ///< j_wt, exact (theory 2.2) [mm]
  double normal_backlash() const noexcept;                            ///< j_bn [mm]
  std::array<Angle, 2> angular_backlash() const noexcept;             ///< of each with the other held; NaN for a rack
  /// Play of the driven in its own coordinate: rad, or mm for a rack.
  double driven_play() const noexcept;

  double line_of_action() const noexcept { return L_; }  ///< between the points of tangency [mm]; infinite for a rack
  double contact_begin() const noexcept {
    return T_begin_;
  }  ///< T on the driver (or on the gear that drives or is driven by a rack) where contact begins [mm]
  double contact_end() const noexcept { return T_end_; }  ///< and ends
  double contact_path_length() const noexcept;            ///< 0 or more [mm]
  /// T on the other gear where one of them (the driver, or the driven) has T; of a rack that place's height [mm].
  double mate_tangent(bool of_driver, double T) const noexcept;
  double transverse_contact_ratio() const noexcept;
  double overlap_ratio() const noexcept;  ///< over the common face (of one half, when double helical)
  CommonFace face() const noexcept { return face_; }

  std::array<double, 2> tip_clearance() const noexcept;  ///< at the driver's tip, at the driven's tip [mm]
  /// ζ = 1 − (speed ratio of the flanks): [driver, driven][where contact starts, where it ends]; −∞ at a base circle.
  std::array<std::array<double, 2>, 2> specific_sliding() const noexcept;

  std::vector<Finding> findings(const std::string& subject, const std::string& driver_subject,
                                const std::string& driven_subject) const;

 private:
  gear::Teeth driver_, driven_;
  double a_, alpha_w_ = 0, play_ = 0, L_ = 0, T_begin_ = 0, T_end_ = 0;
  CommonFace face_;
};

/// How far the pinion's teeth run into the ring's tips when it is pushed in radially, turned as it will stand (theory
/// 2.6 iii) [mm at the ring's tip circle]; 0 or less when it can be.
double radial_assembly_clash(const gear::CylindricalGear& pinion, const gear::CylindricalGear& ring,
                             Angle working_angle);

/// Coordinate of the driven [rad, or mm for a rack; within one pitch around 0] that puts one of its spaces before a
/// tooth of the driver: at the pitch point, tooth of one meets space of the other, the play shared evenly to both
/// sides. \param driver_phase  coordinate of the driver: 0 has a tooth on +x (a ring: a space) [rad, or mm for a rack]
/// \param direction     from the driver's axis to the pitch point
double driven_phase(const gear::Teeth& driver, const gear::Teeth& driven, double driver_phase, Angle direction);

}  // namespace palio::pair
