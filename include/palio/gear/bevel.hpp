// Straight bevel gears with the exact spherical involute.
//
// All tooth curves are directions from the apex: curves on the unit sphere about it, drawn in the plane by the
// stereographic projection from the pole opposite the gear's axis,
//
//     p = tan(δ/2) e^{i az},   δ: angle to the axis (cone angle), az: azimuth.
//
// It keeps angles, turns circles of the sphere into circles, and a turn about the axis into a turn about the origin, so
// outlines, segments and roles are those of plane gears. Derivations: docs/theory/bevel.md.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/angle.hpp"
#include "palio/curve/profile.hpp"
#include "palio/gear/finding.hpp"
#include "palio/math/stereographic.hpp"

namespace palio::gear {

/// How the depth of the teeth runs from heel to toe.
enum class BevelDepth {
  constant_clearance,  ///< root cone to the apex; face cone parallel to the mate's root cone
  tapered,             ///< both to the apex
  parallel             ///< both parallel to the pitch cone
};
std::string_view name(BevelDepth depth) noexcept;

/// What closes the teeth at heel and toe.
enum class BevelEnds {
  cones,   ///< cones across the pitch cone (back cone, and the like one at the toe)
  spheres  ///< spheres about the apex
};

/// What is asked for. Lengths in mm; heights are measured on the back cone, thickness as an arc at the outer pitch
/// circle.
struct BevelSpec {
  int teeth = 0;                              ///< 3 or more
  double module = 0;                          ///< m, outer transverse
  Angle pressure_angle = Angle::degrees(20);  ///< α
  Angle pitch_cone;                           ///< δ, above 0, at most 90° (a crown gear)
  double face_width = 0;                      ///< along the pitch cone, below the outer cone distance
  double profile_shift = 0;                   ///< x [modules]: addendum + x, dedendum − x, thickness + 2 x tan α
  double thickness_shift = 0;                 ///< x_s [modules]: thickness + 2 x_s
  double thickness_allowance = 0;             ///< negative thins [mm]
  double addendum = 1, dedendum = 1.25;       ///< of the basic crown gear [modules]
  std::optional<double> tool_tip_radius{};    ///< [modules]; none: 0.38, or the largest that the tool allows
  std::optional<double> fillet_radius{};      ///< an arc fillet in place of the generated root, at the heel [mm]
  BevelDepth depth = BevelDepth::constant_clearance;
  double mate_dedendum = 0;  ///< outer dedendum of the mate; 0: this gear's basic one [mm]
  BevelEnds ends = BevelEnds::cones;
  double bore_diameter = 0;  ///< [mm]
  std::optional<double>
      rim_thickness{};  ///< left below the root at the heel, along the back cone; none: 1.2 tooth depths
};

/// Of one end of the teeth: at the heel or the toe.
struct BevelEnd {
  double cone_distance;                                ///< R, along the pitch cone
  double addendum, dedendum;                           ///< across the pitch cone
  double tip_diameter, pitch_diameter, root_diameter;  ///< where face, pitch and root cone meet the end
  double tooth_thickness, tip_thickness;               ///< arcs
  Angle tip_angle, root_angle;                         ///< cone angle of tip and root as seen from the apex
  Angle root_form_angle;                               ///< where the usable flank begins
  bool undercut;
};

struct BevelSizes {
  Angle base_cone, face_cone, root_cone;  ///< δ_b; the cones' own angles (their apex may lie off the pitch apex)
  double outer_cone_distance, inner_cone_distance;
  BevelEnd heel, toe;
  double face_apex, root_apex;  ///< height of those cones' apices over the pitch apex, towards the teeth negative
  double crown_to_apex;         ///< height of the outer tip edge
  double virtual_teeth;         ///< z/cos δ; infinite for a crown gear
  double tool_tip_radius;       ///< [modules]
  bool tool_tip_radius_reduced;
  double min_profile_shift_no_undercut;  ///< [modules]
  bool pointed;                          ///< the flanks meet before the addendum asked for; it was shortened to there
};

class BevelGear {
 public:
  /// \throws InvalidParameter "teeth", "module", "pressure_angle", "pitch_cone_angle", "face_width", "addendum",
  /// "dedendum",
  ///   "tool_tip_radius", "root.fillet_radius", "thickness_allowance"
  explicit BevelGear(BevelSpec spec);

  const BevelSpec& spec() const noexcept { return spec_; }
  const BevelSizes& sizes() const noexcept { return sizes_; }
  /// Undercut at one end only: the flank's edge then has a corner between heel and toe.
  bool undercut_along_face() const noexcept { return sizes_.heel.undercut != sizes_.toe.undercut; }

  /// The teeth as directions, where they are cut at cone distance R: by a cone across the pitch cone or by a sphere, as
  /// `ends` says. A tooth is centred on azimuth 0; the period begins in the middle of a space. All sections have the
  /// same number of segments in the same order.
  curve::Outline section(double cone_distance) const;

  /// Half a tooth's azimuth at cone angle δ: ψ + az(δ_pitch) − az(δ); negative beyond the point of a tooth.
  Angle half_tooth_angle(Angle cone_angle) const;
  /// σ at cone angle δ, from the base cone along the path of contact: cos δ = cos δ_b cos σ.
  Angle path_angle(Angle cone_angle) const;
  Angle cone_angle_at(Angle path_angle) const;
  /// Cone angles of tip and root in the section at R.
  Angle tip_angle(double cone_distance) const;
  Angle root_angle(double cone_distance) const;
  Angle root_form_angle(double cone_distance) const;

  /// A direction at cone angle δ: how far from the apex the section at R has it. R/cos(δ − δ_pitch), or R itself.
  double distance(Angle cone_angle, double cone_distance) const;

 private:
  struct Root;
  Root root(double cone_distance) const;
  double form_sigma(double profile_shift) const;
  BevelEnd end(double cone_distance) const;
  void end_below_point();
  void choose_tool_radius(double thickness);
  void measure_blank();

  BevelSpec spec_;
  BevelSizes sizes_{};
  double delta_, delta_b_, sigma_p_, R_e_, psi_, addendum_;  // addendum_: outer, as made
  double tool_radius_ = 0;                                   // [mm] at the heel
};

std::vector<Finding> findings(const BevelGear& gear, const std::string& subject);

using palio::direction;
using palio::projected;

/// The height [mm] by which the back-cone approximation (an involute of z/cos δ teeth in the developed back cone)
/// differs from the exact flank at the outer tip, measured as an arc; positive: the exact tooth is wider there.
double back_cone_deviation(const BevelGear& gear);

}  // namespace palio::gear
