#include "palio/pair/parallel.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include <fmt/format.h>

#include "clearance.hpp"
#include "interference.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/tolerance.hpp"

namespace palio::pair {

using gear::CylindricalGear;
using gear::Teeth;
using math::inv;

namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

bool internal(const Teeth& g1, const Teeth& g2) { return g1.internal() || g2.internal(); }
bool with_rack(const Teeth& g1, const Teeth& g2) { return g1.is_rack() || g2.is_rack(); }

/// The gear of a rack pair.
const CylindricalGear& the_gear(const Teeth& g1, const Teeth& g2) { return g1.is_rack() ? g2.gear() : g1.gear(); }

/// z of the pinion ± z of the wheel, with the sign of theory 2.
double tooth_sum(const Teeth& g1, const Teeth& g2) {
  if (!internal(g1, g2)) return g1.spec().teeth + g2.spec().teeth;
  return g1.internal() ? g2.spec().teeth - g1.spec().teeth : g1.spec().teeth - g2.spec().teeth;
}

double shift_factor(const Teeth& g1, const Teeth& g2) {
  return 2 * std::tan(g1.spec().pressure_angle.radians()) / tooth_sum(g1, g2);
}

double working_angle(const Teeth& g1, const Teeth& g2, double a) {
  const double least = least_center_distance(g1, g2);
  if (!(a > least) || !std::isfinite(a)) {
    throw InvalidParameter("center_distance", fmt::format("{:.6g} mm", a),
                           fmt::format("the line of action exists only above {:.6g} mm ({} of the base radii)", least,
                                       internal(g1, g2) ? "the difference" : "the sum"),
                           "give a larger distance");
  }
  return with_rack(g1, g2) ? g1.transverse_pressure_angle().radians() : std::acos(least / a);
}

double play_at(const Teeth& g1, const Teeth& g2, double a, double x_sum) {
  const double alpha_t = g1.transverse_pressure_angle().radians();
  if (with_rack(g1, g2)) {
    return 2 * std::tan(alpha_t) * (a - the_gear(g1, g2).sizes().reference_diameter / 2 - x_sum * g1.spec().module);
  }
  const double rise = inv(working_angle(g1, g2, a)) - inv(alpha_t);
  return (internal(g1, g2) ? -2 : 2) * a * (rise - shift_factor(g1, g2) * x_sum);
}

}  // namespace

double reference_center_distance(const Teeth& g1, const Teeth& g2) {
  if (with_rack(g1, g2)) return the_gear(g1, g2).sizes().reference_diameter / 2;
  const double d1 = g1.gear().sizes().reference_diameter, d2 = g2.gear().sizes().reference_diameter;
  return (internal(g1, g2) ? std::abs(d2 - d1) : d1 + d2) / 2;
}

double least_center_distance(const Teeth& g1, const Teeth& g2) {
  if (with_rack(g1, g2)) return 0;
  const double d1 = g1.gear().sizes().base_diameter, d2 = g2.gear().sizes().base_diameter;
  return (internal(g1, g2) ? std::abs(d2 - d1) : d1 + d2) / 2;
}

std::optional<double> zero_play_center_distance(const Teeth& g1, const Teeth& g2) {
  const double shifts = g1.spec().profile_shift + g2.spec().profile_shift;
  const double reference = reference_center_distance(g1, g2);
  if (with_rack(g1, g2)) return reference + shifts * g1.spec().module;
  if (shifts == 0) return reference;
  const double inv_w = inv(g1.transverse_pressure_angle().radians()) + shift_factor(g1, g2) * shifts;
  if (inv_w < 0) return std::nullopt;
  return least_center_distance(g1, g2) / std::cos(math::arcinv(inv_w));
}

std::vector<Finding> parallel_mismatches(const Teeth& g1, const Teeth& g2, const std::string& subject) {
  std::vector<Finding> found;
  const auto differ = [&](FindingId id, double a, double b) {
    if (std::abs(a - b) > math::kRounding * std::max(std::abs(a), std::abs(b))) found.push_back({id, subject, a, b});
  };
  const bool rings = g1.internal() && g2.internal(), racks = g1.is_rack() && g2.is_rack();
  const bool both = (g1.internal() && g2.is_rack()) || (g2.internal() && g1.is_rack());
  const bool small_ring =
      (g1.internal() && g1.spec().teeth <= g2.spec().teeth) || (g2.internal() && g2.spec().teeth <= g1.spec().teeth);
  if (rings || racks || both || small_ring) found.push_back({FindingId::kinds_cannot_pair, subject, {}, {}});
  const double b1 = g1.spec().helix_angle.radians(), b2 = g2.spec().helix_angle.radians();
  differ(FindingId::module_differs, g1.spec().module, g2.spec().module);
  differ(FindingId::pressure_angle_differs, g1.spec().pressure_angle.radians(), g2.spec().pressure_angle.radians());
  differ(FindingId::helix_differs, std::abs(b1), std::abs(b2));
  if (g1.spec().double_helical != g2.spec().double_helical || g1.spec().gap != g2.spec().gap)
    found.push_back({FindingId::halves_differ, subject, {}, {}});
  if (b1 != 0 && b2 != 0) {
    const double hand = b1 > 0 ? 1 : -1;
    if (internal(g1, g2) && b1 * b2 < 0) found.push_back({FindingId::hands_differ, subject, hand, hand});
    if (!internal(g1, g2) && b1 * b2 > 0) found.push_back({FindingId::hands_clash, subject, hand, -hand});
  }
  return found;
}

double thinning_for_backlash(const Teeth& g1, const Teeth& g2, double a, double backlash) {
  // Theory 2.2 solved for Σx_E; it is linear in it.
  const double at_none = play_at(g1, g2, a, 0), per_shift = play_at(g1, g2, a, 1) - at_none;
  return g1.spec().profile_shift + g2.spec().profile_shift - (backlash - at_none) / per_shift;
}

CommonFace common_face(const Teeth& g1, const Teeth& g2, double axial_offset) {
  const double b1 = g1.spec().face_width / 2, b2 = g2.spec().face_width / 2;
  if (g1.spec().double_helical) return {g1.spec().gap / 2, std::min(b1, b2)};
  return {std::max(-b1, axial_offset - b2), std::min(b1, axial_offset + b2)};
}

ParallelPair::ParallelPair(const Teeth& driver, const Teeth& driven, double center_distance, double axial_offset)
    : driver_(driver),
      driven_(driven),
      a_(center_distance),
      alpha_w_(working_angle(driver, driven, center_distance)),
      play_(play_at(driver, driven, center_distance,
                    driver.generating_profile_shift() + driven.generating_profile_shift())),
      face_(common_face(driver, driven, axial_offset)) {
  L_ = with_rack() ? math::kInfinite : a_ * std::sin(alpha_w_);
  if (with_rack()) {
    const auto& s = the_gear(driver, driven).sizes();
    const auto& rack = (driver.is_rack() ? driver : driven).rack().sizes();
    const double low = mate_tangent(driver.is_rack(), rack.tip_form_height),
                 high = mate_tangent(driver.is_rack(), rack.root_form_height);
    T_begin_ = std::max(s.root_form_tangent, low);
    T_end_ = std::min(s.tip_form_tangent, high);
    if (driver.is_rack()) std::swap(T_begin_, T_end_);
  } else if (internal()) {
    const bool ring_drives = driver.internal();
    const auto& pinion = (ring_drives ? driven : driver).gear().sizes();
    const auto& ring = (ring_drives ? driver : driven).gear().sizes();
    const double low = std::max(pinion.root_form_tangent, ring.tip_form_tangent - L_);
    const double high = std::min(pinion.tip_form_tangent, ring.root_form_tangent - L_);
    T_begin_ = ring_drives ? high + L_ : low;
    T_end_ = ring_drives ? low + L_ : high;
  } else {
    const auto &s1 = driver.gear().sizes(), &s2 = driven.gear().sizes();
    T_begin_ = std::max(s1.root_form_tangent, L_ - s2.tip_form_tangent);
    T_end_ = std::min(s1.tip_form_tangent, L_ - s2.root_form_tangent);
  }
}

double ParallelPair::mate_tangent(bool of_driver, double T) const noexcept {
  if (with_rack()) {
    // T of the gear where a place of height T on the rack touches: r sin α + v/sin α, v from the rolling plane
    // (theory 2.4).
    const double r = the_gear(driver_, driven_).sizes().reference_diameter / 2, sin_t = std::sin(alpha_w_);
    return r * sin_t + (a_ - r - T) / sin_t;
  }
  if (!internal()) return L_ - T;
  return (of_driver ? driver_ : driven_).internal() ? T - L_ : T + L_;
}

double ParallelPair::gear_ratio() const noexcept {
  return static_cast<double>(driven_.spec().teeth) / driver_.spec().teeth;
}

double ParallelPair::motion_ratio() const noexcept {
  if (driven_.is_rack()) return -driver_.gear().sizes().reference_diameter / 2;
  if (driver_.is_rack()) return -2 / driven_.gear().sizes().reference_diameter;
  return (internal() ? 1.0 : -1.0) * driver_.spec().teeth / driven_.spec().teeth;
}

std::array<double, 2> ParallelPair::working_pitch_diameters() const noexcept {
  if (with_rack()) {
    const double d = the_gear(driver_, driven_).sizes().reference_diameter;
    return driver_.is_rack() ? std::array<double, 2>{kNone, d} : std::array<double, 2>{d, kNone};
  }
  const double per_tooth = 2 * a_ / std::abs(tooth_sum(driver_, driven_));
  return {per_tooth * driver_.spec().teeth, per_tooth * driven_.spec().teeth};
}

double ParallelPair::normal_backlash() const noexcept {
  return play_ * std::cos(alpha_w_) * std::cos(driver_.base_helix_angle().radians());
}

std::array<Angle, 2> ParallelPair::angular_backlash() const noexcept {
  const auto d = working_pitch_diameters();
  return {Angle::radians(2 * play_ / d[0]), Angle::radians(2 * play_ / d[1])};
}

double ParallelPair::driven_play() const noexcept {
  return driven_.is_rack() ? play_ : angular_backlash()[1].radians();
}

double ParallelPair::contact_path_length() const noexcept {
  const bool falling = driver_.is_rack() || driver_.internal();
  return std::max(0.0, falling ? T_begin_ - T_end_ : T_end_ - T_begin_);
}

double ParallelPair::transverse_contact_ratio() const noexcept {
  return contact_path_length() /
         (kPi * driver_.transverse_module() * std::cos(driver_.transverse_pressure_angle().radians()));
}

double ParallelPair::overlap_ratio() const noexcept {
  return face_.width() * std::sin(std::abs(driver_.spec().helix_angle.radians())) / (kPi * driver_.spec().module);
}

std::array<double, 2> ParallelPair::tip_clearance() const noexcept {
  const auto at_tip_of = [&](const Teeth& own, const Teeth& mate) {
    if (own.is_rack()) return a_ - own.rack().sizes().tip_height - mate.gear().sizes().root_diameter / 2;
    const double r_a = own.gear().sizes().tip_diameter / 2;
    if (mate.is_rack()) return a_ - mate.rack().sizes().root_height - r_a;
    const double r_f = mate.gear().sizes().root_diameter / 2;
    if (mate.internal()) return r_f - a_ - r_a;
    return own.internal() ? r_a - a_ - r_f : a_ - r_a - r_f;
  };
  return {at_tip_of(driver_, driven_), at_tip_of(driven_, driver_)};
}

std::array<std::array<double, 2>, 2> ParallelPair::specific_sliding() const noexcept {
  // Speeds along the flanks are ω T; of a rack v sin α. Relative to the gear, per ω₁:
  const auto of = [&](double T) -> std::array<double, 2> {
    if (with_rack()) {
      const double T_0 = the_gear(driver_, driven_).sizes().reference_diameter / 2 * std::sin(alpha_w_);
      const std::array<double, 2> gear_then_rack{1 - T_0 / T, 1 - T / T_0};
      return driver_.is_rack() ? std::array<double, 2>{gear_then_rack[1], gear_then_rack[0]} : gear_then_rack;
    }
    const double T_2 = mate_tangent(true, T), u = gear_ratio();
    return {1 - T_2 / (T * u), 1 - T * u / T_2};
  };
  const auto begin = of(T_begin_), end = of(T_end_);
  return {{{begin[0], end[0]}, {begin[1], end[1]}}};
}

std::vector<Finding> ParallelPair::findings(const std::string& subject, const std::string& driver_subject,
                                            const std::string& driven_subject) const {
  std::vector<Finding> found;
  const auto add = [&](FindingId id, const std::string& about, double value, std::optional<double> limit = {}) {
    found.push_back({id, about, value, limit});
  };
  const double m = driver_.spec().module;
  const double binding = pair::binding(m);
  const double graze = 1e-3 * m;  // so little past a flank's smooth end is told by the depth, below
  if (play_ < -binding) add(FindingId::negative_play, subject, play_);

  // How far along each flank the mate's tip reaches, as a tangent length; never squared while negative.
  const auto reach = [&](const Teeth& own, const Teeth& mate, const std::string& about) {
    const bool own_drives = &own == &driver_;
    if (own.is_rack()) {
      // The gear's tip reaches down to this height of the rack.
      const double r = mate.gear().sizes().reference_diameter / 2, sin_t = std::sin(alpha_w_);
      const double height = a_ - r - (mate.gear().sizes().tip_form_tangent - r * sin_t) * sin_t;
      const auto& s = own.rack().sizes();
      if (height < s.root_form_height - graze)
        return add(FindingId::tip_in_fillet, about, 2 * height, 2 * s.root_form_height);
    } else {
      const auto& s = own.gear().sizes();
      const double T = mate.is_rack() ? mate_tangent(own_drives, mate.rack().sizes().tip_form_height)
                                      : mate_tangent(!own_drives, mate.gear().sizes().tip_form_tangent);
      const double reached = 2 * std::hypot(s.base_diameter / 2, std::max(0.0, T));
      if (own.internal()) {
        if (T > s.root_form_tangent + graze) return add(FindingId::tip_in_fillet, about, reached, s.root_form_diameter);
      } else if (T < -binding && !s.undercut) {
        return add(FindingId::contact_below_base, about, -T);
      } else if (T < s.root_form_tangent - graze && !s.undercut) {
        return add(FindingId::tip_in_fillet, about, reached, s.root_form_diameter);
      }
    }
    // Contact begins on the flank, or the root is undercut; and yet the edge may touch the root curve further on.
    if (const Depth depth = tip_digs(own, mate, a_, alpha_w_); depth > binding)
      add(FindingId::tip_digs_root, about, *depth);
  };
  reach(driver_, driven_, driver_subject);
  reach(driven_, driver_, driven_subject);
  if (internal()) {
    const CylindricalGear &pinion = (driver_.internal() ? driven_ : driver_).gear(),
                          &ring = (driver_.internal() ? driver_ : driven_).gear();
    if (const double depth = tip_fouling(pinion, ring, a_, alpha_w_); depth > binding)
      add(FindingId::tip_fouling, subject, depth);
    else if (const double clash = radial_assembly_clash(pinion, ring, working_pressure_angle()); clash > binding)
      add(FindingId::axial_assembly_only, subject, clash);
  }

  const double ratio = transverse_contact_ratio() + overlap_ratio();
  if (ratio < 1) {
    add(FindingId::contact_ratio_below_one, subject, ratio, 1.0);
  } else if (ratio < 1.2) {
    add(FindingId::contact_ratio_low, subject, ratio, 1.2);
  }
  const auto clearance = tip_clearance();
  const Teeth* both[] = {&driver_, &driven_};
  const std::string* subjects[] = {&driver_subject, &driven_subject};
  for (int i = 0; i < 2; ++i) {
    add_clearance(found, clearance[i], m, *subjects[i]);
    if (with_rack() || both[i]->spec().tip_diameter) continue;
    // The tip circle that leaves the standard clearance h_fP − h_aP over the mate's root as the shifts place it.
    const CylindricalGear &own = both[i]->gear(), &mate = both[1 - i]->gear();
    const double mate_shift = mate.spec().profile_shift * m, r_mate = mate.sizes().reference_diameter / 2,
                 h_a = own.spec().addendum * m;
    const double r = mate.internal()  ? r_mate - mate_shift + h_a - a_
                     : own.internal() ? a_ + r_mate + mate_shift - h_a
                                      : a_ - r_mate - mate_shift + h_a;
    const double too_long = (own.sizes().tip_diameter / 2 - r) * (own.internal() ? -1 : 1);
    if (too_long > 5e-3 * m) add(FindingId::tip_shortening, *subjects[i], own.sizes().tip_diameter, 2 * r);
  }
  if (!with_rack()) {
    const int common = std::gcd(driver_.spec().teeth, driven_.spec().teeth);
    if (common > 1) add(FindingId::common_factor, subject, common);
  }
  return found;
}

double driven_phase(const Teeth& driver, const Teeth& driven, double driver_phase, Angle direction) {
  // Where a place of the teeth stands at the pitch point, counted in pitches from the middle of a tooth: it adds up,
  // one gear running up and the other down, to a half: tooth before space.
  const auto wrapped = [](double pitches) { return pitches - std::round(pitches); };
  const double p1 = driver.is_rack() ? driver.rack().pitch() : 2 * kPi / driver.count();
  const double p2 = driven.is_rack() ? driven.rack().pitch() : 2 * kPi / driven.count();
  // A rack turned to face the gear has its own origin at the pitch point; its coordinate runs like an external gear's.
  const double at1 = driver.is_rack() ? driver_phase / p1 : (driver_phase - direction.radians()) / p1;
  if (driver.internal() || driven.internal()) {
    // Both axes lie on the same side of the pitch point and turn the same way; a ring's 0 is a space, its mate's a
    // tooth.
    return wrapped(at1 + direction.radians() / p2) * p2;
  }
  return wrapped(0.5 - at1 + (driven.is_rack() ? 0 : (direction.radians() + kPi) / p2)) * p2;
}

}  // namespace palio::pair
