// Gears and pairs, painted. Private to the views.
#pragma once

#include <Eigen/Geometry>

#include "canvas.hpp"
#include "palio/design/design.hpp"
#include "palio/pair/line_of_action.hpp"

namespace palio::view {

/// What a picture has to hold, in the world [mm].
using Box = Eigen::AlignedBox2d;

/// A gear with its coordinate `q`, in the section at its mid-face.
void paint_gear(Canvas& canvas, const job::Gear& gear, double q, bool driver, double width);
/// A bevel gear cut through its axis: the apex at the origin, the axis down from it.
void paint_meridian(Canvas& canvas, const job::Gear& gear);
Box box_of(const job::Gear& gear);
Box box_of(const job::Design& design, const job::Pair& pair);

/// The whole pair in the middle of the picture.
void look_at_pair(Canvas& canvas, const job::Design& design, const job::Pair& pair);

/// Both members at their coordinates, circles, the path of contact (of `contact_paths`, which may have to roll for it)
/// and contacts.
void paint_pair(Canvas& canvas, const job::Design& design, const job::Pair& pair, double driver, double driven,
                const std::vector<std::vector<Vec2>>& paths, const std::vector<roll::Contact>& contacts, double width);

/// The pair as its roll begins, with what touches then.
void paint_start(Canvas& canvas, const job::Design& design, const job::Pair& pair, const pair::Start& start,
                 const std::vector<std::vector<Vec2>>& paths, double width);

}  // namespace palio::view
