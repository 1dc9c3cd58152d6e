#include "triangulate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "palio/error.hpp"

namespace palio::body {
namespace {

using Numbers = std::vector<std::uint32_t>;

double turn(const Vec2& a, const Vec2& b, const Vec2& c) { return cross(b - a, c - a); }

/// Whether p lies in the triangle a, b, c (counter-clockwise) or on its border.
bool covers(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& p) { return turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0; }

/// Whether q, seen from the corner p between `before` and `after`, lies on the polygon's inside.
bool faces(const Vec2& before, const Vec2& p, const Vec2& after, const Vec2& q) {
  if (turn(before, p, after) > 0) return turn(before, p, q) >= 0 && turn(p, after, q) >= 0;
  return turn(before, p, q) > 0 || turn(p, after, q) > 0;
}

/// Joins a hole to the outer polygon by a bridge from its rightmost point to a point of the polygon that sees it.
void bridge(const std::vector<Vec2>& points, Numbers& polygon, const Numbers& hole) {
  const auto right = static_cast<std::size_t>(
      std::max_element(hole.begin(), hole.end(), [&](std::uint32_t i, std::uint32_t j) { return points[i].x() < points[j].x(); }) - hole.begin());
  const Vec2 m = points[hole[right]];
  // The nearest edge to the right of m on its height, and of its ends the one further right.
  const std::size_t n = polygon.size();
  double nearest = std::numeric_limits<double>::infinity();
  std::size_t seen = n;
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 &a = points[polygon[i]], &b = points[polygon[(i + 1) % n]];
    if (!((a.y() <= m.y() && b.y() >= m.y()) || (b.y() <= m.y() && a.y() >= m.y())) || a.y() == b.y()) continue;
    const double x = a.x() + (b.x() - a.x()) * (m.y() - a.y()) / (b.y() - a.y());
    if (x < m.x() || x >= nearest) continue;
    nearest = x;
    seen = a.x() > b.x() ? i : (i + 1) % n;
  }
  if (seen == n) throw NoConvergence("triangulation: a hole lies outside its loop");
  // A reflex corner between m, the place hit and that end hides it: then the one nearest to the ray is seen.
  const Vec2 hit(nearest, m.y()), end = points[polygon[seen]];
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 &p = points[polygon[i]], &before = points[polygon[(i + n - 1) % n]], &after = points[polygon[(i + 1) % n]];
    if (turn(before, p, after) >= 0 || p == end || p.x() < m.x()) continue;
    const bool inside = end.y() < m.y() ? covers(m, end, hit, p) : covers(m, hit, end, p);
    const double slope = std::abs(p.y() - m.y()) / (p.x() - m.x());
    if (inside && slope < least) least = slope, seen = i;
  }
  // Bridges made before leave several corners at one place: the one whose inside m lies on.
  const auto corner = [&](std::size_t i) -> const Vec2& { return points[polygon[i % n]]; };
  for (std::size_t i = 0; i < n && !faces(corner(seen + n - 1), corner(seen), corner(seen + 1), m); ++i) {
    if (polygon[i] == polygon[seen] && faces(corner(i + n - 1), corner(i), corner(i + 1), m)) seen = i;
  }
  Numbers joined(polygon.begin(), polygon.begin() + static_cast<long>(seen) + 1);
  for (std::size_t i = 0; i <= hole.size(); ++i) joined.push_back(hole[(right + i) % hole.size()]);
  joined.insert(joined.end(), polygon.begin() + static_cast<long>(seen), polygon.end());
  polygon = std::move(joined);
}

}  // namespace

std::vector<Triangle> triangulate(const std::vector<Vec2>& given, const std::vector<Numbers>& loops) {
  // Bridges are looked for along x. Parts have straight edges along x, and features side by side; turned askew, nothing
  // lies on a line with anything else.
  std::vector<Vec2> points(given.size());
  for (const Numbers& loop : loops) {
    for (const std::uint32_t i : loop) points[i] = turned(given[i], 0.7297);
  }
  Numbers polygon = loops[0];
  std::vector<Numbers> holes(loops.begin() + 1, loops.end());
  const auto rightmost = [&](const Numbers& loop) {
    double x = -std::numeric_limits<double>::infinity();
    for (const std::uint32_t i : loop) x = std::max(x, points[i].x());
    return x;
  };
  std::sort(holes.begin(), holes.end(), [&](const Numbers& a, const Numbers& b) { return rightmost(a) > rightmost(b); });
  for (const Numbers& hole : holes) bridge(points, polygon, hole);

  const std::size_t n = polygon.size();
  std::vector<std::size_t> before(n), after(n);
  for (std::size_t i = 0; i < n; ++i) before[i] = (i + n - 1) % n, after[i] = (i + 1) % n;
  const auto at = [&](std::size_t i) -> const Vec2& { return points[polygon[i]]; };
  const auto is_ear = [&](std::size_t i) {
    const Vec2 &a = at(before[i]), &b = at(i), &c = at(after[i]);
    if (!(turn(a, b, c) > 0)) return false;
    for (std::size_t k = after[after[i]]; k != before[i]; k = after[k]) {
      const Vec2& p = at(k);
      if (turn(at(before[k]), p, at(after[k])) > 0) continue;  // only reflex corners can reach in
      if (p != a && p != b && p != c) {
        if (covers(a, b, c, p)) return false;
        continue;
      }
      // Another corner at the same place, left by a bridge: its edges must not lead into the triangle.
      for (const std::size_t near : {before[k], after[k]}) {
        const Vec2& q = at(near);
        const bool leads_in = p == a   ? turn(a, b, q) > 0 && turn(a, q, c) > 0
                              : p == b ? turn(b, c, q) > 0 && turn(b, q, a) > 0
                                       : turn(c, a, q) > 0 && turn(c, q, b) > 0;
        if (leads_in) return false;
      }
    }
    return true;
  };
  std::vector<Triangle> triangles;
  triangles.reserve(n - 2);
  std::size_t left = n, i = 0, idle = 0;
  while (left > 3) {
    if (is_ear(i)) {
      triangles.push_back({polygon[before[i]], polygon[i], polygon[after[i]]});
      after[before[i]] = after[i];
      before[after[i]] = before[i];
      i = after[after[i]];  // not the next one: that would fan all triangles out from one point
      --left;
      idle = 0;
    } else {
      i = after[i];
      if (++idle > left) throw NoConvergence(fmt::format("triangulation of {} points in {} loops found no ear with {} points left", n, loops.size(), left));
    }
  }
  triangles.push_back({polygon[before[i]], polygon[i], polygon[after[i]]});
  return triangles;
}

}  // namespace palio::body
