#include "collisions.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "palio/body/clear.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::job {
namespace {

/// What a body sweeps between two heights as it turns: a ring about its axis.
struct Band {
  double low, high;     ///< along the axis, in the world [mm]
  double inner, outer;  ///< radii [mm]
};

/// A gear or axle with what it sweeps about the axis that it turns about: its own, of a planet its carrier's.
struct Swept {
  std::string name;  ///< "gear.pinion", "shaft.middle"
  std::size_t member;
  Vec3 axis, along;  ///< a point of it, its direction
  std::vector<Band> bands;
};

/// Of a body of layers: the outermost and the innermost of every layer.
std::vector<Band> bands_of(const body::Body& body) {
  std::vector<Band> all;
  std::vector<std::optional<body::Shape>> shapes(body.loops.size());
  const auto shape = [&](std::size_t loop) -> const body::Shape& {
    if (!shapes[loop]) shapes[loop].emplace(body.loops[loop].outline);
    return *shapes[loop];
  };
  for (const body::Layer& layer : body.layers) {
    Band band{layer.levels.front().z, layer.levels.back().z, 0, 0};
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

/// Of a bevel gear: along the tips, behind the heel, over the hub.
std::vector<Band> bands_of(const gear::BevelGear& teeth, const body::ConicalBody& body) {
  const gear::BevelSizes& s = teeth.sizes();
  struct Corner {
    double radius, z;
  };
  std::vector<Corner> corners{{s.toe.tip_diameter / 2, body.bottom()}, {s.heel.tip_diameter / 2, s.crown_to_apex}};
  corners.push_back({body.rear().radius, body.rear().z});
  if (const auto hub = body.hub())
    corners.push_back({hub->radius, body.rear().z}), corners.push_back({hub->radius, hub->z});
  std::vector<Band> all;
  for (std::size_t i = 1; i < corners.size(); ++i) {
    constexpr int kSlices = 8;
    const Corner &a = corners[i - 1], &b = corners[i];
    if (b.z <= a.z) continue;
    for (int k = 0; k < kSlices; ++k) {
      const auto at = [&](double share, double from, double to) { return from + (to - from) * share; };
      const double low = static_cast<double>(k) / kSlices, high = static_cast<double>(k + 1) / kSlices;
      all.push_back({at(low, a.z, b.z), at(high, a.z, b.z), 0,
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

/// In place, about the axis it turns about.
Swept swept(const Design& design, std::size_t gear) {
  const Gear& g = design.gears[gear];
  const Machine& machine = design.machine;
  const Group& group = design.groups[g.group];
  const std::size_t member = machine.of_gear[gear];
  const body::Solid solid = body(g);
  Swept s{"gear." + g.name, member, group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), 0), group.axes.col(2), {}};
  s.bands = solid.is_conical() ? bands_of(g.teeth.bevel(), solid.cones()) : bands_of(solid.layers());
  const double lift = s.axis.dot(s.along) + g.height - g.axial * pair::mid_face(g.teeth);
  for (Band& b : s.bands)
    b.low += lift, b.high += lift;
  go_round(design, g.group, g.axis, s);
  return s;
}

/// How deep two rings overlap whose middles stand so far apart; 0 or less: they keep clear, beside each other or the
/// one in the hole of the other.
double overlap(const Band& a, const Band& b, double apart) {
  double depth = a.outer + b.outer - apart;
  if (b.outer < a.inner) depth = std::min(depth, apart + b.outer - a.inner);
  if (a.outer < b.inner) depth = std::min(depth, apart + a.outer - b.inner);
  return depth;
}

/// The mates of each gear, and what else is made to be within one another.
std::set<std::pair<std::size_t, std::size_t>> meshing(const Design& design) {
  std::set<std::pair<std::size_t, std::size_t>> all;
  for (const Pair& p : design.pairs)
    all.insert(std::minmax(p.driver, p.driven));
  return all;
}

struct Worst {
  double depth = 0;
  math::Extent where;
};

void look_at(const Swept& a, const Swept& b, std::vector<Finding>& found) {
  if (a.along.cross(b.along).norm() > math::kAlike) return;
  const bool same = a.along.dot(b.along) > 0;
  const Vec3 between = b.axis - a.axis;
  const double apart = (between - a.along * a.along.dot(between)).norm();
  const double touch = math::kAlike * std::max(1.0, a.bands.back().outer);
  Worst worst;
  for (const Band& one : a.bands) {
    for (const Band& given : b.bands) {
      const Band other = same ? given : Band{-given.high, -given.low, given.inner, given.outer};
      const double low = std::max(one.low, other.low), high = std::min(one.high, other.high);
      if (high - low <= touch) continue;
      const double depth = overlap(one, other, apart);
      if (depth <= touch) continue;
      worst.depth = std::max(worst.depth, depth);
      worst.where.hold(low), worst.where.hold(high);
    }
  }
  if (worst.depth <= 0) return;
  const double along = worst.where.size();
  const bool coaxial = apart < math::kAlike;
  const double value = coaxial ? std::min(worst.depth, along) : worst.depth;
  found.push_back({FindingId::bodies_collide, a.name, value, along,
                   b.name + (a.member == b.member ? " beside it on its shaft" : "")});
}

/// Racks stand still along their teeth, as at the start: a bar beside rings.
void look_at_rack(const Design& design, const Swept& s, std::size_t rack, std::vector<Finding>& found) {
  const Gear& r = design.gears[rack];
  const Group& group = design.groups[r.group];
  if (s.along.cross(group.axes.col(2)).norm() > math::kAlike) return;
  const Vec3 foot = group.origin + group.axes * Vec3(r.axis.x(), r.axis.y(), 0);
  const Eigen::Matrix3d axes = group.axes;
  const Vec3 ahead = axes * Vec3(std::cos(r.facing), std::sin(r.facing), 0), out = axes.col(2).cross(ahead);
  const auto& sizes = r.teeth.rack().sizes();
  const double along = (s.axis - foot).dot(ahead) + r.phase, away = (s.axis - foot).dot(out);
  const double tip = r.teeth.spec().addendum * r.teeth.module(), half = sizes.length / 2;
  // The point of the bar that stands nearest to the axis.
  const double x = std::clamp(along, -half, half), y = std::clamp(away, -sizes.base_height, tip);
  const double apart = std::hypot(along - x, away - y);
  const bool same = s.along.dot(axes.col(2)) > 0;
  const double middle = foot.dot(s.along) + (same ? 1 : -1) * r.height, width = r.teeth.face_width();
  double depth = 0;
  math::Extent where;
  for (const Band& b : s.bands) {
    const double low = std::max(b.low, middle - width / 2), high = std::min(b.high, middle + width / 2);
    if (high - low <= math::kAlike || b.outer - apart <= math::kAlike) continue;
    depth = std::max(depth, b.outer - apart);
    where.hold(low), where.hold(high);
  }
  if (depth > 0)
    found.push_back({FindingId::bodies_collide, s.name, depth, where.size(), fmt::format("gear.{}", r.name)});
}

/// Whether an axle goes through the bores of what stands on it.
void look_at_bores(const Design& design, const Axle& axle, std::vector<Finding>& found) {
  constexpr double kRattles = 0.5;  // [mm]
  for (const std::size_t i : design.machine.members[axle.member].gears) {
    const Gear& g = design.gears[i];
    const std::string detail = "shaft." + axle.name;
    const bool taken = g.features.keyway || !(g.features.flat || g.features.hex);
    if (g.bore_given < axle.diameter - math::kAlike)
      found.push_back({FindingId::axle_too_thick, "gear." + g.name, g.bore_given, axle.diameter, detail});
    else if (g.bore_given > axle.diameter + kRattles)
      found.push_back({FindingId::axle_loose, "gear." + g.name, g.bore_given, axle.diameter, detail});
    else if (!taken)
      found.push_back({FindingId::axle_round, "gear." + g.name, {}, {}, detail});
  }
}

}  // namespace

std::vector<Finding> collisions(const Design& design) {
  std::vector<Finding> found;
  const auto mates = meshing(design);
  const std::vector<std::size_t> mechanism = mechanisms(design);
  std::set<std::pair<std::size_t, std::size_t>> joined;  // gears of one piece: what joins them has looked
  for (const Axle& a : design.axles) {
    for (const std::size_t i : a.gears) {
      for (const std::size_t k : a.gears)
        joined.emplace(i, k);
    }
  }
  const auto stand_together = [&](std::size_t i, std::size_t k) {
    return mechanism[i] == mechanism[k] && mates.count(std::minmax(i, k)) == 0 && joined.count({i, k}) == 0;
  };
  std::vector<std::optional<Swept>> all(design.gears.size());
  const auto at = [&](std::size_t i) -> const Swept& {
    if (!all[i]) all[i] = swept(design, i);
    return *all[i];
  };
  for (std::size_t i = 0; i < design.gears.size(); ++i) {
    for (std::size_t k = i + 1; k < design.gears.size(); ++k) {
      if (!stand_together(i, k)) continue;
      const bool first = design.gears[i].teeth.is_rack(), second = design.gears[k].teeth.is_rack();
      if (first && second) continue;
      if (first || second)
        look_at_rack(design, at(first ? k : i), first ? i : k, found);
      else
        look_at(at(i), at(k), found);
    }
  }
  // Axles: those of other members, and what stands in their way.
  for (std::size_t n = 0; n < design.axles.size(); ++n) {
    const Axle& axle = design.axles[n];
    if (axle.diameter == 0) continue;
    const Swept own = swept(design, axle);
    const auto& on = design.machine.members[axle.member].gears;
    for (std::size_t i = 0; i < design.gears.size(); ++i) {
      if (design.machine.of_gear[i] == axle.member || on.empty() || mechanism[i] != mechanism[on.front()]) continue;
      if (design.gears[i].teeth.is_rack())
        look_at_rack(design, own, i, found);
      else
        look_at(own, at(i), found);
    }
    for (std::size_t k = n + 1; k < design.axles.size(); ++k) {
      const auto& there = design.machine.members[design.axles[k].member].gears;
      if (design.axles[k].diameter > 0 && !on.empty() && !there.empty() &&
          mechanism[on.front()] == mechanism[there.front()])
        look_at(own, swept(design, design.axles[k]), found);
    }
    if (axle.gears.empty()) look_at_bores(design, axle, found);
  }
  return found;
}

}  // namespace palio::job
