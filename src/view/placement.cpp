#include "palio/view/placement.hpp"

#include <algorithm>

#include <fmt/format.h>
#include <Eigen/Geometry>

namespace palio::view {

write::Placement placement(const job::Design& design, const job::Gear& gear) {
  const job::Group& group = design.groups[gear.group];
  Vec2 foot = gear.axis;
  if (gear.teeth.is_rack()) foot -= from_polar(gear.phase, gear.facing);
  const Vec3 own(foot.x(), foot.y(), gear.height - gear.axial * pair::mid_face(gear.teeth));
  return {group.origin + group.axes * own, gear.teeth.is_rack() ? gear.facing : gear.phase, group.axes};
}

write::Placement placement(const job::Design& design, const job::Frame& frame) {
  const job::Group& group = design.groups[frame.group];
  return {group.origin + group.axes * frame.at, 0, group.axes};
}

namespace {

/// The parts of a reducer tell themselves apart: what is driven and what drives in the colours they have everywhere.
const char* colour(reducer::PartKind kind) {
  switch (kind) {
    case reducer::PartKind::ring: return "#c9c7be";
    case reducer::PartKind::roller: return "#77756d";
    case reducer::PartKind::shaft: return "#b07a1e";
    case reducer::PartKind::disc: return "#e3c98f";
    case reducer::PartKind::flange: return "#5c5988";
  }
  return "#9a9a9e";
}

/// Where all that a carrier has of what a member bears stand, the first one first; that alone where it rides on none.
/// \param carrier  set where it does
std::vector<write::Placement> placements_of_planets(const job::Design& design, const write::Placement& first,
                                                    std::size_t member, std::optional<std::size_t>& carrier) {
  std::vector<write::Placement> all{first};
  const job::Machine& machine = design.machine;
  carrier = machine.members[member].carrier;
  if (!carrier) return all;
  const job::Carrier& c = machine.carriers[*carrier];
  const job::Group& group = design.groups[c.group];
  const auto of = static_cast<std::size_t>(std::find(c.carried.begin(), c.carried.end(), member) - c.carried.begin());
  const Vec3 axis = group.origin + group.axes * Vec3(c.axis.x(), c.axis.y(), 0);
  for (std::size_t k = 1; k < c.copies.size(); ++k) {
    const Eigen::Matrix3d round = Eigen::AngleAxisd(c.copies[k].axis, Vec3(group.axes.col(2))).toRotationMatrix();
    write::Placement p = all.front();
    p.at = axis + round * (p.at - axis), p.axes = round * p.axes, p.turn += c.copies[k].turn[of];
    all.push_back(p);
  }
  return all;
}

/// A part with what a carrier has more of it.
void add_planets(const job::Design& design, Part part, std::size_t member, std::vector<Part>& all) {
  const std::vector<write::Placement> places = placements_of_planets(design, part.placement, member, part.carrier);
  const std::string name = part.name;
  all.push_back(std::move(part));
  for (std::size_t k = 1; k < places.size(); ++k) {
    Part copy = all.back();
    copy.name = fmt::format("{}_{}", name, k + 1), copy.placement = places[k], copy.alike = name;
    all.push_back(std::move(copy));
  }
}

void add_gear(const job::Design& design, const job::Gear& g, std::vector<Part>& all) {
  add_planets(
      design,
      {g.name, &g, job::body(g), placement(design, g), g.group, g.teeth.module(), g.material.value_or(job::Material{})},
      design.machine.of_gear[static_cast<std::size_t>(&g - design.gears.data())], all);
}

void add_axle(const job::Design& design, const job::Axle& axle, std::vector<Part>& all) {
  const job::Group& group = design.groups[axle.group];
  const bool alone = axle.gears.empty();
  const job::Gear& first = design.gears[alone ? 0 : axle.gears.front()];
  const write::Placement at{group.origin + group.axes * Vec3(axle.axis.x(), axle.axis.y(), axle.from),
                            alone ? 0 : first.phase, group.axes};
  job::Material material = alone ? job::Material{} : first.material.value_or(job::Material{});
  Part part{alone ? axle.name + "_axle" : axle.name,
            nullptr,
            job::body(design, axle),
            at,
            axle.group,
            first.teeth.module(),
            material};
  part.member = axle.member;
  add_planets(design, std::move(part), axle.member, all);
}

}  // namespace

std::vector<Part> gears_alone(const job::Design& design) {
  std::vector<Part> all;
  for (const job::Gear& g : design.gears)
    add_gear(design, g, all);
  return all;
}

std::vector<Part> parts(const job::Design& design) {
  std::vector<Part> all;
  std::vector<bool> joined(design.gears.size(), false);
  for (const job::Axle& a : design.axles) {
    for (const std::size_t g : a.gears)
      joined[g] = true;
  }
  for (std::size_t i = 0; i < design.gears.size(); ++i) {
    if (!joined[i]) add_gear(design, design.gears[i], all);
  }
  for (const job::Axle& a : design.axles)
    add_axle(design, a, all);
  for (const job::Frame& f : design.frames) {
    all.push_back({f.name, nullptr, job::body(f), placement(design, f), f.group,
                   design.gears.empty() ? 1.0 : design.gears[f.gears.empty() ? 0 : f.gears.front()].teeth.module(),
                   f.material.value_or(job::Material{})});
  }
  for (const job::Reducer& r : design.reducers) {
    for (reducer::Part& p : job::parts(r)) {
      // Turned over about x first, then about z.
      const Eigen::Matrix3d over =
          p.flipped ? Eigen::Matrix3d(Vec3(1, -1, -1).asDiagonal()) : Eigen::Matrix3d(Eigen::Matrix3d::Identity());
      const Eigen::Matrix3d turn = Eigen::AngleAxisd(p.turn, Vec3::UnitZ()).toRotationMatrix();
      Vec3 at = p.at;
      at.head<2>() *= r.radial, at.z() *= r.axial;
      job::Material look = r.material.value_or(job::Material{});
      look.colour = colour(p.kind);
      const std::string prefix = r.name + "_";
      all.push_back({prefix + p.name,
                     nullptr,
                     std::move(p.body),
                     {r.at + at, 0, turn * over},
                     0,
                     r.made.spec().roller_diameter / 2,
                     look,
                     {},
                     p.alike.empty() ? "" : prefix + p.alike,
                     ReducerMotion{p.flipped ? -p.turns_per_input : p.turns_per_input, p.orbit * r.radial,
                                   Vec2(r.at.x(), r.at.y()), r.made.sizes().lobes}});
    }
  }
  return all;
}

}  // namespace palio::view
