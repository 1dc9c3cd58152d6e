#include "palio/body/clear.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/polygon.hpp"

namespace palio::body {
namespace {

double to_edge(const Vec2& p, const Vec2& a, const Vec2& b) {
  const Vec2 along = b - a;
  const double length2 = along.squaredNorm(), t = length2 > 0 ? std::clamp((p - a).dot(along) / length2, 0.0, 1.0) : 0;
  return (a + t * along - p).norm();
}

bool cross_each_other(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
  const Vec2 ab = b - a, cd = d - c;
  return (cross(ab, c - a) > 0) != (cross(ab, d - a) > 0) && (cross(cd, a - c) > 0) != (cross(cd, b - c) > 0);
}

}  // namespace

Shape::Shape(const curve::Outline& outline) {
  double size = 0;
  for (const curve::Segment& s : outline.period)
    size = std::max({size, s.first().norm(), s.last().norm()});
  std::vector<Vec2> period;
  for (const curve::Segment& s : outline.period) {
    const std::vector<double> at = curve::flatten(s, 2e-4 * size).at;
    for (std::size_t i = 0; i + 1 < at.size(); ++i)
      period.push_back(s.point(at[i]));
  }
  points_.reserve(period.size() * static_cast<std::size_t>(outline.count));
  for (int copy = 0; copy < outline.count; ++copy) {
    const Vec2 turn = from_polar(1, outline.turn(copy));
    for (const Vec2& p : period)
      points_.push_back(turned(p, turn));
  }
  double area = 0;
  centre_ = Vec2::Zero();
  for (std::size_t i = 0; i < points_.size(); ++i) {
    area += cross(points_[i], points_[(i + 1) % points_.size()]);
    centre_ += points_[i] / static_cast<double>(points_.size());
  }
  orientation_ = area > 0 ? 1 : -1;
  const auto* arc =
      outline.period.size() == 1 && outline.count == 1 ? std::get_if<curve::Arc>(&outline.period[0].curve) : nullptr;
  if (arc) {
    centre_ = arc->centre, circle_ = reach_ = arc->radius;
    least_ = std::abs(centre_.norm() - circle_), greatest_ = centre_.norm() + circle_,
    around_ = centre_.norm() < circle_;
    return;
  }
  least_ = distance(Vec2::Zero());
  greatest_ = 0, reach_ = 0;
  for (const Vec2& p : points_)
    greatest_ = std::max(greatest_, p.norm()), reach_ = std::max(reach_, (p - centre_).norm());
  // A bulging chord reaches a little beyond its ends.
  greatest_ += 2e-4 * size;
  around_ = holds(Vec2::Zero());
}

bool Shape::holds(const Vec2& p) const {
  if (circle_ > 0) return (p - centre_).norm() < circle_;
  return math::in_polygon(
      points_.size(), [&](std::size_t i) -> const Vec2& { return points_[i]; }, p);
}

double Shape::distance(const Vec2& p) const {
  if (circle_ > 0) return std::abs((p - centre_).norm() - circle_);
  double least = math::kInfinite;
  for (std::size_t i = 0; i < points_.size(); ++i)
    least = std::min(least, to_edge(p, points_[i], points_[(i + 1) % points_.size()]));
  return least;
}

double Shape::distance(const Shape& other, double enough) const {
  // Rings about the axis with room enough between them need no looking at every edge.
  if (around_ && other.around_ && std::max(least_ - other.greatest_, other.least_ - greatest_) >= enough) return enough;
  if (circle_ > 0 && other.circle_ > 0) {
    const double apart = (centre_ - other.centre_).norm();
    const double least = std::max(
        {0.0, apart - circle_ - other.circle_, circle_ - other.circle_ - apart, other.circle_ - circle_ - apart});
    return std::min(least, enough);
  }
  if (circle_ > 0 || other.circle_ > 0) {
    // Of a circle itself, not of its chords: what touches it touches it.
    const Shape &round = circle_ > 0 ? *this : other, &edges = &round == this ? other : *this;
    if ((round.centre_ - edges.centre_).norm() - round.reach_ - edges.reach_ > enough) return enough;
    double least = enough;
    for (std::size_t i = 0; i < edges.points_.size(); ++i) {
      const Vec2 &a = edges.points_[i], &b = edges.points_[(i + 1) % edges.points_.size()];
      const double near = to_edge(round.centre_, a, b),
                   far = std::max((a - round.centre_).norm(), (b - round.centre_).norm());
      if (near < round.circle_ && far > round.circle_) return 0;
      least = std::min(least, near >= round.circle_ ? near - round.circle_ : round.circle_ - far);
    }
    return least;
  }
  const Shape &small = points_.size() < other.points_.size() ? *this : other, &large = &small == this ? other : *this;
  double least = enough;
  if ((small.centre_ - large.centre_).norm() - small.reach_ - large.reach_ > least) return least;
  const std::size_t n = small.points_.size(), m = large.points_.size();
  for (std::size_t j = 0; j < m; ++j) {
    const Vec2 &c = large.points_[j], &d = large.points_[(j + 1) % m];
    // An edge farther from all of the small one than what is known needs no looking at.
    const double reach = small.reach_ + least, length = (d - c).norm();
    if ((c - small.centre_).squaredNorm() > (reach + length) * (reach + length)) continue;
    for (std::size_t i = 0; i < n; ++i) {
      const Vec2 &a = small.points_[i], &b = small.points_[(i + 1) % n];
      if (cross_each_other(a, b, c, d)) return 0;
      least = std::min({least, to_edge(a, c, d), to_edge(b, c, d), to_edge(c, a, b), to_edge(d, a, b)});
    }
  }
  return least;
}

bool Shape::inside(const Shape& other) const {
  if (other.around_) {
    if (greatest_ < other.least_) return true;
    if (around_ && least_ > other.greatest_) return false;
  }
  return other.holds(points_.front());
}

namespace {

/// Loops that follow turning levels sweep a ring about the axis.
struct Swept {
  const Shape* shape;
  bool turns;
};

double gap(const Swept& a, const Swept& b, double enough) {
  if (a.turns == b.turns) return a.shape->distance(*b.shape, enough);
  const auto [inner, outer] =
      std::minmax(a.shape, b.shape, [](const Shape* s, const Shape* t) { return s->greatest() < t->greatest(); });
  return std::max(
      0.0, outer->around_origin() || outer->least() > inner->greatest() ? outer->least() - inner->greatest() : 0.0);
}

/// How far the points of one loop stand on the wrong side of the other.
double overlap(const Shape& a, const Shape& b) {
  if (a.circle() > 0 && b.circle() > 0) {
    const double apart = (a.centre() - b.centre()).norm();
    if (a.orientation() == b.orientation())
      return std::max(0.0, std::min({a.circle() + b.circle() - apart, 2 * a.circle(), 2 * b.circle()}));
    const Shape &hole = a.orientation() < 0 ? a : b, &outer = &hole == &a ? b : a;
    return std::max(0.0, apart + hole.circle() - outer.circle());
  }
  const bool nested = a.orientation() != b.orientation();
  double deepest = 0;
  const auto look = [&](const Shape& points, const Shape& area, bool must_be_in) {
    for (const Vec2& p : points.points()) {
      if (area.holds(p) != must_be_in) deepest = std::max(deepest, area.distance(p));
    }
  };
  if (nested) {
    look(a.orientation() < 0 ? a : b, a.orientation() < 0 ? b : a, true);
  } else {
    look(a, b, false), look(b, a, false);
  }
  return deepest;
}

}  // namespace

std::vector<Collision> collisions(const Body& body, double least) {
  if (body.loops.size() < 2) return {};
  std::vector<Shape> shapes;
  std::vector<bool> turns(body.loops.size(), false);
  for (const Loop& loop : body.loops)
    shapes.emplace_back(loop.outline);
  for (const Layer& layer : body.layers) {
    for (const Wall& w : layer.walls) {
      for (const Level& l : layer.levels)
        turns[w.below] = turns[w.below] || (body.loops[w.below].follows && l.turn != 0 && !body.slides);
    }
  }
  std::vector<Collision> found;
  // The one to move is named second: what stands freest.
  const auto rank = [&](std::size_t i) {
    static const std::vector<std::string> order{
        "teeth", "outer_diameter", "margin",        "gap", "bore",   "bore.steps", "bore.bearing", "keyway", "flat",
        "hex",   "hubs",           "post_diameter", "web", "spokes", "holes",      "mark"};
    return std::find(order.begin(), order.end(), body.loops[i].feature) - order.begin();
  };
  const auto add = [&](std::size_t i, std::size_t j, double depth) {
    const bool swap = rank(i) > rank(j);
    const std::string &a = body.loops[swap ? j : i].feature, &b = body.loops[swap ? i : j].feature;
    for (Collision& c : found) {
      if (c.first == a && c.second == b) return void(c.depth = std::max(c.depth, depth));
    }
    found.push_back({a, b, depth});
  };
  // Loops go through many layers: each two are looked at once.
  std::map<std::pair<std::size_t, std::size_t>, bool> known;
  const auto apart = [&](std::size_t a, std::size_t b) {
    const auto [it, fresh] = known.try_emplace({a, b}, true);
    if (fresh) it->second = gap({&shapes[a], turns[a]}, {&shapes[b], turns[b]}, 2 * least) > least;
    return it->second;
  };
  const auto check = [&](const std::vector<std::size_t>& loops) {
    bool clear = true;
    for (std::size_t i = 0; i < loops.size(); ++i) {
      for (std::size_t j = i + 1; j < loops.size(); ++j) {
        const auto [a, b] = std::minmax({loops[i], loops[j]});
        if (a == b || apart(a, b)) continue;
        add(a, b, overlap(shapes[a], shapes[b]));
        clear = false;
      }
    }
    return clear;
  };
  for (std::size_t n = 0; n <= body.layers.size(); ++n) {
    if (!check(meeting(body, n).all) || n == body.layers.size()) continue;
    // Loops that keep clear must lie in each other as outer and hole in turn, at both ends of a layer.
    for (const auto end : {&Wall::below, &Wall::above}) {
      for (const Wall& w : body.layers[n].walls) {
        double turns_around = 0;
        std::size_t nearest = w.*end;
        for (const Wall& other : body.layers[n].walls) {
          if (other.*end == w.*end || !shapes[w.*end].inside(shapes[other.*end])) continue;
          turns_around += shapes[other.*end].orientation();
          nearest = other.*end;
        }
        const double should = shapes[w.*end].orientation() < 0 ? 1 : 0;
        if (turns_around == should) continue;
        if (nearest == w.*end) nearest = body.layers[n].walls.front().*end;
        const auto [a, b] = std::minmax({nearest, w.*end});
        add(a, b, overlap(shapes[a], shapes[b]));
      }
    }
  }
  return found;
}

std::vector<ThinWall> thin_walls(const Body& body, double limit) {
  std::map<std::pair<std::string, std::string>, double> thinnest;
  std::set<std::pair<std::size_t, std::size_t>> seen;
  std::vector<Shape> shapes;
  for (const Loop& loop : body.loops)
    shapes.emplace_back(loop.outline);
  for (const Layer& layer : body.layers) {
    for (std::size_t i = 0; i < layer.walls.size(); ++i) {
      for (std::size_t j = i + 1; j < layer.walls.size(); ++j) {
        const auto [a, b] = std::minmax({layer.walls[i].below, layer.walls[j].below});
        const Shape &s = shapes[a], &t = shapes[b];
        if (s.orientation() > 0 && t.orientation() > 0) continue;  // air lies between two outer loops
        // Between a hole and a loop inside it (a hub in a recess, and the bore in that) lies air too.
        if (s.orientation() < 0 && t.inside(s)) continue;
        if (t.orientation() < 0 && s.inside(t)) continue;
        if (!seen.insert({a, b}).second) continue;
        const double d = s.distance(t, limit);
        if (d >= limit) continue;
        double& known = thinnest.try_emplace({body.loops[a].feature, body.loops[b].feature}, d).first->second;
        known = std::min(known, d);
      }
    }
  }
  std::vector<ThinWall> all;
  all.reserve(thinnest.size());
  for (const auto& [names, d] : thinnest)
    all.push_back({names.first, names.second, d});
  return all;
}

}  // namespace palio::body
