// Chamfers and rounds of tip edges.
#include "palio/angle.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {
namespace {

using curve::Arc;
using curve::Line;
using curve::Role;
using math::inv;

double angle_of(const Vec2& v) { return std::atan2(v.y(), v.x()); }

/// A point on the taut string of length `string` whose foot on the base circle is at polar angle `foot`, which unwinds
/// in the sense `s`.
Vec2 on_string(double r_b, double foot, double string, int s) { return turned(Vec2(r_b, -s * string), foot); }

void refuse_both(const CylindricalSpec& spec) {
  require(spec.tip_chamfer == 0 || spec.tip_round == 0, "tip_round", mm(spec.tip_round),
          "the tip edge has a tip_chamfer already", "drop one of the two");
  require(spec.tip_chamfer >= 0, "tip_chamfer", mm(spec.tip_chamfer), "it is 0 or more", "give 0 for none");
  require(spec.tip_round >= 0, "tip_round", mm(spec.tip_round), "it is 0 or more", "give 0 for none");
}

void refuse_too_large(double given, bool chamfer, double least_land_part) {
  require(least_land_part >= 0, chamfer ? "tip_chamfer" : "tip_round", mm(given),
          "the tip is not wide enough for it, or the flank not long enough", "give less");
}

/// Radius of the arc inside an external tooth, tangent to its flank at T and to the tip circle.
double round_at(double r_b, double r_a, double T) { return (r_a * r_a - r_b * r_b - T * T) / (2 * (r_a - T)); }

}  // namespace

TipBreak external_tip(const CylindricalSpec& spec, const CylindricalSizes& s, double r_a, double half_base_angle) {
  refuse_both(spec);
  const double r_b = s.base_diameter / 2, T_a = tangent_at(r_a, r_b);
  const double half = std::max(0.0, half_base_angle - inv(std::acos(r_b / r_a)));
  if (s.pointed && (spec.tip_chamfer > 0 || spec.tip_round > 0)) {
    refuse_too_large(std::max(spec.tip_chamfer, spec.tip_round), spec.tip_chamfer > 0, -1);
  }
  if (spec.tip_chamfer > 0) {
    const double T = tangent_at(r_a - spec.tip_chamfer, r_b), land = half - spec.tip_chamfer / r_a;
    refuse_too_large(spec.tip_chamfer, true, r_a - spec.tip_chamfer > r_b && T > s.root_form_tangent ? land : -1);
    return {
        {{Line{on_string(r_b, T / r_b - half_base_angle, T, 1), from_polar(r_a, -land)}, 0, 1, Role::tip}}, T, land};
  }
  if (spec.tip_round > 0) {
    const double most = round_at(r_b, r_a, s.root_form_tangent);
    refuse_too_large(spec.tip_round, false, most - spec.tip_round);
    const double T =
        math::find_root([&](double x) { return round_at(r_b, r_a, x) - spec.tip_round; }, s.root_form_tangent, T_a);
    const double foot = T / r_b - half_base_angle;
    const Vec2 centre = on_string(r_b, foot, T - spec.tip_round, 1), at = on_string(r_b, foot, T, 1);
    const double land = -angle_of(centre), from = angle_of(at - centre);
    refuse_too_large(spec.tip_round, false, land);
    return {{{Arc{centre, spec.tip_round}, from, -land, Role::tip}}, T, land};
  }
  return {{}, T_a, s.pointed ? 0 : half};
}

TipBreak internal_tip(const CylindricalSpec& spec, const CylindricalSizes& s, double r_a, double half_base_space,
                      double middle) {
  refuse_both(spec);
  const double r_b = s.base_diameter / 2, T_a = tangent_at(r_a, r_b);
  const double space = half_base_space - inv(std::acos(std::min(1.0, r_b / r_a)));
  const double given = std::max(spec.tip_chamfer, spec.tip_round);
  if (given > 0 && (s.pointed || r_a <= r_b)) refuse_too_large(given, spec.tip_chamfer > 0, -1);
  if (spec.tip_chamfer > 0) {
    const double T = tangent_at(r_a + spec.tip_chamfer, r_b), edge = space + spec.tip_chamfer / r_a;
    refuse_too_large(spec.tip_chamfer, true, T < s.root_form_tangent ? middle - edge : -1);
    return {{{Line{from_polar(r_a, edge), on_string(r_b, half_base_space - T / r_b, T, -1)}, 0, 1, Role::tip}},
            T,
            middle - edge};
  }
  if (spec.tip_round > 0) {
    // The external tooth's fillet turned inside out: rho(T) = (r_b^2 + T^2 - r_a^2)/(2 (r_a - T)).
    const auto radius = [&](double T) { return (r_b * r_b + T * T - r_a * r_a) / (2 * (r_a - T)); };
    const double far = std::min(s.root_form_tangent, T_a + (r_a - T_a) * (1 - math::kAlike));
    refuse_too_large(spec.tip_round, false, radius(far) - spec.tip_round);
    const double T = math::find_root([&](double x) { return radius(x) - spec.tip_round; }, T_a, far);
    const double foot = half_base_space - T / r_b;
    const Vec2 centre = on_string(r_b, foot, T + spec.tip_round, -1), at = on_string(r_b, foot, T, -1);
    const double edge = angle_of(centre), from = edge + kPi;
    refuse_too_large(spec.tip_round, false, middle - edge);
    double to = angle_of(at - centre);
    while (to < from)
      to += 2 * kPi;
    while (to > from + 2 * kPi)
      to -= 2 * kPi;
    return {{{Arc{centre, spec.tip_round}, from, to, Role::tip}}, T, middle - edge};
  }
  return {{}, T_a, middle - space};
}

}  // namespace palio::gear
