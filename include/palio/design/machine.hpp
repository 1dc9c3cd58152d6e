// The machine that gears, pairs and reducers of a design make: what turns as one, what rides on carriers, and which way
// a train goes through it.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "palio/machine/power.hpp"
#include "palio/machine/speeds.hpp"
#include "palio/math/vec.hpp"

namespace palio::job {

/// What turns as one: a shaft with what stands on it, a gear on no shaft, a carrier, one end of a reducer.
struct Member {
  std::string name;
  std::vector<std::size_t> gears{};      ///< on it, places in Design::gears
  std::optional<std::size_t> carrier{};  ///< that its axis rides on, a place in Machine::carriers
  bool shaft = false;                    ///< [shaft.NAME]
};

/// Planets stand around a carrier: what it carries, so many times.
struct Carrier {
  std::string name;
  std::size_t member;                ///< that it is, or turns with
  std::vector<std::size_t> carried;  ///< members whose axes ride on it
  bool placed = false;  ///< whether it is known where it turns: one of its planets meshes with what does not ride
  std::size_t group = 0;
  Vec2 axis = Vec2::Zero();  ///< about which it turns, in the plane of that group [mm]
  struct Copy {
    double axis;               ///< direction from the first one, about the carrier's axis [rad]
    std::vector<double> turn;  ///< of each carried member, beyond what it turns with that direction [rad]
    double off = 0;            ///< by which its teeth miss one of their mates, the others fitting [of a pitch]
    double nearest = 0;        ///< where they would not [rad]
  };
  std::vector<Copy> copies;           ///< the first one, {0, 0 …}, too
  long long places = 0;               ///< so many there are around, evenly; 0: anywhere
  bool evenly = true;                 ///< the copies stand evenly
  std::optional<double> speed_ratio;  ///< turns per turn of the first driver of its mechanism
};

/// Of one input turned, with what the train holds held. Members that nothing connects with the input stand aside.
struct TrainMotion {
  std::vector<bool> connected;       ///< of each member
  std::size_t freedom = 0;           ///< ways in which those can still move, before the input is turned
  bool locked = false;               ///< the input cannot turn
  std::vector<std::size_t> locking;  ///< of a locked one the meshes any one of which, left out, lets it turn
  /// Turns of each member per turn of the input; none: loose, or not connected. A rack's are pitches.
  std::vector<std::optional<machine::Fraction>> turns;
  std::optional<machine::Fraction>
      ratio;                         ///< turns of the input per turn of the output; none: that stands still or is loose
  std::vector<std::size_t> to_hold;  ///< of a loose output: members any one of which, held, makes it follow
};
/// A way through the machine: [train.NAME], or a planetary set's own.
struct Train {
  std::string name;
  bool planetary = false;
  std::size_t input = 0, output = 0;  ///< members
  std::vector<std::size_t> held;
  std::optional<double> speed, torque;  ///< of the input [r/min], [N m]
  std::vector<std::size_t> central{};   ///< of a planetary set: suns, carrier, rings
  std::optional<std::size_t> hour{};    ///< of a clock train: the member that turns once an hour
  std::optional<int> escape_teeth{};    ///< of the escape wheel that turns with its output
  std::optional<double> winding{};      ///< turns of its input from wound up to run down
  TrainMotion motion{};
};

/// The members that turn with the two ends of a reducer.
struct ReducerEnds {
  std::size_t input, output;
};

/// Members turn about their own axis, seen from its +z; those on one carrier's axis all about the carrier's. A rack
/// counts pitches along its own +x in place of turns.
struct Machine {
  std::vector<Member> members;
  std::vector<std::size_t> of_gear;  ///< which member a gear turns with
  std::vector<int> sense;            ///< −1: the gear's own z axis points against that of its member
  std::vector<machine::Mesh> meshes;
  std::vector<std::optional<std::size_t>> pair_of;  ///< of each mesh, a place in Design::pairs; none: a reducer
  std::vector<ReducerEnds> of_reducer;              ///< of each of Design::reducers
  std::vector<Carrier> carriers;
  std::vector<Train> trains;
};

}  // namespace palio::job
