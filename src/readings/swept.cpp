#include "swept.hpp"

#include <algorithm>
#include <cmath>

#include "palio/body/clear.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::job {

bool Swept::parallel(const Swept& other) const { return along.cross(other.along).norm() <= math::kAlike; }

double overlap(const Band& a, const Band& b, double apart) {
  double depth = a.outer + b.outer - apart;
  if (b.outer < a.inner) depth = std::min(depth, apart + b.outer - a.inner);
  if (a.outer < b.inner) depth = std::min(depth, apart + a.outer - b.inner);
  return depth;
}

double foot(const Gear& gear) { return gear.height - gear.axial * pair::mid_face(gear.teeth); }

std::set<std::pair<std::size_t, std::size_t>> mates(const Design& design) {
  std::set<std::pair<std::size_t, std::size_t>> all;
  for (const Pair& p : design.pairs)
    all.insert(std::minmax(p.driver, p.driven));
  return all;
}

std::vector<Band> bands_of(const body::Body& body, double foot) {
  std::vector<Band> all;
  std::vector<std::optional<body::Shape>> shapes(body.loops.size());
  const auto shape = [&](std::size_t loop) -> const body::Shape& {
    if (!shapes[loop]) shapes[loop].emplace(body.loops[loop].outline);
    return *shapes[loop];
  };
  for (const body::Layer& layer : body.layers) {
    Band band{foot + layer.levels.front().z, foot + layer.levels.back().z, 0, 0};
    for (const body::Wall& wall : layer.walls) {
      for (const std::size_t loop : {wall.below, wall.above}) {
        // Its points lie on the curve, tips and circles within rounding of their radius.
        const body::Shape& s = shape(loop);
        math::Extent radii;
        for (const Vec2& p : s.points())
          radii.hold(p.norm());
        if (s.orientation() > 0) band.outer = std::max(band.outer, radii.high());
        if (s.orientation() < 0 && s.around_origin()) band.inner = std::max(band.inner, radii.low());
      }
    }
    all.push_back(band);
  }
  return all;
}

namespace {

/// Of a bevel gear: along the tips, behind the heel, over the hub.
std::vector<Turned> outline_of(const gear::BevelGear& teeth, const body::ConicalBody& body) {
  const gear::BevelSizes& s = teeth.sizes();
  std::vector<Turned> corners{{s.toe.tip_diameter / 2, body.bottom()}, {s.heel.tip_diameter / 2, s.crown_to_apex}};
  corners.push_back({body.rear().radius, body.rear().z});
  if (const auto hub = body.hub())
    corners.push_back({hub->radius, body.rear().z}), corners.push_back({hub->radius, hub->z});
  return corners;
}

std::vector<Band> bands_of(const std::vector<Turned>& corners) {
  std::vector<Band> all;
  for (std::size_t i = 1; i < corners.size(); ++i) {
    constexpr int kSlices = 8;
    const Turned &a = corners[i - 1], &b = corners[i];
    if (b.height <= a.height) continue;
    for (int k = 0; k < kSlices; ++k) {
      const auto at = [&](double share, double from, double to) { return from + (to - from) * share; };
      const double low = static_cast<double>(k) / kSlices, high = static_cast<double>(k + 1) / kSlices;
      all.push_back({at(low, a.height, b.height), at(high, a.height, b.height), 0,
                     std::max(at(low, a.radius, b.radius), at(high, a.radius, b.radius))});
    }
  }
  return all;
}

/// What rides on a carrier goes round: what it sweeps is a ring about the carrier's axis.
void go_round(const Design& design, std::size_t group, const Vec2& axis, Swept& s) {
  const Machine& machine = design.machine;
  const auto carrier = machine.members[s.member].carrier;
  if (!carrier || !machine.carriers[*carrier].placed || machine.carriers[*carrier].group != group) return;
  const Carrier& c = machine.carriers[*carrier];
  const double arm = (axis - c.axis).norm();
  s.axis = design.groups[group].origin + design.groups[group].axes * Vec3(c.axis.x(), c.axis.y(), 0);
  for (Band& b : s.bands)
    b.inner = std::max(0.0, arm - b.outer), b.outer = arm + b.outer;
}

}  // namespace

Swept swept(const Design& design, const Axle& axle) {
  const Group& group = design.groups[axle.group];
  Swept s{"shaft." + axle.name,
          axle.member,
          group.origin + group.axes * Vec3(axle.axis.x(), axle.axis.y(), 0),
          group.axes.col(2),
          {}};
  const double lift = s.axis.dot(s.along);
  s.bands = {{lift + axle.from, lift + axle.to, 0, axle.diameter / 2}};
  go_round(design, axle.group, axle.axis, s);
  return s;
}

Swept swept(const Design& design, const Frame& arms) {
  const Carrier& carrier = design.machine.carriers[arms.carrier.value()];
  const Group& group = design.groups[arms.group];
  Swept s{"frame." + arms.name, carrier.member, group.origin + group.axes * arms.at, group.axes.col(2), {}};
  const FramePlan& plan = arms.plan;
  const double foot = s.axis.dot(s.along), up = arms.over ? -1 : 1;
  const auto band = [&](double from, double to, double inner, double outer) {
    const double a = foot + up * from, b = foot + up * to;
    s.bands.push_back({std::min(a, b), std::max(a, b), inner, outer});
  };
  double middle = 0, widest = 0;
  for (const FramePlan::Axis& a : plan.axes) {
    const bool post = a.post_height > 0;
    const double arm = a.at.norm(), radius = job::widest(plan, a) / 2;
    if (arm == 0) middle = a.bore / 2;
    widest = std::max(widest, arm + radius + plan.margin + plan.walls);
    if (post) band(plan.thickness, plan.thickness + a.post_height, std::max(0.0, arm - radius), arm + radius);
  }
  for (const FramePlan::Hole& h : plan.holes)
    widest = std::max(widest, h.at.norm() + h.diameter / 2 + plan.margin + plan.walls);
  band(0, plan.thickness, middle, widest);
  return s;
}

/// In place, about the axis it turns about.
Swept swept(const Design& design, std::size_t gear) {
  const Gear& g = design.gears[gear];
  const Machine& machine = design.machine;
  const Group& group = design.groups[g.group];
  const std::size_t member = machine.of_gear[gear];
  const body::Solid solid = body(g);
  Swept s{"gear." + g.name, member, group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), 0), group.axes.col(2), {}};
  if (solid.is_conical()) s.cone = outline_of(g.teeth.bevel(), solid.cones());
  s.bands = solid.is_conical() ? bands_of(s.cone) : bands_of(solid.layers());
  const double lift = s.axis.dot(s.along) + foot(g);
  for (const bool top : {true, false}) {
    if (const double out = g.flange_out(top); out > 0) {
      const double end = top ? solid.layers().top() : solid.layers().bottom();
      s.bands.push_back(
          {end - (top ? 0 : out), end + (top ? out : 0), g.bearing->bore / 2, g.bearing->flange_diameter / 2});
    }
  }
  for (Band& b : s.bands)
    b.low += lift, b.high += lift;
  for (Turned& corner : s.cone)
    corner.height += lift;
  go_round(design, g.group, g.axis, s);
  return s;
}

}  // namespace palio::job
