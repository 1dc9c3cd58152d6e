// Where planets may stand so that their teeth fit everything they mesh with at once.
//
// Turned against the carrier, a planet at the angle θ whose tooth stands ψ from its own direction fits a central gear
// of z teeth with its own gear of p teeth when σ z θ − p ψ is a whole turn beyond what it is at the first planet; σ is
// +1 for a sun, −1 for a ring. All members together leave a group of places (θ, ψ). docs/theory/machine.md.
#pragma once

#include <cstddef>
#include <vector>

namespace palio::machine {

/// A central gear, and the gear of the planet that meshes with it. Stepped planets have several, fast to each other.
struct Central {
  long long teeth, planet_teeth;
  bool internal;  ///< a ring
};

/// One planet, relative to the first one, which stands at 0.
struct PlanetPlace {
  double axis;  ///< direction of its axis [rad], 0…2π
  double turn;  ///< how far it is turned against its own direction, compared with the first one [rad]
};

/// A planet at a place that may not be one of those where everything fits.
struct PlanetFit {
  double turn;     ///< as of PlanetPlace; where the play of all members gives way to it most easily [rad]
  double off;      ///< by which the members are missed together, in pitches: 0…½ for two
  double nearest;  ///< the nearest axis where all fit [rad]
};

class Planets {
 public:
  /// \throws InvalidParameter "central"  where there are fewer than two, or one has no teeth
  explicit Planets(std::vector<Central> central);

  /// Nothing but chance keeps places apart where the members leave any angle: two rings or suns of equal ratio.
  bool anywhere() const noexcept { return places_ == 0; }
  /// So many places there are around, evenly; 0 where planets may stand anywhere.
  long long places() const noexcept { return places_; }
  /// In how many ways a planet can be put in at one place, so that a stepped planet's mark is unique only within so
  /// much.
  long long ways() const noexcept { return ways_; }
  bool evenly(long long planets) const noexcept { return places_ == 0 || places_ % planets == 0; }

  /// As evenly as they may stand, each with its turn.
  std::vector<PlanetPlace> placed(long long planets) const;

  /// One with its axis in any direction [rad].
  /// \param half_plays  of each member: how far the planet can be turned either way in its mesh [pitches]
  PlanetFit fitted(double axis, const std::vector<double>& half_plays) const;

 private:
  std::vector<Central> central_;
  long long places_ = 0, ways_ = 1;
};

/// A mesh of planets whose axes ride on one carrier, with what is in the middle or with each other: at the place θ
/// around, each turned ψ against its own direction, `of_place` θ + Σ times ψ is whole [turns].
struct PlanetTie {
  struct Term {
    std::size_t planet;
    long long times;
  };
  long long of_place;
  std::vector<Term> terms;
};

/// Sets of planets on several axes of a carrier, every set like the first one turned about the carrier's axis.
///
/// The rows of whole numbers that the ties are span a lattice; what of it has θ alone says all there is of θ:
/// N θ is whole. Rows in steps tell the turns, the last planet first. docs/theory/machine.md.
class PlanetSets {
 public:
  /// \throws InvalidParameter "ties"  where one names a planet beyond `planets`, or has more than 5000 teeth
  PlanetSets(std::size_t planets, const std::vector<PlanetTie>& ties);

  /// So many places there are around, evenly; 0 where sets may stand anywhere.
  long long places() const noexcept { return places_; }
  bool evenly(long long sets) const noexcept { return places_ == 0 || places_ % sets == 0; }

  struct Place {
    double axis;                ///< [rad], 0…2π
    std::vector<double> turns;  ///< of each planet, against its own direction, compared with the first set [rad]
  };
  /// As evenly as they may stand, the first one at 0.
  std::vector<Place> placed(long long sets) const;

 private:
  /// A row with its first planet, and what else it has.
  struct Step {
    std::size_t planet;
    std::vector<long long> row;  // of each planet, θ last
  };
  std::size_t planets_;
  std::vector<Step> steps_;
  long long places_ = 0;
};

}  // namespace palio::machine
