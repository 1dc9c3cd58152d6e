#include "palio/gear/rack.hpp"

#include "palio/curve/parallel.hpp"
#include "palio/gear/rack_root.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "spec_checks.hpp"

namespace palio::gear {

using curve::EllipticArc;
using curve::Line;
using curve::Role;
using curve::Segment;

namespace {

/// How far the root's round reaches along the root line, per radius.
double round_per_radius(double alpha, double cos_b) { return (1 - std::sin(alpha)) / std::cos(alpha) / cos_b; }

/// The right half of a tooth (x > 0), from the middle of the space to the tip, towards −x.
struct HalfTooth {
  std::vector<Segment> segments;
  double flank_end;  // y
  double half_land;  // half the tip's width
};

HalfTooth half_tooth_of(const CylindricalSpec& spec, const RackSizes& s) {
  const double alpha = spec.pressure_angle.radians(), cos_b = std::cos(spec.helix_angle.radians()),
               tan_t = std::tan(s.transverse_pressure_angle.radians()), p = kPi * s.transverse_module,
               per_radius = round_per_radius(alpha, cos_b), rho = s.tool_tip_radius * spec.module;
  const auto half_width = [&](double y) { return s.transverse_tooth_thickness / 2 - y * tan_t; };
  const double land = p / 2 - half_width(s.root_height);
  std::vector<Segment> half;
  const double y_F = s.root_form_height, land_end = p / 2 - (land - rho * per_radius);
  if (p / 2 - land_end > math::kRounding)
    half.push_back({Line{{p / 2, s.root_height}, {land_end, s.root_height}}, 0, 1, Role::root});
  if (rho > 0) {
    // Normal section: a quarter from straight down to the flank's normal; across stretched by 1/cos beta.
    half.push_back({EllipticArc{{land_end, s.root_height + rho}, {rho / cos_b, 0}, {0, rho}}, -kPi / 2, -(kPi - alpha),
                    Role::root});
  }
  double y_end = s.tip_height, x_land = std::max(0.0, half_width(s.tip_height));
  std::vector<Segment> edge;
  if (spec.tip_chamfer > 0) {
    require(spec.tip_chamfer < std::min(x_land, s.tip_height - y_F), "tip_chamfer", mm(spec.tip_chamfer),
            "the tip is not wide enough for it", "give less");
    y_end -= spec.tip_chamfer;
    edge.push_back({Line{{half_width(y_end), y_end}, {x_land - spec.tip_chamfer, s.tip_height}}, 0, 1, Role::tip});
    x_land -= spec.tip_chamfer;
  } else if (spec.tip_round > 0) {
    const double reach = spec.tip_round * per_radius;
    y_end -= spec.tip_round * (1 - std::sin(alpha));
    require(reach < x_land && y_end > y_F, "tip_round", mm(spec.tip_round), "the tip is not wide enough for it",
            "give less");
    x_land -= reach;
    edge.push_back(
        {EllipticArc{{x_land, s.tip_height - spec.tip_round}, {spec.tip_round / cos_b, 0}, {0, spec.tip_round}}, alpha,
         kPi / 2, Role::tip});
  }
  half.push_back({Line{{half_width(y_F), y_F}, {half_width(y_end), y_end}}, 0, 1, Role::flank});
  half.insert(half.end(), edge.begin(), edge.end());
  return {std::move(half), y_end, x_land};
}

/// The teeth and a back, as long as asked on both sides of them.
curve::Outline toothed_bar(const CylindricalSpec& spec, const RackSizes& s, const std::vector<Segment>& tooth) {
  const double p = kPi * s.transverse_module;
  curve::Outline outline;
  const double right = s.middle + s.length / 2, left = s.middle - s.length / 2, first = s.middle + spec.teeth * p / 2,
               last = s.middle - spec.teeth * p / 2;
  const Vec2 back_left(left, -s.base_height), back_right(right, -s.base_height), up(right, s.root_height);
  outline.period.push_back({Line{back_left, back_right}, 0, 1, Role::body});
  outline.period.push_back({Line{back_right, up}, 0, 1, Role::body});
  if (right - first > math::kAlike) outline.period.push_back({Line{up, {first, s.root_height}}, 0, 1, Role::body});
  for (int i = 0; i < spec.teeth; ++i) {
    for (const Segment& part : tooth)
      outline.period.push_back(curve::moved(part, {first - (i + 0.5) * p, 0}));
  }
  const Vec2 down(left, s.root_height);
  if (last - left > math::kAlike) outline.period.push_back({Line{{last, s.root_height}, down}, 0, 1, Role::body});
  outline.period.push_back({Line{down, back_left}, 0, 1, Role::body});
  return outline;
}

}  // namespace

Rack::Rack(const CylindricalSpec& given) : spec_(given) {
  CylindricalSpec& spec = spec_;
  RackSizes& s = sizes_;
  const double m = spec.module, alpha = spec.pressure_angle.radians(), cos_b = std::cos(spec.helix_angle.radians());
  require(m > 0 && std::isfinite(m), "module", mm(m), "a module is above 0", "give 1.5 mm, say");
  require(spec.face_width > 0 && std::isfinite(spec.face_width), "face_width", mm(spec.face_width), "it is above 0",
          "give about 8 to 12 modules");
  s.transverse_module = m / cos_b;
  s.transverse_pressure_angle =
      spec.helix_angle.radians() == 0 ? spec.pressure_angle : Angle::radians(std::atan(std::tan(alpha) / cos_b));
  s.base_helix_angle = Angle::radians(std::asin(std::sin(spec.helix_angle.radians()) * std::cos(alpha)));
  const double tan_t = std::tan(s.transverse_pressure_angle.radians()), p = kPi * s.transverse_module;
  if (spec.length && spec.teeth <= 0) spec.teeth = static_cast<int>(std::floor(*spec.length / p + math::kAlike));
  s.length = spec.length.value_or(spec.teeth * p);
  s.middle = (spec.teeth % 2 == 0 ? 0.5 : 0.0) * p;  // tooth 0 on x = 0, the others around it
  require(spec.teeth >= 1, spec.length ? "length" : "teeth",
          spec.length ? mm(*spec.length) : fmt::format("{}", spec.teeth),
          fmt::format("a rack has at least one tooth, and one pitch is {}", mm(p)), "make it longer");
  require(s.length >= spec.teeth * p * (1 - math::kAlike), "length", mm(s.length),
          fmt::format("{} teeth take {}", spec.teeth, mm(spec.teeth * p)), "drop length or teeth");

  s.generating_profile_shift = spec.profile_shift + spec.thickness_allowance / (2 * m * std::tan(alpha));
  const double x_E = s.generating_profile_shift;
  s.normal_tooth_thickness = m * (kPi / 2 + 2 * x_E * std::tan(alpha));
  s.transverse_tooth_thickness = s.normal_tooth_thickness / cos_b;
  require(s.transverse_tooth_thickness > 0 && s.transverse_tooth_thickness < p, "profile_shift",
          fmt::format("{:.6g}", spec.profile_shift), "the tooth fills the whole pitch or nothing of it",
          "bring it nearer to 0");
  const auto half_tooth = [&](double y) { return s.transverse_tooth_thickness / 2 - y * tan_t; };

  const double y_point = s.transverse_tooth_thickness / (2 * tan_t), y_asked = (spec.profile_shift + spec.addendum) * m;
  s.pointed = y_asked >= y_point;
  s.tip_height = std::min(y_asked, y_point);
  s.root_height = (x_E - tool_dedendum(spec, x_E)) * m;
  s.tip_thickness = 2 * std::max(0.0, half_tooth(s.tip_height)) * cos_b;
  require(s.tip_height > s.root_height, "dedendum", fmt::format("{:.6g}", spec.dedendum),
          "the root line must lie below the tips", "deepen the root");

  // The root's round, in the normal section: tangent to flank and root line while half a root line is left.
  const double land = p / 2 - half_tooth(s.root_height), per_radius = round_per_radius(alpha, cos_b);
  const double largest = std::min(land / per_radius, (s.tip_height - s.root_height) / (1 - std::sin(alpha))) / m;
  require(land >= 0, "dedendum", fmt::format("{:.6g}", spec.dedendum),
          "the flanks of neighbouring teeth meet above that depth", "make the root less deep");
  const double wanted =
      spec.fillet_radius ? *spec.fillet_radius / m : spec.tool_tip_radius.value_or(std::min(0.38, largest));
  require(wanted >= 0 && wanted <= largest + math::kRounding,
          spec.fillet_radius ? "root.fillet_radius" : "tool_tip_radius", fmt::format("{:.6g} modules", wanted),
          fmt::format("the space leaves room for 0 to {:.6g} modules", largest),
          "give the largest or less, or leave it out");
  s.tool_tip_radius = wanted;
  const double rho = wanted * m;
  s.root_form_height = s.root_height + rho * (1 - std::sin(alpha));
  s.tip_form_height = s.tip_height;

  s.base_height = spec.base_height.value_or(3 * m - std::min(0.0, s.root_height + m));
  require(s.base_height > -s.root_height, "base_height", mm(s.base_height),
          fmt::format("the root line lies {} below the reference line", mm(-s.root_height)), "make it higher");

  const HalfTooth half = half_tooth_of(spec, s);
  s.tip_form_height = half.flank_end;
  teeth_.period = half.segments;
  if (half.half_land > kNoLand) {
    teeth_.period.push_back({Line{{half.half_land, s.tip_height}, {-half.half_land, s.tip_height}}, 0, 1, Role::tip});
  }
  for (auto it = half.segments.rbegin(); it != half.segments.rend(); ++it)
    teeth_.period.push_back(curve::turned(curve::mirrored(*it), kPi));
  teeth_.count = spec.teeth;
  teeth_.shift = {-p, 0};
  outline_ = toothed_bar(spec, s, teeth_.period);
}

Rack Rack::grown(double offset) const {
  Rack made = *this;
  if (offset == 0) return made;
  const double alpha = spec_.pressure_angle.radians(), cos_b = std::cos(spec_.helix_angle.radians());
  const curve::Askew askew{std::cos(sizes_.base_helix_angle.radians()), slope()};
  made.teeth_ = curve::parallel(teeth_, offset, askew);
  made.outline_ = curve::parallel(outline_, offset, askew);
  RackSizes& s = made.sizes_;
  s.normal_tooth_thickness += 2 * offset / std::cos(alpha);
  s.transverse_tooth_thickness = s.normal_tooth_thickness / cos_b;
  s.generating_profile_shift += offset / (spec_.module * std::sin(alpha));
  s.root_height += offset, s.tip_height += offset, s.base_height += offset, s.length += 2 * offset;
  for (const Segment& part : made.teeth_.period) {
    if (part.role != Role::flank) continue;
    const auto [low, high] = std::minmax({part.first().y(), part.last().y()});
    s.root_form_height = low, s.tip_form_height = high;
  }
  s.tip_thickness =
      2 *
      std::max(0.0, s.transverse_tooth_thickness / 2 - s.tip_height * std::tan(s.transverse_pressure_angle.radians())) *
      cos_b;
  return made;
}

double Rack::pitch() const noexcept { return kPi * sizes_.transverse_module; }
double Rack::slope() const noexcept { return std::tan(spec_.helix_angle.radians()); }

std::optional<double> Rack::half_space(double y) const {
  if (y < sizes_.root_height) return std::nullopt;
  const double p = pitch(), tan_t = std::tan(sizes_.transverse_pressure_angle.radians());
  if (y >= sizes_.root_form_height) return p / 2 - sizes_.transverse_tooth_thickness / 2 + y * tan_t;
  for (const Segment& part : teeth_.period) {
    const auto* round = std::get_if<EllipticArc>(&part.curve);
    if (part.role == Role::root && round)
      return p / 2 - part.point(-kPi + std::asin(std::min(1.0, (round->centre.y() - y) / round->v.y()))).x();
  }
  return std::nullopt;
}

std::vector<Finding> findings(const Rack& rack, const std::string& subject) {
  const RackSizes& s = rack.sizes();
  const CylindricalSpec& spec = rack.spec();
  std::vector<Finding> found;
  if (s.pointed) {
    found.push_back(
        {FindingId::pointed_tip, subject, 2 * s.tip_height, 2 * (spec.profile_shift + spec.addendum) * spec.module});
  } else if (s.tip_thickness < 0.2 * spec.module) {
    found.push_back({FindingId::thin_tip, subject, s.tip_thickness, 0.2 * spec.module});
  }
  if (!spec.fillet_radius && !spec.tool_tip_radius && s.tool_tip_radius < 0.38) {
    found.push_back({FindingId::tool_tip_radius_reduced, subject, s.tool_tip_radius, s.tool_tip_radius});
  }
  const double rim = s.base_height + s.root_height, wanted = 1.2 * (s.tip_height - s.root_height);
  if (rim < wanted) found.push_back({FindingId::thin_rim, subject, rim, wanted});
  return found;
}

}  // namespace palio::gear
