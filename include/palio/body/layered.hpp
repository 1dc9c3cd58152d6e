// A body as closed loops × height levels: layers stacked along z. A layer is the region between its loops; hubs, webs,
// recesses, keyways, spokes and holes are loops too, a twist is a property of the levels that a toothed loop follows,
// and a chamfer is a layer in which one loop tapers into another.
#pragma once

#include <string>
#include <vector>

#include "palio/body/tunnel.hpp"
#include "palio/curve/profile.hpp"

namespace palio::body {

/// A closed loop with the material on its left: an outer one runs counter-clockwise, a hole clockwise.
struct Loop {
  curve::Outline outline;
  bool follows = false;  ///< moves with the levels of its layer; otherwise it stands still
  std::string feature;   ///< the key that asks for it: "teeth", "bore", "hubs", "web", "spokes", "holes" …
};

/// Whether a loop bounds what is open for the shaft: the bore with its steps, keyways, flat or hexagon.
bool of_bore(const Loop& loop);

/// A height with the movement of the loops that follow; between two levels both go on evenly.
struct Level {
  double z;     ///< [mm]
  double turn;  ///< about z [rad]; of a sliding body along −x [mm]
};

/// A loop within a layer, by number: at its lower and its upper end. Two different ones taper into each other; both are
/// then circles about one centre.
struct Wall {
  std::size_t below, above;
  Wall(std::size_t loop) : below(loop), above(loop) {}  // NOLINT(google-explicit-constructor): most walls stand upright
  Wall(std::size_t from, std::size_t to) : below(from), above(to) {}
};

struct Layer {
  std::vector<Wall> walls;
  std::vector<Level> levels;  ///< two or more, upwards
};

/// Layers share loops by number: where two neighbours share one, its wall goes through. All loops that meet at one
/// height keep clear of each other (`clear.hpp`).
struct Body {
  std::vector<Loop> loops;
  std::vector<Layer> layers;      ///< upwards, each beginning where the one below ends
  bool slides = false;            ///< levels move along −x instead of turning (a rack)
  std::vector<Tunnel> tunnels{};  ///< each within one layer, clear of the others and of what is cut along the axis

  double bottom() const { return layers.front().levels.front().z; }
  double top() const { return layers.back().levels.back().z; }
};

/// A point of a loop's section at a level.
Vec2 moved(const Body& body, const Vec2& p, double turn);

/// The same body larger: across the axis by `radial`, along it by `axial`. All curves keep their kind.
Body scaled(const Body& body, double radial, double axial);

/// The loops that meet where layer `n` begins (or, at the number of layers, where the last one ends), by number.
struct Meeting {
  std::vector<std::size_t> under, over, all;  ///< of the layer that ends there, of the one that begins, of either once
};
Meeting meeting(const Body& body, std::size_t n);

/// A flat face where a layer begins or ends on air: inside one loop and outside others.
struct Cap {
  double z;
  bool up;  ///< looks towards +z
  struct Edge {
    std::size_t loop;
    bool reversed;  ///< the face lies on the right of the loop as it is given
  };
  std::vector<Edge> edges;  ///< the outer one first
};

/// All flat faces, upwards: at every height what one side fills and the other does not.
std::vector<Cap> caps(const Body& body);

/// The loops that bound a body's section at a height within one of its layers, by number.
std::vector<std::size_t> section(const Body& body, double z);

/// Exact, from the area integrals of the exact curves.
struct MassProperties {
  double volume;        ///< [mm³]
  Vec3 center;          ///< of mass [mm]
  double polar_moment;  ///< ∫ r² dV about the z axis, of bodies that turn [mm⁵]; times density the moment of inertia
};
MassProperties mass_properties(const Body& body);

}  // namespace palio::body
