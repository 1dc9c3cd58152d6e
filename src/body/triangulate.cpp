#include "triangulate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"

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
    cell_ = std::max(
        {std::sqrt(size.x() * size.y() / share), size.x() / 4096, size.y() / 4096, std::numeric_limits<double>::min()});
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
    if (!(sine < -math::kRounding * size)) continue;
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

/// All loops as one polygon: each hole joined to what lies around it by a bridge there and back.
Numbers bridged(const std::vector<Vec2>& points, const std::vector<Numbers>& loops) {
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
  return polygon;
}

/// Cuts ears off a polygon until a triangle is left.
class EarClipping {
 public:
  EarClipping(const std::vector<Vec2>& points, const Numbers& polygon)
      : points_(points),
        polygon_(polygon),
        before_(polygon.size()),
        after_(polygon.size()),
        clipped_(polygon.size(), false) {
    const std::size_t n = polygon.size();
    for (std::size_t i = 0; i < n; ++i)
      before_[i] = (i + n - 1) % n, after_[i] = (i + 1) % n;
    for (std::size_t i = 0; i < n; ++i)
      extent_ = std::max(extent_, (at(i) - at(0)).norm());
  }

  /// None where ears ran out before.
  std::optional<std::vector<Triangle>> triangles() {
    const ReflexCorners inward(points_, polygon_, reflex());
    // On a straight wall all corners are ears or none, by rounding alone; so much area is taken for none where no other
    // ear is left.
    const double straight = math::kRounding / 10 * extent_ * extent_;
    std::vector<Triangle> made;
    made.reserve(polygon_.size() - 2);
    std::size_t left = polygon_.size(), i = 0, idle = 0;
    double slack = 0;
    while (left > 3) {
      if (is_ear(i, slack, inward)) {
        made.push_back(corner(i));
        clipped_[i] = true;
        after_[before_[i]] = after_[i];
        before_[after_[i]] = before_[i];
        i = after_[after_[i]];  // not the next one: that would fan all triangles out from one point
        --left;
        idle = 0;
        slack = 0;
      } else {
        i = after_[i];
        if (++idle <= left) continue;
        if (slack > 0) return std::nullopt;
        slack = straight;
        idle = 0;
      }
    }
    made.push_back(corner(i));
    return made;
  }

  /// Whether triangles cover the polygon's area, no more and no less.
  void check(const std::vector<Triangle>& made) const {
    double covered = 0, wanted = 0;
    for (const Triangle& t : made)
      covered += 0.5 * std::abs(turn(points_[t[0]], points_[t[1]], points_[t[2]]));
    for (std::size_t k = 0; k < polygon_.size(); ++k)
      wanted += 0.5 * cross(Vec2(at(k) - at(0)), Vec2(at((k + 1) % polygon_.size()) - at(0)));
    if (!(std::abs(covered - wanted) <= math::kAlike * extent_ * extent_)) {
      throw NoConvergence(
          fmt::format("triangulation of {} points covers {:.9g} mm² of {:.9g}", polygon_.size(), covered, wanted));
    }
  }

 private:
  const Vec2& at(std::size_t i) const { return points_[polygon_[i]]; }
  Triangle corner(std::size_t i) const { return {polygon_[before_[i]], polygon_[i], polygon_[after_[i]]}; }

  /// Corners that reach in, and those straight but for rounding: they may become reflex when an ear beside them goes.
  std::vector<std::size_t> reflex() const {
    std::vector<std::size_t> all;
    for (std::size_t i = 0; i < polygon_.size(); ++i) {
      if (turn(at(before_[i]), at(i), at(after_[i])) <=
          math::kRounding * (at(i) - at(before_[i])).norm() * (at(after_[i]) - at(i)).norm())
        all.push_back(i);
    }
    return all;
  }

  bool is_ear(std::size_t i, double slack, const ReflexCorners& inward) const {
    const Vec2 &a = at(before_[i]), &b = at(i), &c = at(after_[i]);
    if (!(turn(a, b, c) > -slack)) return false;
    const auto reaches_in = [&](std::size_t k) {
      if (clipped_[k] || k == i || k == before_[i] || k == after_[i]) return false;
      const Vec2& p = at(k);
      if (turn(at(before_[k]), p, at(after_[k])) > 0) return false;  // only reflex corners can reach in
      if (p != a && p != b && p != c) {
        if (slack > 0) return turn(a, b, p) > slack && turn(b, c, p) > slack && turn(c, a, p) > slack;
        return covers(a, b, c, p);
      }
      // Another corner at the same place, left by a bridge: its edges must not lead into the triangle.
      for (const std::size_t near : {before_[k], after_[k]}) {
        const Vec2& q = at(near);
        const bool leads_in = p == a   ? turn(a, b, q) > slack && turn(a, q, c) > slack
                              : p == b ? turn(b, c, q) > slack && turn(b, q, a) > slack
                                       : turn(c, a, q) > slack && turn(c, q, b) > slack;
        if (leads_in) return true;
      }
      return false;
    };
    return !inward.any(a.cwiseMin(b).cwiseMin(c), a.cwiseMax(b).cwiseMax(c), reaches_in);
  }

  const std::vector<Vec2>& points_;
  const Numbers& polygon_;
  std::vector<std::size_t> before_, after_;  // corners that are not clipped yet
  std::vector<bool> clipped_;
  double extent_ = 0;
};

}  // namespace

std::vector<Triangle> triangulate(const std::vector<Vec2>& given, const std::vector<Numbers>& loops) {
  // Bridges are looked for along x. Parts have straight edges along x, and features side by side; turned askew, nothing
  // lies on a line with anything else.
  std::vector<Vec2> points(given.size());
  for (const Numbers& loop : loops) {
    for (const std::uint32_t i : loop)
      points[i] = turned(given[i], 0.7297);
  }
  const Numbers polygon = bridged(points, loops);
  EarClipping clipping(points, polygon);
  std::optional<std::vector<Triangle>> triangles = clipping.triangles();
  if (!triangles) {
    throw NoConvergence(
        fmt::format("triangulation of {} points in {} loops found no more ears", polygon.size(), loops.size()));
  }
  widen(points, *triangles);
  clipping.check(*triangles);
  return std::move(*triangles);
}

}  // namespace palio::body
