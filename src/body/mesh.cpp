// A gear's end face is cut into one sector a tooth, down to a ring of points between root and bore, and the region
// inside that ring. The sector is triangulated once and repeated: its triangles depend on the period only.
#include "palio/body/mesh.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "pierced.hpp"
#include "triangulate.hpp"

namespace palio::body {
namespace {

/// An outline as points: those of its first period, repeated.
struct Polygon {
  std::vector<Vec2> points;
  std::size_t per_period;
  double deviation;  // of the walls, in the section or where they are twisted in space
};

using Cuts = std::vector<curve::Chords>;

Cuts cuts(const curve::Outline& outline, double chord_error) {
  Cuts all;
  for (const curve::Segment& s : outline.period)
    all.push_back(curve::flatten(s, chord_error));
  return all;
}

Polygon polygon(const curve::Outline& outline, const Cuts& chords) {
  Polygon result{{}, 0, 0};
  for (std::size_t k = 0; k < chords.size(); ++k) {
    const curve::Segment& s = outline.period[k];
    result.deviation = std::max(result.deviation, chords[k].deviation);
    for (std::size_t i = 0; i + 1 < chords[k].at.size(); ++i)
      result.points.push_back(s.point(chords[k].at[i]));
  }
  result.per_period = result.points.size();
  result.points.reserve(result.per_period * outline.count);
  for (int copy = 1; copy < outline.count; ++copy) {
    const Vec2 turn = from_polar(1, outline.turn(copy));
    for (std::size_t i = 0; i < result.per_period; ++i)
      result.points.push_back(turned(result.points[i], turn));
  }
  return result;
}

/// Largest distance of a twisted wall from its triangles over one step of height `rise` and turn `turn` (all steps are
/// alike: a screw takes one into the next), looked at inside and along the edges of every quadrangle.
double wall_deviation(const curve::Outline& outline, const Cuts& chords, double rise, double turn) {
  constexpr int kLooks = 4;
  double worst = 0;
  const auto lifted = [](const Vec2& p, double z) { return Vec3(p.x(), p.y(), z); };
  for (std::size_t k = 0; k < chords.size(); ++k) {
    const curve::Segment& s = outline.period[k];
    for (std::size_t i = 0; i + 1 < chords[k].at.size(); ++i) {
      const double u0 = chords[k].at[i], u1 = chords[k].at[i + 1];
      const Vec2 p0 = s.point(u0), p1 = s.point(u1);
      const Vec3 A = lifted(p0, 0), B = lifted(p1, 0), C = lifted(turned(p1, turn), rise),
                 D = lifted(turned(p0, turn), rise);
      const Vec3 n_right = (B - A).cross(C - A).normalized(), n_left = (C - A).cross(D - A).normalized();
      for (int x = 0; x <= kLooks; ++x) {
        const Vec2 p = x == 0 ? p0 : x == kLooks ? p1 : s.point(u0 + (u1 - u0) * x / kLooks);
        for (int y = 0; y <= kLooks; ++y) {
          const Vec3 at = lifted(turned(p, turn * y / kLooks), rise * y / kLooks) - A;
          if (x >= y) worst = std::max(worst, std::abs(n_right.dot(at)));
          if (y >= x) worst = std::max(worst, std::abs(n_left.dot(at)));
        }
      }
    }
  }
  return worst;
}

constexpr double kMostTriangles = 2e7;  // a gigabyte as STL
constexpr double kMostQuadrangles = kMostTriangles / 2;

[[noreturn]] void refuse(double triangles) {
  throw InvalidParameter(
      "chord_error", "so fine",
      fmt::format("the walls would take {:.3g} triangles or more, and {:.3g} is the limit", triangles, kMostTriangles),
      "give a larger --chord-error, or make the face narrower");
}

/// Chords and steps for a loop that turns by `turn` over `rise`: as few triangles as hold the error.
struct Strips {
  Cuts chords;
  int steps;
  double deviation;
};

Strips strips(const curve::Outline& outline, double rise, double turn, double chord_error) {
  Strips best{{}, 0, 0};
  double least = math::kInfinite, least_needed = least;
  for (const double share : {0.8, 0.6, 0.4, 0.25, 0.15}) {
    Cuts chords = cuts(outline, share * chord_error);
    std::size_t points = 0;
    for (const curve::Chords& c : chords)
      points += c.at.size() - 1;
    const auto deviation = [&](int n) { return wall_deviation(outline, chords, rise / n, turn / n); };
    const double coarse = std::max(1.0, std::ceil(std::abs(turn) / 0.5));
    if (!(coarse * static_cast<double>(points) < kMostQuadrangles)) {
      least_needed = std::min(least_needed, coarse * static_cast<double>(points));
      continue;
    }
    int low = 0, high = static_cast<int>(coarse);
    double at_high = deviation(high);
    while (at_high > chord_error && static_cast<double>(points) * high < std::min(least, kMostQuadrangles))
      low = high, high *= 2, at_high = deviation(high);
    if (at_high > chord_error) {
      least_needed = std::min(least_needed, static_cast<double>(points) * high);
      continue;
    }
    while (high - low > 1 && low > 0) {
      const int middle = (low + high) / 2;
      if (const double d = deviation(middle); d <= chord_error)
        high = middle, at_high = d;
      else
        low = middle;
    }
    if (static_cast<double>(points) * high < least)
      least = static_cast<double>(points) * high, best = {std::move(chords), high, at_high};
  }
  if (best.steps == 0) refuse(2 * least_needed * outline.count);
  if (2 * least * outline.count > kMostTriangles) refuse(2 * least * outline.count);
  return best;
}

using Numbers = std::vector<std::uint32_t>;

Numbers run(std::size_t from, std::size_t count) {
  Numbers all(count);
  for (std::size_t i = 0; i < count; ++i)
    all[i] = static_cast<std::uint32_t>(from + i);
  return all;
}

/// Triangles of the region left of `teeth` (one period of `n` points after the other) and bounded by `others`, seen
/// from +z. A gear's teeth bound it outside, a ring's inside. Each tooth gets a sector down (up) to a ring of points
/// between. \param points  of all loops, as they stand in this face; ring points are added at its end
std::vector<Triangle> face(std::vector<Vec2>& points, const Numbers& teeth, std::size_t n, int count, bool ring_gear,
                           const std::vector<Numbers>& others) {
  double least = math::kInfinite, greatest = 0, other_least = math::kInfinite, other_greatest = 0;
  for (std::size_t i = 0; i < n; ++i)
    least = std::min(least, points[teeth[i]].norm()), greatest = std::max(greatest, points[teeth[i]].norm());
  for (const Numbers& loop : others) {
    for (const std::uint32_t v : loop)
      other_greatest = std::max(other_greatest, points[v].norm()),
      other_least = std::min(other_least, points[v].norm());
  }
  // The ring's chords have to stay outside the holes, those of an outer circle outside the ring, with room to spare.
  const double near = ring_gear ? greatest / std::cos(kPi / count) : other_greatest / std::cos(kPi / count);
  const double far =
      ring_gear ? other_least * std::cos(kPi / std::max<std::size_t>(8, others.empty() ? 8 : others[0].size())) : least;
  std::vector<Numbers> loops = others;
  if (count < 5 || near > 0.97 * far) {
    loops.insert(ring_gear ? loops.end() : loops.begin(), teeth);
    return triangulate(points, loops);
  }
  const double radius = 0.5 * (near + far);
  const std::size_t ring = points.size();
  for (int k = 0; k < count; ++k)
    points.push_back(points[teeth[k * n]] * (radius / points[teeth[k * n]].norm()));

  Numbers sector(teeth.begin(),
                 teeth.begin() + static_cast<std::ptrdiff_t>(n) + 1);  // one period and the first point of the next
  sector.push_back(static_cast<std::uint32_t>(ring + 1));
  sector.push_back(static_cast<std::uint32_t>(ring));
  std::vector<Triangle> all;
  const std::vector<Triangle> one = triangulate(points, {sector});
  const std::size_t total = n * count, first = teeth.front();
  for (int k = 0; k < count; ++k) {
    for (Triangle t : one) {
      for (std::uint32_t& v : t) {
        v = static_cast<std::uint32_t>(v < ring ? first + (v - first + k * n) % total : ring + (v - ring + k) % count);
      }
      all.push_back(t);
    }
  }
  loops.insert(ring_gear ? loops.end() : loops.begin(), run(ring, count));
  const std::vector<Triangle> middle = triangulate(points, loops);
  all.insert(all.end(), middle.begin(), middle.end());
  return all;
}

/// Lays out the rings of vertices of every loop and fills in walls and faces.
class Mesher {
 public:
  Mesher(const Body& body, double chord_error) : body_(body), chord_error_(chord_error) {
    double rise = 0, turn = 0;
    for (const Layer& layer : body.layers) {
      for (std::size_t i = 0; i + 1 < layer.levels.size(); ++i) {
        const double t = std::abs(layer.levels[i + 1].turn - layer.levels[i].turn);
        if (!body.slides && t > turn) turn = t, rise = layer.levels[i + 1].z - layer.levels[i].z;
      }
    }
    for (const Loop& loop : body.loops) {
      if (loop.follows && turn > 0) {
        Strips s = strips(loop.outline, rise, turn, chord_error);
        step_ = turn / s.steps;
        made_.deviation = std::max(made_.deviation, s.deviation);
        polygons_.push_back(polygon(loop.outline, s.chords));
        cuts_.push_back(std::move(s.chords));
      } else {
        cuts_.push_back(cuts(loop.outline, chord_error));
        polygons_.push_back(polygon(loop.outline, cuts_.back()));
        made_.deviation = std::max(made_.deviation, polygons_.back().deviation);
      }
    }
    match();
    double walls = 0;
    for (const Polygon& p : polygons_)
      walls += 2.0 * static_cast<double>(p.points.size());
    if (walls > kMostTriangles) refuse(walls);
    for (const Layer& l : body.layers)
      layer(l);
    for (const Cap& c : caps(body))
      cap(c);
    for (const Tunnel& t : body.tunnels)
      made_.deviation = std::max(made_.deviation, add_tunnel(made_, rim(t, t.inner), rim(t, t.outer)));
  }
  TriangleMesh take() { return std::move(made_); }

 private:
  /// The vertices of a loop at a level, made when first asked for.
  std::size_t ring(std::size_t loop, const Level& at) {
    const auto [known, fresh] = rings_.try_emplace({loop, at.z}, made_.vertices.size());
    if (!fresh) return known->second;
    const std::size_t first = known->second;
    const double turn = body_.loops[loop].follows ? at.turn : 0;
    const Vec2 direction = from_polar(1, turn);
    for (const Vec2& p : polygons_[loop].points) {
      const Vec2 q = body_.slides ? Vec2(p.x() - turn, p.y()) : turned(p, direction);
      made_.vertices.emplace_back(q.x(), q.y(), at.z);
    }
    return first;
  }

  /// Circles that taper into each other get as many points: those that the one that needs most has. Chains of them too.
  void match() {
    for (bool changed = true; changed;) {
      changed = false;
      for (const Layer& layer : body_.layers) {
        for (const Wall& w : layer.walls) {
          const std::size_t a = polygons_[w.below].points.size(), b = polygons_[w.above].points.size();
          if (a == b) continue;
          const std::size_t more = a > b ? w.below : w.above, fewer = a > b ? w.above : w.below;
          cuts_[fewer] = cuts_[more];
          polygons_[fewer] = polygon(body_.loops[fewer].outline, cuts_[fewer]);
          changed = true;
        }
      }
    }
  }

  const Rim& rim(const Tunnel& tunnel, const Mouth& mouth) const {
    const auto at = std::find_if(rims_.begin(), rims_.end(),
                                 [&](const Rim& r) { return r.tunnel == &tunnel && r.mouth == &mouth; });
    if (at == rims_.end()) throw NoConvergence("a hole across opens no wall");
    return *at;
  }

  /// A wall with the mouths of tunnels. Whether it has any.
  bool pierced(std::size_t loop, const Level& low, const Level& high) {
    std::vector<Rim> here;
    for (const Tunnel& t : body_.tunnels) {
      for (const Mouth* mouth : {&t.inner, &t.outer}) {
        if (mouth->loop == loop && t.z > low.z && t.z < high.z) here.push_back({&t, mouth});
      }
    }
    if (here.empty()) return false;
    const auto a = static_cast<std::uint32_t>(ring(loop, low)), b = static_cast<std::uint32_t>(ring(loop, high));
    const double further = add_pierced(made_, {a, b, polygons_[loop].points.size()}, here, chord_error_);
    made_.deviation = std::max(made_.deviation, polygons_[loop].deviation + further);
    rims_.insert(rims_.end(), here.begin(), here.end());
    return true;
  }

  void wall(std::size_t lower, std::size_t upper, const Level& low, const Level& high) {
    if (!body_.tunnels.empty() && lower == upper && pierced(lower, low, high)) return;
    const std::size_t a = ring(lower, low), b = ring(upper, high), n = polygons_[lower].points.size();
    for (std::size_t i = 0; i < n; ++i) {
      const auto j = static_cast<std::uint32_t>((i + 1) % n), k = static_cast<std::uint32_t>(i);
      const auto lo = static_cast<std::uint32_t>(a), hi = static_cast<std::uint32_t>(b);
      made_.triangles.push_back({lo + k, lo + j, hi + j});
      made_.triangles.push_back({lo + k, hi + j, hi + k});
    }
  }

  void layer(const Layer& layer) {
    for (std::size_t i = 0; i + 1 < layer.levels.size(); ++i) {
      const Level &low = layer.levels[i], &high = layer.levels[i + 1];
      for (const Wall& w : layer.walls) {
        const double turn = high.turn - low.turn;
        const int steps = body_.loops[w.below].follows && !body_.slides && turn != 0
                              ? std::max(1, static_cast<int>(std::ceil(std::abs(turn) / step_ - math::kAlike)))
                              : 1;
        const auto at = [&](int k) {
          return k == 0       ? low
                 : k == steps ? high
                              : Level{low.z + (high.z - low.z) * k / steps, low.turn + turn * k / steps};
        };
        for (int k = 0; k < steps; ++k)
          wall(w.below, w.above, at(k), at(k + 1));
      }
    }
  }

  /// Triangles of a flat face.
  void cap(const Cap& cap) {
    std::vector<Vec2> points;
    std::vector<std::uint32_t> vertex;  // of each point
    const auto add = [&](const Cap::Edge& edge) {
      const std::size_t from = points.size(), first = ring(edge.loop, {cap.z, 0}),
                        n = polygons_[edge.loop].points.size();
      for (std::size_t i = 0; i < n; ++i) {
        const std::size_t at = first + (edge.reversed ? n - 1 - i : i);
        points.emplace_back(made_.vertices[at].x(), made_.vertices[at].y());
        vertex.push_back(static_cast<std::uint32_t>(at));
      }
      return run(from, n);
    };
    // The loop with teeth first: sectors are cut from it.
    std::size_t toothed = 0;
    const auto count = [&](std::size_t edge) { return body_.loops[cap.edges[edge].loop].outline.count; };
    for (std::size_t i = 1; i < cap.edges.size(); ++i) {
      if (count(i) > count(toothed)) toothed = i;
    }
    const Numbers teeth = add(cap.edges[toothed]);
    std::vector<Numbers> others;
    for (std::size_t i = 0; i < cap.edges.size(); ++i) {
      if (i != toothed) others.push_back(add(cap.edges[i]));
    }
    const std::vector<Triangle> triangles =
        face(points, teeth, polygons_[cap.edges[toothed].loop].per_period, count(toothed), toothed != 0, others);
    for (std::size_t i = vertex.size(); i < points.size(); ++i) {
      vertex.push_back(static_cast<std::uint32_t>(made_.vertices.size()));
      made_.vertices.emplace_back(points[i].x(), points[i].y(), cap.z);
    }
    for (const Triangle& t : triangles) {
      if (cap.up)
        made_.triangles.push_back({vertex[t[0]], vertex[t[1]], vertex[t[2]]});
      else
        made_.triangles.push_back({vertex[t[0]], vertex[t[2]], vertex[t[1]]});
    }
  }

  const Body& body_;
  double chord_error_;
  TriangleMesh made_;
  std::vector<Rim> rims_;  // of tunnels
  std::vector<Polygon> polygons_;
  std::vector<Cuts> cuts_;                                       // of each loop
  std::map<std::pair<std::size_t, double>, std::size_t> rings_;  // of a loop at a height: its first vertex
  double step_ = 1;                                              // of turn, between two rings of a twisted wall
};

}  // namespace

TriangleMesh mesh(const Body& body, double chord_error) {
  // Chords so coarse that walls run into each other: finer ones hold the error all the more.
  constexpr int kTries = 6;
  for (int i = 0;; ++i) {
    try {
      return Mesher(body, chord_error / (1 << i)).take();
    } catch (const NoConvergence&) {
      if (i == kTries) throw;
    }
  }
}

void check(const TriangleMesh& mesh) {
  const auto refuse = [](const std::string& what, const char* allowed) {
    throw InvalidParameter(
        "mesh", what, allowed,
        "this part cannot be made as it is asked for: change its teeth or its body, and tell us the job");
  };
  for (const Vec3& v : mesh.vertices) {
    if (!v.allFinite()) refuse("with corners that are no numbers", "every corner is a place");
  }
  // Closed: every edge is gone along once each way. The corners that lead on from each corner, in order.
  std::vector<std::uint32_t> first(mesh.vertices.size() + 1, 0), onward(3 * mesh.triangles.size());
  const auto each_edge = [&](const auto& visit) {
    for (const auto& t : mesh.triangles)
      visit(t[0], t[1]), visit(t[1], t[2]), visit(t[2], t[0]);
  };
  each_edge([&](std::uint32_t a, std::uint32_t) { ++first[a + 1]; });
  std::partial_sum(first.begin(), first.end(), first.begin());
  std::vector<std::uint32_t> next(first.begin(), first.end() - 1);
  each_edge([&](std::uint32_t a, std::uint32_t b) { onward[next[a]++] = b; });
  const auto from = [&](std::uint32_t a) { return onward.begin() + first[a]; };
  const auto to = [&](std::uint32_t a) { return onward.begin() + first[a + 1]; };
  bool open = false;
  for (std::uint32_t a = 0; a < mesh.vertices.size(); ++a) {
    std::sort(from(a), to(a));
    open = open || std::adjacent_find(from(a), to(a)) != to(a);
  }
  each_edge([&](std::uint32_t a, std::uint32_t b) { open = open || !std::binary_search(from(b), to(b), a); });
  if (open) refuse("open", "every edge has a triangle on either side");
  if (!(volume(mesh) > 0)) refuse(fmt::format("of volume {:.6g} mm³", volume(mesh)), "a solid has a volume above 0");
}

double volume(const TriangleMesh& mesh) {
  double sum = 0;
  for (const auto& t : mesh.triangles) {
    sum += mesh.vertices[t[0]].dot(mesh.vertices[t[1]].cross(mesh.vertices[t[2]]));
  }
  return sum / 6;
}

}  // namespace palio::body
