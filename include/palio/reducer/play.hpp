// The reducer rolled as an assembly: at each input angle, how far discs and output can turn before something touches.
#pragma once

#include "palio/reducer/reducer.hpp"
#include "palio/roll/roll.hpp"

namespace palio::reducer {

/// A roller against a disc.
struct RollerGap {
  double gap;    ///< along the normal, negative where they overlap [mm]
  double lever;  ///< how fast it closes while the disc turns counter-clockwise [mm per rad]
  Vec2 point;    ///< on the disc's edge, in the world [mm]
  Vec2 normal;   ///< out of the disc there
};
/// All rollers against a disc turned by `turn` more than without play.
std::vector<RollerGap> roller_gaps(const Reducer& r, std::size_t disc, double input, double turn);
/// All output pins against the holes of a disc turned by `turn` more, the output by `output` more. The normal points
/// from the hole's middle to where the pin would touch; the gap closes with `lever` while the output turns
/// counter-clockwise.
std::vector<RollerGap> pin_gaps(const Reducer& r, std::size_t disc, double input, double turn, double output);

/// From lowest to highest, of an angle beyond what it would be without play [rad]; upside down where there is no room.
struct Room {
  double low, high;
  double at = 0;       ///< an angle within; where there is no room, that with the least overlap
  double overlap = 0;  ///< deepest that cannot be avoided [mm]
  bool loose = false;  ///< nothing stops it within a lobe (a hole): it turns past, and drives nothing
};

struct Standing {
  double input;
  std::vector<Room> discs;    ///< each disc between the rollers
  std::vector<Room> through;  ///< the output through each disc: what rollers and pins leave together
  Room output;                ///< what all discs leave in common
};
Standing standing(const Reducer& r, double input, double touch);

/// Room of the output's pins in the holes of a disc that stands as without play.
Room pin_room(const Reducer& r, std::size_t disc, double input, double touch);

struct Rolled {
  roll::Verdict verdict;
  std::vector<Standing> positions;       ///< over one turn of the input
  std::optional<roll::Range> play;       ///< of the output, the input held [rad]
  std::optional<roll::Range> disc_play;  ///< of the discs between the rollers [rad]
  std::optional<roll::Range> error;      ///< the middle of the output's room from the even ratio [rad]
  double max_overlap = 0;
  struct Worst {
    double input;
    std::string where;
  };
  std::optional<Worst> worst;
  std::optional<double> loose_at;  ///< where contact is lost: the input at which nothing stops the discs [rad]
  std::string wrong;               ///< of a jam: the input at fault …
  std::string wrong_advice;        ///< … and what to do
};
/// \param touch  overlaps up to this are rounding [mm]
Rolled roll(const Reducer& r, int positions, double touch);

}  // namespace palio::reducer
