#include "palio/gear/teeth.hpp"

#include <cmath>

namespace palio::gear {

bool Teeth::internal() const noexcept {
  if (const auto* g = std::get_if<CylindricalGear>(&made_)) return g->internal();
  return is_cycloidal() && cycloidal().internal();
}

const CylindricalSpec& Teeth::spec() const { return is_rack() ? rack().spec() : gear().spec(); }
int Teeth::count() const {
  return is_bevel() ? bevel().spec().teeth : is_cycloidal() ? cycloidal().count() : spec().teeth;
}
double Teeth::module() const {
  return is_bevel() ? bevel().spec().module : is_cycloidal() ? cycloidal().module() : spec().module;
}
double Teeth::face_width() const {
  return is_bevel() ? bevel().spec().face_width : is_cycloidal() ? cycloidal().blank().face_width : spec().face_width;
}

double Teeth::bore_diameter() const {
  return is_bevel()       ? bevel().spec().bore_diameter
         : is_cycloidal() ? cycloidal().blank().bore_diameter
                          : spec().bore_diameter;
}

double Teeth::reference_diameter() const {
  return is_cycloidal() ? cycloidal().sizes().pitch_diameter : gear().sizes().reference_diameter;
}
double Teeth::tip_diameter() const {
  return is_cycloidal() ? cycloidal().sizes().tip_diameter : gear().sizes().tip_diameter;
}
double Teeth::root_diameter() const {
  return is_cycloidal() ? cycloidal().sizes().root_diameter : gear().sizes().root_diameter;
}
double Teeth::outer_diameter() const {
  return is_cycloidal() ? cycloidal().sizes().outer_diameter : gear().sizes().outer_diameter;
}

const curve::Outline& Teeth::outline() const {
  return is_rack() ? rack().outline() : is_cycloidal() ? cycloidal().outline() : gear().outline();
}
const curve::Outline& Teeth::chain() const { return is_rack() ? rack().teeth() : outline(); }
Angle Teeth::helix_angle() const { return is_cycloidal() ? Angle() : spec().helix_angle; }
double Teeth::double_helical_gap() const { return !is_cycloidal() && spec().double_helical ? spec().gap : -1; }
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
double Teeth::twist() const { return is_cycloidal() ? 0 : is_rack() ? rack().slope() : gear().twist(); }

double Teeth::turn_at(double above) const { return is_double_helical() ? -twist() * std::abs(above) : twist() * above; }

double Teeth::reach() const {
  if (is_bevel()) return bevel().sizes().heel.tip_diameter / 2;
  if (is_rack()) return rack().sizes().length;
  if (is_cycloidal()) return cycloidal().sizes().outer_diameter / 2;
  return (internal() ? gear().sizes().outer_diameter : gear().sizes().tip_diameter) / 2;
}

std::vector<Finding> findings(const Teeth& teeth, const std::string& subject) {
  if (teeth.is_bevel()) return findings(teeth.bevel(), subject);
  if (teeth.is_cycloidal()) return findings(teeth.cycloidal(), subject);
  return teeth.is_rack() ? findings(teeth.rack(), subject) : findings(teeth.gear(), subject);
}

Teeth Teeth::grown(double offset) const {
  return is_rack() ? Teeth(rack().grown(offset)) : Teeth(gear().grown(offset));
}

}  // namespace palio::gear
