// Teeth on an outline of others: counted, their flanks held against involutes and arcs, and which gear it may be.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/foreign/drawing.hpp"
#include "palio/gear/teeth.hpp"

namespace palio::foreign {

/// The loop of a drawing that carries the teeth.
struct Toothed {
  Loop loop;
  int teeth = 0;
  bool internal = false;              ///< another loop lies around it: the material is outside
  double inner_radius, outer_radius;  ///< about the loop's centre [mm]
  bool unit_told = true;              ///< whether the file says what its numbers are; else they were taken as mm
  double phase = 0;                   ///< direction in which the loop reaches furthest, less whole pitches [rad]
};

/// The loops whose radius goes up and down regularly, deep enough for teeth, the largest first.
std::vector<Toothed> find_all_teeth(const Drawing& drawing);
/// The largest of them. None where there is none.
std::optional<Toothed> find_teeth(const Drawing& drawing);

/// Distances from what was expected.
struct Off {
  double greatest = 0, rms = 0;  ///< [mm]
};

/// One involute for all flanks of both sides, fitted by least squares with centre and turn.
struct FlankFit {
  int teeth;
  Vec2 centre;
  double turn;                                 ///< direction of the middle of a tooth (of a ring: of a space) [rad]
  double base_radius;                          ///< r_b [mm]
  double half_angle;                           ///< half the angle that the loop's tooth takes on the base circle [rad]
  double base_radius_doubt, half_angle_doubt;  ///< one standard deviation
  double half_angle_slope;                     ///< how the half angle goes with another base radius [rad/mm] …
  double half_angle_doubt_held;                ///< … and its doubt where that is known [rad]
  double from, to;                    ///< radii between which the flanks are involutes as well as in their middle [mm]
  double compared_from, compared_to;  ///< what follows is of the flanks between these radii [mm]
  Off involute, arc;                  ///< of the corners, from the best involute, from the best circular arc
  Off with_chords;                    ///< from that involute, of the chords between the corners too
  double form;                        ///< of that from the involute, what is the same on all teeth, at most [mm]
  double scatter;                     ///< rms of what differs from tooth to tooth [mm]
};

/// \throws InvalidParameter "outline" where too little of the flanks lies outside any base circle
FlankFit fit_flanks(const Toothed& toothed);

/// What the flanks are: one of the two where it leaves little, and less than half of what the other leaves.
enum class Form { involute, circular_arc, either, neither };
Form form_of(const FlankFit& fit);
std::string name(Form form);

/// A round addendum, with the shift that it has then.
struct Thinned {
  double addendum, profile_shift;
};

/// A gear that has these flanks: module and pressure angle share one base circle, so standard sizes have to choose.
struct Guess {
  gear::CylindricalSpec spec;      ///< in the transverse section, as a spur gear or ring
  std::optional<Thinned> thinned;  ///< what it may have been before thinning, where that makes up the rest
  double module_doubt;             ///< with the pressure angle as it is [mm]
  double pressure_angle_doubt;     ///< with the module as it is [°]
  double profile_shift_doubt;
  bool standard_module, standard_angle;
};

/// The likeliest first; at least one.
std::vector<Guess> guesses(const Toothed& toothed, const FlankFit& fit);

}  // namespace palio::foreign
