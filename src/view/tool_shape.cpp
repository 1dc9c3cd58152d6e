#include "tool_shape.hpp"

#include <cmath>

#include "palio/error.hpp"
#include "palio/math/roots.hpp"

namespace palio::view {
namespace {

constexpr int kCorner = 24, kFlank = 24;

CuttingTool rack_tool(const gear::CylindricalGear& g) {
  const auto& s = g.sizes();
  const auto& spec = g.spec();
  const double m = spec.module, alpha = spec.pressure_angle.radians(), cos_b = std::cos(spec.helix_angle.radians()),
               rho = s.tool_tip_radius;
  const double r = s.reference_diameter / 2, pitch = kPi * s.transverse_module, tip = s.tip_diameter / 2;
  CuttingTool t{true, {}, r + s.generating_profile_shift * m, r, 0, 0, 0};
  const double above = std::max(tip + 0.3 * m - t.distance, 0.2 * m);  // the tool's roots stay clear of the blank
  // Half a tooth in the normal section: depth below the datum line and half width, from the root to the tip.
  std::vector<Vec2> half{{above, kPi / 4 * m + above * std::tan(alpha)}};
  const double u_c = std::max(0.0, kPi / 4 - (s.dedendum - rho) * std::tan(alpha) - rho / std::cos(alpha));
  for (int i = 0; i <= kCorner; ++i) {
    const double theta = alpha + (kPi / 2 - alpha) * i / kCorner;
    half.emplace_back((-s.dedendum + rho - rho * std::sin(theta)) * m, (u_c + rho * std::cos(theta)) * m);
  }
  t.deviation = rho * m * std::pow((kPi / 2 - alpha) / kCorner, 2) / 8;
  constexpr int kTeeth = 7;
  for (int k = -kTeeth; k <= kTeeth; ++k) {
    for (const Vec2& p : half)
      t.outline.emplace_back(p.x(), k * pitch - p.y() / cos_b);
    for (auto it = half.rbegin(); it != half.rend(); ++it)
      t.outline.emplace_back(it->x(), k * pitch + it->y() / cos_b);
  }
  t.outline.emplace_back(above + 2 * m, t.outline.back().y());
  t.outline.emplace_back(above + 2 * m, t.outline.front().y());
  t.reach = std::acos(std::min(1.0, (r + (s.generating_profile_shift - s.dedendum) * m) / tip)) + pitch / r;
  return t;
}

CuttingTool pinion_tool(const gear::CylindricalGear& g) {
  const auto& s = g.sizes();
  const auto& spec = g.spec();
  const gear::PinionCutter& c = *s.cutter;
  const double alpha_t = s.transverse_pressure_angle.radians(), m_t = s.transverse_module, z0 = c.teeth;
  const double r_b = 0.5 * m_t * z0 * std::cos(alpha_t), r_a = c.tip_diameter / 2, rho = c.tip_corner_radius;
  const double half_base =
      (kPi / 2 + 2 * c.profile_shift * std::tan(spec.pressure_angle.radians())) / z0 + math::inv(alpha_t);
  const double T_c = std::sqrt((r_a - rho - r_b) * (r_a - rho + r_b)), T_F = T_c + rho;
  CuttingTool t{false, {}, s.root_diameter / 2 - r_a, 0, spec.teeth / z0, 0.5 * kPi, 0};
  std::vector<Vec2> half;  // from the base circle to the middle of the tip, on the clockwise side of the tooth
  const double below = std::max(0.2 * r_b, r_b - 1.2 * spec.module);
  half.push_back(from_polar(below, -half_base));
  for (int i = 0; i <= kFlank; ++i) {
    const double T = T_F * i / kFlank;
    half.push_back(turned(Vec2(r_b, -T), T / r_b - half_base));
  }
  const Vec2 centre = turned(Vec2(r_b, -T_c), T_F / r_b - half_base);
  const double from = std::atan2(half.back().y() - centre.y(), half.back().x() - centre.x()),
               to = std::atan2(centre.y(), centre.x());
  for (int i = 1; i <= kCorner && rho > 0; ++i)
    half.push_back(centre + from_polar(rho, from + (to - from) * i / kCorner));
  t.deviation = std::max(rho * std::pow((to - from) / kCorner, 2) / 8, T_F * std::pow(T_F / r_b / kFlank, 2) / 8);
  const double land = std::atan2(half.back().y(), half.back().x());
  for (int k = 0; k < c.teeth; ++k) {
    const double turn = 2 * kPi * k / z0;
    for (const Vec2& p : half)
      t.outline.push_back(turned(p, turn));
    for (int i = 1; i < 4; ++i)
      t.outline.push_back(from_polar(r_a, turn + land - 2 * land * i / 4));
    for (auto it = half.rbegin(); it != half.rend(); ++it)
      t.outline.push_back(turned({it->x(), -it->y()}, turn));
  }
  return t;
}

}  // namespace

CuttingTool cutting_tool(const gear::Teeth& teeth) {
  if (teeth.is_bevel())
    throw InvalidParameter("tool", "a bevel gear",
                           "its tool is a crown gear about the same apex, which no plane picture shows",
                           "ask for a cylindrical gear");
  if (teeth.is_cycloidal())
    throw InvalidParameter("tool", "cycloidal teeth",
                           "their outline is drawn by rolling circles, no rack or cutter generates it here",
                           "ask for an involute gear");
  if (teeth.is_rack())
    throw InvalidParameter("tool", "a rack", "a rack is no generated tooth: its tool has its own shape",
                           "ask for the gear that runs on it");
  if (teeth.spec().fillet_radius)
    throw InvalidParameter("tool", "root = { fillet_radius }", "no tool makes a root that is a plain arc",
                           "leave root out to see it generated");
  return teeth.internal() ? pinion_tool(teeth.gear()) : rack_tool(teeth.gear());
}

std::vector<Vec2> tool_at(const CuttingTool& tool, double turn) {
  // Stationary gear: the tool rolls around it, seen turned back by the gear's turn. A space is cut on +x.
  std::vector<Vec2> all;
  all.reserve(tool.outline.size());
  for (const Vec2& p : tool.outline) {
    const Vec2 world = tool.rack ? Vec2(tool.distance + p.x(), p.y() + tool.rolling_radius * turn)
                                 : Vec2(Vec2(tool.distance, 0) + turned(p, turn * tool.ratio));
    all.push_back(turned(world, -turn));
  }
  return all;
}

}  // namespace palio::view
