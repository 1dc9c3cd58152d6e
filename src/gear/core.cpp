#include "palio/gear/core.hpp"

namespace palio::gear {
namespace {

/// Thickness of the plates that hold the pins of a lantern, beyond its face at either end [mm].
double plate(const Teeth& teeth) { return teeth.is_lantern() ? teeth.cycloidal().lantern().spec().plate_thickness : 0; }

}  // namespace

body::Core core(const Teeth& teeth) {
  body::Core c;
  c.outline = teeth.outline();
  c.width = teeth.face_width();
  c.slides = teeth.is_rack(), c.ring = teeth.internal();
  if (teeth.twist() != 0) c.turn = [teeth](double above) { return teeth.turn_at(above); };
  c.gap = teeth.double_helical_gap();
  c.bore_radius = teeth.bore_diameter() / 2;
  c.module = teeth.module();
  if (teeth.is_rack()) return c;
  c.outer_radius = teeth.outer_diameter() / 2;
  c.root_radius = teeth.root_diameter() / 2;
  c.reference_radius = teeth.reference_diameter() / 2;
  if (teeth.is_lantern()) c.pins = {teeth.cycloidal().sizes().tip_thickness / 2, c.reference_radius, plate(teeth)};
  return c;
}

body::ConicalCore core(const BevelGear& gear) {
  const BevelSpec& spec = gear.spec();
  const BevelSizes& sizes = gear.sizes();
  body::ConicalCore c;
  c.count = spec.teeth;
  c.inner = sizes.inner_cone_distance, c.outer = sizes.outer_cone_distance;
  c.pitch_cone = spec.pitch_cone.radians();
  c.spheres = spec.ends == BevelEnds::spheres;
  c.height = sizes.heel.addendum, c.depth = sizes.heel.dedendum;
  c.tip_radius = sizes.heel.tip_diameter / 2, c.root_radius = sizes.heel.root_diameter / 2;
  c.module = spec.module, c.bore_radius = spec.bore_diameter / 2;
  c.rim = spec.rim_thickness;
  c.one_form = !gear.undercut_along_face();
  c.section = [gear](double R) { return gear.section(R); };
  c.distance = [gear](double angle, double R) { return gear.distance(Angle::radians(angle), R); };
  c.tip_angle = [gear](double R) { return gear.tip_angle(R).radians(); };
  c.root_angle = [gear](double R) { return gear.root_angle(R).radians(); };
  return c;
}

body::Heights heights(const Teeth& teeth, const body::Features& features) {
  return body::heights(features, teeth.face_width(), plate(teeth));
}

body::Body body(const Teeth& teeth, const body::Features& features, const Teeth* first_layer) {
  if (!first_layer) return body::body(core(teeth), features);
  const body::Core lowest = core(*first_layer);
  return body::body(core(teeth), features, &lowest);
}

body::ConicalBody body(const BevelGear& gear, const body::Features& features) { return {core(gear), features}; }

BevelSpec scaled(BevelSpec s, double factor) {
  for (double* length : {&s.module, &s.face_width, &s.thickness_allowance, &s.mate_dedendum, &s.bore_diameter})
    *length *= factor;
  for (std::optional<double>* length : {&s.fillet_radius, &s.rim_thickness}) {
    if (*length) **length *= factor;
  }
  return s;
}

}  // namespace palio::gear
