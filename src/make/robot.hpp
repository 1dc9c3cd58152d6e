// A machine as a robot description (URDF). Private to make.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "palio/body/mesh.hpp"
#include "palio/design/design.hpp"
#include "palio/view/placement.hpp"

namespace palio::make {

/// A part with its triangles, and the file in which they stand [mm].
struct RobotPart {
  const view::Part* part;
  const body::TriangleMesh* mesh;
  std::string file;
};

/// Links, and joints that follow the input of the first train by its ratios (mimic), in metres; masses and inertia of
/// what is drawn.
std::string urdf(const job::Design& design, const std::vector<RobotPart>& parts);

}  // namespace palio::make
