// The parts of a design, and where each stands in the whole.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/job/design.hpp"
#include "palio/write/formats.hpp"

namespace palio::view {

/// A part's own frame (teeth from z = 0) at the start of the motion: the driver's mid-face at z = 0.
write::Placement placement(const job::Design& design, const job::Gear& gear);
write::Placement placement(const job::Design& design, const job::Frame& frame);

/// Something that is made: a gear or a plate, with its body in the design's state.
struct Part {
  std::string name;
  const job::Gear* gear;  ///< none for a plate
  body::Solid body;
  write::Placement placement;
  std::size_t group;
  double module;  ///< of its teeth, a plate's: of the first gear [mm]
  job::Material material;
};

/// Gears in the order of the job, then plates.
std::vector<Part> parts(const job::Design& design);

}  // namespace palio::view
