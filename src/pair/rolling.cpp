// The real geometry of a pair, ready to be rolled: members, law and axes by theory.
#include <algorithm>
#include <cmath>

#include "palio/overloaded.hpp"
#include "palio/pair/pair.hpp"
#include "palio/pair/tolerance.hpp"
#include "palio/roll/sphere.hpp"

namespace palio::pair {
namespace {

/// Bevel teeth in the spheres of heel and toe.
std::vector<roll::SphereSection> sections(const Pair& pair, const BevelPair& bevel) {
  const auto& [driver, driven] = pair.gears();
  const auto [inner, outer] = common_face(bevel);
  std::vector<roll::SphereSection> sections;
  const auto on_sphere = [&](const Placed& g, const gear::BevelGear& teeth, double R, Angle tilt) {
    return roll::Member(g.name, teeth.section(R), roll::Motion::on_sphere(tilt, pair.direction(), R), g.phase);
  };
  for (const double R : {outer, inner}) {
    sections.push_back(
        {R, on_sphere(driver, bevel.driver(), R, Angle()), on_sphere(driven, bevel.driven(), R, pair.shaft_angle())});
  }
  return sections;
}

/// Flanks ruled to the apex, as far out as anywhere along the face; where they end is told by cone distance. Roots are
/// those of the same section: of parallel depth, where roots do not run to the apex, those of that end.
roll::Coned coned(const Placed& g, const gear::BevelGear& b, const roll::Axis& axis) {
  const double outer = b.sizes().outer_cone_distance, inner = b.sizes().inner_cone_distance;
  const double widest = b.tip_angle(outer) < b.tip_angle(inner) ? inner : outer;
  std::optional<Angle> pitch_cone;
  if (b.spec().ends == gear::BevelEnds::cones) pitch_cone = b.spec().pitch_cone;
  return {g.name,     b.section(widest),
          inner,      outer,
          pitch_cone, [b](double R) { return std::tan(b.tip_angle(R).radians() / 2); },
          axis,       g.phase};
}

roll::Coned flanks_only(roll::Coned c) {
  auto& period = c.outline.period;
  period.erase(std::remove_if(period.begin(), period.end(),
                              [](const curve::Segment& s) { return s.role != curve::Role::flank; }),
               period.end());
  return c;
}

}  // namespace

roll::Member member(const Placed& gear, double datum) {
  // The upper half of a double helical gear leans the other way than the lower one, which its angle counts for.
  const double twist = gear.teeth.is_double_helical() ? -gear.teeth.twist() : gear.teeth.twist();
  const roll::Motion motion = gear.teeth.is_rack() ? roll::Motion::translation(gear.axis, Angle::radians(gear.facing))
                                                   : roll::Motion::rotation(gear.axis);
  return {gear.name, gear.teeth.chain(), motion, gear.phase + twist * (datum - gear.height), twist};
}

std::array<double, 2> common_face(const BevelPair& pair) {
  const gear::BevelSizes &a = pair.driver().sizes(), &b = pair.driven().sizes();
  return {std::max(a.inner_cone_distance, b.inner_cone_distance),
          std::min(a.outer_cone_distance, b.outer_cone_distance)};
}

std::vector<Vec3> contact_line(const Pair& pair, const roll::Contact& c) {
  if (!pair.bevel() || pair.error().any()) return {Vec3(c.point.x(), c.point.y(), c.height)};
  if (!c.flank_on_flank()) return {roll::on_sphere(c.point, c.height)};
  const auto [inner, outer] = common_face(*pair.bevel());
  return {roll::on_sphere(c.point, outer), roll::on_sphere(c.point, inner)};
}

roll::Axis Pair::driven_axis() const {
  if (sort_ != Sort::bevel) return roll::crossed_axis(direction(), distance_, shaft_angle(), axial_offset());
  const MountingError& e = error();
  const Vec3 across(-std::sin(direction().radians()), std::cos(direction().radians()), 0);
  const Eigen::Matrix3d axes = Eigen::AngleAxisd((shaft_angle() + e.shaft_angle).radians(), across).toRotationMatrix();
  return {-e.driver * Vec3::UnitZ() + e.driven * axes.col(2) + e.offset * across, axes};
}

std::array<roll::Member, 2> Pair::members() const {
  const auto& [driver, driven] = gears_;
  if (const BevelPair* b = bevel()) {
    const roll::SphereSection heel = sections(*this, *b).front();
    return {heel.driver, heel.driven};
  }
  return {member(driver, driver.height), member(driven, crossed() ? driven.height : driver.height)};
}

roll::Law Pair::law(int positions) const {
  const double m = gears_[0].teeth.module();
  roll::Law law;
  law.ratio = motion_ratio(), law.theoretical_play = driven_play();
  law.touch_mm = touching(m), law.overlap_mm = binding(m), law.positions = positions;
  if (const ParallelPair* p = parallel()) law.face_from = p->face().from, law.face_to = p->face().to;
  return law;
}

roll::Result roll(const Pair& pair, int positions) {
  const Placed &driver = pair.gears()[0], &driven = pair.gears()[1];
  const roll::Law law = pair.law(positions);
  const auto in_plane = [&] {
    const auto [first, second] = pair.members();
    return roll::roll(first, second, law);
  };
  return pair.visit(overloaded{
      [&](const ParallelPair&) { return in_plane(); }, [&](const CycloidalPair&) { return in_plane(); },
      [&](const CrossedPair&) {
        // In space: the driver's axis is z, the driven's stands in the direction of the common normal.
        const auto [first, second] = pair.members();
        const auto twisted = [](const roll::Member& m, const Placed& g, const roll::Axis& axis) {
          return roll::Twisted{m.name, m.outline, m.twist, g.teeth.face_width(), axis, m.start};
        };
        return roll::roll(twisted(first, driver, {}), twisted(second, driven, pair.driven_axis()), law);
      },
      [&](const BevelPair& bevel) {
        if (!pair.error().any()) return roll::roll(sections(pair, bevel), law);
        return roll::roll(coned(driver, bevel.driver(), {}), coned(driven, bevel.driven(), pair.driven_axis()), law);
      }});
}

std::array<AxialShift, 2> axial_shifts(const Pair& pair, bool of_driver) {
  std::array<AxialShift, 2> all{};
  const BevelPair& b = *pair.bevel();
  const Placed &driver = pair.gears()[0], &driven = pair.gears()[1];
  const gear::BevelSpec& moved = (of_driver ? b.driver() : b.driven()).spec();
  const double step = 0.02 * moved.module, j = b.circumferential_backlash();
  const roll::Coned first = flanks_only(coned(driver, b.driver(), {}));
  for (const int i : {0, 1}) {
    all[i].shift = i == 0 ? step : -step;
    MountingError error = pair.error();
    (of_driver ? error.driver : error.driven) += all[i].shift;
    const roll::Axis axis = pair.with_error(error).driven_axis();
    const roll::Result r = roll::roll(first, flanks_only(coned(driven, b.driven(), axis)), pair.law(8));
    all[i].found = r.play ? r.play->min * b.driven().sizes().heel.pitch_diameter / 2 : std::nan("");
    all[i].by_formula =
        j + 2 * all[i].shift * std::sin(moved.pitch_cone.radians()) * std::tan(moved.pressure_angle.radians());
  }
  return all;
}

}  // namespace palio::pair
