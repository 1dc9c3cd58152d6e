// The tip edge of a crossed gear in the roots of its mate. The edge is a helix that turns about its own axis; where a
// point of it stands in the mate's teeth is seen in one section of these, untwisted: so two numbers, the turn and the
// place along the edge, are searched for the greatest depth.
#include <algorithm>
#include <cmath>

#include "interference.hpp"
#include "palio/math/roots.hpp"

namespace palio::pair {

Depth crossed_tip_digs(const gear::CylindricalGear& own, const gear::CylindricalGear& mate, const CrossedEdge& e) {
  const auto& s = own.sizes();
  const double r_b = s.base_diameter / 2, z = own.spec().teeth, r_form = s.root_form_diameter / 2;
  const auto twist_of = [](const gear::CylindricalGear& g) {
    return std::tan(g.spec().helix_angle.radians()) / (g.sizes().reference_diameter / 2);
  };
  const double own_twist = twist_of(own), mate_twist = twist_of(mate);
  // The mate's frame: its axis through (a, 0, 0) along w, its x the common normal.
  const Vec3 w(0, std::sin(e.shaft_angle), std::cos(e.shaft_angle)),
      v(0, std::cos(e.shaft_angle), -std::sin(e.shaft_angle)), origin(e.center_distance, 0, 0);
  const Vec3 from = e.contact - origin;
  const double radius = mate.sizes().tip_form_diameter / 2, height = from.dot(w),
               azimuth = std::atan2(from.dot(v), from.x());
  // Own's flank through the contact, untwisted into the section z = 0, and the middle of the space that it bounds.
  const double seen = std::atan2(e.contact.y(), e.contact.x()) - own_twist * e.contact.z();
  const double half_base =
      kPi / z - s.transverse_tooth_thickness / s.reference_diameter - math::inv(s.transverse_pressure_angle.radians());
  const double middle = seen + e.tangent / r_b - std::atan(e.tangent / r_b) + half_base;
  const Chain periods = Chain::three_periods(own.outline());

  // The place in own's section of the point `along` the mate's axis on its edge, own being turned by `turn`.
  const auto place = [&](double turn, double along) -> std::pair<Vec2, double> {
    const double angle = azimuth + mate_twist * along + e.motion_ratio * turn;
    const Vec3 world = origin + radius * (std::cos(angle) * Vec3::UnitX() + std::sin(angle) * v) + (height + along) * w;
    return {turned(Vec2(world.x(), world.y()), -turn - own_twist * world.z()), world.z()};
  };
  const auto depth_at = [&](const Vec2& p) -> Depth {
    const double R = p.norm();
    if (R >= r_form) return std::nullopt;  // beside the flank the contact itself keeps them apart
    const auto half = own.half_space_angle(R);
    const double off = std::remainder(middle - std::atan2(p.y(), p.x()), 2 * kPi);
    if (half && std::abs(off) <= half->radians()) return (std::abs(off) - half->radians()) * R;
    return periods.depth_within(from_polar(R, kPi / z + std::abs(off)));
  };
  const auto depth = [&](double turn, double along) -> Depth {
    if (height + along < e.mate_low || height + along > e.mate_high) return std::nullopt;
    const auto [p, level] = place(turn, along);
    return level < e.own_low || level > e.own_high ? Depth() : depth_at(p);
  };
  // The edge comes within own's root only near the common normal: as far along as its distance there allows.
  const double low = e.center_distance - radius;
  if (low >= r_form) return std::nullopt;
  const double reach = 1.5 * std::sqrt((r_form - low) * (r_form + low)) / std::abs(std::sin(e.shaft_angle)) +
                       std::abs(height),
               way = 1.2 * 2 * kPi / z;
  const double nearest = std::max(-reach, e.mate_low) - height, farthest = std::min(reach, e.mate_high) - height;
  if (nearest >= farthest) return std::nullopt;
  constexpr int kTurns = 96, kPlaces = 48;
  Depth deepest;
  double turn = 0, along = 0;
  const auto look = [&](double t, double a) {
    const Depth d = depth(t, a);
    if (d > deepest) deepest = d, turn = t, along = a;
  };
  for (int i = -kTurns; i <= kTurns; ++i) {
    for (int k = 0; k <= 2 * kPlaces; ++k)
      look(way * i / kTurns, nearest + (farthest - nearest) * k / (2 * kPlaces));
  }
  if (!deepest) return deepest;
  // Around the best place, finer and finer.
  double step_turn = way / kTurns, step_along = (farthest - nearest) / (2 * kPlaces);
  for (int round = 0; round < 40; ++round) {
    const double t = turn, a = along;
    for (const int i : {-1, 0, 1}) {
      for (const int k : {-1, 0, 1})
        look(t + i * step_turn, a + k * step_along);
    }
    if (t == turn && a == along) step_turn /= 2, step_along /= 2;
  }
  if (*deepest <= 0) return deepest;
  // Across a twisted surface the way is shorter than in the section, by how much its normal leans along the screw.
  const Vec2 p = place(turn, along).first;
  constexpr double kBeside = 1e-5;  // [modules], for a slope: its own error and rounding are alike here
  const double h = kBeside * own.spec().module;
  const Vec2 round = quarter_turn(p.normalized());
  // Where the flank begins there is a depth to one side alone.
  const Depth after = depth_at(p + h * round), before = depth_at(p - h * round);
  const int sides = (after ? 1 : 0) + (before ? 1 : 0);
  if (sides == 0) return deepest;
  const double slope = (after.value_or(*deepest) - before.value_or(*deepest)) / (sides * h),
               lean = slope * own_twist * p.norm();
  return *deepest / std::sqrt(1 + lean * lean);
}

}  // namespace palio::pair
