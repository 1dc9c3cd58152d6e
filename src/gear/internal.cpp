// A ring: teeth inwards, its root made by a pinion cutter or a plain arc. Its space is shaped like an external tooth,
// so the flank on the counter-clockwise side of a space is that of an external tooth as thick as the space.
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {

using curve::Arc;
using curve::Involute;
using curve::Line;
using curve::Role;
using curve::Segment;
using math::inv;

namespace {

struct RingRoot {
  Segment curve;
  double radius, half_angle, form_tangent;
};

/// An arc tangent to the flank at T and to the root circle: ϱ(T) = (r_f² − r_b² − T²)/(2 (r_f − T)), centre on the
/// string.
RingRoot fillet(double r_b, double r_f, double half_base_space, double radius, double T_a) {
  const double T_f = tangent_at(r_f, r_b);
  const auto radius_at = [&](double T) { return (r_f * r_f - r_b * r_b - T * T) / (2 * (r_f - T)); };
  const auto centre_angle = [&](double T) { return half_base_space - T / r_b + std::atan((T - radius_at(T)) / r_b); };
  require(centre_angle(T_f) > 0, "root.fillet_radius", mm(radius),
          "the flanks of a space meet before they reach the root circle, so no arc fits between them",
          "make the dedendum smaller, or leave root out for the root that the pinion cutter generates");
  // From the root circle inwards the arc grows until its centre reaches the middle of the space or the flank is used
  // up.
  double least = T_a;
  if (centre_angle(T_a) < 0) least = math::find_root(centre_angle, T_a, T_f);
  const double greatest = radius_at(least);
  require(radius > 0 && radius <= greatest, "root.fillet_radius", mm(radius),
          fmt::format("arcs tangent to flank and root circle have radii above 0 to {:.6g} mm here", greatest),
          "choose one in that range, or leave root out for the root that the pinion cutter generates");
  const double T = math::find_root([&](double x) { return radius_at(x) - radius; }, least, T_f);
  const double foot = half_base_space - T / r_b, gamma = centre_angle(T);
  const Vec2 at = turned(Vec2(r_b, T), foot), centre = from_polar(r_f - radius, gamma);
  double from = std::atan2(at.y() - centre.y(), at.x() - centre.x());
  while (from < gamma)
    from += 2 * kPi;
  while (from > gamma + 2 * kPi)
    from -= 2 * kPi;
  return {{Arc{centre, radius}, from, gamma, Role::root}, r_f, gamma, T};
}

/// From the tip circle to the root circle, on the counter-clockwise side of the space; turned back by a pitch it is the
/// second half of a period, which runs clockwise from the middle of the space over a tooth to the middle of the next.
curve::Outline ring_outline(const CylindricalSpec& spec, const CylindricalSizes& s, const RingRoot& root,
                            const TipBreak& edge, double half_base_space) {
  const double r_a = s.tip_diameter / 2, r_b = s.base_diameter / 2, z = spec.teeth;
  curve::Outline outline;
  std::vector<Segment> half;
  half.insert(half.end(), edge.segments.begin(), edge.segments.end());
  if (r_a < r_b)
    half.push_back({Line{from_polar(r_a, half_base_space), from_polar(r_b, half_base_space)}, 0, 1, Role::tip});
  half.push_back({Involute{r_b, half_base_space, -1}, edge.form_tangent / r_b, root.form_tangent / r_b, Role::flank});
  half.push_back(root.curve);
  const Arc floor{Vec2::Zero(), root.radius};
  if (root.half_angle > math::kRounding) half.push_back({floor, root.half_angle, 0, Role::root});
  for (auto it = half.rbegin(); it != half.rend(); ++it)
    outline.period.push_back(curve::mirrored(*it));
  const double pitch = 2 * kPi / z;
  if (edge.half_land > kNoLand)
    outline.period.push_back({Arc{Vec2::Zero(), r_a}, edge.half_land - kPi / z, -edge.half_land - kPi / z, Role::tip});
  for (const Segment& part : half)
    outline.period.push_back(curve::turned(part, -pitch));
  outline.count = spec.teeth;
  outline.clockwise = true;
  return outline;
}

}  // namespace

void CylindricalGear::build_internal() {
  const CylindricalSpec& spec = spec_;
  CylindricalSizes& s = sizes_;
  const double m = spec.module, z = spec.teeth, cos_b = std::cos(spec.helix_angle.radians());
  const double alpha_t = s.transverse_pressure_angle.radians(), d = s.reference_diameter, r = d / 2,
               r_b = s.base_diameter / 2;
  const double x_E = s.generating_profile_shift;
  const double half_base_tooth = s.transverse_tooth_thickness / d - inv(alpha_t),
               half_base_space = kPi / z - half_base_tooth;

  // Tip circle. Where the base circle lies outside it, the flank ends there and goes on as a radial line.
  const double r_a_asked = spec.tip_diameter ? *spec.tip_diameter / 2 : r - (spec.profile_shift + spec.addendum) * m;
  const Given tip = given_tip(spec);
  require(r_a_asked > 0.02 * r, tip.key, tip.text, "the tip circle would shrink to nothing", "shorten the teeth");
  double r_a = r_a_asked;
  if (half_base_tooth < 0) {
    const double r_point = r_b / std::cos(math::arcinv(-half_base_tooth));
    s.pointed = r_a <= r_point;
    r_a = std::max(r_a, r_point);
  }
  s.tip_diameter = 2 * r_a;
  const double T_a = tangent_at(r_a, r_b);

  // Root.
  s.dedendum = spec.root_diameter ? (*spec.root_diameter - d) / (2 * m) + x_E : tool_dedendum(spec, x_E);
  const double root_depth = s.dedendum - x_E;
  const Given depth = given_depth(spec);
  require(r + root_depth * m > r_a, depth.key, depth.text,
          fmt::format("the root circle must lie outside the tip circle ({})", mm(2 * r_a)), "deepen the root");
  s.tool_tip_radius = spec.tool_tip_radius.value_or(0.38);
  const auto build_root = [&]() -> RingRoot {
    if (spec.fillet_radius) return fillet(r_b, r + root_depth * m, half_base_space, *spec.fillet_radius, T_a);
    const RingBlank blank{spec.teeth, m, spec.pressure_angle, cos_b, x_E, T_a, root_depth, s.tool_tip_radius};
    CutterWish wish = spec.cutter;
    if (spec.root_diameter && wish.tip_diameter) {
      throw InvalidParameter("root_diameter", depth.text, "the cutter's tip_diameter makes the root already",
                             "drop one of the two");
    }
    s.cutter = choose_cutter(blank, wish);
    const CutterRoot made = cutter_root(blank, *s.cutter);
    s.cutter_clear_tangent = made.clear_tangent;
    return {made.curve, made.root_radius, made.half_root_angle, made.form_tangent};
  };
  const RingRoot root = build_root();
  s.root_diameter = 2 * root.radius;
  s.root_form_tangent = root.form_tangent;
  s.root_form_diameter = 2 * std::hypot(r_b, root.form_tangent);
  s.min_profile_shift_no_undercut = 0;
  require(root.form_tangent > T_a, tip.key, tip.text,
          fmt::format("no involute is left: the flank ends at diameter {} and the tip circle is {}",
                      mm(s.root_form_diameter), mm(2 * r_a)),
          "shorten the tooth, or deepen the root");
  const TipBreak edge = internal_tip(spec, s, r_a, half_base_space, kPi / z);
  s.tip_form_tangent = edge.form_tangent;
  s.tip_form_diameter = 2 * std::hypot(r_b, edge.form_tangent);
  if (edge.form_tangent == T_a && r_a > r_b) s.tip_form_diameter = 2 * r_a;

  const double half_tip = s.pointed ? 0 : std::max(0.0, half_tooth_angle(r_a).radians());
  const double beta_a = std::atan(std::tan(spec.helix_angle.radians()) * r_a / r);
  s.tip_thickness = 2 * r_a * half_tip * std::cos(beta_a);
  s.outer_diameter = spec.outer_diameter.value_or(2 * root.radius + 5 * m);
  require(s.outer_diameter > s.root_diameter, "outer_diameter", mm(s.outer_diameter),
          fmt::format("the root circle has diameter {}", mm(s.root_diameter)), "make the ring larger");

  outline_ = ring_outline(spec, s, root, edge, half_base_space);
}

}  // namespace palio::gear
