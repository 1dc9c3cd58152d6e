// The roll about a common apex: on the unit sphere with the machinery of the plane roll, once for each end of the
// teeth.
#pragma once

#include <vector>

#include "palio/roll/roll.hpp"

namespace palio::roll {

/// Both members where they are cut at one distance from the apex: outlines by the stereographic projection about their
/// axes, motions on the sphere of that distance.
struct SphereSection {
  double distance;  ///< [mm]
  Member driver, driven;
};

/// Rolls all sections and takes them together: the driven stops where the first of them touches. A contact's height is
/// the distance of its section from the apex. \throws InvalidParameter "positions"
Result roll(const std::vector<SphereSection>& sections, const Law& law);

/// A point of the world's projection in space, on the sphere of that distance [mm].
Vec3 on_sphere(const Vec2& point, double distance);

}  // namespace palio::roll
