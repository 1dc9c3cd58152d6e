#include "palio/pair/pair.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "palio/overloaded.hpp"
#include "palio/pair/tolerance.hpp"

namespace palio::pair {
namespace {

double radius(const gear::Teeth& teeth) { return teeth.is_rack() ? 0.0 : teeth.reference_diameter() / 2; }

/// Of cycloidal gears: pitch circles that touch.
double pitch_circles_touch(const gear::Teeth& driver, const gear::Teeth& driven) {
  const double r1 = radius(driver), r2 = radius(driven);
  return driver.internal() || driven.internal() ? std::abs(r2 - r1) : r1 + r2;
}

}  // namespace

Sort sort(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle) {
  if (driver.is_bevel() && driven.is_bevel()) return Sort::bevel;
  if (driver.is_cycloidal() || driven.is_cycloidal()) return Sort::cycloidal;
  return std::abs(shaft_angle.radians()) >= kParallel.radians() ? Sort::crossed : Sort::parallel;
}

double reference_distance(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle) {
  switch (sort(driver, driven, shaft_angle)) {
    case Sort::bevel: return 0;
    case Sort::cycloidal: return pitch_circles_touch(driver, driven);
    case Sort::crossed:
      if (!driver.is_rack() && !driven.is_rack())
        return (driver.reference_diameter() + driven.reference_diameter()) / 2;
      break;
    case Sort::parallel: break;
  }
  return driver.is_rack() && driven.is_rack() ? 0 : reference_center_distance(driver, driven);
}

std::optional<double> distance_without_play(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle) {
  if (!mismatches(driver, driven, shaft_angle, "").empty()) return std::nullopt;
  switch (sort(driver, driven, shaft_angle)) {
    case Sort::bevel: return std::nullopt;
    case Sort::cycloidal: return pitch_circles_touch(driver, driven);
    case Sort::crossed: return crossed_center_distance(driver.gear(), driven.gear());
    case Sort::parallel: break;
  }
  return zero_play_center_distance(driver, driven);
}

std::vector<Finding> mismatches(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle,
                                const std::string& subject) {
  switch (sort(driver, driven, shaft_angle)) {
    case Sort::bevel: return bevel_mismatches(driver.bevel(), driven.bevel(), shaft_angle, subject);
    case Sort::cycloidal: return cycloidal_mismatches(driver, driven, subject);
    case Sort::crossed: return crossed_mismatches(driver, driven, shaft_angle, subject);
    case Sort::parallel: break;
  }
  return parallel_mismatches(driver, driven, subject);
}

Pair::Pair(Placed driver, Placed driven, const Arrangement& as_built, const std::string& subject)
    : sort_(pair::sort(driver.teeth, driven.teeth, as_built.shaft_angle)),
      gears_{std::move(driver), std::move(driven)},
      as_built_(as_built),
      distance_(0),
      subject_(subject) {
  const gear::Teeth &first = gears_[0].teeth, &second = gears_[1].teeth;
  mismatches_ = pair::mismatches(first, second, as_built.shaft_angle, subject);
  if (sort_ == Sort::parallel && first.is_double_helical() && as_built.axial_offset != 0)
    mismatches_.push_back({FindingId::halves_differ, subject, {}, {}});
  const std::optional<double> distance = as_built.mounted_center_distance || !mismatches_.empty()
                                             ? as_built.mounted_center_distance
                                             : distance_without_play(first, second, as_built.shaft_angle);
  distance_ = distance.value_or(reference_distance(first, second, as_built.shaft_angle));
  if (!mismatches_.empty()) return;
  if (distance || sort_ == Sort::bevel) theory_ = theory();
  if (!theory_) mismatches_.push_back(no_mesh_there());
}

Finding Pair::no_mesh_there() const {
  return {FindingId::no_mesh_at_distance, subject_, distance_, least_center_distance(gears_[0].teeth, gears_[1].teeth)};
}

std::optional<Pair::Theory> Pair::theory() const {
  const gear::Teeth &driver = gears_[0].teeth, &driven = gears_[1].teeth;
  const double offset = as_built_.axial_offset;
  switch (sort_) {
    case Sort::bevel: return BevelPair(driver.bevel(), driven.bevel(), as_built_.shaft_angle);
    case Sort::cycloidal: return CycloidalPair(driver, driven, distance_, offset);
    case Sort::crossed: return CrossedPair(driver.gear(), driven.gear(), distance_, offset);
    case Sort::parallel: break;
  }
  if (!(distance_ > least_center_distance(driver, driven))) return std::nullopt;
  return ParallelPair(driver, driven, distance_, offset);
}

void Pair::stand(Placed driver, Placed driven) {
  gears_ = {std::move(driver), std::move(driven)};
  auto& [first, second] = gears_;
  if (first.teeth.is_rack())
    first = rack_at(std::move(first), second.axis);
  else if (second.teeth.is_rack())
    second = rack_at(std::move(second), first.axis);
}

Pair Pair::with_error(const MountingError& error) const {
  Pair other = *this;
  other.as_built_.error = error;
  return other;
}

Pair Pair::with(const gear::Teeth& driver, const gear::Teeth& driven) const {
  Pair other = *this;
  other.gears_[0].teeth = driver, other.gears_[1].teeth = driven;
  if (!meshes()) return other;
  other.theory_ = other.theory();
  if (!other.theory_) other.mismatches_.push_back(other.no_mesh_there());
  return other;
}

double Pair::circumferential_backlash() const {
  return visit([](const auto& theory) { return theory.circumferential_backlash(); });
}

std::array<Angle, 2> Pair::angular_backlash() const {
  return visit([](const auto& theory) { return theory.angular_backlash(); });
}

double Pair::driven_play() const {
  return visit(overloaded{[](const ParallelPair& p) { return p.driven_play(); },
                          [](const auto& theory) { return theory.angular_backlash()[1].radians(); }});
}

std::array<double, 2> Pair::tip_clearance() const {
  return visit([](const auto& theory) { return theory.tip_clearance(); });
}

double Pair::working_radius() const {
  return visit(
      overloaded{[](const ParallelPair& p) { return p.driven().is_rack() ? 1 : p.working_pitch_diameters()[1] / 2; },
                 [](const CrossedPair& p) { return p.circumferential_per_angle(); },
                 [](const BevelPair& p) { return p.driven().sizes().heel.pitch_diameter / 2; },
                 [](const CycloidalPair& p) { return p.driven().sizes().pitch_diameter / 2; }});
}

std::array<double, 2> Pair::working_pitch_diameters() const {
  using Diameters = std::array<double, 2>;
  constexpr double kNowhere = std::numeric_limits<double>::quiet_NaN();
  return visit(overloaded{[](const ParallelPair& p) { return p.working_pitch_diameters(); },
                          [](const CycloidalPair& p) { return p.working_pitch_diameters(); },
                          [](const CrossedPair&) {
                            return Diameters{kNowhere, kNowhere};
                          },
                          [](const BevelPair&) {
                            return Diameters{kNowhere, kNowhere};
                          }});
}

Angle Pair::working_pressure_angle() const {
  return visit(overloaded{[](const ParallelPair& p) { return p.working_pressure_angle(); },
                          [this](const CrossedPair&) { return gears_[0].teeth.spec().pressure_angle; },
                          [](const BevelPair& p) { return p.driver().spec().pressure_angle; },
                          [](const CycloidalPair&) { return Angle::radians(20 * kPi / 180); }});
}

double Pair::motion_ratio() const {
  return meshes() ? visit([](const auto& theory) { return theory.motion_ratio(); }) : 0;
}

std::vector<Finding> Pair::findings(std::optional<double> friction) const {
  const std::string driver = "gear." + gears_[0].name, driven = "gear." + gears_[1].name;
  return visit(overloaded{[&](const CrossedPair& p) { return p.findings(subject_, driver, driven, friction); },
                          [&](const auto& theory) { return theory.findings(subject_, driver, driven); }});
}

}  // namespace palio::pair
