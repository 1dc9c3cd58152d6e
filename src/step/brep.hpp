// From a layered body to a B-rep solid with shared vertices and edges. Private to the STEP module.
#pragma once

#include <TopoDS_Solid.hxx>

#include "palio/body/layered.hpp"

namespace palio::step {

/// \param deviation  raised to the largest distance of a spline from its exact curve [mm]
TopoDS_Solid solid(const body::Body& body, double tolerance, double& deviation);

}  // namespace palio::step
