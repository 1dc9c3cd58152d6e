// A cycloidal speed reducer: what is asked for, its limits, and where everything stands at an input angle.
//
// N rollers of radius R_r on radius R, eccentricity E, Z = N − 1 lobes; n output pins on radius R_p in holes of the
// discs. The input turns by φ; a disc's centre goes round with it, the disc itself turns by −φ/Z.
// docs/theory/cycloid.md.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/angle.hpp"
#include "palio/curve/profile.hpp"
#include "palio/gear/finding.hpp"

namespace palio::reducer {

enum class RingForm { seats, one_piece };  ///< round seats for separate rollers; or the rollers one with the ring
enum class DiscParts { own, one };         ///< each disc with holes where it needs them; or all cut to one drawing

/// All lengths in mm.
struct Spec {
  int rollers = 0;
  double roller_circle_diameter = 0, roller_diameter = 0, eccentricity = 0;
  double disc_offset = 0;  ///< the disc's edge lies this much inside the exact one (negative: outside)
  std::optional<double> cut_roller_diameter{},
      cut_roller_circle_diameter{};  ///< what the edge is made for, in place of the rollers that stand in the ring
  int output_pins = 0;
  double output_pin_circle_diameter = 0, output_pin_diameter = 0;
  double output_hole_clearance = 0;  ///< on diameter
  double bore_diameter = 0;          ///< of the discs, for the bearing
  double journal_diameter = 0;       ///< 0: as the bore
  double shaft_diameter = 0;         ///< 0: what the journals leave
  int discs = 1;
  double face_width = 0;  ///< of a disc
  double disc_gap = 0;    ///< between discs, and to the flange
  RingForm ring = RingForm::seats;
  double ring_outer_diameter = 0;  ///< 0: two roller radii beyond the seats
  double seat_clearance = 0;       ///< of the rollers in their seats, on diameter
  double roller_pin_diameter = 0;  ///< rollers turn as sleeves on such pins; 0: they do not turn
  DiscParts disc_parts = DiscParts::own;
  std::optional<double> friction{};  ///< coefficient, of rollers, pins and holes alike
  double grown = 0;                  ///< as made: the edge stands out by so much more than was asked for
  double holes_smaller = 0;          ///< as made: the output's holes came out so much smaller, on diameter
};

struct Sizes {
  double ratio;  ///< input turns per output turn, negative: the output turns against the input
  int lobes;
  double max_eccentricity, max_roller_radius_no_undercut, min_convex_radius;
  std::optional<double> min_concave_radius;
  double adjacent_roller_gap, disc_root_diameter, disc_crest_diameter, output_hole_diameter;
  double web_between_holes, wall_hole_to_lobe, wall_hole_to_bore;
  bool same_disc_part;  ///< one disc serves at all places as it is
  bool discs_flip;      ///< two discs: the second is the first one turned over
  std::optional<double>
      largest_disc_cutter;     ///< diameter of the largest cutter that follows the edge; none: never hollow
  double largest_hole_cutter;  ///< and that goes into the narrowest of holes and bore
  double journal_diameter, shaft_diameter, ring_inner_diameter, ring_outer_diameter, height;
};

/// One of the discs.
struct DiscPlace {
  double ahead;       ///< of its journal against the first one's [rad]
  double turn;        ///< how it stands at φ = 0 [rad]
  double hole_phase;  ///< of its first hole in its own frame [rad]
  bool flipped;       ///< the first disc turned over
  double height;      ///< of its lower face [mm]
};

class Reducer {
 public:
  /// \throws InvalidParameter naming the key, with its limit: an eccentricity of R/N or more, rollers that undercut the
  /// disc or
  ///   touch each other, holes that break out into each other, the edge or the bore, journals that do not fit
  explicit Reducer(const Spec& spec);

  const Spec& spec() const noexcept { return spec_; }
  const Sizes& sizes() const noexcept { return sizes_; }
  const std::vector<DiscPlace>& discs() const noexcept { return discs_; }
  Angle flange_phase() const noexcept { return Angle::radians(flange_phase_); }  ///< of the first output pin at φ = 0
  /// The disc's edge as it is made, a lobe root on +x.
  const curve::Outline& edge() const noexcept { return edge_; }
  const curve::LobeCurve& curve() const;
  /// At input φ: a disc's centre, its angle and the output's, all without play.
  Vec2 centre(std::size_t disc, double input) const;
  double turned(std::size_t disc, double input) const { return discs_[disc].turn - input / sizes_.lobes; }
  double output(double input) const { return -input / sizes_.lobes; }
  const Vec2& roller(int k) const { return rollers_[static_cast<std::size_t>(k)]; }
  /// Of output pin or hole k, from pin 0 on: the direction as a unit vector.
  const Vec2& pin_direction(int k) const { return pin_directions_[static_cast<std::size_t>(k)]; }
  /// Numbers of output pins near the given one with which one disc part serves.
  std::vector<int> serving_pins() const;

  std::vector<Finding> findings(const std::string& subject) const;

 private:
  void size_output();
  void size_shaft();
  void size_ring();
  void place_discs();
  Spec spec_;
  Sizes sizes_{};
  std::vector<DiscPlace> discs_;
  std::vector<Vec2> rollers_, pin_directions_;
  curve::Outline edge_;
  double flange_phase_ = 0;
};

/// Whether one disc part serves at all places: for each disc d of D a whole k with d/(D Z) − k/Z a multiple of 1/n.
bool one_disc_serves(int lobes, int pins, int discs);

}  // namespace palio::reducer
