// Two cycloidal gears on parallel axes: true forms, a clock wheel and its pinion, a lantern pinion and its wheel.
//
// Notation: r pitch radii, ρ rolling circles, m module, j play along the pitch circles. docs/theory/cycloid.md.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "palio/gear/teeth.hpp"

namespace palio::pair {

/// Whether the two can be a pair at all: forms that belong together, module, rolling circles, pins.
std::vector<Finding> cycloidal_mismatches(const gear::Teeth& driver, const gear::Teeth& driven,
                                          const std::string& subject);

/// An arc on which points of contact lie, as the theory of true forms has it.
struct ContactArc {
  Vec2 centre;      ///< from the driver's axis, the line of centres along +x [mm]
  double radius;    ///< of the rolling circle [mm]
  double from, to;  ///< polar angles about the centre, `from` at the pitch point [rad]
};

class CycloidalPair {
 public:
  /// \param center_distance  as mounted [mm]
  /// \param axial_offset     of the driven's mid-face against the driver's [mm]
  CycloidalPair(const gear::Teeth& driver, const gear::Teeth& driven, double center_distance, double axial_offset = 0);

  const gear::CycloidalTeeth& driver() const noexcept { return driver_; }
  const gear::CycloidalTeeth& driven() const noexcept { return driven_; }
  bool internal() const noexcept { return driver_.internal() || driven_.internal(); }
  /// r₁ ± r₂: the one distance at which cycloidal teeth are as designed [mm].
  double proper_center_distance() const noexcept;
  double center_distance() const noexcept { return a_; }
  bool at_proper_distance() const noexcept;
  /// Whether the forms keep the ratio within a tooth: true forms and lanterns, at their distance, not grown.
  bool conjugate() const noexcept;
  double motion_ratio() const noexcept;  ///< driven turns per driver turn, signed
  /// Pitch circles at the mounted distance [mm].
  std::array<double, 2> working_pitch_diameters() const noexcept;
  /// j, along the pitch circles at the proper distance: the thinning of both; of clock teeth and lanterns what the
  /// spaces leave; where they are grown at the pitch point, by twice the growth of both less [mm].
  double circumferential_backlash() const noexcept;
  std::array<Angle, 2> angular_backlash() const noexcept;  ///< of each with the other held
  /// Of true forms and lanterns at their distance; clock teeth are rolled for it.
  std::optional<double> contact_ratio() const;
  std::array<double, 2> tip_clearance() const noexcept;  ///< at the driver's tip, at the driven's tip [mm]
  /// Where true forms touch, for the flank that the driver turning counter-clockwise drives with; none for the others.
  std::vector<ContactArc> contact_arcs() const;

  std::vector<Finding> findings(const std::string& subject, const std::string& driver_subject,
                                const std::string& driven_subject) const;

 private:
  bool grown() const noexcept { return driver_.growth() != 0 || driven_.growth() != 0; }

  gear::CycloidalTeeth driver_, driven_;
  double a_, axial_offset_;
};

}  // namespace palio::pair
