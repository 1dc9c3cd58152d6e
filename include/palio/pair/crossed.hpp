// Two helical gears on crossed axes: screw gears. They touch in a point.
//
// Notation as for parallel pairs. Shaft angle Σ = β₁ + β₂, right hand positive: same hands add. The driver's axis is z;
// seen along the common normal, from the driver to the driven, the driven's axis is z turned by −Σ about it. α_n, m_n
// and the common rack belong to the normal section. Derivations: docs/theory/crossed.md.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "palio/gear/teeth.hpp"

namespace palio::pair {

/// Below this shaft angle a pair counts as parallel.
inline constexpr Angle kParallel = Angle::radians(1e-6);

/// Whether the two can mesh at the shaft angle: external, same normal module and pressure angle, β₁ + β₂ = Σ.
std::vector<Finding> crossed_mismatches(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle,
                                        const std::string& subject);

/// Without play, for the nominal shifts: r₁ + r₂ + (x₁ + x₂) m, exactly [mm].
double crossed_center_distance(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven);

/// Total thinning Σ(x − x_E) [modules] for the circumferential play `backlash` (normal section) at distance `a` [mm].
double crossed_thinning(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven, double a,
                        double backlash);

class CrossedPair {
 public:
  /// \param axial_offset  of the driven's mid-face along its axis from the common normal [mm]
  CrossedPair(const gear::CylindricalGear& driver, const gear::CylindricalGear& driven, double center_distance,
              double axial_offset = 0);

  Angle shaft_angle() const noexcept { return Angle::radians(sigma_); }
  double center_distance() const noexcept { return a_; }
  double gear_ratio() const noexcept;    ///< z₂/z₁: from the teeth, not the diameters
  double motion_ratio() const noexcept;  ///< −z₁/z₂
  double normal_backlash() const noexcept;
  double circumferential_backlash() const noexcept;        ///< in the normal section, j_bn/cos α_n [mm]
  std::array<Angle, 2> angular_backlash() const noexcept;  ///< of each with the other held
  double circumferential_per_angle() const noexcept;       ///< circumferential play per angle of the driven [mm/rad]
  double contact_ratio() const noexcept;                   ///< cut by both faces
  double contact_path_length() const noexcept;             ///< [mm], along the line of action
  std::array<double, 2> face_needed() const noexcept;  ///< face width over which the contact point travels, uncut [mm]
  std::array<double, 2> tip_clearance() const noexcept;  ///< at the driver's tip, at the driven's tip [mm]
  double sliding_ratio()
      const noexcept;  ///< sliding speed at the pitch point per pitch speed of the driver: |sin Σ|/cos β₂
  /// Power out over power in at the pitch point; forwards, or the driven driving. 0 or less: it holds itself.
  double efficiency(double friction, bool backwards) const noexcept;

  /// The contact point at height v above the driver's reference cylinder, on the flank that the driver turning
  /// counter-clockwise drives with: in the driver's frame, the common normal being +x [mm].
  Vec3 contact_point(double v) const noexcept;
  double contact_begin() const noexcept { return v_begin_; }  ///< v where contact begins
  double contact_end() const noexcept { return v_end_; }

  std::vector<Finding> findings(const std::string& subject, const std::string& driver_subject,
                                const std::string& driven_subject, std::optional<double> friction) const;

 private:
  double along_driven(const Vec3& p) const noexcept;
  /// How deep the mate's tip edge runs into own's root; T: own's tangent length where the edge touches its flank [mm].
  std::optional<double> tip_digs(const gear::CylindricalGear& own, const gear::CylindricalGear& mate, double T) const;
  gear::CylindricalGear driver_, driven_;
  double a_, offset_, sigma_, over_;  // over_: a − r₁ − r₂
  double v_low_, v_high_;             // by the flanks
  double v_begin_, v_end_;            // cut by the faces
};

}  // namespace palio::pair
