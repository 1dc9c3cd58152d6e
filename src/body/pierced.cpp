// A wall is cut into upright strips by its rings' points. Where a mouth reaches over a strip's side, its rim has
// vertices on that side; so what is left of each strip is one or more polygons of its own, and no triangle leaves it.
#include "pierced.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/polygon.hpp"
#include "triangulate.hpp"

namespace palio::body {
namespace {

/// A side of a strip that lies so near a mouth's own end would leave slivers there: it is led past at this share of
/// the radius.
constexpr double kNearEnd = 1e-3, kLedPast = 1 - kNearEnd / 2;

class Pierced {
 public:
  Pierced(TriangleMesh& mesh, const Upright& wall, std::vector<Rim>& rims, double chord_error)
      : mesh_(mesh), wall_(wall), lines_(wall.count), edges_(wall.count) {
    for (Rim& rim : rims)
      lay(rim, chord_error);
    for (std::size_t i = 0; i < wall_.count; ++i)
      std::sort(lines_[i].begin(), lines_[i].end(),
                [&](std::uint32_t a, std::uint32_t b) { return mesh_.vertices[a].z() < mesh_.vertices[b].z(); });
    for (std::size_t i = 0; i < wall_.count; ++i)
      strip(i);
  }
  double further() const { return further_; }

 private:
  std::size_t after(std::size_t i) const { return (i + 1) % wall_.count; }
  const Vec3& low(std::size_t i) const { return mesh_.vertices[wall_.low + i]; }

  /// Beside the tunnel's axis, of a ring's point that lies on the mouth's wall; none of others.
  std::optional<double> beside(const Rim& rim, std::size_t i) const {
    constexpr double kOnWall = 1e-6;  // [mm]
    const Vec2 p = low(i).head<2>();
    const double out = p.dot(rim.tunnel->outwards());
    const double off = (rim.mouth->round ? p.norm() : out) - rim.mouth->distance;
    if (out <= 0 || std::abs(off) > kOnWall) return std::nullopt;
    return p.dot(rim.tunnel->aside());
  }

  /// Where a strip's side goes past a rim; as it is where it does not cross it.
  static double led(double beside, double radius) {
    return std::abs(beside) < radius * (1 + kNearEnd) ? std::clamp(beside, -radius * kLedPast, radius * kLedPast)
                                                      : beside;
  }

  void lay(Rim& rim, double chord_error) {
    const double radius = rim.tunnel->radius;
    struct Point {
      double t;
      std::optional<std::size_t> line;
    };
    std::vector<Point> points;
    for (std::size_t i = 0; i < wall_.count; ++i) {
      const std::optional<double> y = beside(rim, i);
      if (!y || std::abs(*y) >= radius * (1 + kNearEnd)) continue;
      const double along = led(*y, radius), t = std::acos(along / radius);
      if (rim.mouth->round && along != *y) {
        const double width = (low(after(i)) - low(i)).norm(), wider = width + std::abs(along - *y);
        further_ = std::max(further_, (wider * wider - width * width) / (8 * rim.mouth->distance));
      }
      points.push_back({t, i}), points.push_back({2 * kPi - t, i});
    }
    const std::size_t forced = points.size();
    // Triangles of the tunnel reach over little more than two steps.
    constexpr double kFiner = 1.6, kKeepsOff = 0.25;
    const double step = std::acos(1 - std::min(1.0, chord_error / radius)) / kFiner;
    const int count = std::max(16, static_cast<int>(std::ceil(2 * kPi / step)));
    for (int k = 0; k < count; ++k) {
      const double t = 2 * kPi * k / count;
      const bool free = std::none_of(
          points.begin(), points.begin() + static_cast<std::ptrdiff_t>(forced),
          [&](const Point& p) { return std::abs(std::remainder(p.t - t, 2 * kPi)) < kKeepsOff * 2 * kPi / count; });
      if (free) points.push_back({t, std::nullopt});
    }
    std::sort(points.begin(), points.end(), [](const Point& a, const Point& b) { return a.t < b.t; });
    for (const Point& p : points) {
      rim.at.push_back(p.t);
      rim.vertices.push_back(static_cast<std::uint32_t>(mesh_.vertices.size()));
      mesh_.vertices.push_back(rim.tunnel->at(p.t, *rim.mouth));
      if (p.line) lines_[*p.line].push_back(rim.vertices.back());
    }
    for (std::size_t k = 0; k < points.size(); ++k) {
      const std::size_t next = (k + 1) % points.size();
      const double t = (points[k].t + points[next].t + (next == 0 ? 2 * kPi : 0)) / 2;
      give_to_strip(rim, radius * std::cos(t), rim.vertices[k], rim.vertices[next]);
    }
  }

  /// An edge of a rim, in the sense that has the material on its left as the wall is seen from outside.
  void give_to_strip(const Rim& rim, double y, std::uint32_t from, std::uint32_t to) {
    for (std::size_t i = 0; i < wall_.count; ++i) {
      const std::optional<double> a = beside(rim, i), b = beside(rim, after(i));
      if (!a || !b) continue;
      const double ya = led(*a, rim.tunnel->radius), yb = led(*b, rim.tunnel->radius);
      if (std::min(ya, yb) > y || y >= std::max(ya, yb)) continue;
      if (yb > ya) std::swap(from, to);
      edges_[i].emplace_back(from, to);
      return;
    }
    throw NoConvergence("a hole across does not lie within its wall");
  }

  void strip(std::size_t i) {
    const std::size_t j = after(i);
    const auto low_i = static_cast<std::uint32_t>(wall_.low + i), low_j = static_cast<std::uint32_t>(wall_.low + j),
               high_i = static_cast<std::uint32_t>(wall_.high + i), high_j = static_cast<std::uint32_t>(wall_.high + j);
    if (edges_[i].empty() && lines_[i].empty() && lines_[j].empty()) {
      mesh_.triangles.push_back({low_i, low_j, high_j});
      mesh_.triangles.push_back({low_i, high_j, high_i});
      return;
    }
    std::map<std::uint32_t, std::uint32_t> next(edges_[i].begin(), edges_[i].end());
    next[low_i] = low_j, next[high_j] = high_i;
    // Sides stand on material from the lower ring to the first mouth, from there to the next …
    const auto side = [&](std::uint32_t bottom, const std::vector<std::uint32_t>& line, std::uint32_t top, bool up) {
      std::vector<std::uint32_t> all{bottom};
      all.insert(all.end(), line.begin(), line.end());
      all.push_back(top);
      for (std::size_t k = 0; k + 1 < all.size(); k += 2)
        up ? next[all[k]] = all[k + 1] : next[all[k + 1]] = all[k];
    };
    side(low_j, lines_[j], high_j, true);
    side(low_i, lines_[i], high_i, false);
    fill(next, i, j);
  }

  /// Triangles of what the edges of a strip go round.
  void fill(std::map<std::uint32_t, std::uint32_t>& next, std::size_t i, std::size_t j) {
    std::vector<std::uint32_t> vertices;
    std::vector<Vec2> points;  // along the strip and upwards
    const Vec2 from = low(i).head<2>(), along = (low(j).head<2>() - from).normalized();
    std::vector<std::vector<std::uint32_t>> outer, holes;
    while (!next.empty()) {
      std::vector<std::uint32_t> round;
      std::uint32_t v = next.begin()->first;
      for (auto it = next.find(v); it != next.end(); it = next.find(v)) {
        round.push_back(static_cast<std::uint32_t>(points.size()));
        points.emplace_back((mesh_.vertices[v].head<2>() - from).dot(along), mesh_.vertices[v].z());
        vertices.push_back(v);
        v = it->second;
        next.erase(it);
      }
      double area = 0;
      for (std::size_t k = 0; k < round.size(); ++k)
        area += cross(points[round[k]], points[round[(k + 1) % round.size()]]);
      (area > 0 ? outer : holes).push_back(std::move(round));
    }
    for (const std::vector<std::uint32_t>& around : outer) {
      std::vector<std::vector<std::uint32_t>> loops{around};
      for (const std::vector<std::uint32_t>& hole : holes) {
        const auto corner = [&](std::size_t k) -> const Vec2& { return points[around[k]]; };
        if (outer.size() == 1 || math::in_polygon(around.size(), corner, points[hole.front()])) loops.push_back(hole);
      }
      for (const Triangle& t : triangulate(points, loops))
        mesh_.triangles.push_back({vertices[t[0]], vertices[t[1]], vertices[t[2]]});
    }
  }

  TriangleMesh& mesh_;
  const Upright& wall_;
  std::vector<std::vector<std::uint32_t>> lines_;                            // of vertices above each ring's point
  std::vector<std::vector<std::pair<std::uint32_t, std::uint32_t>>> edges_;  // of rims, within each strip
  double further_ = 0;
};

}  // namespace

double add_pierced(TriangleMesh& mesh, const Upright& wall, std::vector<Rim>& rims, double chord_error) {
  return Pierced(mesh, wall, rims, chord_error).further();
}

double add_tunnel(TriangleMesh& mesh, const Rim& inner, const Rim& outer) {
  // Both rims go round once; the one that is behind goes on.
  const std::size_t n = inner.at.size(), m = outer.at.size();
  const auto angle = [](const Rim& rim, std::size_t k) {
    const std::size_t round = k / rim.at.size();
    return rim.at[k % rim.at.size()] + 2 * kPi * static_cast<double>(round);
  };
  double widest = 0;
  for (std::size_t a = 0, b = 0; a < n || b < m;) {
    const double next_a = angle(inner, a + 1), next_b = angle(outer, b + 1);
    const std::uint32_t in = inner.vertices[a % n], out = outer.vertices[b % m];
    const bool inner_goes = b == m || (a < n && next_a < next_b);
    const double from = std::min(angle(inner, a), angle(outer, b));
    widest =
        std::max(widest, (inner_goes ? std::max(next_a, angle(outer, b)) : std::max(next_b, angle(inner, a))) - from);
    if (inner_goes)
      mesh.triangles.push_back({in, out, inner.vertices[++a % n]});
    else
      mesh.triangles.push_back({in, out, outer.vertices[++b % m]});
  }
  return inner.tunnel->radius * (1 - std::cos(widest / 2));
}

}  // namespace palio::body
