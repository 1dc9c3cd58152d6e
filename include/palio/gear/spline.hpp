// Involute splines: bores that carry an involute-toothed shaft, made by the machinery of internal gears.
#pragma once

#include "palio/body/features.hpp"
#include "palio/gear/cylindrical.hpp"

namespace palio::gear {

/// In the manner of ISO 4156, fillet-less tips and rounded roots. The proportions are as commonly tabulated; they were
/// not compared with the printed standard.
struct SplineSpec {
  int teeth = 0;
  double module = 0;          ///< [mm]
  double pressure_angle = 0;  ///< 30°, 37.5° or 45° [rad]
  double allowance = 0;       ///< by which a space is wider than half the pitch, on the reference circle [mm]
};

/// The bore as an internal gear: its spaces take the shaft's teeth. \throws InvalidParameter "spline"
CylindricalGear spline_bore(const SplineSpec& spec);

/// The same as a feature of a body. \param play  every wall moved into the material by so much [mm]
/// \param angle  of the middle of a space [rad]
body::ShapedBore shaped_bore(const SplineSpec& spec, double play, double angle);

}  // namespace palio::gear
