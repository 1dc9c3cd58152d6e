// Plain polygons, for holding drawn shapes against each other without any of palio's own geometry.
#pragma once

#include <algorithm>
#include <cmath>
#include <vector>

#include "palio/angle.hpp"
#include "palio/math/vec.hpp"

namespace palio::test {

using Loop = std::vector<Vec2>;

/// Whether a point lies inside, by counting the edges to its right; several loops: an even number of them is outside.
inline bool inside(const std::vector<Loop>& loops, const Vec2& p) {
  bool in = false;
  for (const Loop& loop : loops) {
    for (std::size_t i = 0, j = loop.size() - 1; i < loop.size(); j = i++) {
      const Vec2 &a = loop[i], &b = loop[j];
      if ((a.y() > p.y()) != (b.y() > p.y()) && p.x() < (b.x() - a.x()) * (p.y() - a.y()) / (b.y() - a.y()) + a.x())
        in = !in;
    }
  }
  return in;
}

/// Distance of a point from the nearest edge.
inline double distance(const std::vector<Loop>& loops, const Vec2& p) {
  double least = 1e300;
  for (const Loop& loop : loops) {
    for (std::size_t i = 0, j = loop.size() - 1; i < loop.size(); j = i++) {
      const Vec2 along = loop[j] - loop[i];
      const double t = std::clamp((p - loop[i]).dot(along) / std::max(1e-300, along.squaredNorm()), 0.0, 1.0);
      least = std::min(least, (loop[i] + t * along - p).norm());
    }
  }
  return least;
}

/// The parts of loops near a place, as single edges: quick to look at again and again.
inline std::vector<Loop> near(const std::vector<Loop>& loops, const Vec2& place, double reach) {
  std::vector<Loop> edges;
  for (const Loop& loop : loops) {
    for (std::size_t i = 0, j = loop.size() - 1; i < loop.size(); j = i++) {
      if ((loop[i] - place).norm() < reach || (loop[j] - place).norm() < reach) edges.push_back({loop[j], loop[i]});
    }
  }
  return edges;
}

inline std::vector<Loop> placed(std::vector<Loop> loops, double turn, const Vec2& at) {
  for (Loop& loop : loops) {
    for (Vec2& p : loop)
      p = turned(p, turn) + at;
  }
  return loops;
}

}  // namespace palio::test
