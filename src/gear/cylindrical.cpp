#include "palio/gear/cylindrical.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/curve/parallel.hpp"
#include "palio/error.hpp"
#include "palio/gear/rack_root.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {
namespace {

using curve::Arc;
using curve::Involute;
using curve::Line;
using curve::Role;
using curve::Segment;
using math::arcinv;
using math::inv;

void check_given(const CylindricalSpec& s) {
  require(s.teeth >= 3, "teeth", fmt::format("{}", s.teeth), "a closed gear needs at least 3", "give 3 or more");
  require(s.module > 0 && std::isfinite(s.module), "module", mm(s.module), "a module is above 0", "give 1.5 mm, say");
  const double alpha = s.pressure_angle.degrees();
  require(alpha >= 5 && alpha <= 45, "pressure_angle", fmt::format("{:.6g}°", alpha), "it lies between 5° and 45°",
          "give 20, the usual angle");
  const double beta = s.helix_angle.degrees();
  require(beta >= -60.001 && beta <= 60.001, "helix_angle", fmt::format("{:.6g}°", beta),
          "it lies between −60° and 60°", "give a smaller angle");
  require(s.face_width > 0 && std::isfinite(s.face_width), "face_width", mm(s.face_width), "it is above 0",
          "give about 8 to 12 modules");
}

}  // namespace

CylindricalSpec scaled(const CylindricalSpec& spec, double factor) {
  CylindricalSpec s = spec;
  for (double* length :
       {&s.module, &s.thickness_allowance, &s.face_width, &s.bore_diameter, &s.tip_chamfer, &s.tip_round, &s.gap})
    *length *= factor;
  for (std::optional<double>* length :
       {&s.tip_diameter, &s.root_diameter, &s.fillet_radius, &s.outer_diameter, &s.length, &s.base_height,
        &s.cutter.tip_diameter, &s.cutter.tip_corner_radius}) {
    if (*length) **length *= factor;
  }
  return s;
}

double tool_dedendum(const CylindricalSpec& spec, double generating_shift) {
  return spec.dedendum + (spec.flanks_only ? generating_shift - spec.profile_shift : 0);
}

CylindricalGear::CylindricalGear(const CylindricalSpec& spec) : spec_(spec) {
  common();
  spec.internal ? build_internal() : build_external();
}

void CylindricalGear::common() {
  const CylindricalSpec& spec = spec_;
  check_given(spec);
  const double m = spec.module, alpha_n = spec.pressure_angle.radians(), z = spec.teeth;
  const double cos_b = std::cos(spec.helix_angle.radians());
  CylindricalSizes& s = sizes_;

  s.transverse_module = m / cos_b;
  const double alpha_t = std::atan(std::tan(alpha_n) / cos_b);
  s.transverse_pressure_angle = spec.helix_angle.radians() == 0 ? spec.pressure_angle : Angle::radians(alpha_t);
  s.base_helix_angle = Angle::radians(std::asin(std::sin(spec.helix_angle.radians()) * std::cos(alpha_n)));
  const double d = z * s.transverse_module;
  s.reference_diameter = d;
  s.base_diameter = d * std::cos(s.transverse_pressure_angle.radians());

  const double x_E = spec.profile_shift + spec.thickness_allowance / (2 * m * std::tan(alpha_n));
  s.generating_profile_shift = x_E;
  s.normal_tooth_thickness = m * (kPi / 2 + 2 * x_E * std::tan(alpha_n));
  s.transverse_tooth_thickness = s.normal_tooth_thickness / cos_b;
  require(s.normal_tooth_thickness > 0, "thickness_allowance", mm(spec.thickness_allowance),
          fmt::format("the tooth without it is only {} thick", mm(s.normal_tooth_thickness - spec.thickness_allowance)),
          "thin it by less (allowance, backlash), or raise profile_shift");
  require(s.transverse_tooth_thickness < kPi * s.transverse_module, "profile_shift",
          fmt::format("{:.6g}", spec.profile_shift), "the tooth fills the whole pitch and leaves no space", "lower it");
}

double CylindricalGear::twist() const noexcept {
  return 2 * std::tan(spec_.helix_angle.radians()) / sizes_.reference_diameter;
}

double CylindricalGear::lead() const noexcept { return 2 * kPi / std::abs(twist()); }

namespace {

/// The root as the tool cuts it or as a fillet of a radius asked for; the tool's tip radius is filled in.
/// \param asked  what the depth was given by
Root external_root(const CylindricalSpec& spec, CylindricalSizes& s, const SpaceFlank& space, const Given& asked) {
  const double m = spec.module, alpha_n = spec.pressure_angle.radians(), z = spec.teeth, r = s.reference_diameter / 2,
               x_E = s.generating_profile_shift, middle = -kPi / z;
  const double largest = largest_tip_radius(spec.pressure_angle, s.dedendum);
  if (spec.fillet_radius) {
    s.tool_tip_radius = std::max(0.0, std::min(spec.tool_tip_radius.value_or(0.38), largest));
    return fillet_root(space, s.root_diameter / 2, *spec.fillet_radius, middle);
  }
  require(largest >= -math::kRounding, asked.key, asked.text,
          fmt::format("a tool tooth of this depth ends in a point at {:.6g} modules", kPi / 4 / std::tan(alpha_n)),
          "make the root less deep or the pressure angle smaller");
  if (spec.tool_tip_radius) {
    require(*spec.tool_tip_radius >= 0 && *spec.tool_tip_radius <= largest + math::kRounding, "tool_tip_radius",
            fmt::format("{:.6g}", *spec.tool_tip_radius),
            fmt::format("with this pressure angle and dedendum the tool leaves room for 0 to {:.6g} modules", largest),
            "give the largest or less, or leave it out to have the largest chosen");
  }
  s.tool_tip_radius = std::max(0.0, spec.tool_tip_radius.value_or(std::min(0.38, largest)));
  return generated_root(
      space, {m, spec.pressure_angle, std::cos(spec.helix_angle.radians()), s.dedendum, s.tool_tip_radius, x_E, r},
      middle);
}

/// A deep undercut can meet the one from the other side: then the tool cuts the tooth off.
void check_neck(const Root& root, int teeth, const Given& asked) {
  double neck = kPi / teeth;
  for (const Segment& part : root.segments) {
    for (int i = 0; i <= 64; ++i) {
      const Vec2 p = part.point(part.from + (part.to - part.from) * i / 64);
      neck = std::min(neck, -std::atan2(p.y(), p.x()));
    }
  }
  require(neck > 0, asked.key, asked.text,
          "a tool of this depth undercuts the tooth from both sides until it falls off",
          "make the root less deep, give more teeth, or raise profile_shift");
}

/// One period: root and flank below the tooth, the tip, and their mirror images.
curve::Outline external_outline(const CylindricalSpec& spec, const CylindricalSizes& s, const Root& root,
                                const TipBreak& edge, double involute_at_base) {
  const double r_a = s.tip_diameter / 2, r_b = s.base_diameter / 2;
  std::vector<Segment> half = root.segments;
  half.push_back(
      {Involute{r_b, -involute_at_base, +1}, s.root_form_tangent / r_b, s.tip_form_tangent / r_b, Role::flank});
  half.insert(half.end(), edge.segments.begin(), edge.segments.end());
  curve::Outline outline;
  outline.count = spec.teeth;
  outline.period = half;
  if (edge.half_land > 0)
    outline.period.push_back({Arc{Vec2::Zero(), r_a}, -edge.half_land, edge.half_land, Role::tip});
  for (auto it = half.rbegin(); it != half.rend(); ++it)
    outline.period.push_back(curve::mirrored(*it));
  return outline;
}

}  // namespace

void CylindricalGear::build_external() {
  const CylindricalSpec& spec = spec_;
  CylindricalSizes& s = sizes_;
  const double m = spec.module, alpha_n = spec.pressure_angle.radians(), z = spec.teeth,
               cos_b = std::cos(spec.helix_angle.radians());
  const double alpha_t = s.transverse_pressure_angle.radians(), d = s.reference_diameter, r = d / 2,
               r_b = s.base_diameter / 2;
  const double x_E = s.generating_profile_shift;

  // Root circle and tool.
  s.dedendum = spec.root_diameter ? x_E + (d - *spec.root_diameter) / (2 * m) : tool_dedendum(spec, x_E);
  const double r_f = r + (x_E - s.dedendum) * m;
  s.root_diameter = 2 * r_f;
  const Given depth = given_depth(spec);
  require(s.dedendum > 0, depth.key, depth.text, "the tool must reach below its datum line", "deepen the root");
  require(r_f > 0.02 * r, depth.key, depth.text,
          fmt::format("the root circle would come out at diameter {}", mm(2 * r_f)), "make the root less deep");

  // Tip circle.
  const double r_a_asked = spec.tip_diameter ? *spec.tip_diameter / 2 : r + (spec.profile_shift + spec.addendum) * m;
  const Given tip = given_tip(spec);
  const double involute_at_base = s.transverse_tooth_thickness / d + inv(alpha_t);  // half tooth angle at r_b
  const double r_point = r_b / std::cos(arcinv(involute_at_base));
  s.pointed = r_a_asked >= r_point;
  const double r_a = std::min(r_a_asked, r_point);
  s.tip_diameter = 2 * r_a;
  require(r_a > r_b, tip.key, tip.text,
          fmt::format("the tip circle (diameter {}) must lie outside the base circle (diameter {})", mm(2 * r_a),
                      mm(2 * r_b)),
          "raise it");
  require(r_a > r_f, tip.key, tip.text,
          fmt::format("the tip circle must lie outside the root circle ({})", mm(2 * r_f)), "raise it");

  const SpaceFlank space{r_b, kPi / z - involute_at_base};
  s.min_profile_shift_no_undercut = 0;
  const Root root = external_root(spec, s, space, depth);
  check_neck(root, spec.teeth, depth);
  const double h_Ff = s.dedendum - s.tool_tip_radius * (1 - std::sin(alpha_n));
  s.min_profile_shift_no_undercut = h_Ff - z * std::pow(std::sin(alpha_t), 2) / (2 * cos_b);
  s.undercut = root.undercut;
  s.radial_root_line = root.radial_line;
  s.root_form_tangent = root.form_tangent;
  s.root_form_diameter = 2 * std::hypot(r_b, root.form_tangent);
  const TipBreak edge = external_tip(spec, s, r_a, involute_at_base);
  s.tip_form_tangent = edge.form_tangent;
  s.tip_form_diameter = edge.form_tangent < tangent_at(r_a, r_b) ? 2 * std::hypot(r_b, edge.form_tangent) : 2 * r_a;
  require(s.tip_form_tangent > s.root_form_tangent, tip.key, tip.text,
          fmt::format("no involute is left: the flank begins at diameter {} and the tip circle is {}",
                      mm(s.root_form_diameter), mm(2 * r_a)),
          "raise it, or make the root less deep");

  const double half_tip = s.pointed ? 0 : std::max(0.0, half_tooth_angle(r_a).radians());
  const double beta_a = std::atan(std::tan(spec.helix_angle.radians()) * r_a / r);
  s.tip_thickness = 2 * r_a * half_tip * std::cos(beta_a);

  require(spec.bore_diameter >= 0 && spec.bore_diameter / 2 < r_f, "bore.diameter", mm(spec.bore_diameter),
          fmt::format("the root circle has diameter {}", mm(2 * r_f)), "make the bore smaller or the gear larger");

  outline_ = external_outline(spec, s, root, edge, involute_at_base);
}

void CylindricalGear::cut_by_offset_tool(double offset) {
  // Parallel teeth are those that a parallel tool cuts, undercut included; tip and flank meet again where they do.
  const double m = spec_.module, alpha_n = spec_.pressure_angle.radians(), z = spec_.teeth,
               r_b = sizes_.base_diameter / 2;
  require(sizes_.tool_tip_radius * m >= offset, "surface_offset", mm(offset),
          fmt::format("the tool's corner is round by {} only", mm(sizes_.tool_tip_radius * m)),
          "give a smaller offset, or a larger tool_tip_radius");
  const double involute_at_base =
      sizes_.transverse_tooth_thickness / sizes_.reference_diameter + inv(sizes_.transverse_pressure_angle.radians());
  require(involute_at_base > 0, "surface_offset", mm(offset), "nothing is left of the tooth", "give a smaller offset");
  const double shift = spec_.profile_shift + spec_.thickness_allowance / (2 * m * std::tan(alpha_n));
  const Root root = generated_root({r_b, kPi / z - involute_at_base},
                                   {m, spec_.pressure_angle, std::cos(spec_.helix_angle.radians()), sizes_.dedendum,
                                    sizes_.tool_tip_radius, shift, sizes_.reference_diameter / 2, offset},
                                   -kPi / z);
  const double r_point = r_b / std::cos(arcinv(involute_at_base)),
               r_a = std::min(sizes_.tip_diameter / 2 + offset, r_point);
  require(r_a > r_b && tangent_at(r_a, r_b) > root.form_tangent, "surface_offset", mm(offset), "no involute is left",
          "give a smaller offset");
  sizes_.undercut = root.undercut;
  std::vector<Segment> half = root.segments;
  half.push_back(
      {Involute{r_b, -involute_at_base, +1}, root.form_tangent / r_b, tangent_at(r_a, r_b) / r_b, Role::flank});
  const double land = half_tooth_angle(r_a).radians();
  outline_.period = half;
  if (r_a < r_point && land > 0) outline_.period.push_back({Arc{Vec2::Zero(), r_a}, -land, land, Role::tip});
  for (auto it = half.rbegin(); it != half.rend(); ++it)
    outline_.period.push_back(curve::mirrored(*it));
}

CylindricalGear CylindricalGear::grown(double offset) const {
  CylindricalGear made = *this;
  if (offset == 0) return made;
  const double alpha_n = spec_.pressure_angle.radians(), cos_b = std::cos(spec_.helix_angle.radians()),
               r_b = sizes_.base_diameter / 2;
  CylindricalSizes& s = made.sizes_;
  // Both flanks move by `offset` along their normal, which leans by α_n in the reference plane.
  s.normal_tooth_thickness += 2 * offset / std::cos(alpha_n);
  s.transverse_tooth_thickness = s.normal_tooth_thickness / cos_b;
  s.generating_profile_shift += offset / (spec_.module * std::sin(alpha_n));
  if (!internal() && !spec_.fillet_radius && spec_.tip_chamfer == 0 && spec_.tip_round == 0) {
    made.cut_by_offset_tool(offset);
  } else {
    made.outline_ = curve::parallel(outline_, offset, {std::cos(sizes_.base_helix_angle.radians()), 0});
  }
  double least = math::kInfinite, greatest = 0;
  for (const Segment& part : made.outline_.period) {
    for (const double r : {part.first().norm(), part.last().norm()})
      least = std::min(least, r), greatest = std::max(greatest, r);
    if (part.role != Role::flank) continue;
    const auto [low, high] = std::minmax({part.from * r_b, part.to * r_b});
    s.root_form_tangent = internal() ? high : low;
    s.tip_form_tangent = internal() ? low : high;
  }
  s.tip_diameter = 2 * (internal() ? least : greatest);
  s.root_diameter = 2 * (internal() ? greatest : least);
  s.root_form_diameter = 2 * std::hypot(r_b, s.root_form_tangent);
  s.tip_form_diameter = 2 * std::hypot(r_b, s.tip_form_tangent);
  if (internal()) s.outer_diameter += 2 * offset;
  const double r_a = s.tip_diameter / 2;
  s.tip_thickness =
      2 * r_a * std::max(0.0, made.half_tooth_angle(r_a).radians()) * std::cos(std::atan(made.twist() * r_a));
  return made;
}

Angle CylindricalGear::half_tooth_angle(double radius) const {
  const double t = sizes_.transverse_pressure_angle.radians();
  const double change = inv(t) - inv(std::acos(std::min(1.0, sizes_.base_diameter / (2 * radius))));
  return Angle::radians(sizes_.transverse_tooth_thickness / sizes_.reference_diameter +
                        (internal() ? -change : change));
}

std::optional<Angle> CylindricalGear::half_space_angle(double radius) const {
  const double pitch = kPi / spec_.teeth;
  const double beyond = (2 * radius - sizes_.root_form_diameter) * (internal() ? -1 : 1);
  if (beyond >= 0) return Angle::radians(pitch) - half_tooth_angle(radius);
  for (const Segment& s : outline_.period) {
    if (s.role == Role::flank) break;  // what follows mirrors what came before
    const auto [from, to] = std::minmax({s.first().norm(), s.last().norm()});
    if (!(from < radius && radius <= to)) continue;
    const double t = math::find_root([&](double x) { return s.point(x).norm() - radius; }, s.from, s.to);
    const Vec2 p = s.point(t);
    return Angle::radians(internal() ? -std::atan2(p.y(), p.x()) : std::atan2(p.y(), p.x()) + pitch);
  }
  return std::nullopt;
}

std::vector<Finding> findings(const CylindricalGear& gear, const std::string& subject) {
  const CylindricalSizes& s = gear.sizes();
  const CylindricalSpec& spec = gear.spec();
  std::vector<Finding> found;
  const auto add = [&](FindingId id, double value, double limit) { found.push_back({id, subject, value, limit}); };
  if (s.undercut) add(FindingId::undercut, s.generating_profile_shift, s.min_profile_shift_no_undercut);
  if (s.pointed) {
    const double away = 2 * (spec.profile_shift + spec.addendum) * spec.module;
    add(FindingId::pointed_tip, s.tip_diameter,
        spec.tip_diameter.value_or(s.reference_diameter + (gear.internal() ? -away : away)));
  } else if (s.tip_thickness < 0.2 * spec.module) {
    add(FindingId::thin_tip, s.tip_thickness, 0.2 * spec.module);
  }
  if (gear.internal() && s.tip_diameter < s.base_diameter)
    add(FindingId::tip_below_base, s.tip_diameter, s.base_diameter);
  if (s.cutter && s.tip_form_tangent < s.cutter_clear_tangent - math::kAlike) {
    add(FindingId::cutter_cuts_tip, s.tip_form_diameter, 2 * std::hypot(s.base_diameter / 2, s.cutter_clear_tangent));
  }
  if (s.radial_root_line) add(FindingId::radial_root_line, s.base_diameter, s.root_diameter);
  if (!gear.internal() && !spec.fillet_radius && !spec.tool_tip_radius && s.tool_tip_radius < 0.38) {
    add(FindingId::tool_tip_radius_reduced, s.tool_tip_radius, s.tool_tip_radius);
  }
  const double rim =
      gear.internal() ? (s.outer_diameter - s.root_diameter) / 2 : (s.root_diameter - spec.bore_diameter) / 2;
  const double wanted = least_rim(s.tip_diameter, s.root_diameter, gear.internal());
  if ((gear.internal() || spec.bore_diameter > 0) && rim < wanted) add(FindingId::thin_rim, rim, wanted);
  return found;
}

}  // namespace palio::gear
