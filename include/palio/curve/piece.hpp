// A straight piece of an outline that is known by its points alone.
#pragma once

#include "palio/math/vec.hpp"

namespace palio::curve {

/// With the material on its left [mm].
struct Piece {
  Vec2 from, to;
};

}  // namespace palio::curve
