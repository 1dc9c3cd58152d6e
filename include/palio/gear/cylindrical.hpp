// One cylindrical gear, external (cut by a rack) or internal (cut by a pinion cutter): all its dimensions and its exact
// outline in the transverse section at mid-face.
//
// Notation (ISO 21771): m = m_n normal module, z teeth, α_n normal pressure angle, β helix angle (right hand positive),
// x profile shift, x_E generating profile shift, r reference radius, r_b base radius; T = √(R² − r_b²) is the length of
// the tangent to the base circle at radius R. A spur gear is the case β = 0. Derivations: docs/theory/profile.md.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/angle.hpp"
#include "palio/curve/profile.hpp"
#include "palio/gear/cutter_root.hpp"
#include "palio/gear/finding.hpp"

namespace palio::gear {

/// What is asked for, of a gear or a rack. Lengths in mm; addendum, dedendum, tool_tip_radius and profile_shift in
/// normal modules.
struct CylindricalSpec {
  int teeth = 0;                              ///< z, 3 or more
  double module = 0;                          ///< m [mm], above 0
  Angle pressure_angle = Angle::degrees(20);  ///< α_n, 5°…45°
  Angle helix_angle;         ///< β, −60°…60°, right hand positive; double helical: of the lower half
  double profile_shift = 0;  ///< x; positive thickens the tooth
  double addendum = 1;       ///< h_aP
  double dedendum = 1.25;    ///< h_fP
  std::optional<double> tool_tip_radius;  ///< ρ_fP; left out: 0.38, or the largest that the tool allows
  std::optional<double> tip_diameter;     ///< instead of the one from the addendum [mm]
  std::optional<double> root_diameter;    ///< as made, instead of the one from the dedendum [mm]
  double thickness_allowance = 0;         ///< E_sn, normal section at the reference cylinder; negative thins [mm]
  bool flanks_only = false;               ///< the allowance is taken off the flanks; the root stays as it is without it
  std::optional<double> fillet_radius;    ///< a tangent arc as the root instead of the generated one [mm]
  double face_width = 0;                  ///< b [mm], above 0
  double bore_diameter = 0;               ///< 0: none [mm]
  double tip_chamfer = 0;                 ///< takes this length off the flank (radially) and off the tip's arc [mm]
  double tip_round = 0;                   ///< radius of the round between flank and tip circle [mm]
  bool double_helical = false;            ///< the upper half mirrors the lower one at mid-face
  double gap = 0;                         ///< between the halves of a double helical gear [mm]
  bool internal = false;                  ///< a ring with teeth inwards
  CutterWish cutter;                      ///< internal: what makes the root
  std::optional<double>
      outer_diameter;  ///< internal: of the ring's body; left out: 2.5 modules beyond the root circle [mm]
  std::optional<double> length, base_height;  ///< rack only [mm]
};

/// h_fP in modules of a tool that stands at the generating shift: by infeed the given one, which takes the root along;
/// thinned at the flanks alone, less deep by what the shift changes.
double tool_dedendum(const CylindricalSpec& spec, double generating_shift);

/// The same teeth with every length `factor` times as large.
CylindricalSpec scaled(const CylindricalSpec& spec, double factor);

/// Dimensions that follow. Diameters, not radii; lengths in mm.
struct CylindricalSizes {
  double transverse_module, generating_profile_shift;
  Angle transverse_pressure_angle, base_helix_angle;
  double dedendum;         ///< h_fP in modules as used (from root_diameter when that was given)
  double tool_tip_radius;  ///< ρ_fP in modules as used
  double reference_diameter, base_diameter, tip_diameter, root_diameter;
  double root_form_diameter;  ///< where the involute begins
  double tip_form_diameter;   ///< where it ends
  double root_form_tangent;   ///< T there, 0 or more
  double tip_form_tangent;
  double normal_tooth_thickness, transverse_tooth_thickness;  ///< at the reference cylinder, allowance included
  double tip_thickness;                                       ///< normal
  double min_profile_shift_no_undercut;                       ///< compare with generating_profile_shift
  bool undercut, pointed;
  bool radial_root_line;               ///< fillet_radius needs a radial line below the base circle
  std::optional<PinionCutter> cutter;  ///< internal, as used
  double cutter_clear_tangent = 0;     ///< internal: T below which the cutter would cut the tip away [mm]
  double outer_diameter = 0;           ///< internal: of the body
};

struct Span {
  int teeth;
  double length, contact_diameter;  ///< [mm]
};
struct OverBalls {
  double pin_diameter, length;  ///< [mm]
};
struct ChordalTooth {
  double thickness, height;  ///< at the reference cylinder [mm]
};

/// An immutable gear: checked and computed when made.
class CylindricalGear {
 public:
  /// \throws InvalidParameter naming the value and its range: teeth, module, pressure_angle, addendum, dedendum,
  ///   tool_tip_radius (larger than the tool's tooth leaves room for; the largest is named), tip_diameter,
  ///   root_diameter, thickness_allowance, root.fillet_radius (the range that fits is named), face_width, bore.diameter
  explicit CylindricalGear(const CylindricalSpec& spec);

  const CylindricalSpec& spec() const noexcept { return spec_; }
  const CylindricalSizes& sizes() const noexcept { return sizes_; }
  bool internal() const noexcept { return spec_.internal; }
  /// Turn per length along the axis, in the lower half of a double helical gear: tan β/r [rad/mm].
  double twist() const noexcept;
  double lead() const noexcept;  ///< 2π over |twist|; infinite for spur [mm]
  /// Teeth, transverse section at mid-face: a tooth centred on +x, counter-clockwise; internal: clockwise, a
  /// space centred on +x, its period the tooth that follows.
  const curve::Outline& outline() const noexcept { return outline_; }

  /// The same teeth with every surface moved out of the material by `offset` along its normal [mm]: what a making that
  /// spreads (or, negative, eats away) leaves. Thickness, generating shift and circles are those of the outline then.
  /// \throws InvalidParameter "surface_offset" where a curve would vanish
  CylindricalGear grown(double offset) const;

  /// Half the angle that a tooth takes at radius R: s_t/d ± (inv α_t − inv α_R), minus for internal ones; below
  /// the base circle as at it.
  Angle half_tooth_angle(double radius) const;

  /// Half the angle of the tooth space at radius R, on the flank or on the root curve; none beyond the root
  /// circle.
  std::optional<Angle> half_space_angle(double radius) const;

  /// Over `teeth` teeth of an external gear; left out: the recommended number, whose contact is nearest to d + 2 x_E m
  /// (halves rounded up).
  Span span(std::optional<int> teeth = {}) const;
  /// Balls of the given diameter, both in one plane (internal: between them); left out: one that touches near
  /// d ± 2 x_E m, rounded to 0.05 mm.
  OverBalls over_balls(std::optional<double> diameter = {}) const;
  /// Pins along the spaces; none for helical internal gears, which take no pins.
  std::optional<OverBalls> over_pins(std::optional<double> diameter = {}) const;
  ChordalTooth chordal() const;

 private:
  void common();
  void build_external();
  void build_internal();
  void cut_by_offset_tool(double offset);

  CylindricalSpec spec_;
  CylindricalSizes sizes_{};
  curve::Outline outline_;
};

/// The doubts about a gear taken alone. `subject` is copied into each.
std::vector<Finding> findings(const CylindricalGear& gear, const std::string& subject);

}  // namespace palio::gear
