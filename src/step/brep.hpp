// From a body to a B-rep solid with shared vertices and edges. Private to the STEP module.
#pragma once

#include <TopoDS_Face.hxx>
#include <TopoDS_Solid.hxx>

#include "palio/body/solid.hpp"

namespace palio::step {

/// \param deviation  raised to the largest distance of a spline from its exact curve [mm]
TopoDS_Solid solid(const body::Body& body, double tolerance, double& deviation);
TopoDS_Solid solid(const body::ConicalBody& body, double tolerance, double& deviation);

/// The lower face of a body of layers alone, looking up: a plane region.
TopoDS_Face plane_face(const body::Body& body, double tolerance, double& deviation);

inline TopoDS_Solid solid(const body::Solid& body, double tolerance, double& deviation) {
  return body.is_conical() ? solid(body.cones(), tolerance, deviation) : solid(body.layers(), tolerance, deviation);
}

}  // namespace palio::step
