// Cycloidal teeth: the true form, clock and instrument practice, lantern pinions and their wheels. Plane outlines about
// the gear's own axis; derivations in docs/theory/cycloid.md.
//
// r: pitch radius z m/2; ρ: rolling circles; ψ: half a tooth's angle at the pitch circle; u: angle rolled.
#pragma once

#include <array>
#include <optional>

#include "palio/angle.hpp"
#include "palio/curve/profile.hpp"

namespace palio::gear {

/// What is asked for of true cycloidal teeth. Lengths in mm.
struct CycloidalSpec {
  int teeth = 0;
  double module = 0;
  double face_rolling_radius = 0;   ///< of the circle that makes this gear's faces
  double flank_rolling_radius = 0;  ///< of the one that makes its flanks; half the own pitch radius makes radial flanks
  double addendum = 1, dedendum = 1.25;  ///< [modules]
  double thickness_allowance = 0;        ///< arc at the pitch circle, negative thins
  double fillet_radius = 0;              ///< between flank and root circle; 0: a sharp corner
  bool internal = false;                 ///< a ring
};

/// Rules for the rolling circles of a pair (radii, driver and driven as [face, flank] each).
struct RollingCircles {
  double first_face, first_flank, second_face, second_flank;
};
RollingCircles radial_flanks(int z1, int z2, double module);  ///< both gears with radial flanks; external pairs
RollingCircles equal_circles(double rolling_radius);          ///< one circle for everything: an interchangeable set

struct CycloidalSizes {
  double pitch_diameter, tip_diameter, root_diameter;
  double form_diameter;  ///< where the flank ends and the fillet or root begins
  double tip_thickness;  ///< arc
  bool pointed;          ///< the faces meet before the tip asked for
};

class CycloidalGear {
 public:
  /// \throws InvalidParameter "teeth", "module", "face_rolling_radius", "flank_rolling_radius", "addendum", "dedendum",
  ///   "thickness_allowance", "root.fillet_radius"
  explicit CycloidalGear(const CycloidalSpec& spec);
  const CycloidalSpec& spec() const noexcept { return spec_; }
  const CycloidalSizes& sizes() const noexcept { return sizes_; }
  /// A tooth (a ring: a space) centred on +x.
  const curve::Outline& outline() const noexcept { return outline_; }
  /// Half a tooth's angle at radius R: face ψ − g_e, flank ψ + g_h; of a ring face ψ − g_h, flank ψ + g_e.
  Angle half_tooth_angle(double radius) const;
  /// The angle rolled where the face, made outside (a ring: inside) the pitch circle, reaches the tip [rad].
  double tip_roll() const noexcept { return tip_roll_; }

 private:
  CycloidalSpec spec_;
  CycloidalSizes sizes_{};
  curve::Outline outline_;
  double tip_roll_ = 0;
};

/// The diameter at which both faces of a tooth meet: g(u) = ψ; none where the rolling circle draws no point so far.
std::optional<double> pointed_diameter(const CycloidalGear& gear);

/// u of the cycloid at radius R: R² = r² ± 4ρ(r ± ρ) sin²(u/2), by asin of a square root. None where it does not reach.
std::optional<double> roll_at_radius(double pitch_radius, double rolling_radius, bool outside, double radius);
/// g(u) = ρu/r − atan2(ρ sin u, r ± ρ ∓ ρ cos u): its polar angle from the cusp [rad].
double cycloid_angle(double pitch_radius, double rolling_radius, bool outside, double roll);

/// Two true cycloidal gears. Mates share rolling circles: the face of each is made by the circle of the other's flank.
class TrueCycloidPair {
 public:
  TrueCycloidPair(CycloidalGear driver, CycloidalGear driven);
  /// Whether the circles agree within 1e-9 of themselves.
  bool conjugate() const;
  double center_distance() const noexcept;        ///< r₁ ± r₂; there is no other at which they are conjugate
  double motion_ratio() const noexcept;           ///< driven turns per driver turn, signed
  double contact_ratio() const;                   ///< (ρ₁u₁ + ρ₂u₂)/(πm)
  std::array<Angle, 2> angular_backlash() const;  ///< thinning of both over the own pitch radius
  /// A ring's circles must not meet: ρ₁ + ρ₂ ≤ r₂ − r₁, ρ those of both faces.
  bool circles_clear() const;
  const CycloidalGear& driver() const noexcept { return driver_; }
  const CycloidalGear& driven() const noexcept { return driven_; }

 private:
  CycloidalGear driver_, driven_;
};

/// Clock teeth: radial flanks and addenda of circular arcs. Not conjugate; the roll tells by how much.
struct ClockSpec {
  int teeth = 0;  ///< of a pinion its leaves
  double module = 0;
  bool pinion = false;
  int mate_teeth = 0;  ///< the addendum follows from the ratio
  std::optional<double> addendum{}, addendum_arc_radius{}, tooth_width{}, dedendum{};  ///< in place of the table's [mm]
  double fillet_radius = 0;  ///< between flank and root circle; 0: a sharp corner [mm]
  double tip_round = 0;      ///< of the ridge in which the arcs meet, which becomes lower; 0: as they meet [mm]
};
struct ClockSizes {
  double pitch_diameter, tip_diameter, root_diameter, addendum, addendum_arc_radius, tooth_width, dedendum;
  double form_diameter;  ///< where the straight flank ends towards the root
};

/// f = (n/4)(1 − k + √(1 + k² − 2k cos u)), u = π/n + 2i atan2(sin u, k − cos u), k = 1 + 2i, i = N/n: the addendum of
/// a wheel of N teeth for a pinion of n leaves whose flanks are radial, in modules.
double theoretical_clock_addendum(int wheel_teeth, int leaves);

class ClockGear {
 public:
  /// \throws InvalidParameter "teeth", "module", "addendum", "addendum_arc_radius", "tooth_width", "dedendum",
  ///   "root.fillet_radius", "tip_round"
  explicit ClockGear(const ClockSpec& spec);
  const ClockSpec& spec() const noexcept { return spec_; }
  const ClockSizes& sizes() const noexcept { return sizes_; }
  const curve::Outline& outline() const noexcept { return outline_; }

 private:
  ClockSpec spec_;
  ClockSizes sizes_{};
  curve::Outline outline_;
};

/// A row of the table of leaf tips: what the addendum of a pinion is by its leaves, in modules.
struct LeafTip {
  int up_to;  ///< leaves
  double addendum, radius, width;
};
/// What we believe of BS 978-2; it could not be compared with the printed standard.
const LeafTip& leaf_tip(int leaves);

/// Pins on a circle, as outlines of their own; pin 0 is centred on +x.
curve::Outline lantern_pins(int pins, double module, double pin_diameter);

/// A pinion of pins between two plates.
struct LanternSpec {
  int pins = 0;
  double module = 0, pin_diameter = 0;
  double plate_thickness = 0, plate_diameter = 0;  ///< 0: two pin radii thick; a pin's radius beyond the pins
};
class LanternPinion {
 public:
  /// \throws InvalidParameter "teeth", "module", "pin_diameter", "plate_diameter"
  explicit LanternPinion(const LanternSpec& spec);
  const LanternSpec& spec() const noexcept { return spec_; }
  const curve::Outline& outline() const noexcept { return outline_; }  ///< the pins
  double pin_gap() const noexcept;                                     ///< between neighbouring pins [mm]

 private:
  LanternSpec spec_;
  curve::Outline outline_;
};

/// The wheel of a lantern pinion: flanks are parallels, at the pin's radius, of the epicycloid that the pinion's pitch
/// circle draws.
struct LanternWheelSpec {
  int teeth = 0, pins = 0;
  double module = 0, pin_diameter = 0;
  double addendum = 1;          ///< [modules]
  double backlash = 0;          ///< arc at the pitch circle [mm]
  double seat_clearance = 0.1;  ///< by which the seat of the pins is sunk [modules]
};
class LanternWheel {
 public:
  /// \throws InvalidParameter "teeth", "pins", "pin_diameter", "addendum", "backlash"
  explicit LanternWheel(const LanternWheelSpec& spec);
  const LanternWheelSpec& spec() const noexcept { return spec_; }
  const curve::Outline& outline() const noexcept { return outline_; }
  double start_roll() const noexcept { return start_; }  ///< u_s: before it the pin itself cuts the flank away
  double fold_roll() const noexcept { return fold_; }    ///< u_c: where the parallel folds
  double tip_roll() const noexcept { return tip_; }
  double contact_ratio() const noexcept;  ///< (u_t − u_s)ρ/(πm)
  double tip_diameter() const noexcept { return tip_diameter_; }
  double root_diameter() const noexcept { return root_diameter_; }
  double start_diameter() const noexcept { return start_diameter_; }  ///< where the usable flank begins
  double tip_thickness() const noexcept { return tip_thickness_; }    ///< arc
  bool pointed() const noexcept { return pointed_; }                  ///< the flanks meet before the tip asked for

 private:
  LanternWheelSpec spec_;
  double start_ = 0, fold_ = 0, tip_ = 0, tip_diameter_ = 0, root_diameter_ = 0, start_diameter_ = 0,
         tip_thickness_ = 0;
  bool pointed_ = false;
  curve::Outline outline_;
};

}  // namespace palio::gear
