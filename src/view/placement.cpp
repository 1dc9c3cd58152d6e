#include "palio/view/placement.hpp"

namespace palio::view {

write::Placement placement(const job::Design& design, const job::Gear& gear) {
  const job::Group& group = design.groups[gear.group];
  Vec2 foot = gear.axis;
  if (gear.teeth.is_rack()) foot -= from_polar(gear.phase, gear.facing);
  const Vec3 own(foot.x(), foot.y(), gear.height - gear.teeth.spec().face_width / 2);
  return {group.origin + group.axes * own, gear.teeth.is_rack() ? gear.facing : gear.phase, group.axes};
}

}  // namespace palio::view
