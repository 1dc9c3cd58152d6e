#include "palio/pair/crossed.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "clearance.hpp"
#include "interference.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/tolerance.hpp"

namespace palio::pair {

using gear::CylindricalGear;
using gear::Teeth;

namespace {

double beta(const CylindricalGear& g) { return g.spec().helix_angle.radians(); }
double radius(const CylindricalGear& g) { return g.sizes().reference_diameter / 2; }
double sin_t(const CylindricalGear& g) { return std::sin(g.sizes().transverse_pressure_angle.radians()); }
double alpha(const CylindricalGear& g) { return g.spec().pressure_angle.radians(); }

/// Height above the reference cylinder, on the common rack, at which a place of tangent length T touches.
double height_of(const CylindricalGear& g, double T) { return (T - radius(g) * sin_t(g)) * sin_t(g); }

}  // namespace

std::vector<Finding> crossed_mismatches(const Teeth& g1, const Teeth& g2, Angle shaft_angle,
                                        const std::string& subject) {
  std::vector<Finding> found;
  if (g1.is_rack() || g2.is_rack() || g1.internal() || g2.internal() || g1.spec().double_helical ||
      g2.spec().double_helical) {
    found.push_back({FindingId::kinds_cannot_cross, subject, {}, {}});
    return found;
  }
  const auto differ = [&](FindingId id, double a, double b) {
    if (std::abs(a - b) > math::kRounding * std::max(std::abs(a), std::abs(b))) found.push_back({id, subject, a, b});
  };
  differ(FindingId::module_differs, g1.spec().module, g2.spec().module);
  differ(FindingId::pressure_angle_differs, g1.spec().pressure_angle.radians(), g2.spec().pressure_angle.radians());
  const double sum = g1.spec().helix_angle.radians() + g2.spec().helix_angle.radians();
  if (std::abs(sum - shaft_angle.radians()) > math::kAlike)
    found.push_back({FindingId::shaft_angle_differs, subject, sum, shaft_angle.radians()});
  return found;
}

double crossed_center_distance(const CylindricalGear& g1, const CylindricalGear& g2) {
  return radius(g1) + radius(g2) + (g1.spec().profile_shift + g2.spec().profile_shift) * g1.spec().module;
}

double crossed_thinning(const CylindricalGear& g1, const CylindricalGear& g2, double a, double backlash) {
  // j_bn = 2 sin α_n [a − r₁ − r₂ − (x_E1 + x_E2) m], and the play asked for is j_bn/cos α_n.
  const double m = g1.spec().module, x_E = (a - radius(g1) - radius(g2) - backlash / (2 * std::tan(alpha(g1)))) / m;
  return g1.spec().profile_shift + g2.spec().profile_shift - x_E;
}

CrossedPair::CrossedPair(const CylindricalGear& driver, const CylindricalGear& driven, double center_distance,
                         double axial_offset)
    : driver_(driver),
      driven_(driven),
      a_(center_distance),
      offset_(axial_offset),
      sigma_(beta(driver) + beta(driven)) {
  over_ = a_ - radius(driver_) - radius(driven_);
  v_low_ = std::max(over_ - height_of(driven_, driven_.sizes().tip_form_tangent),
                    height_of(driver_, driver_.sizes().root_form_tangent));
  v_high_ = std::min(height_of(driver_, driver_.sizes().tip_form_tangent),
                     over_ - height_of(driven_, driven_.sizes().root_form_tangent));
  // Along both axes the point moves in proportion to v: the faces cut an interval out of it.
  v_begin_ = v_low_, v_end_ = v_high_;
  const auto cut = [&](auto place, double low, double high) {
    const double at0 = place(contact_point(0)), slope = place(contact_point(1)) - at0;
    if (slope == 0) {
      if (at0 < low || at0 > high) v_end_ = v_begin_;
      return;
    }
    const auto [from, to] = std::minmax({(low - at0) / slope, (high - at0) / slope});
    v_begin_ = std::max(v_begin_, from), v_end_ = std::min(v_end_, to);
  };
  const double b1 = driver_.spec().face_width / 2, b2 = driven_.spec().face_width / 2;
  cut([](const Vec3& p) { return p.z(); }, -b1, b1);
  cut([&](const Vec3& p) { return along_driven(p) - offset_; }, -b2, b2);
}

double CrossedPair::along_driven(const Vec3& p) const noexcept {
  return p.y() * std::sin(sigma_) + p.z() * std::cos(sigma_);
}

Vec3 CrossedPair::contact_point(double v) const noexcept {
  // The planes of action of both gears with the common rack hold the line of action; they meet in it.
  const double cot = 1 / std::tan(alpha(driver_)), y = v * std::cos(beta(driver_)) * cot,
               y2 = (v - over_) * std::cos(beta(driven_)) * cot;
  return {radius(driver_) + v, y, (y * std::cos(sigma_) - y2) / std::sin(sigma_)};
}

double CrossedPair::gear_ratio() const noexcept {
  return static_cast<double>(driven_.spec().teeth) / driver_.spec().teeth;
}
double CrossedPair::motion_ratio() const noexcept { return -1 / gear_ratio(); }

double CrossedPair::normal_backlash() const noexcept {
  const double x_E = driver_.sizes().generating_profile_shift + driven_.sizes().generating_profile_shift;
  return 2 * std::sin(alpha(driver_)) * (over_ - x_E * driver_.spec().module);
}

double CrossedPair::circumferential_backlash() const noexcept { return normal_backlash() / std::cos(alpha(driver_)); }

std::array<Angle, 2> CrossedPair::angular_backlash() const noexcept {
  const auto of = [&](const CylindricalGear& g) {
    return Angle::radians(normal_backlash() /
                          (g.sizes().base_diameter / 2 * std::cos(g.sizes().base_helix_angle.radians())));
  };
  return {of(driver_), of(driven_)};
}

double CrossedPair::circumferential_per_angle() const noexcept {
  return driven_.sizes().base_diameter / 2 * std::cos(driven_.sizes().base_helix_angle.radians()) /
         std::cos(alpha(driver_));
}

double CrossedPair::contact_path_length() const noexcept {
  return std::max(0.0, v_end_ - v_begin_) / std::sin(alpha(driver_));
}

double CrossedPair::contact_ratio() const noexcept {
  return contact_path_length() / (kPi * driver_.spec().module * std::cos(alpha(driver_)));
}

std::array<double, 2> CrossedPair::face_needed() const noexcept {
  const Vec3 first = contact_point(v_low_), last = contact_point(v_high_);
  const double f2 = std::max(std::abs(along_driven(first) - offset_), std::abs(along_driven(last) - offset_));
  return {2 * std::max(std::abs(first.z()), std::abs(last.z())), 2 * f2};
}

std::array<double, 2> CrossedPair::tip_clearance() const noexcept {
  return {a_ - (driver_.sizes().tip_diameter + driven_.sizes().root_diameter) / 2,
          a_ - (driven_.sizes().tip_diameter + driver_.sizes().root_diameter) / 2};
}

double CrossedPair::sliding_ratio() const noexcept { return std::abs(std::sin(sigma_)) / std::cos(beta(driven_)); }

double CrossedPair::efficiency(double friction, bool backwards) const noexcept {
  // The friction force lies along the tooth trace, where the flanks slide (docs/theory/crossed.md).
  const double mu = friction * (sigma_ < 0 ? -1 : 1) / std::cos(alpha(driver_));
  const double in = std::tan(backwards ? beta(driven_) : beta(driver_)),
               out = std::tan(backwards ? beta(driver_) : beta(driven_));
  return (1 - mu * out) / (1 + mu * in);
}

std::optional<double> CrossedPair::tip_digs(const CylindricalGear& own, const CylindricalGear& mate, double T) const {
  // Of both gears the other is seen alike: turned half round about the bisector of the axes, the pair is one with its
  // members exchanged. The other flank's contact is this one turned half round about the common normal: the faces
  // change ends.
  const CrossedPair seen(own, mate, a_);
  const double v = over_ - height_of(mate, mate.sizes().tip_form_tangent), b1 = own.spec().face_width / 2,
               b2 = mate.spec().face_width / 2;
  const bool own_drives = &own == &driver_;
  Depth deepest;
  for (const double offset : {offset_, -offset_}) {
    const double own_middle = own_drives ? 0 : offset, mate_middle = own_drives ? offset : 0;
    deepest =
        std::max(deepest, crossed_tip_digs(own, mate,
                                           {a_, sigma_, seen.motion_ratio(), seen.contact_point(v), T, own_middle - b1,
                                            own_middle + b1, mate_middle - b2, mate_middle + b2}));
    if (offset_ == 0) break;
  }
  return deepest;
}

std::vector<Finding> CrossedPair::findings(const std::string& subject, const std::string& driver_subject,
                                           const std::string& driven_subject, std::optional<double> friction) const {
  std::vector<Finding> found;
  const auto add = [&](FindingId id, const std::string& about, double value, std::optional<double> limit = {}) {
    found.push_back({id, about, value, limit});
  };
  const double m = driver_.spec().module, graze = 2e-5 * std::max(1.0, m);
  if (circumferential_backlash() < -binding(m)) add(FindingId::negative_play, subject, circumferential_backlash());
  const auto reach = [&](const CylindricalGear& own, const CylindricalGear& mate, const std::string& about) {
    const double T = radius(own) * sin_t(own) + (over_ - height_of(mate, mate.sizes().tip_form_tangent)) / sin_t(own);
    const auto& s = own.sizes();
    if (T < -graze && !s.undercut)
      add(FindingId::contact_below_base, about, -T);
    else if (T < s.root_form_tangent - graze && !s.undercut)
      add(FindingId::tip_in_fillet, about, 2 * std::hypot(s.base_diameter / 2, std::max(0.0, T)), s.root_form_diameter);
    else if (const Depth depth = tip_digs(own, mate, T); depth > graze)
      add(FindingId::tip_digs_root, about, *depth);
  };
  reach(driver_, driven_, driver_subject);
  reach(driven_, driver_, driven_subject);
  const double ratio = contact_ratio();
  if (ratio < 1)
    add(FindingId::contact_ratio_below_one, subject, ratio, 1.0);
  else if (ratio < 1.2)
    add(FindingId::contact_ratio_low, subject, ratio, 1.2);
  const auto needed = face_needed();
  if (driver_.spec().face_width < needed[0] * (1 - math::kAlike))
    add(FindingId::crossed_face_narrow, driver_subject, driver_.spec().face_width, needed[0]);
  if (driven_.spec().face_width < needed[1] * (1 - math::kAlike))
    add(FindingId::crossed_face_narrow, driven_subject, driven_.spec().face_width, needed[1]);
  const auto clearance = tip_clearance();
  add_clearance(found, clearance[0], m, driver_subject);
  add_clearance(found, clearance[1], m, driven_subject);
  if (friction && efficiency(*friction, true) <= 0)
    add(FindingId::not_back_drivable, subject, efficiency(*friction, true));
  const int common = std::gcd(driver_.spec().teeth, driven_.spec().teeth);
  if (common > 1) add(FindingId::common_factor, subject, common);
  return found;
}

}  // namespace palio::pair
