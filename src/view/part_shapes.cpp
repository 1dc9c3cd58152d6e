#include "part_shapes.hpp"

#include <algorithm>
#include <cmath>
#include <variant>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::view {

Within within(const body::Loop& loop) {
  constexpr double kChordError = 2e-5;  // [mm]: a digit below the last that is printed
  Within all;
  for (const curve::Segment& s : loop.outline.period) {
    const curve::Chords chords = curve::flatten(s, kChordError);
    for (const double at : chords.at) {
      const Vec2 p = s.point(at);
      all.least = std::min(all.least, p.norm()), all.greatest = std::max(all.greatest, p.norm());
      for (int copy = 0; copy < loop.outline.count; ++copy)
        all.box.extend(turned(p, loop.outline.turn(copy)));
    }
  }
  if (const auto* arc = std::get_if<curve::Arc>(&loop.outline.period.front().curve);
      arc && loop.outline.period.size() == 1 && loop.outline.count == 1) {
    const Vec2 reach = Vec2::Constant(arc->radius);
    all.box.extend(arc->centre - reach), all.box.extend(arc->centre + reach);
  }
  return all;
}

Eigen::AlignedBox2d extent_of(const body::Body& body) {
  Eigen::AlignedBox2d box;
  for (const body::Loop& l : body.loops)
    box.extend(within(l).box);
  return box;
}
std::vector<body::Shape> shapes_of(const body::Body& body) {
  std::vector<body::Shape> all;
  all.reserve(body.loops.size());
  for (const body::Loop& l : body.loops)
    all.emplace_back(l.outline);
  return all;
}

std::vector<RoundWall> round_walls(const body::Body& body, const std::vector<body::Shape>& shapes) {
  std::vector<RoundWall> all;
  for (const body::Layer& layer : body.layers) {
    for (const body::Wall& w : layer.walls) {
      const body::Shape& s = shapes[w.below];
      if (w.below != w.above || s.circle() <= 0) continue;
      const RoundWall c{s.centre(),
                        s.circle(),
                        layer.levels.front().z,
                        layer.levels.back().z,
                        s.orientation() < 0,
                        body.loops[w.below].feature};
      const auto goes_on = std::find_if(all.begin(), all.end(), [&](const RoundWall& o) {
        return o.hole == c.hole && std::abs(o.to - c.from) < math::kAlike &&
               std::abs(o.radius - c.radius) < math::kAlike && (o.at - c.at).norm() < math::kAlike;
      });
      if (goes_on != all.end())
        goes_on->to = c.to;
      else
        all.push_back(c);
    }
  }
  return all;
}

std::vector<RoundWalls> grouped(const std::vector<RoundWall>& cylinders) {
  std::vector<RoundWalls> all;
  for (const RoundWall& c : cylinders) {
    const auto same = std::find_if(all.begin(), all.end(), [&](const RoundWalls& l) {
      return l.first.hole == c.hole && (l.first.at.norm() < math::kAlike) == (c.at.norm() < math::kAlike) &&
             l.first.feature == c.feature && std::abs(l.first.radius - c.radius) < math::kAlike &&
             std::abs(l.first.from - c.from) < math::kAlike && std::abs(l.first.to - c.to) < math::kAlike;
    });
    if (same != all.end())
      same->at.push_back(c.at);
    else
      all.push_back({c, {c.at}});
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const RoundWalls& a, const RoundWalls& b) { return a.first.hole > b.first.hole; });
  char next = 'a';
  for (RoundWalls& l : all) {
    // What stands about the origin is dimensioned in the cut.
    if (l.at.front().norm() > math::kAlike && next <= 'z') l.letter = next++;
  }
  return all;
}

double even_circle(std::vector<Vec2> at) {
  if (at.size() < 2) return 0;
  const double radius = at.front().norm(), apart = 2 * kPi / static_cast<double>(at.size());
  if (radius < math::kAlike) return 0;
  std::vector<double> angles;
  angles.reserve(at.size());
  for (const Vec2& p : at) {
    if (std::abs(p.norm() - radius) > math::kAlike) return 0;
    angles.push_back(std::atan2(p.y(), p.x()));
  }
  std::sort(angles.begin(), angles.end());
  for (std::size_t i = 1; i < angles.size(); ++i) {
    if (std::abs(angles[i] - angles[i - 1] - apart) > math::kAlike) return 0;
  }
  return radius;
}

}  // namespace palio::view
