// A body as closed loops × height levels. A layer is the region inside one outer loop and outside its holes, between
// two heights; hubs, webs and twisted faces are further layers and levels of the same kind.
#pragma once

#include <vector>

#include "palio/curve/profile.hpp"
#include "palio/gear/cylindrical.hpp"

namespace palio::body {

/// One layer. All loops keep their material on the left: the outer one runs counter-clockwise, holes clockwise.
struct Layer {
  curve::Outline outer;
  std::vector<curve::Outline> holes;
  double bottom, top;  ///< z [mm]
};

/// The body of a cylindrical gear in its own frame: teeth from z = 0 to the face width, bore through.
Layer body(const gear::CylindricalGear& gear);

/// Exact, from the area integral of the exact curves.
struct MassProperties {
  double area;          ///< of the section [mm²]
  double volume;        ///< [mm³]
  Vec3 center;          ///< of mass [mm]
  double polar_moment;  ///< ∫ r² dV about the z axis [mm⁵]; times density it is the moment of inertia
};
MassProperties mass_properties(const Layer& layer);

}  // namespace palio::body
