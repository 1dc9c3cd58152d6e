// Two gears that run together, whatever they are: one face over the theories of parallel, crossed and bevel pairs and
// of cycloidal teeth, and the real geometry of both, ready to be rolled.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "palio/pair/bevel.hpp"
#include "palio/pair/crossed.hpp"
#include "palio/pair/cycloidal.hpp"
#include "palio/pair/parallel.hpp"
#include "palio/roll/roll.hpp"
#include "palio/roll/space.hpp"

namespace palio::pair {

/// Teeth on their axis, in the plane of the gears whose axes are parallel to it.
struct Placed {
  std::string name;
  gear::Teeth teeth;
  Vec2 axis = Vec2::Zero();  ///< where the axis (a rack's reference line) stands, as mounted [mm]
  double height = 0;         ///< of the mid-face along the axis [mm]
  double phase = 0;          ///< at the start: turned so [rad]; a rack: moved so along its own −x [mm]
  double facing = 0;         ///< a rack: how far its own frame is turned [rad]
};

/// How far the axes of a bevel pair are built from where they should be.
struct MountingError {
  double driver = 0, driven = 0;  ///< along the own axis, away from the apex [mm]
  Angle shaft_angle;              ///< more than the shaft angle
  /// By which the driven's axis misses the driver's, to the left seen from the driver's apex along its mesh [mm].
  double offset = 0;
  bool any() const noexcept { return driver != 0 || driven != 0 || shaft_angle != Angle() || offset != 0; }
};

/// How the two axes stand to each other.
struct Arrangement {
  Angle direction;                                ///< from the driver's axis to where they mesh
  std::optional<double> mounted_center_distance;  ///< none: at which there is no play; bevel gears have none [mm]
  double axial_offset = 0;                        ///< of the driven's mid-face, along its axis [mm]
  Angle shaft_angle;                              ///< signed
  MountingError error;                            ///< of bevel gears
};

/// Which theory holds for two gears.
enum class Sort { parallel, crossed, bevel, cycloidal };
Sort sort(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle);

/// Between the axes when reference (pitch) circles touch [mm]; 0 for bevel gears and for two racks.
double reference_distance(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle);

/// Between the axes without play, for the nominal shifts; of cycloidal teeth the one at which they are as designed
/// [mm]. None where there is no such distance, or the two cannot mesh.
std::optional<double> distance_without_play(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle);

/// Whether the two can mesh at all: what differs.
std::vector<Finding> mismatches(const gear::Teeth& driver, const gear::Teeth& driven, Angle shaft_angle,
                                const std::string& subject);

class Pair {
 public:
  using Theory = std::variant<ParallelPair, CrossedPair, BevelPair, CycloidalPair>;

  /// The gears stand where they are said to; `stand` puts them elsewhere.
  /// \param subject  what is told of the pair is told of, "pair.first_stage"
  Pair(Placed driver, Placed driven, const Arrangement& as_built, const std::string& subject);

  Sort sort() const noexcept { return sort_; }
  const std::array<Placed, 2>& gears() const noexcept { return gears_; }  ///< driver, driven
  Angle direction() const noexcept { return as_built_.direction; }
  double mounted_center_distance() const noexcept { return distance_; }  ///< 0 for bevel gears [mm]
  double axial_offset() const noexcept { return as_built_.axial_offset; }
  Angle shaft_angle() const noexcept { return as_built_.shaft_angle; }
  const MountingError& error() const noexcept { return as_built_.error; }

  /// What keeps the two from meshing; empty where they mesh.
  const std::vector<Finding>& mismatches() const noexcept { return mismatches_; }
  bool meshes() const noexcept { return theory_.has_value(); }
  /// They mesh, and in one plane: what pictures and pages of the plane show.
  bool plane() const noexcept { return parallel() || cycloidal(); }
  bool in_space() const noexcept { return crossed() || bevel(); }

  /// One function for all theories, with an overload for each (palio/overloaded.hpp): a theory forgotten does not
  /// compile. \throws std::bad_optional_access where they do not mesh
  template <class F>
  decltype(auto) visit(F&& f) const {
    return std::visit(std::forward<F>(f), theory_.value());
  }
  /// What exists for one theory only; null for the others and where the two do not mesh.
  const ParallelPair* parallel() const noexcept { return one<ParallelPair>(); }
  const CrossedPair* crossed() const noexcept { return one<CrossedPair>(); }
  const BevelPair* bevel() const noexcept { return one<BevelPair>(); }
  const CycloidalPair* cycloidal() const noexcept { return one<CycloidalPair>(); }

  /// What follows is by theory. \throws std::bad_optional_access where they do not mesh
  double circumferential_backlash() const;        ///< of bevel gears at the outer cone [mm]
  std::array<Angle, 2> angular_backlash() const;  ///< of each with the other held; NaN for a rack
  double driven_play() const;                     ///< in the driven's coordinate: rad, of a rack mm
  std::array<double, 2> tip_clearance() const;    ///< at the driver's tip, at the driven's tip [mm]
  double working_radius() const;                  ///< circumferential play per play of the driven [mm; of a rack 1]
  /// Of a plane pair [mm]; NaN for a rack and in space.
  std::array<double, 2> working_pitch_diameters() const;
  /// How far flanks lean where they meet at the pitch point; of cycloidal ones 20°, about what theirs do nearby.
  Angle working_pressure_angle() const;
  /// Coordinate of the driven per coordinate of the driver; 0 where they cannot mesh.
  double motion_ratio() const;
  /// About the pair as its subject and its gears as "gear.NAME". \param friction  of crossed gears, where it is given
  std::vector<Finding> findings(std::optional<double> friction = {}) const;

  /// The driven's axis in the driver's own frame, not turned: of bevel gears its apex.
  roll::Axis driven_axis() const;
  /// On parallel axes in the section at the driver's mid-face, on crossed ones each at its own, of bevel gears at the
  /// heel.
  std::array<roll::Member, 2> members() const;
  /// What a roll is held against: exact ratio, play by theory at the mounted distance.
  roll::Law law(int positions = 360) const;

  /// Where a gear has to stand to mesh with its mate, which stands already, in the mate's plane; across shafts in a
  /// plane of its own. Gears that cannot mesh keep how they are turned.
  /// \param direction  another than the pair's, on parallel axes
  Placed beside(const Placed& driver, Placed driven, std::optional<Angle> direction = {}) const;
  Placed before(const Placed& driven, Placed driver, std::optional<Angle> direction = {}) const;
  /// The same two in other places; a rack is taken where its mate stands at it.
  void stand(Placed driver, Placed driven);
  Pair with_error(const MountingError& error) const;
  /// Other teeth of the same kinds in their places.
  Pair with(const gear::Teeth& driver, const gear::Teeth& driven) const;

 private:
  template <class T>
  const T* one() const noexcept {
    return theory_ ? std::get_if<T>(&*theory_) : nullptr;
  }
  std::optional<Theory> theory() const;
  Finding no_mesh_there() const;

  Sort sort_;
  std::array<Placed, 2> gears_;
  Arrangement as_built_;
  double distance_;
  std::string subject_;
  std::vector<Finding> mismatches_;
  std::optional<Theory> theory_;
};

/// The two in mesh: the driver as it stands, the driven put beside it.
Pair in_mesh(Placed driver, Placed driven, const Arrangement& as_built, const std::string& subject = "pair");

/// The pair rolled through one period of the driver, by the real geometry of both as they stand.
/// \throws std::bad_optional_access where they do not mesh; InvalidParameter "positions"
roll::Result roll(const Pair& pair, int positions = 360);

/// A gear on its axis, ready to roll in the section at height `datum` [mm].
roll::Member member(const Placed& gear, double datum = 0);
/// How far its section there is turned (a rack: moved), and the phase that turns it so.
double section(const Placed& gear, double datum);
void turn_to(Placed& gear, double datum, double coordinate);

/// A rack taken at another place along it, the foot of an axis: it stands as it stood.
Placed rack_at(Placed rack, const Vec2& axis);
/// How far along a rack, from its own origin, that foot lies [mm].
double along(const Placed& rack, const Vec2& axis);

/// Height of the middle of the face in the gear's own frame [mm]; of a bevel gear, of the pitch cone there.
double mid_face(const gear::Teeth& teeth);

/// The cone distances between which both gears have teeth: inner, outer [mm].
std::array<double, 2> common_face(const BevelPair& pair);

/// Where a contact of a rolled pair in space lies, in the driver's frame of that roll [mm]: one point; of bevel teeth
/// that touch flank on flank without an error of mounting the ends of the line, heel and toe.
std::vector<Vec3> contact_line(const Pair& pair, const roll::Contact& contact);

/// What the play of a bevel pair becomes when one gear is moved along its axis.
struct AxialShift {
  double shift;  ///< away from the apex [mm]
  /// Least circumferential play at the outer cone, from the roll of the flanks [mm]; NaN: none is left anywhere.
  double found;
  double by_formula;  ///< j + 2 D sin δ tan α, at the pitch point alone [mm]
};
/// Moved by ± a fiftieth of the module, beside the errors of mounting that the pair has. Of bevel pairs.
std::array<AxialShift, 2> axial_shifts(const Pair& pair, bool of_driver);

}  // namespace palio::pair
