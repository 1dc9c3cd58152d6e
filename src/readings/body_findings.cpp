#include "body_findings.hpp"

#include <algorithm>
#include <cmath>

#include "palio/body/clear.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/overloaded.hpp"

namespace palio::job {
namespace {

/// The tightest inner round of the teeth [mm]; 0 where two curves meet in a sharp inner corner.
double tightest_round(const curve::Outline& outline) {
  double least = math::kInfinite;
  for (const curve::Segment& s : outline.period) {
    if (s.role != curve::Role::root) continue;
    for (int i = 0; i <= 64; ++i) {
      const double bend = s.curvature(s.from + (s.to - s.from) * i / 64);
      if (bend < 0) least = std::min(least, -1 / bend);
    }
  }
  for (std::size_t i = 0; i + 1 < outline.period.size(); ++i) {
    const Vec2 in = outline.period[i].tangent(outline.period[i].to),
               out = outline.period[i + 1].tangent(outline.period[i + 1].from);
    const bool at_root = outline.period[i].role == curve::Role::root || outline.period[i + 1].role == curve::Role::root;
    if (at_root && cross(in, out) < -0.05) least = 0;
  }
  return least;
}

/// Width of the tooth space where the flanks end, in the section.
double narrowest_gap(const gear::Teeth& teeth) {
  for (const curve::Segment& s : teeth.chain().period) {
    if (s.role != curve::Role::flank) continue;
    const Vec2 low = s.first(), high = s.last();
    if (teeth.is_rack())
      return 2 * (kPi * teeth.transverse_module() / 2 -
                  std::abs(std::min(low.y(), high.y()) == low.y() ? low.x() : high.x()));
    const bool from_root = (low.norm() < high.norm()) != teeth.internal();
    const Vec2 at = from_root ? low : high;
    // A tooth is centred on +x, so the flank's place is half its angle.
    if (teeth.is_cycloidal())
      return 2 * at.norm() * std::sin(std::max(0.0, kPi / teeth.count() - std::abs(std::atan2(at.y(), at.x()))));
    const double half = kPi / teeth.count() - teeth.gear().half_tooth_angle(at.norm()).radians();
    return 2 * at.norm() * std::sin(std::max(0.0, half));
  }
  return 0;
}

/// Walls by name, for the ratio of thickest to thinnest.
std::vector<std::pair<const char*, double>> walls(const Gear& g) {
  const gear::CylindricalSpec& spec = g.teeth.spec();
  const body::Features& f = g.features;
  std::vector<std::pair<const char*, double>> all;
  if (g.teeth.is_rack()) return all;
  const auto& s = g.teeth.gear().sizes();
  all.emplace_back("the teeth", s.normal_tooth_thickness);
  if (g.teeth.internal()) {
    all.emplace_back("the rim", (s.outer_diameter - s.root_diameter) / 2);
    return all;
  }
  const double bore = f.sided       ? f.sided->across_flats
                      : f.serration ? f.serration->outer_diameter
                      : f.shaped    ? f.shaped->outer_diameter
                                    : spec.bore_diameter;
  if (f.web) {
    all.emplace_back("the rim", (s.root_diameter - f.web->outer_diameter) / 2);
    all.emplace_back("the web", f.web->thickness);
    all.emplace_back("the hub", bore > 0 ? (f.web->inner_diameter - bore) / 2 : f.web->inner_diameter);
  } else {
    all.emplace_back("the solid disc", std::min(spec.face_width, (s.root_diameter - bore) / 2));
  }
  for (const body::Hub& h : f.hubs)
    all.emplace_back("a hub", bore > 0 ? (h.diameter - bore) / 2 : h.diameter);
  return all;
}

}  // namespace

std::vector<Finding> body_findings(const Design& design, const Gear& g) {
  std::vector<Finding> found;
  const std::string subject = "gear." + g.name;
  const Process& p = design.process;
  // Bevel teeth keep their surfaces whatever the process.
  if (g.teeth.is_bevel()) {
    const Process::Change drawn = p.change(As::drawn), made = p.change(As::made);
    for (const double way : {drawn.teeth, made.teeth, drawn.inset}) {
      if (way == 0) continue;
      found.push_back({FindingId::bevel_drawn_plain, subject, std::abs(way), {}, {}});
      break;
    }
    return found;
  }
  const double module = g.teeth.module();
  const body::Features& f = g.features;
  const bool featured = f.web || f.spokes || !f.cutouts.empty() || f.keyway || f.turns_by_wall() || !f.steps.empty() ||
                        !f.hubs.empty() || !f.holes.empty() || f.sector_teeth > 0;
  const double least = p.least_wall > 0 ? p.least_wall : module / 2;
  const auto named = [](const std::string& feature) {
    if (feature == "bore.steps") return std::string("a step of the bore");
    if (feature == "bore.bearing") return std::string("the bearing's seat");
    return feature == "teeth" ? std::string("roots") : feature == "margin" ? std::string("the outline") : feature;
  };
  if (featured) {
    for (const body::ThinWall& w : body::thin_walls(body(g).layers(), least)) {
      found.push_back({FindingId::thin_wall, subject, w.thickness, least,
                       w.first == w.second ? "neighbouring " + w.first : named(w.first) + " and " + named(w.second)});
    }
    if (f.web && f.web->thickness < least)
      found.push_back({FindingId::thin_wall, subject, f.web->thickness, least, "the faces of the web"});
    if (f.spokes && f.spokes->width < least)
      found.push_back({FindingId::thin_wall, subject, f.spokes->width, least, "the sides of an arm"});
  }
  if (p.draft > 0 && g.teeth.is_cycloidal()) found.push_back({FindingId::no_draft, subject, 0.0, p.draft, {}});
  if (p.draft > 0 && !g.teeth.is_cycloidal()) {
    found.push_back({FindingId::no_draft, subject, 0.0, p.draft, {}});
    constexpr double kUneven = 2;
    const auto all = walls(g);
    if (!all.empty()) {
      const auto [thin, thick] =
          std::minmax_element(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
      if (thick->second > kUneven * thin->second) {
        found.push_back({FindingId::uneven_walls, subject, thick->second / thin->second, kUneven,
                         std::string(thick->first) + " against " + thin->first});
      }
    }
  }
  // A hair less, so that what is as asked is not told for its rounding.
  const double reach = p.smallest_radius, told = reach * (1 - math::kAlike);
  if (reach <= 0 || g.teeth.is_lantern()) return found;
  if (const double round = tightest_round(g.teeth.chain()); round < told)
    found.push_back({FindingId::tight_root, subject, round, reach, {}});
  const double tip = g.teeth.visit(overloaded{
      [](const gear::BevelGear&) { return math::kInfinite; },  // told above
      [](const auto& teeth) { return teeth.sizes().tip_thickness; },
  });
  if (tip < 2 * told) found.push_back({FindingId::tight_tip, subject, tip, reach, {}});
  if (const double gap = narrowest_gap(g.teeth); gap < 2 * told)
    found.push_back({FindingId::tight_gap, subject, gap, reach, {}});
  for (const auto& [has, what] : {std::pair<bool, const char*>{f.keyway.has_value(), "keyway"},
                                  {f.flat.has_value(), "D bore"},
                                  {f.sided.has_value(), f.sided && f.sided->sides == 4 ? "square" : "hexagon"},
                                  {f.serration.has_value(), "serration"}}) {
    if (has) found.push_back({FindingId::sharp_corner, subject, 0.0, reach, what});
  }
  return found;
}

}  // namespace palio::job
