// How a train moves: speeds as fractions, power and losses, and the play that is left at its output.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// The train that is told first: the first one that the job says, then the first planetary set's; of a machine without
/// any one from the first driver to itself.
Train told_train(const Design& design);

/// How a train moves; of one that the job says, `Train::motion` has it already.
TrainMotion moved(const Machine& machine, const Train& train);

/// Torque and power, driven from its input or from its output; none where the one does not move the other.
std::optional<machine::Flow> flow(const Design& design, const Train& train, bool backwards = false);

/// The rack that a member is; null for what turns.
const Gear* rack_of(const Design& design, std::size_t member);

/// How far a rack can go from where it stands until a gear on it comes to its last tooth [mm].
struct RackWay {
  double back, on;  ///< along its own −x, along +x
};
/// None where no gear meshes with it.
std::optional<RackWay> rack_way(const Design& design, std::size_t rack);

/// The torque that goes through a member, in the sense in which it turns; on a held one what holds it [of the input's].
double torque_through(const Train& train, const machine::Flow& flow, std::size_t member);

/// How far the output moves with the input held: the plays of all meshes on the way, each as far as it is felt there
/// [turns; of a rack pitches]. Least and greatest over a turn. None where the one does not move the other.
std::optional<roll::Range> play_of_output(const Design& design, const Train& train);

/// How far the output strays from the even ratio while the train is driven without its play, every mesh at its worst at
/// once, as it comes in the course of its period [turns; of a rack pitches]. None as of the play.
std::optional<roll::Range> error_of_output(const Design& design, const Train& train);

/// Turns of the input after which everything that turns stands as at the start, exactly; none where the output does not
/// follow.
std::optional<std::string> period(const Design& design, const Train& train);

/// How a clock train runs: one of its members turns once an hour.
struct Pace {
  double hours_per_turn = 0;               ///< that one turn of the input lasts
  std::optional<double> beats_per_hour{};  ///< two for each tooth of the escape wheel; none without one
};
/// None where no member is the hour's, or it does not follow the input.
std::optional<Pace> pace(const Train& train, const TrainMotion& motion);

/// Of every mesh how often teeth meet in one turn of the input; none where that is not known.
std::vector<std::optional<double>> teeth_met(const Design& design, const TrainMotion& motion);

/// The ratio from one central member of a planetary set to another, a third one held.
struct PlanetaryRatio {
  std::size_t held, driver, driven;  ///< members
  bool locked;
  std::optional<machine::Fraction> ratio;  ///< turns of the driver per turn of the driven
};
std::vector<PlanetaryRatio> ratios(const Design& design, const Train& train);

/// Between the tips of neighbouring planets, where they stand nearest [mm]; none for one planet alone.
std::optional<double> neighbour_clearance(const Design& design, const Carrier& carrier);

/// "while the output turns once, the input turns 17 64/129 times backward"
std::string in_words(const Design& design, const Train& train, const machine::Fraction& ratio);

}  // namespace palio::job
