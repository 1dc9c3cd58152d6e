#include "palio/gear/cutter_root.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::gear {
namespace {

using math::inv;

/// A cutter of z₀ teeth and shift x₀ standing in the ring at its generating distance (theory 1.9).
struct Setting {
  double base_radius;        // r_b0
  double half_base_angle;    // of the cutter's tooth, at its base circle
  double working_angle;      // α_w0
  double center_distance;    // a₀
  double ring_pitch_radius;  // r_w of the ring

  Setting(const RingBlank& ring, int teeth, double shift) {
    const double m_t = ring.module / ring.cos_helix, tan_n = std::tan(ring.pressure_angle.radians());
    const double alpha_t = std::atan(tan_n / ring.cos_helix), difference = ring.teeth - teeth;
    const double inv_w = inv(alpha_t) - 2 * (shift + ring.generating_shift) * tan_n / difference;
    if (inv_w < 0) {
      throw InvalidParameter(
          "cutter.profile_shift", fmt::format("{:.6g}", shift),
          fmt::format("with the ring's shift {:.4g} no generating distance exists for a cutter of {} teeth",
                      ring.generating_shift, teeth),
          "give a smaller shift or a cutter of fewer teeth");
    }
    working_angle = math::arcinv(inv_w);
    base_radius = 0.5 * m_t * teeth * std::cos(alpha_t);
    half_base_angle = (kPi / 2 + 2 * shift * tan_n) / teeth + inv(alpha_t);
    center_distance = 0.5 * m_t * difference * std::cos(alpha_t) / std::cos(working_angle);
    ring_pitch_radius = 0.5 * m_t * ring.teeth * std::cos(alpha_t) / std::cos(working_angle);
  }

  double tangent_of_corner(double tip_radius, double corner) const {
    const double c = tip_radius - corner;
    return std::sqrt(std::max(0.0, (c - base_radius) * (c + base_radius)));
  }
  /// Polar angle of the corner's centre from the middle of the cutter's tooth: negative when there is no land left.
  double corner_angle(double tip_radius, double corner) const {
    const double T_c = tangent_of_corner(tip_radius, corner);
    return half_base_angle - (T_c + corner) / base_radius + std::atan(T_c / base_radius);
  }
  /// The corner has to begin above the pitch circle: on it its path shrinks to a point, below it has a cusp.
  static constexpr double kAbovePitch = 1e-3;  // of the tangent length there
  bool corner_fits(double tip_radius, double corner) const {
    return tip_radius - corner > base_radius && corner_angle(tip_radius, corner) >= -math::kRounding &&
           tangent_of_corner(tip_radius, corner) > base_radius * std::tan(working_angle) * (1 + kAbovePitch);
  }
  double largest_corner(double tip_radius) const {
    if (!corner_fits(tip_radius, 0)) return -1;
    double lo = 0, hi = tip_radius - base_radius;
    for (int i = 0; i < 60; ++i)
      (corner_fits(tip_radius, 0.5 * (lo + hi)) ? lo : hi) = 0.5 * (lo + hi);
    return lo;
  }
};

}  // namespace

PinionCutter choose_cutter(const RingBlank& ring, const CutterWish& wish) {
  const double m = ring.module, m_t = m / ring.cos_helix, shift = wish.profile_shift.value_or(0);
  const auto complete = [&](int teeth, const Setting& s) {
    PinionCutter cutter{teeth, shift, 0, 0};
    const double root_radius = 0.5 * m_t * ring.teeth + ring.root_depth * m;
    cutter.tip_diameter = wish.tip_diameter.value_or(2 * (root_radius - s.center_distance));
    const double largest = s.largest_corner(cutter.tip_diameter / 2);
    cutter.tip_corner_radius =
        wish.tip_corner_radius.value_or(std::max(0.0, std::min(ring.wished_tip_radius * m, largest)));
    return cutter;
  };
  const auto refuse_corner = [&](const PinionCutter& c, double largest) {
    if (largest < 0) {
      throw InvalidParameter(
          wish.tip_diameter ? "cutter.tip_diameter" : "cutter.teeth",
          wish.tip_diameter ? fmt::format("{:.6g} mm", c.tip_diameter) : fmt::format("{}", c.teeth),
          fmt::format("the cutter's tooth would end in a point or below its pitch circle at tip diameter {:.6g} mm",
                      c.tip_diameter),
          "give another cutter, or leave cutter out to have one chosen");
    }
    if (!(c.tip_corner_radius >= 0 && c.tip_corner_radius <= largest * (1 + math::kAlike))) {
      throw InvalidParameter("cutter.tip_corner_radius", fmt::format("{:.6g} mm", c.tip_corner_radius),
                             fmt::format("the cutter's tip leaves room for 0 to {:.6g} mm", largest),
                             "give less, or leave it out");
    }
  };
  if (wish.teeth) {
    if (*wish.teeth < 6 || *wish.teeth >= ring.teeth - 1) {
      throw InvalidParameter("cutter.teeth", fmt::format("{}", *wish.teeth),
                             fmt::format("a cutter of this ring has 6 to {} teeth", ring.teeth - 2),
                             "give fewer teeth, or leave cutter out to have one chosen");
    }
    const Setting s(ring, *wish.teeth, shift);
    const PinionCutter c = complete(*wish.teeth, s);
    refuse_corner(c, s.largest_corner(c.tip_diameter / 2));
    return c;
  }
  // The count nearest to 0.4 z with which nothing of the ring's tip is cut away; else the one that cuts away least.
  const int wanted = static_cast<int>(std::lround(0.4 * ring.teeth));
  std::optional<PinionCutter> best;
  double least = math::kInfinite, most_corner = -1;
  for (int away = 0; away < ring.teeth; ++away) {
    for (const int teeth : {wanted + away, wanted - away}) {
      if (teeth < 8 || teeth > ring.teeth - 8 || (away == 0 && best)) continue;
      try {
        const Setting s(ring, teeth, shift);
        const PinionCutter c = complete(teeth, s);
        const double largest = s.largest_corner(c.tip_diameter / 2);
        most_corner = std::max(most_corner, largest);
        if (largest < 0 || c.tip_corner_radius > largest) continue;
        const double cut_away = std::max(0.0, s.center_distance * std::sin(s.working_angle) - ring.tip_tangent);
        if (cut_away < least - math::kRounding) least = cut_away, best = c;
      } catch (const InvalidParameter&) {
        continue;  // this count has no generating distance: another may
      }
    }
    if (best && least == 0) return *best;
  }
  if (best) return *best;
  if (wish.tip_corner_radius && most_corner >= 0)
    throw InvalidParameter("cutter.tip_corner_radius", fmt::format("{:.6g} mm", *wish.tip_corner_radius),
                           fmt::format("cutters of 8 to {} teeth leave room for 0 to {:.6g} mm at their tips",
                                       ring.teeth - 8, most_corner),
                           "give less, or leave it out");
  throw InvalidParameter(
      "cutter.teeth", "left out", fmt::format("no cutter of 8 to {} teeth makes this root", ring.teeth - 8),
      "give cutter = { teeth, profile_shift, tip_diameter }, a smaller dedendum, or root = { fillet_radius = … }");
}

CutterRoot cutter_root(const RingBlank& ring, const PinionCutter& cutter) {
  const Setting s(ring, cutter.teeth, cutter.profile_shift);
  const double r_a0 = cutter.tip_diameter / 2, rho = cutter.tip_corner_radius;
  const double eta = std::max(0.0, s.corner_angle(r_a0, rho)), T_c = s.tangent_of_corner(r_a0, rho);
  const double turns = static_cast<double>(cutter.teeth) / ring.teeth;
  const curve::CutterTrochoid corner{s.center_distance, s.ring_pitch_radius, r_a0 - rho, rho, eta, turns, 0, +1};
  const double at_flank = std::atan(T_c / s.base_radius) - s.working_angle;
  const double clear = s.center_distance * std::sin(s.working_angle);
  return {{corner, at_flank, 0, curve::Role::root}, s.center_distance + r_a0, turns * eta, T_c + rho + clear, clear};
}

}  // namespace palio::gear
