// The closed set of teeth: a cylindrical gear (external or internal), a rack or a bevel gear.
#pragma once

#include <variant>

#include "palio/gear/bevel.hpp"
#include "palio/gear/rack.hpp"

namespace palio::gear {

class Teeth {
 public:
  Teeth(CylindricalGear gear) : made_(std::move(gear)) {}  // NOLINT(google-explicit-constructor): a gear is teeth
  Teeth(Rack rack) : made_(std::move(rack)) {}             // NOLINT(google-explicit-constructor): so is a rack

  Teeth(BevelGear bevel) : made_(std::move(bevel)) {}  // NOLINT(google-explicit-constructor): and a bevel gear

  bool is_bevel() const noexcept { return std::holds_alternative<BevelGear>(made_); }
  bool is_rack() const noexcept { return std::holds_alternative<Rack>(made_); }
  bool internal() const noexcept { return std::holds_alternative<CylindricalGear>(made_) && gear().internal(); }
  const CylindricalGear& gear() const { return std::get<CylindricalGear>(made_); }  ///< \throws std::bad_variant_access for a rack
  const Rack& rack() const { return std::get<Rack>(made_); }                        ///< \throws std::bad_variant_access for a gear

  const BevelGear& bevel() const { return std::get<BevelGear>(made_); }  ///< \throws std::bad_variant_access for others

  int count() const;             ///< teeth
  double module() const;         ///< normal; of a bevel gear the outer transverse one [mm]
  double face_width() const;     ///< along the axis; of a bevel gear along the pitch cone [mm]
  double bore_diameter() const;  ///< 0: none [mm]

  /// What follows is of cylindrical gears and racks. \throws std::bad_variant_access for bevel gears
  const CylindricalSpec& spec() const;
  const curve::Outline& outline() const;  ///< the closed section at mid-face; a ring's is the boundary of its opening
  const curve::Outline& chain() const;    ///< the teeth one after the other: what rolls
  Teeth grown(double offset) const;       ///< every surface moved out of the material by `offset` [mm]
  double generating_profile_shift() const;
  Angle transverse_pressure_angle() const;
  Angle base_helix_angle() const;
  double transverse_module() const;
  /// Motion of the section along the axis: rad/mm for a gear, mm/mm (along −x) for a rack; of the lower half.
  double twist() const;
  /// How far the section at height `above` over mid-face (negative: below it) stands turned (a rack: moved) against the one
  /// there; the halves of double helical teeth mirror each other.
  double turn_at(double above) const;
  /// How far a place on the teeth lies from the axis of rotation, or of a rack from its reference line, at most [mm].
  double reach() const;

 private:
  std::variant<CylindricalGear, Rack, BevelGear> made_;
};

std::vector<Finding> findings(const Teeth& teeth, const std::string& subject);

}  // namespace palio::gear
