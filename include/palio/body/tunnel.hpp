// Round holes across the axis of a body of layers: what a set screw or a pin goes through. They open walls that stand
// upright; nothing is subtracted, the walls get mouths and the hole a wall of its own.
#pragma once

#include <string>
#include <vector>

#include "palio/curve/profile.hpp"

namespace palio::body {

/// Where a tunnel comes out of a wall: on a circle about the axis, or on a straight side square to the tunnel.
struct Mouth {
  std::size_t loop = 0, segment = 0;  ///< segment: of all copies of the loop's period, in their order
  bool round = true;
  double distance = 0;  ///< of the wall from the axis [mm]

  /// How far out the tunnel's surface meets the wall, `aside` beside the tunnel's own axis [mm].
  double reach(double aside) const;
};

/// A round hole whose own axis meets that of the body at a right angle, through the material between two walls.
struct Tunnel {
  double radius = 0, z = 0, angle = 0;  ///< its axis: height and direction outwards [mm, mm, rad]
  Mouth inner, outer;
  std::string feature;  ///< the key that asks for it

  Vec2 outwards() const { return from_polar(1, angle); }
  Vec2 aside() const { return quarter_turn(outwards()); }
  /// A point of its wall: `t` [rad] goes round it, from its middle height on the counter-clockwise side upwards.
  Vec3 at(double t, const Mouth& mouth) const;
};

/// Where a tunnel of that size, height and direction goes through a loop, from the axis outwards.
struct Crossed {
  std::vector<Mouth> mouths;
  bool clean = true;  ///< false: somewhere it meets the loop at a slant, at a corner or along it
};
Crossed crossed(const curve::Outline& outline, std::size_t loop, const Tunnel& tunnel);

/// What a tunnel takes away from a body's integrals.
struct Taken {
  double volume;        ///< [mm³]
  Vec3 moment;          ///< ∫ position dV [mm⁴]
  double polar_moment;  ///< ∫ r² dV about the body's axis [mm⁵]
};
Taken taken(const Tunnel& tunnel);

}  // namespace palio::body
