// The root of a tooth: as a rack generates it, or as a plain tangent arc.
#pragma once

#include <optional>
#include <vector>

#include "palio/angle.hpp"
#include "palio/curve/segment.hpp"

namespace palio::gear {

/// The tooth space seen from its middle line: angles in it count from there, positive towards the tooth.
struct SpaceFlank {
  double base_radius;      ///< r_b [mm]
  double half_base_angle;  ///< σ_b, half the angle of the space at the base circle, of the unlimited involute [rad]

  /// Half the angle of the space at radius R ≥ r_b [rad].
  double half_angle(double radius) const;
};

/// The rack tool, in the normal section, and where it stands.
struct RackTool {
  double module;            ///< m_n [mm]
  Angle pressure_angle;     ///< α_n
  double cos_helix;         ///< cos β
  double dedendum;          ///< h_fP: how far the tool reaches below its datum line, in modules
  double tip_radius;        ///< ρ_fP, in modules
  double generating_shift;  ///< x_E
  double pitch_radius;      ///< r [mm]
  double drawn_in = 0;      ///< every surface of the tool lies so far inside the plain one, along its normal [mm]
};

/// The largest tip radius (in modules) with which a tool of this dedendum keeps a land: negative when the tool is
/// pointed even with sharp corners. (π/4 − h_f tan α_n) cos α_n/(1 − sin α_n), and not above h_f/(1 − sin α_n).
double largest_tip_radius(Angle pressure_angle, double dedendum);

/// A root from the middle of the space (placed at polar angle `middle`) up to the flank on its counter-clockwise side.
struct Root {
  std::vector<curve::Segment> segments;  ///< in the order of traversal
  double form_tangent;                   ///< T where the involute takes over [mm]
  bool undercut = false;
  bool radial_line = false;
};

/// The root that the tool leaves. When the tool's straight flank ends beyond the base circle's tangent point (T_F < 0),
/// the trochoid is cut off where it crosses the involute: undercut (theory 1.3–1.5; squaring T_F would hide it).
Root generated_root(const SpaceFlank& space, const RackTool& tool, double middle);

/// Radii of a tangent arc that fit between flank and root circle [mm].
struct FilletRange {
  double least, greatest;
  double least_on_flank;  ///< smaller ones touch a radial line below the base circle, not the flank itself

  bool on_line(double radius) const noexcept { return radius < least_on_flank || least_on_flank == greatest; }
};
FilletRange fillet_range(const SpaceFlank& space, double root_radius);

/// An arc of `radius` tangent to the flank (or the radial line below it) and to the root circle.
/// \throws InvalidParameter "root.fillet_radius" outside fillet_range, naming that range
Root fillet_root(const SpaceFlank& space, double root_radius, double radius, double middle);

}  // namespace palio::gear
