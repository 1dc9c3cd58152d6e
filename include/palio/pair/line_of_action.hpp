// Where the teeth of a plane pair touch: the line of action between the base circles, or the path that cycloidal teeth
// follow.
#pragma once

#include <array>
#include <vector>

#include "palio/pair/pair.hpp"

namespace palio::pair {

/// Where the working pitch circles (of a rack: the gear's and the line) touch [mm].
Vec2 pitch_point(const Pair& pair);

/// Ends of the line of action, at the driver's and at the driven's base circle [mm], for contact at the driven's upper
/// or lower limit: the common tangent of the base circles through the pitch point. At a rack or ring it is cut some way
/// on. Of parallel pairs.
std::array<Vec2, 2> line_of_action(const Pair& pair, bool upper);

/// The arcs on which true cycloidal teeth touch, where they lie: centres in the world, polar angles there. None for the
/// others.
std::vector<ContactArc> contact_arcs(const Pair& pair, bool upper);

/// The path of contact as chains of points [mm]: the line of action of involutes; of true cycloidal teeth arcs of the
/// rolling circles; of clock teeth, lanterns and wherever the ratio wavers the places of contact that the roll found.
std::vector<std::vector<Vec2>> contact_paths(const Pair& pair, bool upper);

/// What the path is called in pictures.
const char* path_name(const Pair& pair);

/// The roll of the section at the driver's mid-face alone: what a plane picture shows of twisted teeth.
roll::Result roll_section(const Pair& pair, int positions);

/// The pair as that roll begins, the driven pushed against its upper limit (where nothing stands in its way: as it is).
struct Start {
  roll::Position position;
  double driver, driven;  ///< their coordinates
};
Start start_of_roll(const Pair& pair);

}  // namespace palio::pair
