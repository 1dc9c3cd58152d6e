#include "palio/pair/bevel.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

#include "clearance.hpp"
#include "interference.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/tolerance.hpp"

namespace palio::pair {

std::array<Angle, 2> pitch_cones(int z1, int z2, Angle shaft_angle) {
  const double sigma = shaft_angle.radians(),
               first = std::atan2(std::sin(sigma), static_cast<double>(z2) / z1 + std::cos(sigma));
  return {Angle::radians(first), Angle::radians(sigma - first)};
}

std::vector<Finding> bevel_mismatches(const gear::BevelGear& driver, const gear::BevelGear& driven, Angle shaft_angle,
                                      const std::string& subject) {
  std::vector<Finding> found;
  const gear::BevelSpec &a = driver.spec(), &b = driven.spec();
  if (std::abs(a.module - b.module) > math::kAlike * a.module)
    found.push_back({FindingId::module_differs, subject, a.module, b.module});
  if (std::abs(a.pressure_angle.radians() - b.pressure_angle.radians()) > math::kAlike) {
    found.push_back(
        {FindingId::pressure_angle_differs, subject, a.pressure_angle.radians(), b.pressure_angle.radians()});
  }
  const double sum = a.pitch_cone.radians() + b.pitch_cone.radians();
  if (std::abs(sum - shaft_angle.radians()) > math::kAlike)
    found.push_back({FindingId::cones_miss_shaft_angle, subject, sum, shaft_angle.radians()});
  return found;
}

BevelPair::BevelPair(const gear::BevelGear& driver, const gear::BevelGear& driven, Angle shaft_angle)
    : driver_(driver),
      driven_(driven),
      sigma_(shaft_angle.radians()),
      sum_((driver_.path_angle(driver_.spec().pitch_cone) + driven_.path_angle(driven_.spec().pitch_cone)).radians()) {}

double BevelPair::gear_ratio() const noexcept {
  return static_cast<double>(driven_.spec().teeth) / driver_.spec().teeth;
}
double BevelPair::motion_ratio() const noexcept { return -1 / gear_ratio(); }

double BevelPair::circumferential_backlash() const noexcept {
  return kPi * driver_.spec().module - driver_.sizes().heel.tooth_thickness - driven_.sizes().heel.tooth_thickness;
}

double BevelPair::normal_backlash() const noexcept {
  return circumferential_backlash() * std::cos(driver_.spec().pressure_angle.radians());
}

std::array<Angle, 2> BevelPair::angular_backlash() const noexcept {
  const double j = circumferential_backlash();
  return {Angle::radians(2 * j / driver_.sizes().heel.pitch_diameter),
          Angle::radians(2 * j / driven_.sizes().heel.pitch_diameter)};
}

std::array<double, 2> BevelPair::tip_clearance() const noexcept {
  return {driven_.sizes().heel.dedendum - driver_.sizes().heel.addendum,
          driver_.sizes().heel.dedendum - driven_.sizes().heel.addendum};
}

std::array<double, 2> BevelPair::path(double R) const {
  const auto form = [&](const gear::BevelGear& g) { return g.path_angle(g.root_form_angle(R)).radians(); };
  const double tip1 = driver_.path_angle(driver_.tip_angle(R)).radians(),
               tip2 = driven_.path_angle(driven_.tip_angle(R)).radians();
  return {std::max(form(driver_), sum_ - tip2), std::min(tip1, sum_ - form(driven_))};
}

double BevelPair::contact_ratio(double R) const {
  const auto [from, to] = path(R);
  return (to - from) / (2 * kPi * std::sin(driver_.sizes().base_cone.radians()) / driver_.spec().teeth);
}

Vec3 BevelPair::path_direction(double sigma) const {
  // A great circle through the pitch element, inclined by α to the pitch plane: towards the driver's base it falls on
  // the side that the flank comes from.
  const double delta = driver_.spec().pitch_cone.radians(), alpha = driver_.spec().pressure_angle.radians();
  const double s = sigma - driver_.path_angle(driver_.spec().pitch_cone).radians();
  const Vec3 element(std::sin(delta), 0, std::cos(delta)), outward(std::cos(delta), 0, -std::sin(delta)),
      along(0, 1, 0);
  return std::cos(s) * element + std::sin(s) * (std::sin(alpha) * outward + std::cos(alpha) * along);
}

std::vector<Finding> BevelPair::findings(const std::string& subject, const std::string& driver_subject,
                                         const std::string& driven_subject) const {
  std::vector<Finding> all;
  const double R_e = driver_.sizes().outer_cone_distance,
               R_i = std::max(driver_.sizes().inner_cone_distance, driven_.sizes().inner_cone_distance);
  const double m = driver_.spec().module, j = circumferential_backlash();
  if (j < -math::kRounding * R_e) all.push_back({FindingId::negative_play, subject, j, 0.0});
  const double shifts = driver_.spec().profile_shift + driven_.spec().profile_shift;
  if (std::abs(shifts) > math::kAlike) all.push_back({FindingId::bevel_shifts_add_up, subject, shifts, 0.0});
  const auto clearance = tip_clearance();
  add_clearance(all, clearance[0], m, driver_subject);
  add_clearance(all, clearance[1], m, driven_subject);
  // A tip of the mate below the root form cone digs into the fillet (an undercut leaves it room); beyond the base cone
  // there is no flank at all.
  const auto reaches = [&](const gear::BevelGear& g, const gear::BevelGear& mate, const std::string& who) {
    const double binding = pair::binding(m), graze = 1e-3 * m;
    Depth deepest;
    for (const double R : {R_e, R_i}) {
      const double lowest = sum_ - mate.path_angle(mate.tip_angle(R)).radians(),
                   form = g.path_angle(g.root_form_angle(R)).radians();
      const bool undercut = R == R_e ? g.sizes().heel.undercut : g.sizes().toe.undercut;
      const auto diameter = [&](double sigma) {
        const Angle a = g.cone_angle_at(Angle::radians(sigma));
        return 2 * g.distance(a, R) * std::sin(a.radians());
      };
      // Where the tool has undercut the flank, the mate's tip passes in the room that is left so; only what it digs
      // counts.
      if (lowest * R < -binding && !undercut) {
        all.push_back({FindingId::contact_below_base, who, -lowest * R, 0.0});
        return;
      }
      if (lowest < form - graze / R && !undercut) {
        all.push_back({FindingId::tip_in_fillet, who, diameter(lowest), diameter(form)});
        return;
      }
      deepest = std::max(deepest, bevel_tip_digs(g, mate, sigma_, R));
    }
    if (deepest > binding) all.push_back({FindingId::tip_digs_root, who, *deepest, {}});
  };
  reaches(driver_, driven_, driver_subject);
  reaches(driven_, driver_, driven_subject);
  const double eps = std::max(contact_ratio(R_e), contact_ratio(R_i));
  if (eps < 1)
    all.push_back({FindingId::contact_ratio_below_one, subject, eps, 1.0});
  else if (eps < 1.2)
    all.push_back({FindingId::contact_ratio_low, subject, eps, 1.2});
  const int g = std::gcd(driver_.spec().teeth, driven_.spec().teeth);
  if (g > 1 && driver_.spec().teeth != driven_.spec().teeth)
    all.push_back({FindingId::common_factor, subject, static_cast<double>(g), 1.0});
  return all;
}

double bevel_driven_phase(int z1, int z2, double driver_phase, Angle direction) {
  // With a tooth of the driver on the pitch element the driven has a space there, which its own frame sees at direction
  // + π; turned on from there by the ratio.
  const double turned = driver_phase - direction.radians();
  return direction.radians() + kPi + kPi / z2 - turned * z1 / z2;
}

}  // namespace palio::pair
