#include "palio/body/solid.hpp"

namespace palio::body {

TriangleMesh mesh(const Solid& solid, double chord_error) {
  return solid.is_conical() ? mesh(solid.cones(), chord_error) : mesh(solid.layers(), chord_error);
}

MassProperties mass_properties(const Solid& solid) {
  return solid.is_conical() ? mass_properties(solid.cones()) : mass_properties(solid.layers());
}

}  // namespace palio::body
