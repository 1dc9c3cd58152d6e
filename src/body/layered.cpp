#include "palio/body/layered.hpp"

namespace palio::body {

Layer body(const gear::CylindricalGear& gear) {
  Layer layer{gear.outline(), {}, 0, gear.spec().face_width};
  if (gear.spec().bore_diameter > 0) {
    layer.holes.push_back(curve::circle(gear.spec().bore_diameter / 2, curve::Role::bore, true));
  }
  return layer;
}

MassProperties mass_properties(const Layer& layer) {
  double area = curve::signed_area(layer.outer), polar = curve::polar_moment(layer.outer);
  for (const curve::Outline& hole : layer.holes) {
    area += curve::signed_area(hole);
    polar += curve::polar_moment(hole);
  }
  const double height = layer.top - layer.bottom;
  // Every loop here repeats about the axis or is concentric with it, so the center of mass lies on it.
  return {area, area * height, {0, 0, 0.5 * (layer.bottom + layer.top)}, polar * height};
}

}  // namespace palio::body
