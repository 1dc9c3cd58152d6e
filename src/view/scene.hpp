// A pair on parallel axes, painted. Private to the views.
#pragma once

#include "canvas.hpp"
#include "palio/design/design.hpp"

namespace palio::view {

/// The whole pair in the middle of the picture.
void look_at_pair(Canvas& canvas, const job::Design& design, const job::Pair& pair);

/// Both members at their coordinates, circles, the path of contact (of `contact_paths`, which may have to roll for it)
/// and contacts.
void paint_pair(Canvas& canvas, const job::Design& design, const job::Pair& pair, double driver, double driven,
                const std::vector<std::vector<Vec2>>& paths, const std::vector<roll::Contact>& contacts, double width);

}  // namespace palio::view
