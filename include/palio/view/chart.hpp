// What vary found, drawn.
#pragma once

#include <string>

#include "palio/readings/vary.hpp"
#include "palio/view/draw.hpp"

namespace palio::view {

/// Of one key: a strip for each quantity over the key, with the limits where they set in. Of two: a map of the first
/// quantity, hatched where the pair cannot work.
std::string draw_vary(const job::Design& design, const job::Varied& varied, const std::string& format,
                      PictureSize size = {});

/// A page with a slider for the number while the teeth turn. The rows must keep their designs.
/// \throws InvalidParameter "pair" when no row has a pair on parallel axes
std::string vary_page(const job::Design& design, const job::Varied& varied);

/// The tool cutting the teeth of a gear step by step.
/// \throws InvalidParameter "tool" for a root that no tool makes (fillet_radius) and for racks
std::string tool_page(const job::Design& design, const job::Gear& gear);

}  // namespace palio::view
