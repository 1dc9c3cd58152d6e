#include "crossings.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "convex.hpp"
#include "palio/design/train.hpp"
#include "palio/math/tolerance.hpp"
#include "swept.hpp"

namespace palio::job {
namespace {

enum class Sort { gear, axle, rack, plate, reducer };

/// A body as convex pieces, where it stands.
struct Standing {
  Sort sort;
  std::string name;               // "gear.pinion", "frame.plate"
  std::size_t index;              // among its sort
  std::size_t mechanism;          // that it is part of, by its first gear
  std::vector<std::size_t> on{};  // members that it belongs to, or carries on its axes
  Vec3 foot, along;               // of a turning one its axis, of a rack that of what turns on it
  std::vector<Convex> pieces{};
  Vec3 middle = Vec3::Zero();
  double reach = 0;  // all of it lies within, from the middle

  void bound() {
    for (const Convex& c : pieces)
      middle += c.middle / static_cast<double>(pieces.size());
    for (const Convex& c : pieces)
      reach = std::max(reach, (c.middle - middle).norm() + c.reach);
  }
  bool turns() const { return sort == Sort::gear || sort == Sort::axle; }
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

Standing standing(const Swept& s, Sort sort, std::size_t index, std::size_t mechanism) {
  return {sort, s.name, index, mechanism, {s.member}, s.axis, s.along, pieces_of(s)};
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

Standing standing_rack(const Design& design, std::size_t index, std::size_t mechanism) {
  const Gear& g = design.gears[index];
  const Group& group = design.groups[g.group];
  return {Sort::rack,        "gear." + g.name,          index, mechanism, {design.machine.of_gear[index]}, group.origin,
          group.axes.col(2), {bar_of(design, index, 0)}};
}

Standing standing(const Design& design, const Frame& f, std::size_t index, std::size_t mechanism) {
  const Group& group = design.groups[f.group];
  std::vector<Disc> discs;
  for (const FramePlan::Axis& a : f.plan.axes) {
    const double widest = std::max(a.bore, a.post_height > 0 ? f.plan.post_diameter : 0.0);
    discs.push_back({a.at, widest / 2 + f.plan.margin + f.plan.walls});
  }
  for (const FramePlan::Hole& h : f.plan.holes)
    discs.push_back({h.at, h.diameter / 2 + f.plan.margin + f.plan.walls});
  Standing s{
      Sort::plate,  "frame." + f.name,
      index,        mechanism,
      {},           Vec3::Zero(),
      Vec3::Zero(), {plate_of(group.origin + group.axes * f.at, group.axes, std::move(discs), 0, f.plan.thickness)}};
  for (const std::size_t g : f.gears)
    s.on.push_back(design.machine.of_gear[g]);
  return s;
}

/// Each of its parts as the cylinder it goes round in.
Standing standing(const Design& design, const Reducer& r, std::size_t index, std::size_t mechanism) {
  const ReducerEnds& ends = design.machine.of_reducer[index];
  Standing s{Sort::reducer, "reducer." + r.name, index, mechanism, {ends.input, ends.output}, r.at, Vec3::UnitZ()};
  for (const reducer::Part& part : parts(r)) {
    if (!part.alike.empty()) continue;
    const double off = part.at.head<2>().norm();
    double widest = 0;
    for (const Band& b : bands_of(part.body))
      widest = std::max(widest, b.outer);
    const double low = part.at.z() + part.body.bottom(), high = part.at.z() + part.body.top();
    s.pieces.push_back(turned_about({r.at, Vec3::UnitZ()}, {{widest + off, low}, {widest + off, high}}));
  }
  return s;
}

/// Everything that stands in the way of others.
std::vector<Standing> all_of(const Design& design) {
  const std::vector<std::size_t> mechanism = mechanisms(design);
  const auto of_member = [&](std::size_t m) -> std::optional<std::size_t> {
    const auto& gears = design.machine.members[m].gears;
    return gears.empty() ? std::nullopt : std::optional(mechanism[gears.front()]);
  };
  std::vector<Standing> all;
  for (std::size_t i = 0; i < design.gears.size(); ++i) {
    all.push_back(design.gears[i].teeth.is_rack() ? standing_rack(design, i, mechanism[i])
                                                  : standing(swept(design, i), Sort::gear, i, mechanism[i]));
  }
  for (std::size_t i = 0; i < design.axles.size(); ++i) {
    const auto m = of_member(design.axles[i].member);
    if (m && design.axles[i].diameter > 0) all.push_back(standing(swept(design, design.axles[i]), Sort::axle, i, *m));
  }
  for (std::size_t i = 0; i < design.frames.size(); ++i) {
    if (!design.frames[i].gears.empty())
      all.push_back(standing(design, design.frames[i], i, mechanism[design.frames[i].gears.front()]));
  }
  for (std::size_t i = 0; i < design.reducers.size(); ++i) {
    const ReducerEnds& ends = design.machine.of_reducer[i];
    const auto in = of_member(ends.input), out = of_member(ends.output);
    if (in || out) all.push_back(standing(design, design.reducers[i], i, in ? *in : *out));
  }
  for (Standing& s : all)
    s.bound();
  return all;
}

/// Whether the two have to keep clear of each other: not what turns together, meshes, or stands on a plate or over a
/// reducer.
bool strangers(const Standing& a, const Standing& b, const std::set<std::pair<std::size_t, std::size_t>>& mates) {
  if (a.mechanism != b.mechanism) return false;
  const auto shared = [&](std::size_t m) { return std::find(b.on.begin(), b.on.end(), m) != b.on.end(); };
  if (std::any_of(a.on.begin(), a.on.end(), shared)) return false;
  const auto toothed = [](const Standing& s) { return s.sort == Sort::gear || s.sort == Sort::rack; };
  if (toothed(a) && toothed(b) && mates.count(std::minmax(a.index, b.index)) > 0) return false;
  // On the axis of a reducer things stand one over the other.
  for (const auto& [one, other] : {std::pair{&a, &b}, {&b, &a}}) {
    if (one->sort != Sort::reducer || !other->turns() || one->along.cross(other->along).norm() > math::kAlike) continue;
    const Vec3 between = other->foot - one->foot;
    if ((between - one->along * one->along.dot(between)).norm() < math::kAlike) return false;
  }
  return true;
}

/// Those on parallel axes have been looked at as rings.
bool looked_at(const Standing& a, const Standing& b) {
  const auto ringed = [](const Standing& s) { return s.turns() || s.sort == Sort::rack; };
  return ringed(a) && ringed(b) && (a.turns() || b.turns()) && a.along.cross(b.along).norm() <= math::kAlike;
}

std::optional<Contact> deepest(const std::vector<Convex>& a, const std::vector<Convex>& b) {
  std::optional<Contact> worst;
  for (const Convex& one : a) {
    for (const Convex& other : b) {
      const auto there = overlap(one, other);
      if (there && (!worst || there->depth > worst->depth)) worst = there;
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
    if (&other == &rack || other.sort == Sort::rack || !strangers(rack, other, mates)) continue;
    for (const double whole : {-way->back, way->on}) {
      const auto meets = [&](double part) {
        return deepest({bar_of(design, rack.index, part)}, other.pieces).has_value();
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

std::vector<Finding> crossings(const Design& design, const std::set<std::pair<std::size_t, std::size_t>>& mates) {
  std::vector<Finding> found;
  const std::vector<Standing> all = all_of(design);
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t k = i + 1; k < all.size(); ++k) {
      const Standing &a = all[i], &b = all[k];
      if ((a.middle - b.middle).norm() >= a.reach + b.reach || looked_at(a, b) || !strangers(a, b, mates)) continue;
      if (const auto worst = deepest(a.pieces, b.pieces))
        found.push_back({FindingId::bodies_collide,
                         a.name,
                         worst->depth,
                         {},
                         fmt::format("{}, {}", b.name, placed_at(design, worst->at))});
    }
  }
  for (const Standing& s : all) {
    if (s.sort == Sort::rack) look_along(design, s, all, mates, found);
  }
  return found;
}

}  // namespace palio::job
