#include "collisions.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "crossings.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "quantities.hpp"

namespace palio::job {
namespace {

struct Worst {
  double depth = 0;
  math::Extent where;
  double out = 0;  ///< from the axis, where it is deepest [mm]
};

/// "gear.wheel, over 4.0000 mm along the axis, at (…)"
std::string told(const Design& design, const std::string& other, double along, const Vec3& at) {
  return fmt::format("{}, over {} along the axis, {}", other, shown(along, Quantity::length, design.units),
                     placed_at(design, at));
}

void look_at(const Design& design, const Swept& a, const Swept& b, std::vector<Finding>& found) {
  if (!a.parallel(b)) return;
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
      if (depth > worst.depth) worst.depth = depth, worst.out = one.outer - depth / 2;
      worst.where.hold(low), worst.where.hold(high);
    }
  }
  if (worst.depth <= 0) return;
  const double along = worst.where.size();
  const bool coaxial = apart < math::kAlike;
  const double value = coaxial ? std::min(worst.depth, along) : worst.depth;
  const Vec3 across = between - a.along * a.along.dot(between);
  const Vec3 at = a.axis + a.along * ((worst.where.low() + worst.where.high()) / 2 - a.along.dot(a.axis)) +
                  (coaxial ? Vec3(Vec3::Zero()) : Vec3(across.normalized() * worst.out));
  found.push_back({FindingId::bodies_collide, a.name, value, along,
                   told(design, b.name + (a.member == b.member ? " beside it on its shaft" : ""), along, at)});
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
  if (depth <= 0) return;
  const Vec3 at = foot + ahead * (x - r.phase) + out * y;
  const Vec3 level = at + s.along * ((where.low() + where.high()) / 2 - s.along.dot(at));
  found.push_back({FindingId::bodies_collide, s.name, depth, where.size(),
                   told(design, fmt::format("gear.{}", r.name), where.size(), level)});
}

/// Whether an axle goes through the bores of what stands on it.
void look_at_bores(const Design& design, const Axle& axle, std::vector<Finding>& found) {
  constexpr double kRattles = 0.5;  // [mm]
  for (const std::size_t i : design.machine.members[axle.member].gears) {
    const Gear& g = design.gears[i];
    const std::string detail = "shaft." + axle.name;
    const bool taken = g.features.keyway || !g.features.turns_by_wall();
    const double bore = g.shaft_diameter();
    if (bore < axle.diameter - math::kAlike)
      found.push_back({FindingId::axle_too_thick, "gear." + g.name, bore, axle.diameter, detail});
    else if (bore > axle.diameter + kRattles)
      found.push_back({FindingId::axle_loose, "gear." + g.name, bore, axle.diameter, detail});
    else if (!taken && !g.bearing)
      found.push_back({FindingId::axle_round, "gear." + g.name, {}, {}, detail});
  }
}

}  // namespace

std::vector<Finding> collisions(const Design& design) {
  std::vector<Finding> found;
  const auto mates = job::mates(design);
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
        look_at(design, at(i), at(k), found);
    }
  }
  const auto against_gears = [&](const Swept& own, std::size_t of_mechanism, const auto& is_its_own) {
    for (std::size_t i = 0; i < design.gears.size(); ++i) {
      if (is_its_own(design.machine.of_gear[i]) || mechanism[i] != of_mechanism) continue;
      if (design.gears[i].teeth.is_rack())
        look_at_rack(design, own, i, found);
      else
        look_at(design, own, at(i), found);
    }
  };
  // Axles: those of other members, and what stands in their way.
  for (std::size_t n = 0; n < design.axles.size(); ++n) {
    const Axle& axle = design.axles[n];
    if (axle.diameter == 0) continue;
    const Swept own = swept(design, axle);
    const auto& on = design.machine.members[axle.member].gears;
    if (!on.empty())
      against_gears(own, mechanism[on.front()], [&](std::size_t member) { return member == axle.member; });
    for (std::size_t k = n + 1; k < design.axles.size(); ++k) {
      const auto& there = design.machine.members[design.axles[k].member].gears;
      if (design.axles[k].diameter > 0 && !on.empty() && !there.empty() &&
          mechanism[on.front()] == mechanism[there.front()])
        look_at(design, own, swept(design, design.axles[k]), found);
    }
    if (axle.gears.empty()) look_at_bores(design, axle, found);
  }
  // Arms of carriers: all that does not stand on them.
  for (const Frame& arms : design.frames) {
    if (!arms.carrier || arms.gears.empty()) continue;
    const Swept own = swept(design, arms);
    const auto rides = [&](std::size_t member) { return design.machine.members[member].carrier == arms.carrier; };
    against_gears(own, mechanism[arms.gears.front()], rides);
    for (const Axle& axle : design.axles) {
      const auto& on = design.machine.members[axle.member].gears;
      if (axle.diameter > 0 && !rides(axle.member) && !on.empty() &&
          mechanism[on.front()] == mechanism[arms.gears.front()])
        look_at(design, own, swept(design, axle), found);
    }
  }
  for (Finding& f : crossings(design, mates, mechanism, at))
    found.push_back(std::move(f));
  return found;
}

}  // namespace palio::job
