// The opening for the shaft, and what all features say when they cannot be. Private to the bodies.
#pragma once

#include <optional>
#include <string>

#include "palio/body/features.hpp"

namespace palio::body {

std::string mm(double length);

/// \throws InvalidParameter when it does not hold
void require(bool holds, const char* name, const std::string& given, const std::string& allowed,
             const std::string& remedy);

/// A hole from its edge as it runs counter-clockwise.
curve::Outline hole_of(std::vector<curve::Segment> counter_clockwise);

/// A round bore with keyways and a flat. \throws InvalidParameter "keyway", "flat"
curve::Outline bore_outline(double radius, const Features& features);
/// "hex", "square": the key that asks for it.
const char* feature_of(const Sided& sided);
/// \throws InvalidParameter "hex", "square"
curve::Outline sided_outline(const Sided& sided);
/// \throws InvalidParameter "serration"
curve::Outline serrated_outline(const Serration& serration);
/// Whichever there is; none where there is no bore.
std::optional<curve::Outline> bore(double radius, const Features& features);

/// How far an outline's corners reach from the axis [mm].
double reach(const curve::Outline& outline);

}  // namespace palio::body
