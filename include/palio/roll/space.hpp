// The roll in space: two members turning about axes that need not be parallel nor meet.
//
// Every member is a surface over its plane outline: a screw surface, the outline turned on with the height, or a cone,
// the outline read as directions from an apex (stereographic projection). In the driven's own frame a point then has a
// label (distance from the axis; tan of half the cone angle) and a place (polar angle, the twist taken off) such that
// turning the driven shifts the place and nothing else, and its whole surface lies over one plane curve. So the way to
// contact is a function on the driver's patch (u, z) alone, g = place − place of the driven's curve at equal label; its
// least value is the contact: inside the patch where both derivatives vanish (patch–patch, three unknowns), or on an
// edge of either patch (edge–patch).
#pragma once

#include <Eigen/Core>
#include <functional>

#include "palio/roll/roll.hpp"

namespace palio::roll {

/// An axis in space: own frame to world.
struct Axis {
  Vec3 origin = Vec3::Zero();
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();  ///< columns: own x, y, z
};

/// The driven's axis of a crossed pair: at distance `a` [mm] in `direction` about the driver's z, turned by
/// −`shaft_angle` about that direction, the origin moved along the own z by `offset` [mm].
Axis crossed_axis(Angle direction, double a, Angle shaft_angle, double offset = 0);

/// A twisted member; its outline is the section at its mid-face, z = 0 of its own frame.
struct Twisted {
  std::string name;
  curve::Outline outline;
  double twist;       ///< [rad/mm], right hand positive
  double face_width;  ///< [mm]
  Axis axis;
  double start;  ///< turned so at the start [rad]
};

/// A member whose flanks and roots are ruled to its apex, the origin of its own frame. Its z is the cone distance: of a
/// point in the direction (δ, az) at distance d from the apex it is d cos(δ − `pitch_cone`), or d itself where the
/// pitch cone is not given.
struct Coned {
  std::string name;
  curve::Outline outline;  ///< directions, flanks as far out as anywhere along the face
  double inner, outer;     ///< cone distances of the ends [mm]
  std::optional<Angle> pitch_cone;
  std::function<double(double)> crest;  ///< label at which the flanks end, by cone distance
  Axis axis;
  double start;  ///< [rad]
};

/// Rolls through one period of the driver. The driver's axis must be the world's z; contacts are in the world, their
/// height z.
/// \throws InvalidParameter "positions"
Result roll(const Twisted& driver, const Twisted& driven, const Law& law);
/// The same of cones whose apices or axes stand wrong: without any error they touch along lines, which this does not
/// solve.
Result roll(const Coned& driver, const Coned& driven, const Law& law);

}  // namespace palio::roll
