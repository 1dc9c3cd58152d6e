// What flat pictures show of bevel gears. Private to the views.
#pragma once

#include <vector>

#include "palio/body/conical.hpp"
#include "palio/gear/bevel.hpp"

namespace palio::view {

/// Half of a cut through the axis: points (radius, height), the apex at the origin.
struct Meridian {
  std::vector<Vec2> blank, tooth;
};
Meridian meridian(const body::ConicalBody& body);

/// A point of a back cone rolled out into the plane: the pitch point is the origin, x points out of the teeth, y with
/// the azimuth counted from there; `away` is the height across the pitch cone.
Vec2 developed(const gear::BevelGear& gear, double cone_angle, double azimuth);

/// The heel's edge rolled out, teeth whose middle lies within `span` [mm] of the pitch point, turned so that `turn` is
/// added to all azimuths.
std::vector<Vec2> developed_teeth(const gear::BevelGear& gear, double turn, double span);

}  // namespace palio::view
