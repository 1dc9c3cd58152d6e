#include "palio/gear/teeth.hpp"

#include <cmath>

#include "palio/overloaded.hpp"

namespace palio::gear {
namespace {

/// A diameter of the forms that have circles about their axis.
double diameter_of(const Teeth& teeth, double CylindricalSizes::*of_gear, double CycloidalDimensions::*of_cycloid) {
  return teeth.visit(overloaded{[&](const CylindricalGear& g) { return g.sizes().*of_gear; },
                                [&](const CycloidalTeeth& c) { return c.sizes().*of_cycloid; },
                                [](const auto&) -> double { throw std::bad_variant_access(); }});
}

}  // namespace

bool Teeth::internal() const noexcept {
  return visit(overloaded{[](const CylindricalGear& g) { return g.internal(); }, [](const Rack&) { return false; },
                          [](const BevelGear&) { return false; },
                          [](const CycloidalTeeth& c) { return c.internal(); }});
}

const CylindricalSpec& Teeth::spec() const { return is_rack() ? rack().spec() : gear().spec(); }

int Teeth::count() const {
  return visit(overloaded{[](const CycloidalTeeth& c) { return c.count(); },
                          [](const auto& involute) { return involute.spec().teeth; }});
}

double Teeth::module() const {
  return visit(overloaded{[](const CycloidalTeeth& c) { return c.module(); },
                          [](const auto& involute) { return involute.spec().module; }});
}

double Teeth::face_width() const {
  return visit(overloaded{[](const CycloidalTeeth& c) { return c.blank().face_width; },
                          [](const auto& involute) { return involute.spec().face_width; }});
}

double Teeth::bore_diameter() const {
  return visit(overloaded{[](const CycloidalTeeth& c) { return c.blank().bore_diameter; },
                          [](const auto& involute) { return involute.spec().bore_diameter; }});
}

double Teeth::reference_diameter() const {
  return diameter_of(*this, &CylindricalSizes::reference_diameter, &CycloidalDimensions::pitch_diameter);
}

double Teeth::tip_diameter() const {
  return diameter_of(*this, &CylindricalSizes::tip_diameter, &CycloidalDimensions::tip_diameter);
}

double Teeth::root_diameter() const {
  return diameter_of(*this, &CylindricalSizes::root_diameter, &CycloidalDimensions::root_diameter);
}

double Teeth::outer_diameter() const {
  return diameter_of(*this, &CylindricalSizes::outer_diameter, &CycloidalDimensions::outer_diameter);
}

const curve::Outline& Teeth::outline() const {
  using Ref = const curve::Outline&;
  return visit(overloaded{[](const BevelGear&) -> Ref { throw std::bad_variant_access(); },
                          [](const auto& plane) -> Ref { return plane.outline(); }});
}

const curve::Outline& Teeth::chain() const { return is_rack() ? rack().teeth() : outline(); }

Angle Teeth::helix_angle() const {
  return visit(overloaded{[](const CylindricalGear& g) { return g.spec().helix_angle; },
                          [](const Rack& r) { return r.spec().helix_angle; },
                          [](const CycloidalTeeth&) { return Angle(); },
                          [](const BevelGear&) -> Angle { throw std::bad_variant_access(); }});
}

std::optional<double> Teeth::double_helical_gap() const {
  using Gap = std::optional<double>;
  const auto of = [](const CylindricalSpec& s) { return s.double_helical ? Gap(s.gap) : std::nullopt; };
  return visit(overloaded{[&](const CylindricalGear& g) { return of(g.spec()); },
                          [&](const Rack& r) { return of(r.spec()); }, [](const CycloidalTeeth&) { return Gap(); },
                          [](const BevelGear&) -> Gap { throw std::bad_variant_access(); }});
}

double Teeth::generating_profile_shift() const {
  return is_rack() ? rack().sizes().generating_profile_shift : gear().sizes().generating_profile_shift;
}
Angle Teeth::transverse_pressure_angle() const {
  return is_rack() ? rack().sizes().transverse_pressure_angle : gear().sizes().transverse_pressure_angle;
}
Angle Teeth::base_helix_angle() const {
  return is_rack() ? rack().sizes().base_helix_angle : gear().sizes().base_helix_angle;
}
double Teeth::transverse_module() const {
  return is_rack() ? rack().sizes().transverse_module : gear().sizes().transverse_module;
}

double Teeth::twist() const {
  return visit(overloaded{[](const CylindricalGear& g) { return g.twist(); }, [](const Rack& r) { return r.slope(); },
                          [](const CycloidalTeeth&) { return 0.0; },
                          [](const BevelGear&) -> double { throw std::bad_variant_access(); }});
}

double Teeth::turn_at(double above) const { return is_double_helical() ? -twist() * std::abs(above) : twist() * above; }

double Teeth::reach() const {
  return visit(overloaded{
      [](const CylindricalGear& g) { return (g.internal() ? g.sizes().outer_diameter : g.sizes().tip_diameter) / 2; },
      [](const Rack& r) { return r.sizes().length; },
      [](const BevelGear& b) { return b.sizes().heel.tip_diameter / 2; },
      [](const CycloidalTeeth& c) { return c.sizes().outer_diameter / 2; }});
}

std::vector<Finding> findings(const Teeth& teeth, const std::string& subject) {
  return teeth.visit([&](const auto& made) { return findings(made, subject); });
}

Teeth Teeth::grown(double offset) const {
  if (is_cycloidal()) return cycloidal().grown(offset);
  return is_rack() ? Teeth(rack().grown(offset)) : Teeth(gear().grown(offset));
}

}  // namespace palio::gear
