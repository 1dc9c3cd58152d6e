#include "palio/pair/cycloidal.hpp"
#include "palio/math/tolerance.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

#include "clearance.hpp"

namespace palio::pair {

using gear::CycloidalForm;
using gear::CycloidalTeeth;

std::vector<Finding> cycloidal_mismatches(const gear::Teeth& driver, const gear::Teeth& driven,
                                          const std::string& subject) {
  const Finding never{FindingId::kinds_cannot_pair, subject, {}, {}};
  if (!driver.is_cycloidal() || !driven.is_cycloidal()) return {never};
  const CycloidalTeeth &a = driver.cycloidal(), &b = driven.cycloidal();
  const auto are = [&](CycloidalForm one, CycloidalForm other) {
    return (a.form() == one && b.form() == other) || (a.form() == other && b.form() == one);
  };
  std::vector<Finding> found;
  if (std::abs(a.module() - b.module()) > math::kRounding * a.module())
    found.push_back({FindingId::module_differs, subject, a.module(), b.module()});
  if (are(CycloidalForm::true_form, CycloidalForm::true_form)) {
    if (a.internal() && b.internal()) return {never};
    const gear::CycloidalSpec &p = a.true_form().spec(), &q = b.true_form().spec();
    for (const auto& [own, mate, what] :
         {std::tuple{p.face_rolling_radius, q.flank_rolling_radius, "circle of the driver's faces"},
          {p.flank_rolling_radius, q.face_rolling_radius, "circle of the driver's flanks"}}) {
      if (std::abs(own - mate) > math::kAlike * std::max(own, mate))
        found.push_back({FindingId::rolling_circles_differ, subject, own, mate, what});
    }
  } else if (are(CycloidalForm::clock, CycloidalForm::clock)) {
    if (a.clock().spec().pinion == b.clock().spec().pinion) return {never};
  } else if (are(CycloidalForm::lantern, CycloidalForm::lantern_wheel)) {
    const gear::LanternSpec& pinion = (a.form() == CycloidalForm::lantern ? a : b).lantern().spec();
    const gear::LanternWheelSpec& wheel = (a.form() == CycloidalForm::lantern ? b : a).lantern_wheel().spec();
    if (wheel.pins != pinion.pins)
      found.push_back({FindingId::lantern_pins_differ, subject, pinion.pins, wheel.pins, "a number of pins of"});
    if (std::abs(wheel.pin_diameter - pinion.pin_diameter) > math::kRounding * pinion.pin_diameter)
      found.push_back({FindingId::lantern_pins_differ, subject, pinion.pin_diameter, wheel.pin_diameter,
                       "pins (diameter in mm) of"});
  } else {
    return {never};
  }
  return found;
}

CycloidalPair::CycloidalPair(const gear::Teeth& driver, const gear::Teeth& driven, double center_distance,
                             double axial_offset)
    : driver_(driver.cycloidal()), driven_(driven.cycloidal()), a_(center_distance), axial_offset_(axial_offset) {}

double CycloidalPair::proper_center_distance() const noexcept {
  const double r1 = driver_.sizes().pitch_diameter / 2, r2 = driven_.sizes().pitch_diameter / 2;
  return internal() ? std::abs(r2 - r1) : r1 + r2;
}

bool CycloidalPair::at_proper_distance() const noexcept {
  const double a = proper_center_distance();
  return std::abs(a_ - a) <= math::kAlike * a;
}

bool CycloidalPair::conjugate() const noexcept {
  return driver_.form() != CycloidalForm::clock && at_proper_distance() && !grown();
}

double CycloidalPair::motion_ratio() const noexcept {
  const double ratio = static_cast<double>(driver_.count()) / driven_.count();
  return internal() ? ratio : -ratio;
}

std::array<double, 2> CycloidalPair::working_pitch_diameters() const noexcept {
  const double factor = a_ / proper_center_distance();
  return {driver_.sizes().pitch_diameter * factor, driven_.sizes().pitch_diameter * factor};
}

double CycloidalPair::circumferential_backlash() const noexcept {
  const double grown = 2 * (driver_.growth() + driven_.growth());
  const bool drives = driver_.form() == CycloidalForm::lantern_wheel;
  if (drives || driven_.form() == CycloidalForm::lantern_wheel) {
    const gear::LanternWheelSpec& wheel = (drives ? driver_ : driven_).lantern_wheel().spec();
    return wheel.backlash + (wheel.pin_diameter - (drives ? driven_ : driver_).lantern().spec().pin_diameter) - grown;
  }
  if (driver_.form() == CycloidalForm::true_form)  // written so that no thinning is exactly none
    return -(driver_.true_form().spec().thickness_allowance + driven_.true_form().spec().thickness_allowance) - grown;
  return driver_.space_width() + driven_.space_width() - kPi * driver_.module();
}

std::array<Angle, 2> CycloidalPair::angular_backlash() const noexcept {
  const double j = circumferential_backlash();
  return {Angle::radians(2 * j / driver_.sizes().pitch_diameter),
          Angle::radians(2 * j / driven_.sizes().pitch_diameter)};
}

std::optional<double> CycloidalPair::contact_ratio() const {
  if (!conjugate()) return std::nullopt;
  if (driver_.form() == CycloidalForm::lantern_wheel) return driver_.lantern_wheel().contact_ratio();
  if (driven_.form() == CycloidalForm::lantern_wheel) return driven_.lantern_wheel().contact_ratio();
  return gear::TrueCycloidPair(driver_.true_form(), driven_.true_form()).contact_ratio();
}

std::array<double, 2> CycloidalPair::tip_clearance() const noexcept {
  const auto &p = driver_.sizes(), &q = driven_.sizes();
  // Between the pins of a lantern there is no root: the wheel's tip clears the far side of the plates' inside freely.
  const auto root = [](const CycloidalTeeth& g) {
    return g.form() == CycloidalForm::lantern ? g.blank().bore_diameter : g.sizes().root_diameter;
  };
  if (driver_.internal())
    return {p.tip_diameter / 2 - a_ - root(driven_) / 2, root(driver_) / 2 - a_ - q.tip_diameter / 2};
  if (driven_.internal())
    return {root(driven_) / 2 - a_ - p.tip_diameter / 2, q.tip_diameter / 2 - a_ - root(driver_) / 2};
  return {a_ - p.tip_diameter / 2 - root(driven_) / 2, a_ - q.tip_diameter / 2 - root(driver_) / 2};
}

std::vector<ContactArc> CycloidalPair::contact_arcs() const {
  if (!conjugate() || driver_.form() != CycloidalForm::true_form) return {};
  const gear::CycloidalSpec &p = driver_.true_form().spec(), &q = driven_.true_form().spec();
  const double r1 = driver_.sizes().pitch_diameter / 2;
  // A circle lies on one side of the pitch point: that of a gear's faces outside its pitch circle, a ring's inside.
  // Points go upwards through the pitch point: driven face on driver flank before it, driver face on driven flank
  // beyond.
  const auto arc = [&](bool beyond, double rho, double u) {
    const double at_pitch = beyond ? kPi : 0;
    return ContactArc{Vec2(r1 + (beyond ? rho : -rho), 0), rho, at_pitch, at_pitch + u};
  };
  const bool first_beyond = !p.internal, second_beyond = p.internal;
  return {arc(first_beyond, p.face_rolling_radius, (first_beyond ? -1 : 1) * driver_.true_form().tip_roll()),
          arc(second_beyond, q.face_rolling_radius, (second_beyond ? 1 : -1) * driven_.true_form().tip_roll())};
}

std::vector<Finding> CycloidalPair::findings(const std::string& subject, const std::string& driver_subject,
                                             const std::string& driven_subject) const {
  std::vector<Finding> found;
  const double m = driver_.module();
  if (!at_proper_distance())
    found.push_back({FindingId::cycloidal_off_distance, subject, a_, proper_center_distance()});
  if (circumferential_backlash() < -math::kRounding * m) {
    if (driver_.form() == CycloidalForm::clock)
      found.push_back({FindingId::clock_depthing, subject, -circumferential_backlash(), {}});
    else
      found.push_back({FindingId::negative_play, subject, circumferential_backlash(), 0.0});
  }
  if (driver_.form() == CycloidalForm::true_form) {
    const gear::TrueCycloidPair pair(driver_.true_form(), driven_.true_form());
    if (!pair.circles_clear()) {
      found.push_back({FindingId::rolling_circles_meet, subject,
                       driver_.true_form().spec().face_rolling_radius + driven_.true_form().spec().face_rolling_radius,
                       proper_center_distance()});
    }
    for (const auto& [own, mate, name] :
         {std::tuple{&driver_, &driven_, driver_subject}, {&driven_, &driver_, driven_subject}}) {
      // The mate's tip touches the own flank where its circle has rolled as far.
      if (grown()) break;  // the roll shows where parallels touch
      const gear::CycloidalSpec& s = own->true_form().spec();
      const curve::Cycloid flank{own->sizes().pitch_diameter / 2, s.flank_rolling_radius, s.internal, 0, 1};
      const double reached = 2 * flank.jet(mate->true_form().tip_roll()).p.norm(), form = own->sizes().form_diameter;
      if (s.internal ? reached > form * (1 + math::kAlike) : reached < form * (1 - math::kAlike))
        found.push_back({FindingId::flank_stops_early, name, reached, form});
    }
  }
  for (const auto& [lantern, wheel] : {std::pair{&driver_, &driven_}, {&driven_, &driver_}}) {
    // The wheel's teeth stand between the plates, whose rims reach beyond the pins.
    if (lantern->form() != CycloidalForm::lantern ||
        a_ - lantern->sizes().outer_diameter / 2 > wheel->sizes().tip_diameter / 2)
      continue;
    const double needed = wheel->blank().face_width + 2 * std::abs(axial_offset_);
    if (needed >= lantern->blank().face_width)
      found.push_back({FindingId::lantern_plates_in_the_way, subject, needed, lantern->blank().face_width});
  }
  if (const auto ratio = contact_ratio()) {
    if (*ratio < 1)
      found.push_back({FindingId::contact_ratio_below_one, subject, *ratio, 1.0});
    else if (*ratio < 1.1)
      found.push_back({FindingId::contact_ratio_low, subject, *ratio, 1.1});
  }
  const auto clearance = tip_clearance();
  add_clearance(found, clearance[0], m, driver_subject);
  add_clearance(found, clearance[1], m, driven_subject);
  if (const int factor = std::gcd(driver_.count(), driven_.count()); factor > 1)
    found.push_back({FindingId::common_factor, subject, factor, {}});
  return found;
}

}  // namespace palio::pair
