#include "palio/gear/teeth.hpp"

#include <cmath>

namespace palio::gear {

const CylindricalSpec& Teeth::spec() const { return is_rack() ? rack().spec() : gear().spec(); }
int Teeth::count() const { return is_bevel() ? bevel().spec().teeth : spec().teeth; }
double Teeth::module() const { return is_bevel() ? bevel().spec().module : spec().module; }
double Teeth::face_width() const { return is_bevel() ? bevel().spec().face_width : spec().face_width; }
double Teeth::bore_diameter() const { return is_bevel() ? bevel().spec().bore_diameter : spec().bore_diameter; }
const curve::Outline& Teeth::outline() const { return is_rack() ? rack().outline() : gear().outline(); }
const curve::Outline& Teeth::chain() const { return is_rack() ? rack().teeth() : gear().outline(); }
double Teeth::generating_profile_shift() const { return is_rack() ? rack().sizes().generating_profile_shift : gear().sizes().generating_profile_shift; }
Angle Teeth::transverse_pressure_angle() const { return is_rack() ? rack().sizes().transverse_pressure_angle : gear().sizes().transverse_pressure_angle; }
Angle Teeth::base_helix_angle() const { return is_rack() ? rack().sizes().base_helix_angle : gear().sizes().base_helix_angle; }
double Teeth::transverse_module() const { return is_rack() ? rack().sizes().transverse_module : gear().sizes().transverse_module; }
double Teeth::twist() const { return is_rack() ? rack().slope() : gear().twist(); }

double Teeth::turn_at(double above) const { return spec().double_helical ? -twist() * std::abs(above) : twist() * above; }

double Teeth::reach() const {
  if (is_bevel()) return bevel().sizes().heel.tip_diameter / 2;
  if (is_rack()) return rack().sizes().length;
  return (internal() ? gear().sizes().outer_diameter : gear().sizes().tip_diameter) / 2;
}

std::vector<Finding> findings(const Teeth& teeth, const std::string& subject) {
  if (teeth.is_bevel()) return findings(teeth.bevel(), subject);
  return teeth.is_rack() ? findings(teeth.rack(), subject) : findings(teeth.gear(), subject);
}

Teeth Teeth::grown(double offset) const { return is_rack() ? Teeth(rack().grown(offset)) : Teeth(gear().grown(offset)); }

}  // namespace palio::gear
