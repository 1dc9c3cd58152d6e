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
/// \throws InvalidParameter "hex"
curve::Outline hexagon(const Hex& hex);
/// The one or the other; none where there is neither.
std::optional<curve::Outline> bore(double radius, const Features& features);

/// How far an outline's corners reach from the axis [mm].
double reach(const curve::Outline& outline);

}  // namespace palio::body
