// The limits of the driven member at one position of the driver. Private to the roll.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "palio/roll/roll.hpp"
#include "samples.hpp"
#include "trail.hpp"

namespace palio::roll {

enum class Side { upper, lower };

/// Limit on one side, and all flank-on-flank tangencies that touch there.
struct Limit {
  std::optional<Contact> first;
  std::vector<Contact> touching;
};

/// Finds limits in a plane section.
class ContactFinder {
 public:
  ContactFinder(const Member& driver, const Member& driven, const Law& law);

  double nominal(double driver_coordinate) const;
  Limit limit(Side side, double driver_coordinate) const;
  /// Both sides with one placing of the driver. \param trail  of positions one after the other
  void limits(double driver_coordinate, Limit& upper, Limit& lower, Trail& trail) const;
  /// How far `mover`'s crest stays from the other's floor [mm].
  double crest_clearance(bool of_driver, double driver_coordinate, double driven_coordinate) const;

  double driver_pitch() const noexcept { return driver_samples_.pitch; }
  /// Where a driver's tooth stands, counted through from tooth to tooth: coordinate of its period 0 when it stands
  /// there.
  double tooth_place(int tooth, double driver_coordinate) const;

 private:
  /// A driver's segment in the driven's chart.
  struct Placed {
    std::size_t segment;
    int tooth;
    double turn;     // coordinate of the tooth's period 0
    Vec2 direction;  // of that turn
    double sag;      // in the driven's own frame
    Row label, place;
    double least, greatest;             // label
    bool rises = false, falls = false;  // in label, somewhere along it
  };
  /// A pair of segments with a coarse gap.
  struct Candidate {
    const Sampled* driver;
    const Sampled* driven;
    const Row *driver_label, *driver_place;  // at the driver's samples, as placed
    int driver_tooth, driven_tooth;
    double gap;    // driven coordinate of the coarse contact
    double slack;  // how far the exact one may be from it
    double s, t;   // guesses
    double turn;   // of the driver's tooth, as placed
    Vec2 direction;
  };
  void place(double driver_coordinate, std::vector<Placed>& placed) const;
  std::optional<Candidate> coarse(const Placed& driver, const Sampled& driven, Side side,
                                  double driver_coordinate) const;
  Limit limit(Side side, double driver_coordinate, const std::vector<Placed>& placed, Trail* trail) const;
  int partner(Side side, int driver_tooth, double driver_coordinate) const;
  using Tangency = Trail::Place;
  std::optional<Tangency> tangency(const Candidate& c, Side side) const;
  std::optional<Tangency> newton(const Candidate& c, const Tangency& begin, bool& strays) const;
  bool within_reach(Side side, double gap, double driver_coordinate) const;
  std::optional<Contact> touch(const Candidate& c, const Tangency& at, Side side, double driver_coordinate) const;
  void refine(const Candidate& c, Side side, double driver_coordinate, double best, Trail* trail,
              std::vector<Contact>& found) const;
  curve::Jet driver_world(const Candidate& c, double s) const;
  ChartJet driver_chart(const Candidate& c, double s) const;
  ChartJet driven_chart(const Sampled& s, double t) const;
  // The same without the place. With `speed` the derivatives are by arc length, and it is set to the arc length per
  // unit of the parameter.
  ChartJet driver_slopes(const Candidate& c, double s, double* speed = nullptr) const;
  ChartJet driven_slopes(const Sampled& s, double t, double* speed = nullptr) const;
  Contact contact(const Candidate& c, double s, double t, double place_gap, bool tangent) const;

  const Member &driver_, &driven_;
  Law law_;
  Sampling driver_samples_, driven_samples_;
  double facing_;  // place, in the driven's chart, where the driver is
  double faces_;   // coordinate of the driver at which its period 0 stands at the mesh
};

}  // namespace palio::roll
