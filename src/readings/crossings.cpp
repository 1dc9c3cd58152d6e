#include "crossings.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>

#include <fmt/format.h>

#include "convex.hpp"
#include "palio/design/train.hpp"
#include "palio/math/tolerance.hpp"
#include "readings.hpp"

namespace palio::job {
namespace {

enum class Thing { gear, axle, rack, plate, arms, reducer };

/// A body as convex pieces, within a sphere.
struct Pieces {
  std::vector<Convex> all;
  Vec3 middle = Vec3::Zero();
  double reach = 0;

  explicit Pieces(std::vector<Convex> pieces) : all(std::move(pieces)) {
    for (const Convex& c : all)
      middle += c.middle / static_cast<double>(all.size());
    for (const Convex& c : all)
      reach = std::max(reach, (c.middle - middle).norm() + c.reach);
  }
};

/// What stands somewhere, and turns or not; its pieces are made when they are asked for.
struct Standing {
  Thing sort;
  std::string name;             // "gear.pinion", "frame.plate"
  std::size_t index;            // among its sort
  std::size_t mechanism;        // that it is part of, by its first gear
  std::vector<std::size_t> on;  // members that it belongs to, or carries on its axes
  Spin axis;                    // of a turning one its own, of a rack that of what turns on it
  std::function<std::vector<Convex>()> make;
  Once<Pieces> made{};

  const Pieces& pieces() const {
    return made([&] { return Pieces(make()); });
  }
  bool turns() const { return sort == Thing::gear || sort == Thing::axle || sort == Thing::arms; }
};

std::vector<Convex> pieces_of(const Swept& s) {
  // Heights of what is swept count from the origin of the whole, along the axis.
  const Spin spin{s.axis - s.along * s.axis.dot(s.along), s.along};
  std::vector<Convex> all;
  if (!s.cone.empty()) {
    for (std::size_t i = 1; i < s.cone.size(); ++i) {
      const Turned &a = s.cone[i - 1], &b = s.cone[i];
      if (b.height > a.height) all.push_back(turned_about(spin, {{0, a.height}, a, b, {0, b.height}}));
    }
    return all;
  }
  for (const Band& band : s.bands) {
    // A hole that a shaft goes through is none; that of a ring is.
    const bool ring = band.inner > band.outer / 2;
    if (!ring) {
      all.push_back(turned_about(spin, {{band.outer, band.low}, {band.outer, band.high}}));
      continue;
    }
    for (Convex& c : ring_about(spin, band.inner, band.outer, band.low, band.high))
      all.push_back(std::move(c));
  }
  return all;
}

/// From tips to back: what it sweeps while it goes from where it stands along its own +x, or −x where `way` is below 0.
Convex bar_of(const Design& design, std::size_t index, double way) {
  const Gear& g = design.gears[index];
  const Group& group = design.groups[g.group];
  const gear::RackSizes& s = g.teeth.rack().sizes();
  std::vector<Vec3> corners;
  const Vec2 foot = g.axis - from_polar(g.phase, g.facing), ahead = from_polar(1, g.facing), out = quarter_turn(ahead);
  for (const double x : {s.middle - s.length / 2 + std::min(0.0, way), s.middle + s.length / 2 + std::max(0.0, way)}) {
    for (const double y : {-s.base_height, s.tip_height}) {
      for (const double z : {-0.5, 0.5}) {
        const Vec2 p = foot + ahead * x + out * y;
        corners.push_back(group.origin + group.axes * Vec3(p.x(), p.y(), g.height + z * g.teeth.face_width()));
      }
    }
  }
  return hull_of(std::move(corners));
}

Convex hull_of(const Design& design, const Frame& f) {
  const Group& group = design.groups[f.group];
  const Eigen::Matrix3d axes = group.axes * Vec3(1, f.over ? -1 : 1, f.over ? -1 : 1).asDiagonal();
  std::vector<Disc> discs;
  for (const FramePlan::Axis& a : f.plan.axes) {
    discs.push_back({a.at, widest(f.plan, a) / 2 + f.plan.margin + f.plan.walls});
  }
  for (const FramePlan::Hole& h : f.plan.holes)
    discs.push_back({h.at, h.diameter / 2 + f.plan.margin + f.plan.walls});
  return plate_of(group.origin + group.axes * f.at, axes, std::move(discs), 0, f.plan.thickness);
}

/// Each of its parts as the cylinder it goes round in.
std::vector<Convex> cylinders_of(const Reducer& r) {
  std::vector<Convex> all;
  for (const reducer::Part& part : parts(r)) {
    if (!part.alike.empty()) continue;
    double widest = part.at.head<2>().norm();
    const double off = widest;
    for (const Band& b : bands_of(part.body))
      widest = std::max(widest, off + b.outer);
    const double low = part.at.z() + part.body.bottom(), high = part.at.z() + part.body.top();
    all.push_back(turned_about({r.at, Vec3::UnitZ()}, {{widest, low}, {widest, high}}));
  }
  return all;
}

Spin spin_of(const Group& group, const Vec2& axis) {
  return {group.origin + group.axes * Vec3(axis.x(), axis.y(), 0), group.axes.col(2)};
}

/// Everything that stands in the way of others.
std::vector<Standing> everything(const Design& design, const std::vector<std::size_t>& mechanism,
                                 const std::function<const Swept&(std::size_t)>& of_gear) {
  const Machine& machine = design.machine;
  const auto of_member = [&](std::size_t m) -> std::optional<std::size_t> {
    const auto& gears = machine.members[m].gears;
    return gears.empty() ? std::nullopt : std::optional(mechanism[gears.front()]);
  };
  std::vector<Standing> all;
  all.reserve(design.gears.size() + design.axles.size() + design.frames.size() + design.reducers.size());
  for (std::size_t i = 0; i < design.gears.size(); ++i) {
    const Gear& g = design.gears[i];
    const bool rack = g.teeth.is_rack();
    all.push_back({rack ? Thing::rack : Thing::gear,
                   "gear." + g.name,
                   i,
                   mechanism[i],
                   {machine.of_gear[i]},
                   spin_of(design.groups[g.group], g.axis),
                   [&design, &of_gear, i, rack] {
                     return rack ? std::vector<Convex>{bar_of(design, i, 0)} : pieces_of(of_gear(i));
                   }});
  }
  for (std::size_t i = 0; i < design.axles.size(); ++i) {
    const Axle& axle = design.axles[i];
    const auto m = of_member(axle.member);
    if (m && axle.diameter > 0)
      all.push_back({Thing::axle,
                     "shaft." + axle.name,
                     i,
                     *m,
                     {axle.member},
                     spin_of(design.groups[axle.group], axle.axis),
                     [&design, &axle] { return pieces_of(swept(design, axle)); }});
  }
  for (std::size_t i = 0; i < design.frames.size(); ++i) {
    const Frame& f = design.frames[i];
    if (f.gears.empty()) continue;
    std::vector<std::size_t> on;
    for (const std::size_t g : f.gears)
      on.push_back(machine.of_gear[g]);
    if (f.carrier) {
      const Carrier& c = machine.carriers[*f.carrier];
      on.push_back(c.member);
      all.push_back({Thing::arms, "frame." + f.name, i, mechanism[f.gears.front()], std::move(on),
                     spin_of(design.groups[f.group], c.axis), [&design, &f] { return pieces_of(swept(design, f)); }});
      continue;
    }
    all.push_back({Thing::plate, "frame." + f.name, i, mechanism[f.gears.front()], std::move(on), {}, [&design, &f] {
                     return std::vector<Convex>{hull_of(design, f)};
                   }});
  }
  for (std::size_t i = 0; i < design.reducers.size(); ++i) {
    const Reducer& r = design.reducers[i];
    const ReducerEnds& ends = machine.of_reducer[i];
    const auto in = of_member(ends.input), out = of_member(ends.output);
    if (in || out)
      all.push_back({Thing::reducer,
                     "reducer." + r.name,
                     i,
                     in ? *in : *out,
                     {ends.input, ends.output},
                     {r.at, Vec3::UnitZ()},
                     [&r] { return cylinders_of(r); }});
  }
  return all;
}

/// Whether the two have to keep clear of each other: not what turns together, meshes, or stands on a plate or over a
/// reducer.
bool strangers(const Standing& a, const Standing& b, const std::set<std::pair<std::size_t, std::size_t>>& mates) {
  if (a.mechanism != b.mechanism) return false;
  const auto shared = [&](std::size_t m) { return std::find(b.on.begin(), b.on.end(), m) != b.on.end(); };
  if (std::any_of(a.on.begin(), a.on.end(), shared)) return false;
  const auto toothed = [](const Standing& s) { return s.sort == Thing::gear || s.sort == Thing::rack; };
  if (toothed(a) && toothed(b) && mates.count(std::minmax(a.index, b.index)) > 0) return false;
  // On the axis of a reducer things stand one over the other.
  for (const auto& [one, other] : {std::pair{&a, &b}, {&b, &a}}) {
    if (one->sort != Thing::reducer || !other->turns() ||
        one->axis.along.cross(other->axis.along).norm() > math::kAlike)
      continue;
    const Vec3 between = other->axis.foot - one->axis.foot;
    if ((between - one->axis.along * one->axis.along.dot(between)).norm() < math::kAlike) return false;
  }
  return true;
}

/// Those on parallel axes have been looked at as rings.
bool looked_at(const Standing& a, const Standing& b) {
  const auto ringed = [](const Standing& s) { return s.turns() || s.sort == Thing::rack; };
  return ringed(a) && ringed(b) && (a.turns() || b.turns()) && a.axis.along.cross(b.axis.along).norm() <= math::kAlike;
}

std::optional<Contact> deepest(const std::vector<Convex>& a, const std::vector<Convex>& b) {
  std::optional<Contact> worst;
  for (const Convex& one : a) {
    for (const Convex& other : b) {
      if (const auto there = overlap(one, other, worst ? worst->depth : 0)) worst = there;
    }
  }
  return worst;
}

/// How far a rack goes, either way, until it runs into something; what it stands in already has been told.
void look_along(const Design& design, const Standing& rack, const std::vector<Standing>& all,
                const std::set<std::pair<std::size_t, std::size_t>>& mates, std::vector<Finding>& found) {
  const auto way = rack_way(design, rack.index);
  if (!way) return;
  for (const Standing& other : all) {
    if (&other == &rack || other.sort == Thing::rack || !strangers(rack, other, mates)) continue;
    for (const double whole : {-way->back, way->on}) {
      const auto meets = [&](double part) {
        return deepest({bar_of(design, rack.index, part)}, other.pieces().all).has_value();
      };
      if (!meets(whole) || meets(0)) continue;
      constexpr double kNear = 1e-3;  // [mm]
      double clear = 0, blocked = whole;
      while (std::abs(blocked - clear) > kNear) {
        const double middle = (clear + blocked) / 2;
        (meets(middle) ? blocked : clear) = middle;
      }
      found.push_back({FindingId::way_blocked, rack.name, std::abs(blocked), std::abs(whole), other.name});
    }
  }
}

}  // namespace

std::string placed_at(const Design& design, const Vec3& at) {
  const double unit = mm_per(design.units);
  return fmt::format("at ({:.4g}, {:.4g}, {:.4g}) {}", at.x() / unit, at.y() / unit, at.z() / unit,
                     symbol(design.units));
}

std::vector<Finding> crossings(const Design& design, const std::set<std::pair<std::size_t, std::size_t>>& mates,
                               const std::vector<std::size_t>& mechanism,
                               const std::function<const Swept&(std::size_t)>& of_gear) {
  std::vector<Finding> found;
  const std::vector<Standing> all = everything(design, mechanism, of_gear);
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t k = i + 1; k < all.size(); ++k) {
      const Standing &a = all[i], &b = all[k];
      if (looked_at(a, b) || !strangers(a, b, mates)) continue;
      const Pieces &one = a.pieces(), &other = b.pieces();
      if ((one.middle - other.middle).norm() >= one.reach + other.reach) continue;
      if (const auto worst = deepest(one.all, other.all))
        found.push_back({FindingId::bodies_collide,
                         a.name,
                         worst->depth,
                         {},
                         fmt::format("{}, {}", b.name, placed_at(design, worst->at))});
    }
  }
  for (const Standing& s : all) {
    if (s.sort == Thing::rack) look_along(design, s, all, mates, found);
  }
  return found;
}

}  // namespace palio::job
