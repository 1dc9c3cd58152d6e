#include "palio/gear/rack_root.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::gear {
namespace {

using curve::Arc;
using curve::Line;
using curve::Role;
using curve::Segment;
using curve::Trochoid;

/// The arc of the root circle from the middle of the space, where there is one (a full round leaves a land of a few ε).
void add_root_arc(Root& root, double radius, double middle, double width) {
  if (width > math::kRounding) root.segments.push_back({Arc{Vec2::Zero(), radius}, middle, middle + width, Role::root});
}

double polar_angle(const Vec2& v) { return std::atan2(v.y(), v.x()); }

}  // namespace

double SpaceFlank::half_angle(double radius) const {
  return half_base_angle + math::inv(std::acos(std::min(1.0, base_radius / radius)));
}

double largest_tip_radius(Angle pressure_angle, double dedendum) {
  const double alpha = pressure_angle.radians();
  const double land = (kPi / 4 - dedendum * std::tan(alpha)) * std::cos(alpha) / (1 - std::sin(alpha));
  return std::min(land, dedendum / (1 - std::sin(alpha)));
}

Root generated_root(const SpaceFlank& space, const RackTool& tool, double middle) {
  // A tool drawn in reaches less deep and has a smaller corner about the same centre.
  const double m = tool.module, alpha = tool.pressure_angle.radians(), rho = tool.tip_radius - tool.drawn_in / m,
               h_f = tool.dedendum - tool.drawn_in / m;
  const double x_E = tool.generating_shift, r = tool.pitch_radius;
  const double u_c =
      (kPi / 4 - (h_f - rho) * std::tan(alpha) - rho / std::cos(alpha)) * m - tool.drawn_in / std::cos(alpha);
  const Trochoid seen{r, tool.cos_helix, rho * m, (x_E - h_f + rho) * m, std::max(0.0, u_c), 0, +1};

  // T_F of the tool's last straight point: r sin α_t − (h_Ff − x_E) m / sin α_t.
  const double sin_t = std::sqrt((r - space.base_radius) * (r + space.base_radius)) / r;
  const double h_Ff = h_f - rho * (1 - std::sin(alpha));
  const double T_F = r * sin_t - (h_Ff - x_E) * m / sin_t;

  double theta = alpha;
  Root root;
  root.form_tangent = std::max(0.0, T_F);
  // What ends at the base circle but for rounding is no undercut; what ends beyond it is one, however slight: below
  // some 1e-5 of the base radius nothing of it can be seen in the trochoid, and the flank begins on the base circle.
  root.undercut = T_F < -math::kRounding * space.base_radius;
  if (root.undercut) {
    // Between the place where the trochoid passes r_b and the tool's corner (on the involute's mirror branch) the
    // trochoid minus involute space angle changes sign; a slight undercut is nearly tangent there, so no scanning.
    const double r_b = space.base_radius;
    const auto radius = [&](double t) { return seen.jet(t).p.norm(); };
    const auto gap = [&](double t) {
      const Vec2 p = seen.jet(t).p;
      const double tangent = std::sqrt(std::max(0.0, (p.norm() - r_b) * (p.norm() + r_b)));
      return polar_angle(p) - (space.half_base_angle + tangent / r_b - std::atan(tangent / r_b));
    };
    if (radius(alpha) > r_b && radius(kPi / 2) < r_b) {
      const double at_base = math::find_root([&](double t) { return radius(t) - r_b; }, alpha, kPi / 2);
      if (gap(alpha) < 0 && gap(at_base) > 0) {
        theta = math::find_root(gap, alpha, at_base);
        const double R = radius(theta);
        root.form_tangent = std::sqrt(std::max(0.0, (R - r_b) * (R + r_b)));
      }
    }
  }
  add_root_arc(root, seen.jet(kPi / 2).p.norm(), middle, std::max(0.0, u_c) / (tool.cos_helix * r));
  Trochoid placed = seen;
  placed.centre = middle;
  root.segments.push_back({placed, kPi / 2, theta, Role::root});
  return root;
}

namespace {

/// ϱ of the arc that touches the flank at tangent length T and the root circle: (r_b² + T² − r_f²)/(2 (r_f − T)).
double fillet_radius_at(double r_b, double r_f, double T) { return (r_b * r_b + T * T - r_f * r_f) / (2 * (r_f - T)); }

/// Half space angle at which the arc touching the flank at T has its centre; 0 when the two arcs of a space meet.
double centre_angle(const SpaceFlank& space, double r_f, double T) {
  const double string = T + fillet_radius_at(space.base_radius, r_f, T);
  return space.half_base_angle + T / space.base_radius - std::atan(string / space.base_radius);
}

/// The same for an arc touching the radial line below the base circle.
double centre_angle_at_line(const SpaceFlank& space, double r_f, double radius) {
  return space.half_base_angle - std::asin(radius / (r_f + radius));
}

struct FlankTangents {
  double least, greatest;  // range of T for arcs that touch the flank; empty when greatest < least
};

FlankTangents flank_tangents(const SpaceFlank& space, double r_f) {
  const double r_b = space.base_radius;
  const double least = r_f > r_b ? std::sqrt((r_f - r_b) * (r_f + r_b)) : 0.0;
  const auto room = [&](double T) { return centre_angle(space, r_f, T); };
  if (!(room(least) >= 0)) return {least, -1};
  // ϱ → ∞ as T → r_f: there the centre angle is surely negative.
  const double far = least + (r_f - least) * (1 - math::kAlike);
  if (!(far > least)) return {least, -1};
  return {least, room(far) >= 0 ? far : math::find_root(room, least, far)};
}

}  // namespace

FilletRange fillet_range(const SpaceFlank& space, double r_f) {
  const FlankTangents t = flank_tangents(space, r_f);
  if (t.greatest > t.least) {
    // Where the root circle lies below the base circle, smaller arcs touch the radial line that goes on from the flank;
    // the largest of them ends on the base circle, where the smallest on the flank begins.
    const double on_flank = fillet_radius_at(space.base_radius, r_f, t.least);
    return {r_f < space.base_radius ? 0 : on_flank, fillet_radius_at(space.base_radius, r_f, t.greatest), on_flank};
  }
  // Along the radial line: ϱ from 0 until the two arcs of the space meet, sin σ_b = ϱ/(r_f + ϱ).
  const double s = std::sin(std::min(space.half_base_angle, kPi / 2));
  const double greatest = s > 0 ? r_f * s / (1 - s) : 0;
  return {0, greatest, greatest};
}

Root fillet_root(const SpaceFlank& space, double r_f, double radius, double middle) {
  const FilletRange range = fillet_range(space, r_f);
  if (!(radius > 0 && radius >= range.least && radius <= range.greatest)) {
    throw InvalidParameter("root.fillet_radius", fmt::format("{:.6g} mm", radius),
                           fmt::format("arcs tangent to the flank (or the radial line below its base circle) and to "
                                       "the root circle have {} {:.6g} mm to "
                                       "{:.6g} mm here",
                                       range.least > 0 ? "radii from" : "radii above", range.least, range.greatest),
                           "choose one in that range, or leave root out for the root that the rack generates");
  }
  Root root;
  const double r_b = space.base_radius;
  Vec2 foot, centre;  // on the flank or the line; of the arc; both with the middle of the space on +x
  if (range.on_line(radius)) {
    const double gamma = centre_angle_at_line(space, r_f, radius);
    const double along = std::sqrt(r_f * (r_f + 2 * radius));
    root.radial_line = true;
    root.form_tangent = 0;
    foot = from_polar(along, space.half_base_angle);
    centre = from_polar(r_f + radius, gamma);
  } else {
    const FlankTangents t = flank_tangents(space, r_f);
    const double T =
        math::find_root([&](double at) { return fillet_radius_at(r_b, r_f, at) - radius; }, t.least, t.greatest);
    root.form_tangent = T;
    foot = from_polar(std::hypot(r_b, T), space.half_base_angle + T / r_b - std::atan(T / r_b));
    centre = from_polar(r_f + radius, centre_angle(space, r_f, T));
  }
  const double gamma = polar_angle(centre);
  add_root_arc(root, r_f, middle, gamma);
  const double from = gamma + kPi;
  double to = polar_angle(foot - centre);
  while (to > from)
    to -= 2 * kPi;
  while (to < from - 2 * kPi)
    to += 2 * kPi;
  root.segments.push_back({Arc{turned(centre, middle), radius}, from + middle, to + middle, Role::root});
  if (root.radial_line && foot.norm() < r_b) {
    const Vec2 top = from_polar(r_b, space.half_base_angle);
    root.segments.push_back({Line{turned(foot, middle), turned(top, middle)}, 0, 1, Role::root});
  }
  return root;
}

}  // namespace palio::gear
