// The roll in space: two twisted members turning about axes that may be crossed or skew.
//
// Every member is a screw surface: its plane outline turned on with the height. In the driven's own frame a point has the
// label R (distance from the axis) and, its own twist taken off, the place θ − k z: turning the driven shifts the place
// and nothing else, and its whole surface lies over one plane curve. So the way to contact is a function on the driver's
// patch (u, z) alone, g = place − place of the driven's curve at equal label; its least value is the contact: inside the
// patch where both derivatives vanish (patch–patch, three unknowns), or on an edge of either patch (edge–patch).
#pragma once

#include <Eigen/Core>

#include "palio/roll/roll.hpp"

namespace palio::roll {

/// An axis in space: own frame to world.
struct Axis {
  Vec3 origin = Vec3::Zero();
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();  ///< columns: own x, y, z
};

/// The driven's axis of a crossed pair: at distance `a` [mm] in `direction` [rad] about the driver's z, turned by
/// −`shaft_angle` [rad] about that direction, the origin moved along the own z by `offset` [mm].
Axis crossed_axis(double direction, double a, double shaft_angle, double offset = 0);

/// A twisted member; its outline is the section at its mid-face, z = 0 of its own frame.
struct Twisted {
  std::string name;
  curve::Outline outline;
  double twist;       ///< [rad/mm], right hand positive
  double face_width;  ///< [mm]
  Axis axis;
  double start;  ///< turned so at the start [rad]
};

/// Rolls through one period of the driver. The driver's axis must be the world's z; contacts are in the world, their
/// height z.
/// \throws InvalidParameter "positions"
Result roll(const Twisted& driver, const Twisted& driven, const Law& law);

}  // namespace palio::roll
