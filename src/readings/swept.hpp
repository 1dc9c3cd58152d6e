// What bodies sweep as they turn: rings about the axes that they turn about.
#pragma once

#include <set>
#include <string>
#include <utility>
#include <vector>

#include "convex.hpp"
#include "palio/design/design.hpp"

namespace palio::job {

/// What a body sweeps between two heights as it turns: a ring about its axis.
struct Band {
  double low, high;     ///< along the axis, in the world [mm]
  double inner, outer;  ///< radii [mm]
};

/// How deep two rings overlap whose middles stand so far apart; 0 or less: they keep clear, beside each other or the
/// one in the hole of the other [mm].
double overlap(const Band& a, const Band& b, double apart);

/// A gear or axle with what it sweeps about the axis that it turns about: its own, of a planet its carrier's.
struct Swept {
  std::string name;  ///< "gear.pinion", "shaft.middle"
  std::size_t member;
  Vec3 axis, along;  ///< a point of it, its direction
  std::vector<Band> bands;
  std::vector<Turned> cone{};  ///< of a bevel gear: its outline along the axis, which the bands follow in steps

  bool parallel(const Swept& other) const;
};

/// Of a body of layers: the outermost and the innermost of every layer, its own zero lying at `foot` [mm].
std::vector<Band> bands_of(const body::Body& body, double foot = 0);

/// Height of the zero of a gear's own frame along the axis of its group [mm].
double foot(const Gear& gear);

/// The gears that mesh with each other, the lower place first.
std::set<std::pair<std::size_t, std::size_t>> mates(const Design& design);

/// In place.
Swept swept(const Design& design, std::size_t gear);
Swept swept(const Design& design, const Axle& axle);
/// Of a carrier's plate, with its posts. \throws std::bad_optional_access  of one that stands still
Swept swept(const Design& design, const Frame& arms);

}  // namespace palio::job
