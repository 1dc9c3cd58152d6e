// Places where teeth meet that should not. Private to the pairs.
#pragma once

#include "palio/gear/teeth.hpp"

namespace palio::pair {

/// How deep a place lies in the material on the left of a chain of segments: its distance from the nearest place of the
/// chain; negative outside.
double depth_within(const std::vector<curve::Segment>& chain, const Vec2& p);

/// How deep the edge of the mate's tip runs into the root curve of `own` while the flanks run in contact [mm, along the
/// normal of that curve]; negative when it stays clear.
double tip_digs(const gear::Teeth& own, const gear::Teeth& mate, double a, double alpha_w);

/// The same of two straight bevel gears at cone distance R [mm].
double bevel_tip_digs(const gear::BevelGear& own, const gear::BevelGear& mate, double shaft_angle, double R);

/// Overlap of the tips of pinion and ring away from the mesh (theory 2.6 ii) [mm at the ring's tip circle]; negative when
/// they pass each other, −∞ when the tip circles do not cross.
double tip_fouling(const gear::CylindricalGear& pinion, const gear::CylindricalGear& ring, double a, double alpha_w);

}  // namespace palio::pair
