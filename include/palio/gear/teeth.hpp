// The closed set of teeth: a cylindrical gear of the involute system (external or internal), a rack, a bevel gear, or
// one of the cycloidal forms.
#pragma once

#include <optional>
#include <variant>

#include "palio/gear/bevel.hpp"
#include "palio/gear/cycloidal_teeth.hpp"
#include "palio/gear/rack.hpp"

namespace palio::gear {

class Teeth {
 public:
  Teeth(CylindricalGear gear) : made_(std::move(gear)) {}  // NOLINT(google-explicit-constructor): a gear is teeth
  Teeth(Rack rack) : made_(std::move(rack)) {}             // NOLINT(google-explicit-constructor): so is a rack

  Teeth(const BevelGear& bevel) : made_(bevel) {}  // NOLINT(google-explicit-constructor): and a bevel gear
  Teeth(CycloidalTeeth cycloid)
      : made_(std::move(cycloid)) {}  // NOLINT(google-explicit-constructor): and a cycloidal one

  bool is_bevel() const noexcept { return std::holds_alternative<BevelGear>(made_); }
  bool is_rack() const noexcept { return std::holds_alternative<Rack>(made_); }
  bool is_cycloidal() const noexcept { return std::holds_alternative<CycloidalTeeth>(made_); }
  bool is_lantern() const noexcept { return is_cycloidal() && cycloidal().form() == CycloidalForm::lantern; }
  /// Whether the outline is one closed loop of teeth about the axis: not of racks, lanterns and bevel gears.
  bool is_one_loop() const noexcept { return !is_bevel() && !is_rack() && !is_lantern(); }
  bool internal() const noexcept;
  const CylindricalGear& gear() const {
    return std::get<CylindricalGear>(made_);
  }                                                           ///< \throws std::bad_variant_access for a rack
  const Rack& rack() const { return std::get<Rack>(made_); }  ///< \throws std::bad_variant_access for a gear

  const BevelGear& bevel() const { return std::get<BevelGear>(made_); }  ///< \throws std::bad_variant_access for others
  const CycloidalTeeth& cycloidal() const {
    return std::get<CycloidalTeeth>(made_);
  }  ///< \throws std::bad_variant_access for others

  /// One function for all forms, with an overload for each (palio/overloaded.hpp): a form forgotten does not compile.
  template <class F>
  decltype(auto) visit(F&& f) const {
    return std::visit(std::forward<F>(f), made_);
  }

  int count() const;             ///< teeth
  double module() const;         ///< normal; of a bevel gear the outer transverse one [mm]
  double face_width() const;     ///< along the axis; of a bevel gear along the pitch cone [mm]
  double bore_diameter() const;  ///< 0: none [mm]

  /// Circles of gears whose teeth run along their axis; a ring's outer one is its body's. \throws
  /// std::bad_variant_access for racks and bevel gears
  double reference_diameter() const;
  double tip_diameter() const;
  double root_diameter() const;
  double outer_diameter() const;

  /// What follows is of all but bevel gears. \throws std::bad_variant_access for those
  const curve::Outline& outline()
      const;  ///< the closed section at mid-face; a ring's is the boundary of its opening, a lantern's its pins
  const curve::Outline& chain() const;               ///< the teeth one after the other: what rolls
  Angle helix_angle() const;                         ///< 0 for cycloidal teeth
  std::optional<double> double_helical_gap() const;  ///< between the halves of double helical teeth [mm]
  bool is_double_helical() const { return double_helical_gap().has_value(); }

  Teeth grown(double offset) const;  ///< every surface moved out of the material by `offset` [mm]

  /// What follows is of the involute system on parallel axes. \throws std::bad_variant_access for bevel and cycloidal
  /// gears
  const CylindricalSpec& spec() const;
  double generating_profile_shift() const;
  Angle transverse_pressure_angle() const;
  Angle base_helix_angle() const;
  double transverse_module() const;

  /// Again of all but bevel gears.
  /// Motion of the section along the axis: rad/mm for a gear, mm/mm (along −x) for a rack; of the lower half.
  double twist() const;
  /// How far the section at height `above` over mid-face (negative: below it) stands turned (a rack: moved) against the
  /// one there; the halves of double helical teeth mirror each other.
  double turn_at(double above) const;
  /// How far a place on the teeth lies from the axis of rotation, or of a rack from its reference line, at most [mm].
  double reach() const;

 private:
  std::variant<CylindricalGear, Rack, BevelGear, CycloidalTeeth> made_;
};

std::vector<Finding> findings(const Teeth& teeth, const std::string& subject);

}  // namespace palio::gear
