// The parts of a machine as a page carries them: triangles in few bytes, each shape once. Private to the views.
#pragma once

#include <vector>

#include "page_parts.hpp"
#include "palio/view/placement.hpp"

namespace palio::view {

struct Solids {
  Json shapes = Json::array();
  std::vector<std::size_t> shape_of;       ///< of each part
  std::vector<body::MassProperties> mass;  ///< of each part, exactly
  double deviation = 0;                    ///< of the exact surfaces from what is drawn [mm]
};

/// As fine as a page of a few megabytes can carry. \param finest  chord errors at the least, as a share of the module
Solids solids(const std::vector<Part>& parts, double finest);

}  // namespace palio::view
