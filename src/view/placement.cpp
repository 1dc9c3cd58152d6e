#include "palio/view/placement.hpp"

namespace palio::view {

write::Placement placement(const job::Design& design, const job::Gear& gear) {
  const job::Group& group = design.groups[gear.group];
  Vec2 foot = gear.axis;
  if (gear.teeth.is_rack()) foot -= from_polar(gear.phase, gear.facing);
  const Vec3 own(foot.x(), foot.y(), gear.height - gear.axial * job::mid_face(gear));
  return {group.origin + group.axes * own, gear.teeth.is_rack() ? gear.facing : gear.phase, group.axes};
}

write::Placement placement(const job::Design& design, const job::Frame& frame) {
  const job::Group& group = design.groups[frame.group];
  return {group.origin + group.axes * frame.at, 0, group.axes};
}

std::vector<Part> parts(const job::Design& design) {
  std::vector<Part> all;
  for (const job::Gear& g : design.gears) {
    all.push_back({g.name, &g, job::body(g), placement(design, g), g.group, g.teeth.module(), g.material.value_or(job::Material{})});
  }
  for (const job::Frame& f : design.frames) {
    all.push_back({f.name, nullptr, job::body(f), placement(design, f), f.group, design.gears[f.gears.empty() ? 0 : f.gears.front()].teeth.module(),
                   f.material.value_or(job::Material{})});
  }
  return all;
}

}  // namespace palio::view
