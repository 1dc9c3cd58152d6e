// What the makers of cylindrical teeth share. Private to the gears.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "palio/gear/cylindrical.hpp"
#include "require.hpp"

namespace palio::gear {

/// Tangent length at radius R; the product keeps digits near the base circle.
inline double tangent_at(double R, double r_b) { return std::sqrt(std::max(0.0, (R - r_b) * (R + r_b))); }

/// Half a land of the tip below this is rounding [rad; of a rack mm]: the tooth ends in a point.
inline constexpr double kNoLand = 1e-15;

/// The least rim behind the roots [mm]: 1.2 tooth depths; about a bore no more than half of the root's radius, which
/// few deep teeth would leave no bore at all.
inline double least_rim(double tip_diameter, double root_diameter, bool internal) {
  const double by_depth = 1.2 * std::abs(tip_diameter - root_diameter) / 2;
  return internal ? by_depth : std::min(by_depth, root_diameter / 4);
}

/// The key that gave a size, and what it gave, for messages.
struct Given {
  const char* key;
  std::string text;
};

inline Given given_depth(const CylindricalSpec& spec) {
  if (spec.root_diameter) return {"root_diameter", mm(*spec.root_diameter)};
  return {"dedendum", fmt::format("{:.6g}", spec.dedendum)};
}

inline Given given_tip(const CylindricalSpec& spec) {
  if (spec.tip_diameter) return {"tip_diameter", mm(*spec.tip_diameter)};
  return {"addendum", fmt::format("{:.6g}", spec.addendum)};
}

/// What stands between flank and tip circle: nothing, a chamfer or a round.
struct TipBreak {
  std::vector<curve::Segment>
      segments;         ///< from the flank to the tip circle, in the order of traversal of the lower half
  double form_tangent;  ///< T where the involute ends [mm]
  double half_land;     ///< half the angle of the tip circle's arc [rad]
};

/// Of an external tooth: its lower flank starts at polar angle −`half_base_angle` on the base circle.
TipBreak external_tip(const CylindricalSpec& spec, const CylindricalSizes& sizes, double tip_radius,
                      double half_base_angle);

/// Of a ring's tooth: the flank on the counter-clockwise side of the space starts at polar angle `half_base_space`; the
/// land reaches from there to `middle`, the middle of the tooth. Segments run from the tip circle to the flank.
TipBreak internal_tip(const CylindricalSpec& spec, const CylindricalSizes& sizes, double tip_radius,
                      double half_base_space, double middle);

}  // namespace palio::gear
