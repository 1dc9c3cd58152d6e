// Where the readings of a pair are to be seen: the driver at its start, the driven pushed against its limit.
#include <algorithm>
#include <cmath>

#include "marks.hpp"
#include "palio/pair/line_of_action.hpp"
#include "readings.hpp"

namespace palio::job::pair_marks {
namespace {

/// Where the axes (of a rack, the place of its reference line beside its gear) lie.
std::array<Vec2, 2> axes(const pair::Pair& p) {
  const auto& [driver, driven] = p.gears();
  const Vec2 way = from_polar(p.mounted_center_distance(), p.direction().radians());
  if (driver.teeth.is_rack()) return {driven.axis - way, driven.axis};
  if (driven.teeth.is_rack()) return {driver.axis, driver.axis + way};
  return {driver.axis, driven.axis};
}

/// Both ends of the contact's way along the line of action.
MarkLine path_of_involutes(const pair::Pair& pair) {
  const pair::ParallelPair& theory = *pair.parallel();
  const auto ends = pair::line_of_action(pair, true);
  const gear::Teeth& driver = pair.gears()[0].teeth;
  // Tangent lengths count from the foot on a base circle: the driver's, beside a rack or in a ring the driven's.
  const bool by_driven = driver.is_rack() || driver.internal();
  const auto on = [&](double T) { return by_driven && !theory.with_rack() ? theory.mate_tangent(true, T) : T; };
  const Vec2 foot = by_driven ? ends[1] : ends[0], way = ((by_driven ? ends[0] : ends[1]) - foot).normalized();
  return {foot + on(theory.contact_begin()) * way, foot + on(theory.contact_end()) * way};
}

}  // namespace

std::optional<Mark> center_distance(const PairAt& a) {
  if (!a.pair.plane()) return std::nullopt;
  const auto [first, second] = axes(a.pair);
  return Mark{Mark::Plane::across, {MarkLine{first, second}}, {}};
}

std::optional<Mark> working_circles(const PairAt& a) {
  if (!a.pair.plane()) return std::nullopt;
  Mark mark;
  for (std::size_t i = 0; i < 2; ++i) {
    const double diameter = a.pair.working_pitch_diameters()[i];
    if (std::isfinite(diameter)) mark.measured.push_back(circle(diameter / 2, a.pair.gears()[i].axis));
  }
  return mark;
}

std::optional<Mark> pressure_angle(const PairAt& a) {
  if (!a.pair.parallel()) return std::nullopt;
  const auto ends = pair::line_of_action(a.pair, true);
  const Vec2 at = pair::pitch_point(a.pair), across = from_polar(1, a.pair.direction().radians() + kPi / 2);
  Vec2 line = (ends[1] - ends[0]).normalized();
  if (line.dot(across) < 0) line = -line;
  const double module = a.driver().teeth.module(), tangent = a.pair.direction().radians() + kPi / 2,
               lean = tangent + std::atan2(cross(across, line), across.dot(line));
  return Mark{Mark::Plane::across,
              {MarkArc{at, 2 * module, std::min(lean, tangent), std::max(lean, tangent)}},
              {MarkLine{at - 3 * module * across, at + 3 * module * across},
               MarkLine{at - 3 * module * line, at + 3 * module * line}}};
}

std::optional<Mark> contact_path(const PairAt& a) {
  if (a.pair.parallel()) {
    const auto ends = pair::line_of_action(a.pair, true);
    return Mark{Mark::Plane::across, {path_of_involutes(a.pair)}, {MarkLine{ends[0], ends[1]}}};
  }
  Mark mark;
  for (const pair::ContactArc& arc : pair::contact_arcs(a.pair, true)) {
    mark.measured.emplace_back(MarkArc{arc.centre, arc.radius, arc.from, arc.to});
    mark.guides.push_back(circle(arc.radius, arc.centre));
  }
  return mark.measured.empty() ? std::nullopt : std::optional(mark);
}

std::optional<Mark> circumferential_backlash(const PairAt& a) {
  if (!a.pair.plane() || a.driven().teeth.is_rack()) return std::nullopt;
  const roll::Position at = pair::start_of_roll(a.pair).position;
  const double r = a.pair.working_pitch_diameters()[1] / 2;
  const auto half = gear_marks::half_tooth(a.driven().teeth, r);
  if (!at.upper || !at.lower || !half) return std::nullopt;
  // The flank that touches at the other limit, where it is now, and where it would be then.
  const gear::Teeth& teeth = a.driven().teeth;
  const double pitch = 2 * kPi / teeth.count(), flank = at.upper->driven + gear_marks::tooth_middle(teeth) - *half;
  const Vec2 seen = at.lower->point - a.driven().axis;
  const double near = std::atan2(seen.y(), seen.x()), now = near + std::remainder(flank - near, pitch);
  return Mark{Mark::Plane::across,
              {MarkArc{a.driven().axis, r, now - (at.upper->driven - at.lower->driven), now}},
              {circle(r, a.driven().axis)}};
}

std::optional<Mark> normal_backlash(const PairAt& a) {
  if (!a.pair.plane()) return std::nullopt;
  const roll::Position at = pair::start_of_roll(a.pair).position;
  if (!at.upper || !at.lower) return std::nullopt;
  const double gap = (at.upper->driven - at.lower->driven) * at.lower->arm;
  return Mark{Mark::Plane::across, {MarkLine{at.lower->point - gap * at.lower->normal, at.lower->point}}, {}};
}

std::optional<Mark> tip_clearance(const PairAt& a) {
  if (!a.pair.plane() || a.driver().teeth.is_rack() || a.driven().teeth.is_rack()) return std::nullopt;
  const pair::Placed &driver = a.pair.gears()[0], &driven = a.pair.gears()[1];
  if (driver.teeth.is_lantern() || driven.teeth.is_lantern()) return std::nullopt;
  const Vec2 way = from_polar(1, a.pair.direction().radians());
  const double back = driver.teeth.internal() || driven.teeth.internal() ? 1 : -1;
  const auto first = [&](double diameter) { return Vec2(driver.axis + diameter / 2 * way); };
  const auto second = [&](double diameter) { return Vec2(driven.axis + back * diameter / 2 * way); };
  return Mark{
      Mark::Plane::across,
      {MarkLine{first(driver.teeth.tip_diameter()), second(driven.teeth.root_diameter())},
       MarkLine{second(driven.teeth.tip_diameter()), first(driver.teeth.root_diameter())}},
      {circle(driver.teeth.tip_diameter() / 2, driver.axis), circle(driver.teeth.root_diameter() / 2, driver.axis),
       circle(driven.teeth.tip_diameter() / 2, driven.axis), circle(driven.teeth.root_diameter() / 2, driven.axis)}};
}

}  // namespace palio::job::pair_marks
