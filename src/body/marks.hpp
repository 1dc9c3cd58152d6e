// Engraved marks: rows of round dots, as peening tools make them. Private to the bodies.
#pragma once

#include <string>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::body {

struct Dot {
  Vec2 at;
  double diameter;
};

/// The dots of a text in a 3 × 5 grid a letter, bent along a circle, read from the axis outwards, its middle at polar
/// angle `middle`. Digits, the point, "m" and "z"; other letters leave a gap.
std::vector<Dot> dotted_text(const std::string& text, double radius, double height, double middle);

}  // namespace palio::body
