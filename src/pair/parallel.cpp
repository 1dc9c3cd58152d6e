#include "palio/pair/parallel.hpp"

#include <algorithm>
#include <boost/math/tools/minima.hpp>
#include <cmath>
#include <limits>
#include <numeric>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/math/roots.hpp"

namespace palio::pair {

using gear::CylindricalGear;
using math::inv;

namespace {

double base_sum(const CylindricalGear& g1, const CylindricalGear& g2) { return (g1.sizes().base_diameter + g2.sizes().base_diameter) / 2; }

double shift_factor(const CylindricalGear& g1, const CylindricalGear& g2) {
  return 2 * std::tan(g1.spec().pressure_angle.radians()) / (g1.spec().teeth + g2.spec().teeth);
}

double working_angle(const CylindricalGear& g1, const CylindricalGear& g2, double a) {
  const double least = base_sum(g1, g2);
  if (!(a > least) || !std::isfinite(a)) {
    throw InvalidParameter("center_distance", fmt::format("{:.6g} mm", a),
                           fmt::format("the line of action exists only above the sum of the base radii, {:.6g} mm", least), "give a larger distance");
  }
  return std::acos(least / a);
}

/// How deep the edge of the mate's tip runs into the root of `own` while the flanks run in contact [mm, along the
/// circle]; negative when it stays clear. The edge's path is followed in the frame of `own`, whose axis is the origin,
/// the mate's lying on +x.
double tip_digs(const CylindricalGear& own, const CylindricalGear& mate, double a, double alpha_w) {
  const auto &s1 = own.sizes(), &s2 = mate.sizes();
  const double r_b = s1.base_diameter / 2, r_a = s2.tip_form_diameter / 2, L = a * std::sin(alpha_w);
  const double T = L - s2.tip_form_tangent;  // on own's side of the line of action when the edge is on that line
  const Vec2 edge = from_polar(r_b, -alpha_w) + from_polar(T, kPi / 2 - alpha_w);
  const double seen = std::atan2(edge.y(), edge.x() - a);  // of the edge, from the mate's axis
  // Own's flank passes that point: p = r_b e^{i(start − t)}(1 + i t) with t = T/r_b at polar angle −α_w of the string's foot.
  const double half_base = s1.transverse_tooth_thickness / s1.reference_diameter + inv(s1.transverse_pressure_angle.radians());
  const double middle = T / r_b - alpha_w - half_base + kPi / own.spec().teeth;  // polar angle of the middle of the space
  const double u = static_cast<double>(mate.spec().teeth) / own.spec().teeth;
  const auto depth = [&](double turn) {
    const Vec2 p = turned(Vec2(a, 0) + from_polar(r_a, seen - turn / u), -turn);
    const double R = p.norm();
    if (2 * R >= s1.root_form_diameter) return -r_b;  // beside the flank: the contact itself keeps them apart
    const auto half = own.half_space_angle(R);
    const double off = std::remainder(middle - std::atan2(p.y(), p.x()), 2 * kPi);  // from the middle towards the flank
    return half ? (std::abs(off) - *half) * R : r_b;
  };
  constexpr int kLooks = 120;
  const double reach = 1.2 * 2 * kPi / own.spec().teeth;
  double deepest = -r_b, at = 0;
  for (int i = -kLooks; i <= kLooks; ++i) {
    const double d = depth(reach * i / kLooks);
    if (d > deepest) deepest = d, at = reach * i / kLooks;
  }
  const auto shallow = [&](double turn) { return -depth(turn); };
  boost::uintmax_t steps = 40;
  deepest = std::max(deepest, -boost::math::tools::brent_find_minima(shallow, at - reach / kLooks, at + reach / kLooks, 26, steps).second);
  return deepest;
}

}  // namespace

double reference_center_distance(const CylindricalGear& g1, const CylindricalGear& g2) {
  return (g1.sizes().reference_diameter + g2.sizes().reference_diameter) / 2;
}

std::optional<double> zero_play_center_distance(const CylindricalGear& g1, const CylindricalGear& g2) {
  const double shifts = g1.spec().profile_shift + g2.spec().profile_shift;
  const double alpha_t = g1.sizes().transverse_pressure_angle.radians();
  if (shifts == 0) return reference_center_distance(g1, g2);
  const double inv_w = inv(alpha_t) + shift_factor(g1, g2) * shifts;
  if (inv_w < 0) return std::nullopt;
  return base_sum(g1, g2) / std::cos(math::arcinv(inv_w));
}

std::vector<Finding> mismatches(const CylindricalGear& g1, const CylindricalGear& g2, const std::string& subject) {
  std::vector<Finding> found;
  const auto differ = [&](FindingId id, double a, double b) {
    if (std::abs(a - b) > 1e-12 * std::max(std::abs(a), std::abs(b))) found.push_back({id, subject, a, b});
  };
  differ(FindingId::module_differs, g1.spec().module, g2.spec().module);
  differ(FindingId::pressure_angle_differs, g1.spec().pressure_angle.radians(), g2.spec().pressure_angle.radians());
  differ(FindingId::helix_differs, g1.spec().helix_angle.radians(), g2.spec().helix_angle.radians());
  return found;
}

double thinning_for_backlash(const CylindricalGear& g1, const CylindricalGear& g2, double a, double backlash) {
  // Theory 2.2 solved for Σx_E: j_wt = 2a [inv α_w − inv α_t − 2 Σx_E tan α_n/Σz].
  const double rise = inv(working_angle(g1, g2, a)) - inv(g1.sizes().transverse_pressure_angle.radians());
  const double wanted = (rise - backlash / (2 * a)) / shift_factor(g1, g2);
  return g1.spec().profile_shift + g2.spec().profile_shift - wanted;
}

ParallelPair::ParallelPair(const CylindricalGear& driver, const CylindricalGear& driven, double center_distance)
    : driver_(driver), driven_(driven), a_(center_distance), alpha_w_(working_angle(driver, driven, center_distance)) {
  const auto& s1 = driver.sizes();
  const auto& s2 = driven.sizes();
  const double x_sum = s1.generating_profile_shift + s2.generating_profile_shift;
  play_ = 2 * a_ * (inv(alpha_w_) - inv(s1.transverse_pressure_angle.radians()) - shift_factor(driver, driven) * x_sum);
  L_ = a_ * std::sin(alpha_w_);
  T_begin_ = std::max(s1.root_form_tangent, L_ - s2.tip_form_tangent);
  T_end_ = std::min(s1.tip_form_tangent, L_ - s2.root_form_tangent);
}

double ParallelPair::gear_ratio() const noexcept { return static_cast<double>(driven_.spec().teeth) / driver_.spec().teeth; }

std::array<double, 2> ParallelPair::working_pitch_diameters() const noexcept {
  const double d1 = 2 * a_ / (1 + gear_ratio());
  return {d1, d1 * gear_ratio()};
}

double ParallelPair::normal_backlash() const noexcept { return play_ * std::cos(alpha_w_) * std::cos(driver_.sizes().base_helix_angle.radians()); }

std::array<double, 2> ParallelPair::angular_backlash() const noexcept {
  const auto d = working_pitch_diameters();
  return {2 * play_ / d[0], 2 * play_ / d[1]};
}

double ParallelPair::contact_path_length() const noexcept { return std::max(0.0, T_end_ - T_begin_); }

double ParallelPair::transverse_contact_ratio() const noexcept { return contact_path_length() / (kPi * driver_.sizes().base_diameter / driver_.spec().teeth); }

double ParallelPair::overlap_ratio() const noexcept {
  const double face = std::min(driver_.spec().face_width, driven_.spec().face_width);
  return face * std::sin(std::abs(driver_.spec().helix_angle.radians())) / (kPi * driver_.spec().module);
}

std::array<double, 2> ParallelPair::tip_clearance() const noexcept {
  return {a_ - driver_.sizes().tip_diameter / 2 - driven_.sizes().root_diameter / 2, a_ - driven_.sizes().tip_diameter / 2 - driver_.sizes().root_diameter / 2};
}

std::array<std::array<double, 2>, 2> ParallelPair::specific_sliding() const noexcept {
  const double u = gear_ratio();
  const auto of_driver = [&](double T1) { return 1 - (L_ - T1) / (T1 * u); };
  const auto of_driven = [&](double T1) { return 1 - T1 * u / (L_ - T1); };
  return {{{of_driver(T_begin_), of_driver(T_end_)}, {of_driven(T_begin_), of_driven(T_end_)}}};
}

std::vector<Finding> ParallelPair::findings(const std::string& subject, const std::string& driver_subject, const std::string& driven_subject) const {
  std::vector<Finding> found;
  const auto add = [&](FindingId id, const std::string& about, double value, std::optional<double> limit = {}) { found.push_back({id, about, value, limit}); };
  const double m = driver_.spec().module;
  const double touch = 1e-9 * std::max(1.0, m);  // what the roll, too, takes for touching
  if (play_ < -touch) add(FindingId::negative_play, subject, play_);

  // How far down each flank the mate's tip reaches, as a tangent length; never squared while negative.
  const auto reach = [&](const CylindricalGear& own, const CylindricalGear& mate, const std::string& about) {
    const double T = L_ - mate.sizes().tip_form_tangent;
    const auto& s = own.sizes();
    const double reached = 2 * std::hypot(s.base_diameter / 2, std::max(0.0, T));
    if (T < -touch && !s.undercut) {
      add(FindingId::contact_below_base, about, -T);
    } else if (T < s.root_form_tangent - touch && !s.undercut) {
      add(FindingId::tip_in_fillet, about, reached, s.root_form_diameter);
    } else if (const double depth = tip_digs(own, mate, a_, alpha_w_); depth > touch) {
      // Contact begins on the flank, or the root is undercut; and yet the edge may touch the root curve further on.
      add(FindingId::tip_digs_root, about, depth);
    }
  };
  reach(driver_, driven_, driver_subject);
  reach(driven_, driver_, driven_subject);

  const double ratio = transverse_contact_ratio() + overlap_ratio();
  if (ratio < 1) {
    add(FindingId::contact_ratio_below_one, subject, ratio, 1.0);
  } else if (ratio < 1.2) {
    add(FindingId::contact_ratio_low, subject, ratio, 1.2);
  }
  const auto clearance = tip_clearance();
  const std::string* subjects[] = {&driver_subject, &driven_subject};
  for (int i = 0; i < 2; ++i) {
    if (clearance[i] < 0) {
      add(FindingId::tip_bottoms, *subjects[i], clearance[i]);
    } else if (clearance[i] < 0.1 * m) {
      add(FindingId::small_tip_clearance, *subjects[i], clearance[i], 0.1 * m);
    }
  }
  const int common = std::gcd(driver_.spec().teeth, driven_.spec().teeth);
  if (common > 1) add(FindingId::common_factor, subject, common);
  return found;
}

double driven_phase(int z1, int z2, double driver_phase, double direction) {
  const double p1 = 2 * kPi / z1, p2 = 2 * kPi / z2;
  // Counted in pitches, the place of the teeth at the pitch point adds up to a half: tooth before space.
  const double pitches = 0.5 - (driver_phase - direction) / p1 + (direction + kPi) / p2;
  const double wrapped = pitches - std::round(pitches);
  return wrapped * p2;
}

}  // namespace palio::pair
