#include "palio/gear/bevel.hpp"

#include <algorithm>
#include <cmath>

#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {
namespace {

using curve::Arc;
using curve::Role;
using curve::Segment;

/// Of pitch and root cones [rad]: a closed cone has no teeth.
constexpr double kLeastCone = 1e-3;

/// Azimuth of a spherical involute over that of its cusp.
double azimuth(double sigma, double base_cone) {
  return sigma / std::sin(base_cone) - std::atan2(std::sin(sigma), std::sin(base_cone) * std::cos(sigma));
}

/// A circle of the sphere about the axis, in the plane.
Arc about_axis(double cone_angle) { return {Vec2::Zero(), std::tan(cone_angle / 2)}; }

/// The straight edge h = at_apex + slope R of a meridian cut, R along the pitch line and h across it, met by the
/// section at R: its angle from the pitch line.
double edge_angle(double at_apex, double slope, double R, BevelEnds ends) {
  if (ends == BevelEnds::cones) return std::atan(at_apex / R + slope);
  const double tilt = std::atan(slope);
  return tilt + std::asin(at_apex * std::cos(tilt) / R);
}

/// The tool's corner: a crown gear's, rolling on the pitch cone; angles on the sphere.
struct Corner {
  double depth;       // θ_c
  double radius;      // ρ
  double form_place;  // χ_F, where the corner ends and the tool's flank begins
  double reach;       // along the path of contact, from the pitch element to where it touches there
  double angle;       // η, from the middle of the tool's tooth; below 0: there is no room for it
};

Corner corner(double depth, double rho, double alpha, double half_tool_tooth) {
  const double theta = depth - rho, chi = std::asin(std::min(1.0, std::tan(theta) / std::tan(alpha)));
  const double reach = std::acos(std::cos(theta) * std::cos(chi)) + rho;
  return {theta, rho, chi, reach, chi + half_tool_tooth - reach / std::cos(alpha)};
}

}  // namespace

std::string_view name(BevelDepth depth) noexcept {
  return depth == BevelDepth::constant_clearance ? "constant_clearance"
         : depth == BevelDepth::tapered          ? "tapered"
                                                 : "parallel";
}

/// The root of one section, all but its place: from the middle of a space to the flank.
struct BevelGear::Root {
  std::vector<Segment> segments;  // on the counter-clockwise side of a space at azimuth 0
  double form_sigma;              // where the flank begins
  bool undercut;
};

BevelGear::BevelGear(BevelSpec spec) : spec_(spec) {
  BevelSpec& s = spec_;
  require(s.teeth >= 3, "teeth", fmt::format("{}", s.teeth), "a closed gear needs at least 3", "give 3 or more");
  require(s.module > 0 && std::isfinite(s.module), "module", mm(s.module), "a module is above 0", "give 1.5 mm, say");
  const double alpha = s.pressure_angle.radians(), m = s.module;
  require(s.pressure_angle.degrees() >= 5 && s.pressure_angle.degrees() <= 45, "pressure_angle",
          fmt::format("{:.6g}°", s.pressure_angle.degrees()), "it lies between 5° and 45°", "give 20, the usual angle");
  delta_ = s.pitch_cone.radians();
  require(
      delta_ > kLeastCone && delta_ <= kPi / 2 * (1 + math::kRounding), "pitch_cone_angle",
      fmt::format("{:.6g}°", s.pitch_cone.degrees()),
      "it lies between 0° and 90°; beyond 90° the teeth stand inside the cone, and internal bevel gears are not made",
      "choose a smaller shaft angle, or tooth counts nearer to each other");
  R_e_ = m * s.teeth / (2 * std::sin(delta_));
  require(s.face_width > 0 && s.face_width < 0.95 * R_e_, "face_width", mm(s.face_width),
          fmt::format("the cone distance is {}, and the apex has no teeth", mm(R_e_)),
          "give a third of the cone distance, or less");
  delta_b_ = std::asin(std::sin(delta_) * std::cos(alpha));
  sigma_p_ = path_angle(spec_.pitch_cone).radians();
  const double basic = (s.addendum + s.profile_shift) * m, h_f = (s.dedendum - s.profile_shift) * m;
  constexpr double kLeastDepth = 0.05;  // [modules]: less leaves the tool no corner and the flank no root
  require(h_f >= kLeastDepth * m, "dedendum", fmt::format("{:.6g}", s.dedendum),
          fmt::format("the root lies below the pitch cone: it is at least {:.6g} (profile_shift and {})",
                      s.profile_shift + kLeastDepth, kLeastDepth),
          "raise it, or lower profile_shift");
  require(basic > 0, "addendum", fmt::format("{:.6g}", s.addendum), "the tip lies above the pitch cone", "raise it");
  require(delta_ - std::atan(h_f / R_e_) > kLeastCone, "dedendum", mm(h_f),
          fmt::format("the root cone would close: the pitch cone has only {:.4g}°", s.pitch_cone.degrees()),
          "lower it, or give more teeth");
  if (s.mate_dedendum <= 0) s.mate_dedendum = s.dedendum * m;
  const double thickness =
      m * (kPi / 2 + 2 * s.profile_shift * std::tan(alpha) + 2 * s.thickness_shift) + s.thickness_allowance;
  require(thickness > 0 && thickness < kPi * m, "thickness_allowance", mm(thickness),
          "the tooth's outer thickness lies between 0 and the pitch", "thin it by less, or change the shifts");
  psi_ = thickness / (2 * R_e_ * std::sin(delta_));

  BevelSizes& z = sizes_;
  z.base_cone = Angle::radians(delta_b_);
  z.outer_cone_distance = R_e_;
  z.inner_cone_distance = R_e_ - s.face_width;
  addendum_ = basic;
  end_below_point();
  choose_tool_radius(thickness);
  z.min_profile_shift_no_undercut =
      form_sigma(-2) < 0 && form_sigma(s.dedendum - 0.4) > 0
          ? math::find_root([&](double shift) { return form_sigma(shift); }, -2, s.dedendum - 0.4)
          : std::nan("");

  z.heel = end(R_e_);
  z.toe = end(z.inner_cone_distance);
  for (const BevelEnd* e : {&z.heel, &z.toe}) {
    require(e->tip_angle.radians() > e->root_form_angle.radians(), "addendum", mm(e->addendum),
            fmt::format("at cone distance {} the tips end before the usable flank begins", mm(e->cone_distance)),
            "raise it, lower the mate's dedendum, or make the face narrower");
  }
  measure_blank();
}

/// The addendum ends a hair below where the flanks meet.
void BevelGear::end_below_point() {
  const double m = spec_.module;
  constexpr double kLand = 1e-3;  // [modules]
  const auto land = [&](double R) {
    const Angle tip = tip_angle(R);
    return 2 * half_tooth_angle(tip).radians() * R * std::sin(tip.radians());
  };
  for (const double R : {R_e_, sizes_.inner_cone_distance}) {
    if (land(R) >= kLand * m) continue;
    sizes_.pointed = true;
    const auto miss = [&](double h) {
      addendum_ = h;
      return land(R) - kLand * m;
    };
    addendum_ = math::find_root(miss, 0, addendum_);
  }
}

/// The tool's round must leave a land at both ends of the teeth.
/// \param thickness  of the teeth, at the outer pitch circle [mm]
void BevelGear::choose_tool_radius(double thickness) {
  const BevelSpec& s = spec_;
  BevelSizes& z = sizes_;
  const double m = s.module, alpha = s.pressure_angle.radians(), h_f = (s.dedendum - s.profile_shift) * m;
  constexpr double kToolLand = 0.02;  // [modules]
  const double gap = (kPi * m - thickness) / (2 * R_e_);
  const auto land = [&](double rho_mm) {
    double least = math::kInfinite;
    for (const double R : {R_e_, z.inner_cone_distance})
      least = std::min(least, corner(delta_ - root_angle(R).radians(),
                                     rho_mm / (s.depth == BevelDepth::parallel ? R : R_e_), alpha, gap)
                                  .angle);
    return least - kToolLand / 2 * m / R_e_;
  };
  require(land(0) > 0, "dedendum", fmt::format("{:.6g}", s.dedendum), "the tool that cuts so deep ends in a point",
          "lower it, or take a smaller pressure_angle");
  double most = 0.99 * h_f;
  if (land(most) < 0) most = math::find_root(land, 0, most);
  tool_radius_ = std::min(s.tool_tip_radius.value_or(0.38) * m, most);
  z.tool_tip_radius_reduced = !s.tool_tip_radius && tool_radius_ < 0.38 * m;
  require(!s.tool_tip_radius || *s.tool_tip_radius * m <= most * (1 + math::kRounding), "tool_tip_radius",
          fmt::format("{:.6g}", s.tool_tip_radius.value_or(0)),
          fmt::format("the tool allows at most {:.4g} modules", most / m), "give that or less, or leave it out");
  z.tool_tip_radius = tool_radius_ / m;
}

/// The cones that the blank is turned to, and where they meet the axis.
void BevelGear::measure_blank() {
  const BevelSpec& s = spec_;
  BevelSizes& z = sizes_;
  const double face_tilt = std::atan2(z.heel.addendum - z.toe.addendum, s.face_width),
               root_tilt = std::atan2(z.heel.dedendum - z.toe.dedendum, s.face_width);
  z.face_cone = Angle::radians(delta_ + face_tilt);
  z.root_cone = Angle::radians(delta_ - root_tilt);
  // Where a meridian line through the tip, at that angle, meets the axis.
  const auto apex = [&](double height, double cone) {
    const double r = R_e_ * std::sin(delta_) + height * std::cos(delta_),
                 along = R_e_ * std::cos(delta_) - height * std::sin(delta_);
    return along - r / std::tan(cone);
  };
  z.face_apex = s.depth == BevelDepth::tapered ? 0 : apex(z.heel.addendum, z.face_cone.radians());
  z.root_apex = s.depth == BevelDepth::parallel ? apex(-z.heel.dedendum, z.root_cone.radians()) : 0;
  z.crown_to_apex = R_e_ * std::cos(delta_) - z.heel.addendum * std::sin(delta_);
  const double c = std::cos(delta_);
  z.virtual_teeth = c < math::kRounding ? math::kInfinite : s.teeth / c;
}

Angle BevelGear::path_angle(Angle cone_angle) const {
  const double d = cone_angle.radians();
  return Angle::radians(
      std::atan2(std::sqrt(std::max(0.0, std::sin(d - delta_b_) * std::sin(d + delta_b_))), std::cos(d)));
}

Angle BevelGear::cone_angle_at(Angle path_angle) const {
  const double sigma = path_angle.radians();
  // cos δ = cos δ_b cos σ by its half angles: digits near the axis are kept.
  const Vec3 at(std::sin(delta_b_) * std::cos(sigma), std::sin(sigma), std::cos(delta_b_) * std::cos(sigma));
  return Angle::radians(std::atan2(std::hypot(at.x(), at.y()), at.z()));
}

Angle BevelGear::half_tooth_angle(Angle cone_angle) const {
  return Angle::radians(psi_ + azimuth(sigma_p_, delta_b_) - azimuth(path_angle(cone_angle).radians(), delta_b_));
}

Angle BevelGear::tip_angle(double R) const {
  const double t = spec_.depth == BevelDepth::constant_clearance ? spec_.mate_dedendum / R_e_
                   : spec_.depth == BevelDepth::tapered          ? addendum_ / R_e_
                                                                 : 0;
  return Angle::radians(delta_ + edge_angle(addendum_ - R_e_ * t, t, R, spec_.ends));
}

Angle BevelGear::root_angle(double R) const {
  const double h_f = (spec_.dedendum - spec_.profile_shift) * spec_.module,
               t = spec_.depth == BevelDepth::parallel ? 0 : h_f / R_e_;
  return Angle::radians(delta_ - edge_angle(h_f - R_e_ * t, t, R, spec_.ends));
}

double BevelGear::distance(Angle cone_angle, double R) const {
  return spec_.ends == BevelEnds::spheres ? R : R / std::cos(cone_angle.radians() - delta_);
}

/// σ where the tool's straight flank ends, with another profile shift; below 0: undercut.
double BevelGear::form_sigma(double shift) const {
  const bool parallel = spec_.depth == BevelDepth::parallel;
  const double R = parallel ? sizes_.inner_cone_distance : R_e_,
               depth = std::atan((spec_.dedendum - shift) * spec_.module / R);
  const double rho = std::min(tool_radius_ / R, 0.99 * depth);
  return sigma_p_ - corner(depth, rho, spec_.pressure_angle.radians(), 0).reach;
}

BevelGear::Root BevelGear::root(double R) const {
  const double alpha = spec_.pressure_angle.radians(), sd = std::sin(delta_), floor = root_angle(R).radians(),
               unit = spec_.depth == BevelDepth::parallel ? R : R_e_;
  const double half_space_base = kPi / spec_.teeth - psi_ - azimuth(sigma_p_, delta_b_);  // of the flanks' cusps
  Root made{};
  if (spec_.fillet_radius) {
    constexpr double kLeastLand = 0.02;  // of the root between two arcs [pitches/π]
    // The arc's centre lies on the great circle of the flank's normal: cos(δ_f + ϱ) = cos δ_b cos(σ + ϱ).
    const auto touches = [&](double rho) {
      return std::acos(std::clamp(std::cos(floor + rho) / std::cos(delta_b_), -1.0, 1.0)) - rho;
    };
    const auto place = [&](double rho) {
      const double s = touches(rho);
      return half_space_base + s / std::sin(delta_b_) -
             std::atan2(std::sin(s + rho), std::sin(delta_b_) * std::cos(s + rho)) - kLeastLand / spec_.teeth;
    };
    const double rho = *spec_.fillet_radius / unit, most_depth = delta_ - floor;
    double least = 0, most = most_depth;
    if (touches(math::kRounding) < 0 || floor < delta_b_)
      least = touches(most) > 0 ? math::find_root(touches, std::max(math::kRounding, delta_b_ - floor), most) : most;
    if (place(std::max(least, math::kAlike)) > 0 && place(most) < 0)
      most = math::find_root(place, std::max(least, math::kAlike), most);
    const bool any = least < most && place(std::max(least, math::kAlike)) > 0;
    require(any && rho >= least * (1 - math::kRounding) && rho <= most * (1 + math::kRounding) && touches(rho) >= 0,
            "root.fillet_radius", mm(*spec_.fillet_radius),
            any ? fmt::format("an arc tangent to flank and root cone has a radius from {} to {} at the heel",
                              mm(least * unit), mm(most * unit))
                : std::string("no arc is tangent to both flank and root cone here"),
            any ? "give one of these, or leave root out" : "leave root out for the generated one");
    const double sigma = touches(rho), at = place(rho) + kLeastLand / spec_.teeth;
    const double low = std::tan(floor / 2), high = std::tan((floor + 2 * rho) / 2);
    const Arc arc{from_polar((low + high) / 2, at), (high - low) / 2};
    const double cone = cone_angle_at(Angle::radians(sigma)).radians();
    const Vec2 contact = from_polar(std::tan(cone / 2), half_space_base + azimuth(sigma, delta_b_)) - arc.centre;
    double to = std::atan2(contact.y(), contact.x());
    while (to > kPi + at)
      to -= 2 * kPi;
    made.segments = {{about_axis(floor), 0, at, Role::root}, {arc, kPi + at, to, Role::root}};
    made.form_sigma = sigma;
    return made;
  }
  const Corner c = corner(delta_ - floor, tool_radius_ / unit, alpha, kPi / spec_.teeth * sd - psi_ * sd);
  const curve::CrownTrochoid trochoid{delta_, c.depth, c.radius, c.angle, 0, +1};
  const double land = c.angle / sd;
  double chi = c.form_place;
  made.form_sigma = sigma_p_ - c.reach;
  made.undercut = made.form_sigma < 0;
  if (made.undercut) {
    // The trochoid's place over the flank's at equal cone angle: it lies inside the tooth at the base cone, and outside
    // where the tool's flank would have ended, on the mirror branch.
    const auto sigma_at = [&](const Vec2& p) { return path_angle(Angle::radians(2 * std::atan(p.norm()))).radians(); };
    const auto over_base = [&](double at) { return 2 * std::atan(trochoid.jet(at).p.norm()) - delta_b_; };
    const auto inside = [&](double at) {
      const Vec2 p = trochoid.jet(at).p;
      return std::atan2(p.y(), p.x()) - half_space_base - azimuth(sigma_at(p), delta_b_);
    };
    const double base = over_base(0) < 0 && over_base(chi) > 0 ? math::find_root(over_base, 0, chi) : 0;
    if (inside(base) > 0 && inside(chi) < 0) {
      chi = math::find_root(inside, base, chi);
      made.form_sigma = sigma_at(trochoid.jet(chi).p);
    } else {
      chi = base, made.form_sigma = 0;  // nearly tangent: the bracket vanishes in double precision
    }
  }
  made.segments = {{about_axis(floor), 0, land, Role::root}, {trochoid, 0, chi, Role::root}};
  return made;
}

Angle BevelGear::root_form_angle(double R) const { return cone_angle_at(Angle::radians(root(R).form_sigma)); }

curve::Outline BevelGear::section(double R) const {
  const Root low = root(R);
  const double half_pitch = kPi / spec_.teeth, sb = std::sin(delta_b_);
  const Angle tip = tip_angle(R);
  const double half = std::max(0.0, half_tooth_angle(tip).radians());
  curve::Outline outline;
  outline.count = spec_.teeth;
  for (const Segment& s : low.segments)
    outline.period.push_back(curve::turned(s, -half_pitch));
  const curve::SphericalInvolute flank{delta_b_, -(psi_ + azimuth(sigma_p_, delta_b_)), +1};
  outline.period.push_back({flank, low.form_sigma / sb, path_angle(tip).radians() / sb, Role::flank});
  const std::size_t lower = outline.period.size();
  outline.period.push_back({about_axis(tip.radians()), -half, half, Role::tip});
  for (std::size_t i = lower; i-- > 0;)
    outline.period.push_back(curve::mirrored(outline.period[i]));
  return outline;
}

BevelEnd BevelGear::end(double R) const {
  BevelEnd e{};
  const Root low = root(R);
  const Angle tip = tip_angle(R), floor = root_angle(R);
  const auto diameter = [&](Angle angle) { return 2 * distance(angle, R) * std::sin(angle.radians()); };
  e.cone_distance = R;
  e.addendum = distance(tip, R) * std::sin(tip.radians() - delta_);
  e.dedendum = distance(floor, R) * std::sin(delta_ - floor.radians());
  e.tip_diameter = diameter(tip), e.pitch_diameter = diameter(spec_.pitch_cone), e.root_diameter = diameter(floor);
  e.tooth_thickness = psi_ * e.pitch_diameter;
  e.tip_thickness = half_tooth_angle(tip).radians() * e.tip_diameter;
  e.tip_angle = tip, e.root_angle = floor;
  e.root_form_angle = cone_angle_at(Angle::radians(low.form_sigma));
  e.undercut = low.undercut;
  return e;
}

double back_cone_deviation(const BevelGear& gear) {
  const BevelSpec& s = gear.spec();
  const BevelEnd& e = gear.sizes().heel;
  const double delta = s.pitch_cone.radians(), alpha = s.pressure_angle.radians(), h = e.addendum,
               exact = e.tip_thickness / 2;
  if (std::cos(delta) < math::kRounding) return exact - (e.tooth_thickness / 2 - h * std::tan(alpha));
  const double r = gear.sizes().outer_cone_distance * std::tan(delta), r_y = r + h;
  return exact -
         r_y * (e.tooth_thickness / (2 * r) + math::inv(alpha) - math::inv(std::acos(r * std::cos(alpha) / r_y)));
}

std::vector<Finding> findings(const BevelGear& gear, const std::string& subject) {
  std::vector<Finding> all;
  const BevelSpec& s = gear.spec();
  const BevelSizes& z = gear.sizes();
  if (const double limit = std::min(z.outer_cone_distance / 3, 10 * s.module);
      s.face_width > limit * (1 + math::kAlike)) {
    all.push_back({FindingId::face_too_wide, subject, s.face_width, limit});
  }
  if (z.heel.undercut || z.toe.undercut)
    all.push_back({FindingId::undercut, subject, s.profile_shift, z.min_profile_shift_no_undercut});
  const double thinnest =
      std::min(z.heel.tip_thickness / z.heel.cone_distance, z.toe.tip_thickness / z.toe.cone_distance) *
      z.outer_cone_distance;
  if (z.pointed) {
    const double asked = (s.addendum + s.profile_shift) * s.module;
    all.push_back({FindingId::bevel_pointed, subject, z.heel.addendum, asked});
  } else if (thinnest < 0.2 * s.module) {
    all.push_back({FindingId::thin_tip, subject, thinnest, 0.2 * s.module});
  }
  if (z.tool_tip_radius_reduced && !s.fillet_radius)
    all.push_back({FindingId::tool_tip_radius_reduced, subject, z.tool_tip_radius, z.tool_tip_radius});
  return all;
}

}  // namespace palio::gear
