#include "palio/gear/cylindrical.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/gear/rack_root.hpp"
#include "palio/math/roots.hpp"

namespace palio::gear {
namespace {

using curve::Arc;
using curve::Involute;
using curve::Line;
using curve::Role;
using curve::Segment;
using curve::Trochoid;
using math::arcinv;
using math::inv;

/// Tangent length at radius R; the product keeps digits near the base circle.
double tangent_at(double R, double r_b) { return std::sqrt(std::max(0.0, (R - r_b) * (R + r_b))); }

void require(bool holds, const char* name, const std::string& given, const std::string& allowed, const char* remedy) {
  if (!holds) throw InvalidParameter(name, given, allowed, remedy);
}

std::string mm(double length) { return fmt::format("{:.6g} mm", length); }

void check_given(const CylindricalSpec& s) {
  require(s.teeth >= 3, "teeth", fmt::format("{}", s.teeth), "a closed gear needs at least 3", "give 3 or more");
  require(s.module > 0 && std::isfinite(s.module), "module", mm(s.module), "a module is above 0", "give 1.5 mm, say");
  const double alpha = s.pressure_angle.degrees();
  require(alpha >= 5 && alpha <= 45, "pressure_angle", fmt::format("{:.6g}°", alpha), "it lies between 5° and 45°", "give 20, the usual angle");
  require(s.face_width > 0 && std::isfinite(s.face_width), "face_width", mm(s.face_width), "it is above 0", "give about 8 to 12 modules");
}

/// The same segment mirrored at the x axis and traversed the other way, so that the material stays on its left.
Segment mirrored(const Segment& s) {
  struct Mirror {
    curve::Curve operator()(Involute c) const { return Involute{c.base_radius, -c.start, -c.sense}; }
    curve::Curve operator()(Trochoid c) const {
      c.centre = -c.centre;
      c.side = -c.side;
      return c;
    }
    curve::Curve operator()(Arc c) const { return Arc{{c.centre.x(), -c.centre.y()}, c.radius}; }
    curve::Curve operator()(Line c) const { return Line{{c.from.x(), -c.from.y()}, {c.to.x(), -c.to.y()}}; }
  };
  const bool arc = std::holds_alternative<Arc>(s.curve);
  return {std::visit(Mirror{}, s.curve), arc ? -s.to : s.to, arc ? -s.from : s.from, s.role};
}

}  // namespace

CylindricalGear::CylindricalGear(const CylindricalSpec& spec) : spec_(spec) {
  check_given(spec);
  const double m = spec.module, alpha_n = spec.pressure_angle.radians(), z = spec.teeth;
  const double cos_b = std::cos(spec.helix_angle.radians());
  CylindricalSizes& s = sizes_;

  s.transverse_module = m / cos_b;
  const double alpha_t = std::atan(std::tan(alpha_n) / cos_b);
  s.transverse_pressure_angle = Angle::radians(alpha_t);
  s.base_helix_angle = Angle::radians(std::asin(std::sin(spec.helix_angle.radians()) * std::cos(alpha_n)));
  const double d = z * s.transverse_module, r = d / 2, r_b = r * std::cos(alpha_t);
  s.reference_diameter = d;
  s.base_diameter = 2 * r_b;

  const double x_E = spec.profile_shift + spec.thickness_allowance / (2 * m * std::tan(alpha_n));
  s.generating_profile_shift = x_E;
  s.normal_tooth_thickness = m * (kPi / 2 + 2 * x_E * std::tan(alpha_n));
  s.transverse_tooth_thickness = s.normal_tooth_thickness / cos_b;
  require(s.normal_tooth_thickness > 0, "thickness_allowance", mm(spec.thickness_allowance),
          fmt::format("the tooth without it is only {} thick", mm(s.normal_tooth_thickness - spec.thickness_allowance)),
          "thin it by less (allowance, backlash), or raise profile_shift");
  require(s.transverse_tooth_thickness < kPi * s.transverse_module, "profile_shift", fmt::format("{:.6g}", spec.profile_shift),
          "the tooth fills the whole pitch and leaves no space", "lower it");

  // Root circle and tool.
  s.dedendum = spec.root_diameter ? x_E + (d - *spec.root_diameter) / (2 * m) : spec.dedendum;
  const double r_f = r + (x_E - s.dedendum) * m;
  s.root_diameter = 2 * r_f;
  const char* depth_key = spec.root_diameter ? "root_diameter" : "dedendum";
  const std::string depth_given = spec.root_diameter ? mm(*spec.root_diameter) : fmt::format("{:.6g}", spec.dedendum);
  require(s.dedendum > 0, depth_key, depth_given, "the tool must reach below its datum line", "deepen the root");
  require(r_f > 0.02 * r, depth_key, depth_given, fmt::format("the root circle would come out at diameter {}", mm(2 * r_f)), "make the root less deep");

  // Tip circle.
  const double r_a_asked = spec.tip_diameter ? *spec.tip_diameter / 2 : r + (spec.profile_shift + spec.addendum) * m;
  const char* tip_key = spec.tip_diameter ? "tip_diameter" : "addendum";
  const std::string tip_given = spec.tip_diameter ? mm(*spec.tip_diameter) : fmt::format("{:.6g}", spec.addendum);
  const double involute_at_base = s.transverse_tooth_thickness / d + inv(alpha_t);  // half tooth angle at r_b
  const double r_point = r_b / std::cos(arcinv(involute_at_base));
  s.pointed = r_a_asked >= r_point;
  const double r_a = std::min(r_a_asked, r_point);
  s.tip_diameter = 2 * r_a;
  require(r_a > r_b, tip_key, tip_given, fmt::format("the tip circle (diameter {}) must lie outside the base circle (diameter {})", mm(2 * r_a), mm(2 * r_b)),
          "raise it");
  require(r_a > r_f, tip_key, tip_given, fmt::format("the tip circle must lie outside the root circle ({})", mm(2 * r_f)), "raise it");

  const SpaceFlank space{r_b, kPi / z - involute_at_base};
  const double middle = -kPi / z;
  Root root;
  s.min_profile_shift_no_undercut = 0;
  const double largest = largest_tip_radius(alpha_n, s.dedendum);
  if (spec.fillet_radius) {
    s.tool_tip_radius = std::max(0.0, std::min(spec.tool_tip_radius.value_or(0.38), largest));
    root = fillet_root(space, r_f, *spec.fillet_radius, middle);
  } else {
    require(largest >= -1e-12, depth_key, depth_given, fmt::format("a tool tooth of this depth ends in a point at {:.6g} modules", kPi / 4 / std::tan(alpha_n)),
            "make the root less deep or the pressure angle smaller");
    if (spec.tool_tip_radius) {
      require(*spec.tool_tip_radius >= 0 && *spec.tool_tip_radius <= largest + 1e-12, "tool_tip_radius", fmt::format("{:.6g}", *spec.tool_tip_radius),
              fmt::format("with this pressure angle and dedendum the tool leaves room for 0 to {:.6g} modules", largest),
              "give the largest or less, or leave it out to have the largest chosen");
    }
    s.tool_tip_radius = std::max(0.0, spec.tool_tip_radius.value_or(std::min(0.38, largest)));
    root = generated_root(space, {m, alpha_n, cos_b, s.dedendum, s.tool_tip_radius, x_E, r}, middle);
  }
  // A deep undercut can meet the one from the other side: then the tool cuts the tooth off.
  double neck = kPi / z;
  for (const Segment& part : root.segments) {
    for (int i = 0; i <= 64; ++i) {
      const Vec2 p = part.point(part.from + (part.to - part.from) * i / 64);
      neck = std::min(neck, -std::atan2(p.y(), p.x()));
    }
  }
  require(neck > 0, depth_key, depth_given, "a tool of this depth undercuts the tooth from both sides until it falls off",
          "make the root less deep, give more teeth, or raise profile_shift");
  const double h_Ff = s.dedendum - s.tool_tip_radius * (1 - std::sin(alpha_n));
  s.min_profile_shift_no_undercut = h_Ff - z * std::pow(std::sin(alpha_t), 2) / (2 * cos_b);
  s.undercut = root.undercut;
  s.radial_root_line = root.radial_line;
  s.root_form_tangent = root.form_tangent;
  s.root_form_diameter = 2 * std::hypot(r_b, root.form_tangent);
  s.tip_form_diameter = 2 * r_a;
  s.tip_form_tangent = tangent_at(r_a, r_b);
  require(s.tip_form_tangent > s.root_form_tangent, tip_key, tip_given,
          fmt::format("no involute is left: the flank begins at diameter {} and the tip circle is {}", mm(s.root_form_diameter), mm(2 * r_a)),
          "raise it, or make the root less deep");

  const double half_tip = s.pointed ? 0 : std::max(0.0, half_tooth_angle(r_a));
  const double beta_a = std::atan(std::tan(spec.helix_angle.radians()) * r_a / r);
  s.tip_thickness = 2 * r_a * half_tip * std::cos(beta_a);

  require(spec.bore_diameter >= 0 && spec.bore_diameter / 2 < r_f, "bore.diameter", mm(spec.bore_diameter),
          fmt::format("the root circle has diameter {}", mm(2 * r_f)), "make the bore smaller or the gear larger");

  // One period: root and flank below the tooth, the tip, and their mirror images.
  std::vector<Segment> half = root.segments;
  half.push_back({Involute{r_b, -involute_at_base, +1}, s.root_form_tangent / r_b, s.tip_form_tangent / r_b, Role::flank});
  outline_.count = spec.teeth;
  outline_.period = half;
  if (half_tip > 0) outline_.period.push_back({Arc{Vec2::Zero(), r_a}, -half_tip, half_tip, Role::tip});
  for (auto it = half.rbegin(); it != half.rend(); ++it) outline_.period.push_back(mirrored(*it));
}

double CylindricalGear::half_tooth_angle(double radius) const {
  const double t = sizes_.transverse_pressure_angle.radians();
  return sizes_.transverse_tooth_thickness / sizes_.reference_diameter + inv(t) - inv(std::acos(std::min(1.0, sizes_.base_diameter / (2 * radius))));
}

std::optional<double> CylindricalGear::half_space_angle(double radius) const {
  const double pitch = kPi / spec_.teeth;
  if (2 * radius >= sizes_.root_form_diameter) return pitch - half_tooth_angle(radius);
  for (const Segment& s : outline_.period) {
    if (s.role == Role::flank) break;  // what follows mirrors what came before
    const double from = s.first().norm(), to = s.last().norm();
    if (!(from < radius && radius <= to)) continue;
    const double t = math::find_root([&](double x) { return s.point(x).norm() - radius; }, s.from, s.to);
    const Vec2 p = s.point(t);
    return std::atan2(p.y(), p.x()) + pitch;
  }
  return std::nullopt;
}

Span CylindricalGear::span(std::optional<int> teeth) const {
  const double m = spec_.module, alpha_n = spec_.pressure_angle.radians(), z = spec_.teeth;
  const double inv_t = inv(sizes_.transverse_pressure_angle.radians()), x_E = sizes_.generating_profile_shift;
  const double tan_n = std::tan(alpha_n), cos_n = std::cos(alpha_n), d_b = sizes_.base_diameter;
  if (!teeth) {
    const double target = std::max(sizes_.reference_diameter + 2 * x_E * m, d_b);
    const double ideal =
        (std::sqrt((target - d_b) * (target + d_b)) / (std::cos(sizes_.base_helix_angle.radians()) * m * cos_n) - z * inv_t - 2 * x_E * tan_n) / kPi + 0.5;
    // Exact ties (z = 9, 18, … at 20°) come out a few ε to either side: nudge, so that halves round up.
    teeth = std::max(1, static_cast<int>(std::floor(ideal + 0.5 + 1e-9)));
  }
  const double length = m * cos_n * ((*teeth - 0.5) * kPi + z * inv_t + 2 * x_E * tan_n);
  return {*teeth, length, std::hypot(d_b, length * std::cos(sizes_.base_helix_angle.radians()))};
}

OverBalls CylindricalGear::over_balls(std::optional<double> diameter) const {
  const double d = sizes_.reference_diameter, d_b = sizes_.base_diameter, m = spec_.module;
  const double inv_t = inv(sizes_.transverse_pressure_angle.radians());
  const double cos_bb = std::cos(sizes_.base_helix_angle.radians());
  const double space = kPi * sizes_.transverse_module - sizes_.transverse_tooth_thickness;
  if (!diameter) {
    const double d_v = std::clamp(d + 2 * sizes_.generating_profile_shift * m, d_b * 1.0001, sizes_.tip_diameter);
    const double tan_v = tangent_at(d_v, d_b) / d_b, alpha_K = tan_v - inv_t + space / d;
    const double ideal = d_b * cos_bb * (std::tan(std::min(alpha_K, 1.4)) - tan_v);
    diameter = std::max(0.05, std::round(ideal / 0.05) * 0.05);
  }
  const double alpha_K = arcinv(std::max(0.0, inv_t + *diameter / (d_b * cos_bb) - space / d));
  const double d_K = d_b / std::cos(alpha_K);
  const double across = spec_.teeth % 2 == 0 ? d_K : d_K * std::cos(kPi / (2 * spec_.teeth));
  return {*diameter, across + *diameter};
}

ChordalTooth CylindricalGear::chordal() const {
  const double d = sizes_.reference_diameter, beta = spec_.helix_angle.radians();
  const double psi = sizes_.transverse_tooth_thickness / d, c2 = std::pow(std::cos(beta), 2);
  return {d * std::hypot(std::sin(psi * c2), psi * std::sin(beta) * std::cos(beta)), (sizes_.tip_diameter - d * std::cos(psi * c2)) / 2};
}

std::vector<Finding> findings(const CylindricalGear& gear, const std::string& subject) {
  const CylindricalSizes& s = gear.sizes();
  const CylindricalSpec& spec = gear.spec();
  std::vector<Finding> found;
  const auto add = [&](FindingId id, double value, double limit) { found.push_back({id, subject, value, limit}); };
  if (s.undercut) add(FindingId::undercut, s.generating_profile_shift, s.min_profile_shift_no_undercut);
  if (s.pointed) {
    const double asked = spec.tip_diameter.value_or(s.reference_diameter + 2 * (spec.profile_shift + spec.addendum) * spec.module);
    add(FindingId::pointed_tip, s.tip_diameter, asked);
  } else if (s.tip_thickness < 0.2 * spec.module) {
    add(FindingId::thin_tip, s.tip_thickness, 0.2 * spec.module);
  }
  if (s.radial_root_line) add(FindingId::radial_root_line, s.base_diameter, s.root_diameter);
  if (!spec.fillet_radius && !spec.tool_tip_radius && s.tool_tip_radius < 0.38) {
    add(FindingId::tool_tip_radius_reduced, s.tool_tip_radius, s.tool_tip_radius);
  }
  const double rim = (s.root_diameter - spec.bore_diameter) / 2;
  const double wanted = 1.2 * (s.tip_diameter - s.root_diameter) / 2;
  if (spec.bore_diameter > 0 && rim < wanted) add(FindingId::thin_rim, rim, wanted);
  return found;
}

}  // namespace palio::gear
