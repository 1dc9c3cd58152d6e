#include "palio/gear/spline.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::gear {
namespace {

/// Of the bore, in modules, by pressure angle.
struct Proportions {
  double degrees, addendum, dedendum, fillet;
};
constexpr Proportions kProportions[] = {{30, 0.5, 0.75, 0.2}, {37.5, 0.45, 0.7, 0.2}, {45, 0.4, 0.6, 0.2}};

}  // namespace

CylindricalGear spline_bore(const SplineSpec& spec) {
  const auto* p = std::find_if(std::begin(kProportions), std::end(kProportions), [&](const Proportions& each) {
    return std::abs(each.degrees * kPi / 180 - spec.pressure_angle) < math::kAlike;
  });
  if (p == std::end(kProportions))
    throw InvalidParameter("spline", fmt::format("pressure_angle {:.6g}°", spec.pressure_angle * 180 / kPi),
                           "it is 30°, 37.5° or 45°", "take that of the shaft");
  CylindricalSpec ring;
  ring.internal = true;
  ring.teeth = spec.teeth, ring.module = spec.module, ring.pressure_angle = Angle::radians(spec.pressure_angle);
  ring.addendum = p->addendum, ring.dedendum = p->dedendum, ring.fillet_radius = p->fillet * spec.module;
  ring.face_width = spec.module;
  ring.thickness_allowance = -spec.allowance;
  ring.flanks_only = true;
  return CylindricalGear(ring);
}

body::ShapedBore shaped_bore(const SplineSpec& spec, double play, double angle) {
  const CylindricalGear made = spline_bore(spec);
  body::ShapedBore bore;
  bore.feature = "spline", bore.wider = play, bore.teeth = spec.teeth;
  bore.label = fmt::format("spline {} × {:.6g}, {:.4g}°", spec.teeth, spec.module, spec.pressure_angle * 180 / kPi);
  bore.inner_diameter = made.sizes().tip_diameter, bore.outer_diameter = made.sizes().root_diameter;
  bore.wall = [made, angle](double by) { return curve::turned((by == 0 ? made : made.grown(-by)).outline(), angle); };
  return bore;
}

}  // namespace palio::gear
