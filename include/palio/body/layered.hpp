// A body as closed loops × height levels: layers stacked along z. A layer is the region inside one outer loop and outside
// its holes; hubs and webs are further layers, a twist is a property of the levels that a toothed loop follows.
#pragma once

#include <vector>

#include "palio/curve/profile.hpp"
#include "palio/gear/teeth.hpp"

namespace palio::body {

/// A closed loop with the material on its left: an outer one runs counter-clockwise, a hole clockwise.
struct Loop {
  curve::Outline outline;
  bool follows = false;  ///< moves with the levels of its layer; otherwise it stands still
};

/// A height with the movement of the loops that follow; between two levels both go on evenly.
struct Level {
  double z;     ///< [mm]
  double turn;  ///< about z [rad]; of a sliding body along −x [mm]
};

struct Layer {
  std::size_t outer;               ///< number of a loop
  std::vector<std::size_t> holes;  ///< numbers of loops
  std::vector<Level> levels;       ///< two or more, upwards
};

/// Layers share loops by number: where two neighbours share one, its wall goes through. Where they do not, one of the two
/// outer loops lies inside the other.
struct Body {
  std::vector<Loop> loops;
  std::vector<Layer> layers;  ///< upwards, each beginning where the one below ends
  bool slides = false;        ///< levels move along −x instead of turning (a rack)

  double bottom() const { return layers.front().levels.front().z; }
  double top() const { return layers.back().levels.back().z; }
};

/// A point of a loop's section at a level.
Vec2 moved(const Body& body, const Vec2& p, double turn);

/// The body of cylindrical teeth in their own frame: from z = 0 to the face width, the outline as it is at mid-face.
Body body(const gear::Teeth& teeth);

/// Exact, from the area integrals of the exact curves.
struct MassProperties {
  double volume;        ///< [mm³]
  Vec3 center;          ///< of mass [mm]
  double polar_moment;  ///< ∫ r² dV about the z axis, of bodies that turn [mm⁵]; times density the moment of inertia
};
MassProperties mass_properties(const Body& body);

}  // namespace palio::body
