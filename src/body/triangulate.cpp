#include "triangulate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "palio/error.hpp"
#include "palio/math/extent.hpp"

namespace palio::body {
namespace {

using Numbers = std::vector<std::uint32_t>;

double turn(const Vec2& a, const Vec2& b, const Vec2& c) { return cross(b - a, c - a); }

/// Whether p lies in the triangle a, b, c (counter-clockwise) or on its border.
bool covers(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& p) {
  return turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0;
}

/// Whether q, seen from the corner p between `before` and `after`, lies on the polygon's inside.
bool faces(const Vec2& before, const Vec2& p, const Vec2& after, const Vec2& q) {
  if (turn(before, p, after) > 0) return turn(before, p, q) >= 0 && turn(p, after, q) >= 0;
  return turn(before, p, q) > 0 || turn(p, after, q) > 0;
}

/// Joins a hole to the outer polygon by a bridge from its rightmost point to a point of the polygon that sees it.
void bridge(const std::vector<Vec2>& points, Numbers& polygon, const Numbers& hole) {
  const auto right = static_cast<std::size_t>(
      std::max_element(hole.begin(), hole.end(),
                       [&](std::uint32_t i, std::uint32_t j) { return points[i].x() < points[j].x(); }) -
      hole.begin());
  const Vec2 m = points[hole[right]];
  // The nearest edge to the right of m on its height, and of its ends the one further right.
  const std::size_t n = polygon.size();
  double nearest = math::kInfinite;
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
  double least = math::kInfinite;
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 &p = points[polygon[i]], &before = points[polygon[(i + n - 1) % n]],
               &after = points[polygon[(i + 1) % n]];
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
  for (std::size_t i = 0; i <= hole.size(); ++i)
    joined.push_back(hole[(right + i) % hole.size()]);
  joined.insert(joined.end(), polygon.begin() + static_cast<long>(seen), polygon.end());
  polygon = std::move(joined);
}

}  // namespace

namespace {

/// Corners of the polygon that reach inwards, by cells of a square grid: which of them a triangle may cover is then
/// asked of a few, not of all.
class ReflexCorners {
 public:
  ReflexCorners(const std::vector<Vec2>& points, const Numbers& polygon, const std::vector<std::size_t>& reflex) {
    low_ = high_ = points[polygon[0]];
    for (const std::uint32_t v : polygon) {
      low_ = low_.cwiseMin(points[v]);
      high_ = high_.cwiseMax(points[v]);
    }
    const Vec2 size = high_ - low_;
    const double share = std::max(1.0, static_cast<double>(reflex.size()));
    cell_ = std::max({std::sqrt(size.x() * size.y() / share), size.x() / 4096, size.y() / 4096, 1e-300});
    columns_ = static_cast<std::size_t>(size.x() / cell_) + 1;
    rows_ = static_cast<std::size_t>(size.y() / cell_) + 1;
    cells_.resize(columns_ * rows_);
    for (const std::size_t i : reflex) {
      const Vec2& p = points[polygon[i]];
      cells_[row(p.y()) * columns_ + column(p.x())].push_back(i);
    }
  }

  /// Whether `test` holds for one of the corners within a box.
  template <class Test>
  bool any(const Vec2& low, const Vec2& high, Test test) const {
    for (std::size_t r = row(low.y()); r <= row(high.y()); ++r) {
      for (std::size_t c = column(low.x()); c <= column(high.x()); ++c) {
        for (const std::size_t i : cells_[r * columns_ + c]) {
          if (test(i)) return true;
        }
      }
    }
    return false;
  }

 private:
  std::size_t column(double x) const { return place(x - low_.x(), columns_); }
  std::size_t row(double y) const { return place(y - low_.y(), rows_); }
  std::size_t place(double way, std::size_t count) const {
    return way <= 0 ? 0 : std::min(count - 1, static_cast<std::size_t>(way / cell_));
  }

  Vec2 low_, high_;
  double cell_ = 1;
  std::size_t columns_ = 1, rows_ = 1;
  std::vector<std::vector<std::size_t>> cells_;
};

/// Triangles with as wide angles as can be: an edge whose two opposite angles make more than half a turn is turned over
/// in its quadrangle (Lawson's flips). So the triangles without area that lie along straight walls go.
void widen(const std::vector<Vec2>& points, std::vector<Triangle>& triangles) {
  constexpr std::uint32_t kNone = std::numeric_limits<std::uint32_t>::max();
  // Edge k of triangle t runs from its corner k to the next one; the number of the same edge seen from the other side.
  const std::size_t edges = 3 * triangles.size();
  std::vector<std::uint32_t> twin(edges, kNone);
  {
    std::vector<std::pair<std::uint64_t, std::uint32_t>> all(edges);
    for (std::uint32_t e = 0; e < edges; ++e) {
      const std::uint64_t from = triangles[e / 3][e % 3], to = triangles[e / 3][(e + 1) % 3];
      all[e] = {std::min(from, to) << 32 | std::max(from, to), e};
    }
    std::sort(all.begin(), all.end());
    for (std::size_t i = 0; i + 1 < edges; ++i) {
      if (all[i].first != all[i + 1].first) continue;
      twin[all[i].second] = all[i + 1].second;
      twin[all[i + 1].second] = all[i].second;
    }
  }
  const auto corner = [&](std::uint32_t e) { return triangles[e / 3][e % 3]; };
  const auto next = [](std::uint32_t e) { return e % 3 == 2 ? e - 2 : e + 1; };
  const auto join = [&](std::uint32_t e, std::uint32_t other) {
    twin[e] = other;
    if (other != kNone) twin[other] = e;
  };
  std::vector<std::uint32_t> open;
  for (std::uint32_t e = 0; e < edges; ++e) {
    if (twin[e] != kNone && twin[e] > e) open.push_back(e);
  }
  // Each turning over makes the least angle wider; rounding could still go round in circles: so it is bounded.
  for (std::size_t turned_over = 0; !open.empty() && turned_over < 40 * edges;) {
    const std::uint32_t e = open.back(), f = twin[e];
    open.pop_back();
    if (f == kNone) continue;
    const std::uint32_t a = corner(e), b = corner(f), c = corner(next(next(e))), d = corner(next(next(f)));
    const Vec2 ca = points[a] - points[c], cb = points[b] - points[c], da = points[a] - points[d],
               db = points[b] - points[d];
    // sin of the sum of the angles at c and d, times the four lengths.
    const double sine = cross(ca, cb) * da.dot(db) + ca.dot(cb) * cross(db, da);
    const double size = std::sqrt(ca.squaredNorm() * cb.squaredNorm() * da.squaredNorm() * db.squaredNorm());
    if (!(sine < -1e-12 * size)) continue;
    // The quadrangle a d b c must be convex, or the other diagonal would leave it.
    const Vec2 cd = points[d] - points[c];
    if (!(cross(ca, cd) > 0 && cross(cd, cb) > 0)) continue;
    const std::uint32_t e1 = next(e), e2 = next(e1), f1 = next(f), f2 = next(f1);
    const std::uint32_t bc = twin[e1], ca_side = twin[e2], ad = twin[f1], db_side = twin[f2];
    triangles[e / 3][e % 3] = d, triangles[e / 3][e1 % 3] = b, triangles[e / 3][e2 % 3] = c;
    triangles[f / 3][f % 3] = c, triangles[f / 3][f1 % 3] = a, triangles[f / 3][f2 % 3] = d;
    join(e, db_side), join(e1, bc), join(e2, f2), join(f, ca_side), join(f1, ad);
    for (const std::uint32_t side : {e, e1, f, f1})
      open.push_back(side);
    ++turned_over;
  }
}

}  // namespace

std::vector<Triangle> triangulate(const std::vector<Vec2>& given, const std::vector<Numbers>& loops) {
  // Bridges are looked for along x. Parts have straight edges along x, and features side by side; turned askew, nothing
  // lies on a line with anything else.
  std::vector<Vec2> points(given.size());
  for (const Numbers& loop : loops) {
    for (const std::uint32_t i : loop)
      points[i] = turned(given[i], 0.7297);
  }
  Numbers polygon = loops[0];
  std::vector<Numbers> holes(loops.begin() + 1, loops.end());
  const auto rightmost = [&](const Numbers& loop) {
    double x = -math::kInfinite;
    for (const std::uint32_t i : loop)
      x = std::max(x, points[i].x());
    return x;
  };
  std::sort(holes.begin(), holes.end(),
            [&](const Numbers& a, const Numbers& b) { return rightmost(a) > rightmost(b); });
  for (const Numbers& hole : holes)
    bridge(points, polygon, hole);

  const std::size_t n = polygon.size();
  std::vector<std::size_t> before(n), after(n);
  for (std::size_t i = 0; i < n; ++i)
    before[i] = (i + n - 1) % n, after[i] = (i + 1) % n;
  const auto at = [&](std::size_t i) -> const Vec2& { return points[polygon[i]]; };
  std::vector<bool> clipped(n, false);
  std::vector<std::size_t> reflex;
  double extent = 0;
  for (std::size_t i = 0; i < n; ++i) {
    extent = std::max(extent, (at(i) - at(0)).norm());
    // Those straight but for rounding too: they may become reflex when an ear beside them goes.
    if (turn(at(before[i]), at(i), at(after[i])) <=
        1e-12 * (at(i) - at(before[i])).norm() * (at(after[i]) - at(i)).norm())
      reflex.push_back(i);
  }
  const ReflexCorners inward(points, polygon, reflex);
  // On a straight wall all corners are ears or none, by rounding alone; so much area is taken for none where no other
  // ear is left.
  const double straight = 1e-13 * extent * extent;
  const auto is_ear = [&](std::size_t i, double slack) {
    const Vec2 &a = at(before[i]), &b = at(i), &c = at(after[i]);
    if (!(turn(a, b, c) > -slack)) return false;
    const auto reaches_in = [&](std::size_t k) {
      if (clipped[k] || k == i || k == before[i] || k == after[i]) return false;
      const Vec2& p = at(k);
      if (turn(at(before[k]), p, at(after[k])) > 0) return false;  // only reflex corners can reach in
      if (p != a && p != b && p != c) {
        if (slack > 0) return turn(a, b, p) > slack && turn(b, c, p) > slack && turn(c, a, p) > slack;
        return covers(a, b, c, p);
      }
      // Another corner at the same place, left by a bridge: its edges must not lead into the triangle.
      for (const std::size_t near : {before[k], after[k]}) {
        const Vec2& q = at(near);
        const bool leads_in = p == a   ? turn(a, b, q) > slack && turn(a, q, c) > slack
                              : p == b ? turn(b, c, q) > slack && turn(b, q, a) > slack
                                       : turn(c, a, q) > slack && turn(c, q, b) > slack;
        if (leads_in) return true;
      }
      return false;
    };
    return !inward.any(a.cwiseMin(b).cwiseMin(c), a.cwiseMax(b).cwiseMax(c), reaches_in);
  };
  std::vector<Triangle> triangles;
  triangles.reserve(n - 2);
  std::size_t left = n, i = 0, idle = 0;
  double slack = 0;
  while (left > 3) {
    if (is_ear(i, slack)) {
      triangles.push_back({polygon[before[i]], polygon[i], polygon[after[i]]});
      clipped[i] = true;
      after[before[i]] = after[i];
      before[after[i]] = before[i];
      i = after[after[i]];  // not the next one: that would fan all triangles out from one point
      --left;
      idle = 0;
      slack = 0;
    } else {
      i = after[i];
      if (++idle <= left) continue;
      if (slack > 0)
        throw NoConvergence(fmt::format("triangulation of {} points in {} loops found no ear with {} points left", n,
                                        loops.size(), left));
      slack = straight;
      idle = 0;
    }
  }
  triangles.push_back({polygon[before[i]], polygon[i], polygon[after[i]]});
  widen(points, triangles);
  double covered = 0, wanted = 0;
  for (const Triangle& t : triangles)
    covered += 0.5 * std::abs(turn(points[t[0]], points[t[1]], points[t[2]]));
  for (std::size_t k = 0; k < n; ++k)
    wanted += 0.5 * cross(Vec2(at(k) - at(0)), Vec2(at((k + 1) % n) - at(0)));
  if (!(std::abs(covered - wanted) <= 1e-9 * extent * extent)) {
    throw NoConvergence(fmt::format("triangulation of {} points in {} loops covers {:.9g} mm² of {:.9g}", n,
                                    loops.size(), covered, wanted));
  }
  return triangles;
}

}  // namespace palio::body
