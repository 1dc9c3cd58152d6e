// The cycloidal forms as teeth of a part: one type for what bodies, pictures, pairs and files ask.
#pragma once

#include <optional>
#include <variant>

#include "palio/gear/cycloidal.hpp"
#include "palio/gear/finding.hpp"

namespace palio::gear {

enum class CycloidalForm { true_form, clock, lantern_wheel, lantern };

/// What every form can say of itself [mm].
struct CycloidalDimensions {
  double pitch_diameter, tip_diameter, root_diameter;
  double form_diameter;   ///< where the usable flank ends towards the root
  double tip_thickness;   ///< arc; a lantern's pins, the round tips of clock teeth: their diameter
  double outer_diameter;  ///< of a ring its body's, of a lantern its plates', else the tip circle
  bool pointed = false;   ///< the flanks meet before the tip asked for
};

class CycloidalTeeth {
 public:
  using Form = std::variant<CycloidalGear, ClockGear, LanternWheel, LanternPinion>;
  /// What surrounds the teeth [mm]. A ring without `outer_diameter` gets two and a half modules beyond its roots.
  struct Blank {
    double face_width = 0, bore_diameter = 0, outer_diameter = 0;
  };
  /// \throws InvalidParameter "face_width", "bore.diameter", "outer_diameter"
  CycloidalTeeth(Form form, const Blank& blank);

  CycloidalForm form() const noexcept { return static_cast<CycloidalForm>(form_.index()); }
  const CycloidalGear& true_form() const { return std::get<CycloidalGear>(form_); }
  const ClockGear& clock() const { return std::get<ClockGear>(form_); }
  const LanternWheel& lantern_wheel() const { return std::get<LanternWheel>(form_); }
  const LanternPinion& lantern() const { return std::get<LanternPinion>(form_); }
  bool internal() const noexcept;
  int count() const noexcept;      ///< teeth, leaves or pins
  double module() const noexcept;  ///< [mm]
  const Blank& blank() const noexcept { return blank_; }
  const CycloidalDimensions& sizes() const noexcept { return sizes_; }
  /// A tooth (a ring: a space) centred on +x; of a lantern the pins, each an outline of its own.
  const curve::Outline& outline() const noexcept;
  /// The tooth space between the flanks at the pitch circle, arc [mm]; of a lantern the pitch less the pin.
  double space_width() const noexcept;
  /// The same form with another blank, or larger; not grown.
  CycloidalTeeth with(const Blank& blank) const { return {form_, blank}; }
  CycloidalTeeth scaled(double radial, double axial) const;
  /// Every surface moved out of the material by `offset` [mm]; a lantern's pins and plates are wider.
  /// \throws InvalidParameter "surface_offset" where nothing would be left of a flank or round
  CycloidalTeeth grown(double offset) const;
  double growth() const noexcept { return growth_; }  ///< by which they were [mm]
  /// True teeth with the allowance changed. \throws std::bad_variant_access for the other forms
  CycloidalTeeth thinned(double allowance) const;

 private:
  Form form_;
  Blank blank_;
  CycloidalDimensions sizes_{};
  double growth_ = 0;
  std::optional<curve::Outline> outline_{};  ///< where they are grown
};

std::string_view name(CycloidalForm form) noexcept;  ///< "true", "clock", "lantern_wheel", "lantern"

std::vector<Finding> findings(const CycloidalTeeth& teeth, const std::string& subject);

}  // namespace palio::gear
