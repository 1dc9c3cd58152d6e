#include "palio/view/placement.hpp"

#include <algorithm>
#include <cmath>

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
  const Vec3 over(1, frame.over ? -1 : 1, frame.over ? -1 : 1);
  return {group.origin + group.axes * frame.at, 0, group.axes * over.asDiagonal()};
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

ReducerMotion::With with(reducer::PartKind kind) {
  switch (kind) {
    case reducer::PartKind::shaft: return ReducerMotion::With::input;
    case reducer::PartKind::flange: return ReducerMotion::With::output;
    case reducer::PartKind::disc: return ReducerMotion::With::crank;
    default: return ReducerMotion::With::nothing;
  }
}

/// Where all that a carrier has of a part stand, the first one first; that alone where it rides on none.
std::vector<write::Placement> placements_of_planets(const job::Design& design, const Part& part) {
  std::vector<write::Placement> all{part.placement};
  if (!part.carrier) return all;
  const job::Carrier& c = design.machine.carriers[*part.carrier];
  const job::Group& group = design.groups[c.group];
  const auto of =
      static_cast<std::size_t>(std::find(c.carried.begin(), c.carried.end(), *part.member) - c.carried.begin());
  const Vec3 axis = group.origin + group.axes * Vec3(c.axis.x(), c.axis.y(), 0);
  for (std::size_t k = 1; k < c.copies.size(); ++k) {
    const Eigen::Matrix3d round = Eigen::AngleAxisd(c.copies[k].axis, Vec3(group.axes.col(2))).toRotationMatrix();
    write::Placement p = all.front();
    p.at = axis + round * (p.at - axis), p.axes = round * p.axes, p.turn += c.copies[k].turn[of];
    all.push_back(p);
  }
  return all;
}

/// A part on a member, with what a carrier has more of it.
void add_on(const job::Design& design, std::size_t member, int sense, Part part, std::vector<Part>& all) {
  part.member = member, part.sense = sense, part.carrier = design.machine.members[member].carrier;
  if (part.carrier) {
    const Vec3 along = design.groups[design.machine.carriers[*part.carrier].group].axes.col(2);
    constexpr double kParallel = 1e-9;
    part.inclined = std::abs(along.dot(part.placement.axes.col(2))) < 1 - kParallel;
  }
  const std::vector<write::Placement> places = placements_of_planets(design, part);
  const std::string name = part.name;
  all.push_back(std::move(part));
  for (std::size_t k = 1; k < places.size(); ++k) {
    Part copy = all.back();
    copy.name = fmt::format("{}_{}", name, k + 1), copy.placement = places[k], copy.alike = name;
    all.push_back(std::move(copy));
  }
}

void add_gear(const job::Design& design, std::size_t gear, std::vector<Part>& all) {
  const job::Gear& g = design.gears[gear];
  add_on(
      design, design.machine.of_gear[gear], design.machine.sense[gear],
      {g.name, &g, job::body(g), placement(design, g), g.group, g.teeth.module(), g.material.value_or(job::Material{})},
      all);
}

void add_axle(const job::Design& design, std::size_t index, std::vector<Part>& all) {
  const job::Axle& axle = design.axles[index];
  const job::Group& group = design.groups[axle.group];
  const bool alone = axle.gears.empty();
  const job::Gear& first = design.gears[alone ? 0 : axle.gears.front()];
  const write::Placement at{group.origin + group.axes * Vec3(axle.axis.x(), axle.axis.y(), axle.from),
                            alone ? 0 : first.phase, group.axes};
  Part part{alone ? axle.name + "_axle" : axle.name,
            nullptr,
            job::body(design, axle),
            at,
            axle.group,
            first.teeth.module(),
            alone ? job::Material{} : first.material.value_or(job::Material{})};
  part.axle = index;
  const auto& on = design.machine.members[axle.member].gears;
  add_on(design, axle.member, on.empty() ? 1 : design.machine.sense[on.front()], std::move(part), all);
}

}  // namespace

Eigen::Matrix3d Part::axes() const {
  return placement.axes * Eigen::AngleAxisd(placement.turn, Vec3::UnitZ()).toRotationMatrix();
}

std::vector<Part> gears_alone(const job::Design& design) {
  std::vector<Part> all;
  for (std::size_t i = 0; i < design.gears.size(); ++i)
    add_gear(design, i, all);
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
    if (!joined[i]) add_gear(design, i, all);
  }
  for (std::size_t i = 0; i < design.axles.size(); ++i)
    add_axle(design, i, all);
  for (const job::Frame& f : design.frames) {
    all.push_back({f.name, nullptr, job::body(f), placement(design, f), f.group,
                   design.gears.empty() ? 1.0 : design.gears[f.gears.empty() ? 0 : f.gears.front()].teeth.module(),
                   f.material.value_or(job::Material{})});
    if (f.carrier) all.back().member = design.machine.carriers[*f.carrier].member, all.back().sense = f.over ? -1 : 1;
  }
  for (std::size_t i = 0; i < design.reducers.size(); ++i) {
    const job::Reducer& r = design.reducers[i];
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
      Part part{prefix + p.name,
                nullptr,
                std::move(p.body),
                {r.at + at, 0, turn * over},
                0,
                r.made.spec().roller_diameter / 2,
                look};
      if (!p.alike.empty()) part.alike = prefix + p.alike;
      part.motion = ReducerMotion{i,
                                  with(p.kind),
                                  p.flipped ? -p.turns_per_input : p.turns_per_input,
                                  p.orbit * r.radial,
                                  Vec2(r.at.x(), r.at.y()),
                                  r.made.sizes().lobes};
      const job::ReducerEnds& ends = design.machine.of_reducer[i];
      if (part.motion->with == ReducerMotion::With::output)
        part.member = ends.output;
      else if (part.motion->with != ReducerMotion::With::nothing)
        part.member = ends.input;
      all.push_back(std::move(part));
    }
  }
  return all;
}

}  // namespace palio::view
