// Convex bodies by their support: how deep two of them, however they stand, run into each other.
#pragma once

#include <functional>
#include <optional>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::job {

/// Lengths in mm, places in space.
struct Convex {
  std::function<Vec3(const Vec3&)> furthest;  ///< of its points the one that lies furthest in a direction
  Vec3 middle;                                ///< within it
  double reach;                               ///< no point lies further from there
};

/// Where something turns: a point of the axis from which heights count, its direction.
struct Spin {
  Vec3 foot = Vec3::Zero(), along = Vec3::UnitZ();
};

/// A point of a profile that is turned about an axis: radius and height [mm].
struct Turned {
  double radius, height;
};

/// The hull of what a profile sweeps: a cylinder, a cone, a truncated one.
Convex turned_about(const Spin& spin, const std::vector<Turned>& profile);

/// A ring as convex pieces, each the part beyond a chord that touches its hole: between two neighbouring ones as much
/// of it is left out at the hole as a hundredth of a per cent of the hole's radius.
std::vector<Convex> ring_about(const Spin& spin, double inner, double outer, double low, double high);

/// The hull of some points.
Convex hull_of(std::vector<Vec3> corners);

/// The hull of discs in one plane, as high as a plate.
struct Disc {
  Vec2 at;
  double radius;
};
Convex plate_of(const Vec3& origin, const Eigen::Matrix3d& axes, std::vector<Disc> discs, double low, double high);

struct Contact {
  double depth;  ///< by how much they have to be moved apart, the shortest way [mm]
  Vec3 apart;    ///< which way the second one has to go
  Vec3 at;       ///< about where they meet
};
/// None where they keep clear, touch, or are no deeper in each other than `more_than` [mm].
std::optional<Contact> overlap(const Convex& a, const Convex& b, double more_than = 0);

}  // namespace palio::job
