// A gear's end face is cut into one sector a tooth, down to a ring of points between root and bore, and the region
// inside that ring. The sector is triangulated once and repeated: its triangles depend on the period only.
#include "palio/body/mesh.hpp"

#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "triangulate.hpp"

namespace palio::body {
namespace {

/// An outline as points: those of its first period, repeated.
struct Polygon {
  std::vector<Vec2> points;
  std::size_t per_period;
  double deviation;
};

Polygon polygon(const curve::Outline& outline, double chord_error) {
  Polygon result{{}, 0, 0};
  for (const curve::Segment& s : outline.period) {
    const curve::Chords chords = curve::flatten(s, chord_error);
    result.deviation = std::max(result.deviation, chords.deviation);
    for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) result.points.push_back(s.point(chords.at[i]));
  }
  result.per_period = result.points.size();
  result.points.reserve(result.per_period * outline.count);
  for (int copy = 1; copy < outline.count; ++copy) {
    const double turn = copy * outline.pitch(), c = std::cos(turn), s = std::sin(turn);
    for (std::size_t i = 0; i < result.per_period; ++i) {
      const Vec2 p = result.points[i];
      result.points.emplace_back(c * p.x() - s * p.y(), s * p.x() + c * p.y());
    }
  }
  return result;
}

using Numbers = std::vector<std::uint32_t>;

Numbers run(std::size_t from, std::size_t count) {
  Numbers all(count);
  for (std::size_t i = 0; i < count; ++i) all[i] = static_cast<std::uint32_t>(from + i);
  return all;
}

/// Triangles of one end face over `points` (outer loop first, then the holes); may add a ring of inner points.
std::vector<Triangle> face(std::vector<Vec2>& points, const Polygon& outer, int count, const std::vector<Numbers>& holes) {
  double least = 1e300, greatest_hole = 0;
  for (std::size_t i = 0; i < outer.per_period; ++i) least = std::min(least, outer.points[i].norm());
  for (const Numbers& hole : holes) {
    for (const std::uint32_t n : hole) greatest_hole = std::max(greatest_hole, points[n].norm());
  }
  // The ring's chords have to stay outside the holes, with room to spare.
  const double inner = greatest_hole / std::cos(kPi / count);
  if (count < 5 || inner > 0.97 * least) {
    std::vector<Numbers> loops{run(0, outer.points.size())};
    loops.insert(loops.end(), holes.begin(), holes.end());
    return triangulate(points, loops);
  }
  const double radius = 0.5 * (inner + least);
  const std::size_t ring = points.size(), n = outer.per_period;
  for (int k = 0; k < count; ++k) points.push_back(radius / outer.points[0].norm() * outer.points[k * n]);

  Numbers sector = run(0, n + 1);  // one period and the first point of the next
  sector.push_back(static_cast<std::uint32_t>(ring + 1));
  sector.push_back(static_cast<std::uint32_t>(ring));
  std::vector<Triangle> all;
  const std::vector<Triangle> one = triangulate(points, {sector});
  const std::size_t total = n * count;
  for (int k = 0; k < count; ++k) {
    for (Triangle t : one) {
      for (std::uint32_t& v : t) {
        v = static_cast<std::uint32_t>(v < ring ? (v + k * n) % total : ring + (v - ring + k) % count);
      }
      all.push_back(t);
    }
  }
  std::vector<Numbers> loops{run(ring, count)};
  loops.insert(loops.end(), holes.begin(), holes.end());
  const std::vector<Triangle> middle = triangulate(points, loops);
  all.insert(all.end(), middle.begin(), middle.end());
  return all;
}

}  // namespace

TriangleMesh mesh(const Layer& layer, double chord_error) {
  const Polygon outer = polygon(layer.outer, chord_error);
  TriangleMesh result;
  result.deviation = outer.deviation;
  std::vector<Vec2> points = outer.points;
  std::vector<Numbers> loops{run(0, points.size())}, holes;
  for (const curve::Outline& hole : layer.holes) {
    const Polygon p = polygon(hole, chord_error);
    result.deviation = std::max(result.deviation, p.deviation);
    holes.push_back(run(points.size(), p.points.size()));
    loops.push_back(holes.back());
    points.insert(points.end(), p.points.begin(), p.points.end());
  }
  const std::vector<Triangle> cap = face(points, outer, layer.outer.count, holes);

  const auto up = static_cast<std::uint32_t>(points.size());
  result.vertices.reserve(2 * points.size());
  for (const double z : {layer.bottom, layer.top}) {
    for (const Vec2& p : points) result.vertices.emplace_back(p.x(), p.y(), z);
  }
  result.triangles.reserve(2 * cap.size() + 2 * points.size());
  for (const Triangle& t : cap) {
    result.triangles.push_back({t[0], t[2], t[1]});
    result.triangles.push_back({t[0] + up, t[1] + up, t[2] + up});
  }
  for (const Numbers& loop : loops) {
    for (std::size_t i = 0; i < loop.size(); ++i) {
      const std::uint32_t a = loop[i], b = loop[(i + 1) % loop.size()];
      result.triangles.push_back({a, b, b + up});
      result.triangles.push_back({a, b + up, a + up});
    }
  }
  return result;
}

double volume(const TriangleMesh& mesh) {
  double sum = 0;
  for (const auto& t : mesh.triangles) {
    sum += mesh.vertices[t[0]].dot(mesh.vertices[t[1]].cross(mesh.vertices[t[2]]));
  }
  return sum / 6;
}

}  // namespace palio::body
