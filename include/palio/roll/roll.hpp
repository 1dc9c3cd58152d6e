// Turning two placed members through each other by their exact outlines. Nothing here knows what a gear is: there are
// outlines with a period, motions with one coordinate, and the law the motion should follow.
//
// Members whose teeth are twisted along the axis are rolled in every section of their common face: turned by what the
// twist makes of its height, each section is the plane roll at another coordinate.
//
// At each position of the driver the driven member is moved both ways until they touch. In the chart of its motion
// (roll/motion.hpp) that is the least, and the greatest, distance in place between two curves at equal label. The
// least lies either where the curves touch as tangents (curve–curve) or at an end of a segment (vertex–curve); both
// are solved on the exact curves, behind a broad phase on sampled ones whose error is bounded.
#pragma once

#include <algorithm>
#include <array>
#include <optional>
#include <string>
#include <vector>

#include "palio/curve/profile.hpp"
#include "palio/roll/motion.hpp"

namespace palio::roll {

/// An outline on its motion. A twisted one is turned so at height 0 (mid-face of the driver).
struct Member {
  Member(std::string what, curve::Outline own, const Motion& moves, double at, double twisted = 0)
      : name(std::move(what)), outline(std::move(own)), motion(moves), start(at), twist(twisted) {}

  std::string name;
  curve::Outline outline;  ///< in the member's own frame
  Motion motion;
  double start;  ///< coordinate at the start of the roll
  double twist;  ///< how far the section moves, in the member's coordinate, per length along the axis
};

/// What the roll is held against, all in the coordinate of the driven member unless said otherwise.
struct Law {
  explicit Law() = default;  ///< filled by name alone: five numbers in a row are easily swapped

  double ratio = 1;             ///< driven coordinate per driver coordinate, exact, signed
  double theoretical_play = 0;  ///< between its two contacts
  double touch_mm = 1e-9;       ///< gaps and overlaps up to this count as touching [mm]
  int positions = 360;          ///< over one period of the driver, 8 or more
  double face_from = 0;  ///< heights between which both members have teeth; looked at where they are twisted [mm]
  double face_to = 0;
  double overlap_mm = 0;  ///< overlap up to this, or up to touch_mm, does not jam [mm]

  double binding() const { return std::max(touch_mm, overlap_mm); }
};

/// Where two members touch.
struct Contact {
  double driven = 0;           ///< coordinate of the driven member at which they do
  Vec2 point = Vec2::Zero();   ///< in the world [mm]
  Vec2 normal = Vec2::Zero();  ///< out of the driven member there
  double arm = 0;              ///< how fast the gap along the normal closes per unit of the coordinate [mm], positive
  curve::Role driver_role{}, driven_role{};
  int driver_tooth = 0, driven_tooth = 0;  ///< period numbers
  bool tangent = false;                    ///< curve touches curve; otherwise an edge (end of a segment) is involved
  double height = 0;                       ///< along the axis, of the section in which they touch [mm]
  bool knee = false;                       ///< the edge lies within a flank that goes on beyond it outwards or inwards
  double to_end = 0;  ///< of a tangent contact: to the nearer end of either curve, as a share of it

  bool flank_on_flank() const noexcept {
    return (tangent || knee) && driver_role == curve::Role::flank && driven_role == curve::Role::flank;
  }
};

/// One position of the driver.
struct Position {
  double driver;                        ///< coordinate
  std::optional<Contact> upper, lower;  ///< limits of the driven member's coordinate; none where nothing is in its way
  std::vector<Contact> touching_upper,
      touching_lower;                    ///< flank on flank, at those limits; of twisted teeth in some twenty sections
  int pairs_upper = 0, pairs_lower = 0;  ///< pairs of teeth that touch so, in any section
  std::array<double, 2> tip_clearance;  ///< of the driver's crest over the driven's floor, and the other way round [mm]

  std::optional<double> play() const {
    if (!upper || !lower) return std::nullopt;
    return upper->driven - lower->driven;
  }
};

enum class Verdict { meshes, jams, loses_contact };
std::string_view name(Verdict verdict) noexcept;

struct Range {
  double min, max;
};

struct Result {
  Verdict verdict;
  std::vector<Position> positions;
  bool drives_upper;                        ///< the driver, turning forward, pushes at the upper limit
  std::optional<Range> transmission_error;  ///< worse of both flanks: least and greatest over both [driven coordinate]
  std::optional<Range> play;                ///< [driven coordinate]
  int pairs_min, pairs_max;                 ///< flank pairs touching on the driving flank
  double pairs_mean;                        ///< from the exact coordinates at which contacts enter and leave
  double lost_share;                        ///< share of the period in which no flank touches a flank
  double min_tip_root_clearance;            ///< [mm]
  double max_overlap;                       ///< deepest unavoidable overlap along the normal [mm], 0 when none
  struct Worst {
    double driver;
    std::string where;
  };
  std::optional<Worst> worst;  ///< of a jam
};

/// What every roll, exact, in space, of files or of a reducer, asks of its number of positions: a verdict over none
/// would be a verdict over nothing. \throws InvalidParameter "positions"  below 8 or above 100000
void check_positions(int positions);

/// A result of a pair whose driven does not find its own place: others hold it at `start` + `ratio` times the driver's
/// way. Where that lies beyond a limit by more than `touch` [mm] the teeth overlap: it jams, by as much along the
/// normal. Places a `pitch` of the driven apart are alike.
Result held(Result result, double driver_start, double driven_start, double ratio, double pitch, double binding,
            const std::string& driven);

/// Rolls the pair through one period of the driver.
/// \throws InvalidParameter "positions"; "face_width" where twisted teeth would have to be cut into too many sections
Result roll(const Member& driver, const Member& driven, const Law& law);

}  // namespace palio::roll
