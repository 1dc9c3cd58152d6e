// The root of a ring gear, as a pinion cutter generates it.
#pragma once

#include <optional>

#include "palio/gear/rack_root.hpp"

namespace palio::gear {

/// A pinion-type cutter. Lengths in mm; its corner is round in the transverse section.
struct PinionCutter {
  int teeth;                 ///< z₀
  double profile_shift;      ///< x₀, in normal modules
  double tip_diameter;       ///< d_a0
  double tip_corner_radius;  ///< ρ₀
};

/// What is asked of the cutter; the rest is chosen.
struct CutterWish {
  std::optional<int> teeth;
  std::optional<double> profile_shift, tip_diameter, tip_corner_radius;
};

/// The ring it cuts.
struct RingBlank {
  int teeth;                 ///< z
  double module;             ///< m_n [mm]
  Angle pressure_angle;      ///< α_n, in the normal section
  double cos_helix;          ///< cos β
  double generating_shift;   ///< x_E of the ring, positive thickens its teeth
  double tip_tangent;        ///< T_a of the ring's tip circle [mm], 0 at or below the base circle
  double root_depth;         ///< of the ring's root circle below its reference circle, in modules, as wished
  double wished_tip_radius;  ///< corner radius wished where none is given, in modules
};

/// Fills in what is left out: teeth near 0.4 z with which the cutter clears the ring's tips, no shift, a tip circle
/// that reaches the wished root, the wished corner or the largest with which the cutter's tooth keeps a land. \throws
/// InvalidParameter "cutter.teeth", "cutter.tip_diameter", "cutter.tip_corner_radius" with what is allowed
PinionCutter choose_cutter(const RingBlank& ring, const CutterWish& wish);

/// The root that the cutter leaves: the curve on the counter-clockwise side of the space, placed at polar angle 0 and
/// traversed from the flank to the root circle.
struct CutterRoot {
  curve::Segment curve;
  double root_radius;      ///< r_f = a₀ + r_a0 [mm]
  double half_root_angle;  ///< half the angle of the root circle's arc [rad]
  double form_tangent;     ///< T_Ff [mm]
  double clear_tangent;    ///< T below which the cutter's flank would cut the ring's tip away: a₀ sin α_w0 [mm]
};
CutterRoot cutter_root(const RingBlank& ring, const PinionCutter& cutter);

}  // namespace palio::gear
