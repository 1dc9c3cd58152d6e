// The curves of a tooth as parametric equations with their numbers filled in, for people who model elsewhere.
#pragma once

#include <string>

#include "palio/curve/profile.hpp"

namespace palio::write {

/// A name as C and Python take it for a function: letters, digits and _.
std::string identifier(const std::string& name);

/// Equations of one period of an outline, piece by piece in the order of traversal, each with its range of the
/// parameter and check points at its ends and in its middle, worked out from the exact curve. \param language  "text"
/// (plain mathematics), "c" or "python" (functions that can be compiled or run as they are) \param pieces    every
/// curve is cut into so many ranges \param mm_per_unit, unit  of the lengths printed
std::string formulas(const std::string& name, const curve::Outline& outline, const std::string& language, int pieces,
                     double mm_per_unit, const std::string& unit);

}  // namespace palio::write
