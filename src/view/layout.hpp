// The plan of a machine, for those who show it beside something else. Private to the views.
#pragma once

#include <string>
#include <vector>

#include "palio/view/draw.hpp"

namespace palio::view {

/// Members in the order in which a plan numbers them: those that show, then carriers without a body.
std::vector<std::size_t> plan_order(const job::Design& design);

/// The two views of `draw_layout` alone, without words or table, as SVG.
std::string draw_plan(const job::Design& design, PictureSize size);

}  // namespace palio::view
