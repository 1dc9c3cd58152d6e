// Features by themselves, before they become loops. Private to the body.
#pragma once

#include <string>

#include "palio/body/core.hpp"
#include "palio/body/features.hpp"

namespace palio::body {

/// Whether the bore is round: no keyway, flat, hexagon, square, serrations or spline.
inline bool plain_bore(const Features& f) { return !f.keyway && !f.turns_by_wall(); }

/// The key that asks for a step of the bore.
inline const char* feature_of(const Step& s) { return s.seat ? "bore.bearing" : "bore.steps"; }

/// \throws InvalidParameter naming the feature that is out of range
void check_features(const Core& core, const Features& features);

/// A feature as messages tell it: "5 of diameter 6 mm on a circle of 40 mm".
std::string described(const Core& core, const Features& features, const std::string& feature);

}  // namespace palio::body
