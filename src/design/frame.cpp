// Plates that carry axes: a hull of discs, with bores, posts and mounting holes, as loops × levels.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::job {
namespace {

using curve::Arc;
using curve::Line;
using curve::Outline;
using curve::Role;
using curve::Segment;

struct Disc {
  Vec2 at;
  double radius;
};

/// The convex hull of discs, counter-clockwise: arcs and the lines that touch two of them.
Outline hull(const std::vector<Disc>& discs) {
  // The outward normal of the line that touches i and then j, everything on its left: n·cᵢ + rᵢ = n·cⱼ + rⱼ.
  const auto normal = [&](std::size_t i, std::size_t j) -> std::optional<double> {
    const Vec2 way = discs[j].at - discs[i].at;
    const double length = way.norm(), drop = discs[i].radius - discs[j].radius;
    if (length <= std::abs(drop)) return std::nullopt;  // one holds the other
    return std::atan2(way.y(), way.x()) - std::acos(drop / length);
  };
  std::size_t at = 0;
  for (std::size_t i = 1; i < discs.size(); ++i) {
    if (discs[i].at.x() + discs[i].radius > discs[at].at.x() + discs[at].radius) at = i;
  }
  Outline made;
  double angle = 0;
  while (true) {
    double least = 2 * kPi - angle;  // up to the full turn
    std::size_t next = at;
    for (std::size_t j = 0; j < discs.size(); ++j) {
      if (j == at) continue;
      const auto n = normal(at, j);
      if (!n) continue;
      double on = std::fmod(*n - angle, 2 * kPi);
      if (on < -math::kRounding) on += 2 * kPi;
      if (on < least - math::kRounding) least = std::max(0.0, on), next = j;
    }
    if (least > math::kRounding)
      made.period.push_back({Arc{discs[at].at, discs[at].radius}, angle, angle + least, Role::body});
    if (next == at) return made;
    angle += least;
    const Vec2 out = from_polar(1, angle);
    made.period.push_back(
        {Line{discs[at].at + discs[at].radius * out, discs[next].at + discs[next].radius * out}, 0, 1, Role::body});
    at = next;
  }
}

}  // namespace

body::Body body(const FramePlan& plan) {
  body::Body made;
  const auto loop = [&](Outline outline, const char* feature) {
    made.loops.push_back({std::move(outline), false, feature});
    return made.loops.size() - 1;
  };
  // The loops of one slice; posts by number.
  struct Slice {
    std::size_t outline;
    std::vector<std::size_t> bores, holes, posts;
  };
  const auto slice = [&](double inset) {
    Slice s{};
    std::vector<Disc> discs;
    for (const FramePlan::Axis& a : plan.axes) {
      discs.push_back({a.at, std::max(a.bore, a.post_height > 0 ? plan.post_diameter : 0.0) / 2 + plan.margin +
                                 plan.walls - inset});
    }
    for (const FramePlan::Hole& h : plan.holes)
      discs.push_back({h.at, h.diameter / 2 + plan.margin + plan.walls - inset});
    s.outline = loop(hull(discs), "margin");
    for (const FramePlan::Axis& a : plan.axes) {
      if (a.bore > 0)
        s.bores.push_back(loop(curve::circle((a.bore + a.wider) / 2 + inset, Role::bore, true, a.at), "bore"));
      else
        s.bores.push_back(s.outline);
    }
    for (const FramePlan::Hole& h : plan.holes)
      s.holes.push_back(loop(curve::circle((h.diameter + h.wider) / 2 + inset, Role::bore, true, h.at), "holes"));
    return s;
  };
  const auto plate = [&](const Slice& s, double low, double high) {
    body::Layer layer{{s.outline}, {{low, 0}, {high, 0}}};
    for (const std::size_t b : s.bores) {
      if (b != s.outline) layer.walls.emplace_back(b);
    }
    for (const std::size_t h : s.holes)
      layer.walls.emplace_back(h);
    made.layers.push_back(std::move(layer));
  };
  const Slice whole = slice(0);
  if (plan.inset > 0 && plan.inset_height < plan.thickness) {
    plate(slice(plan.inset), 0, plan.inset_height);
    plate(whole, plan.inset_height, plan.thickness);
  } else {
    plate(whole, 0, plan.thickness);
  }
  std::vector<double> heights{0};
  std::vector<std::size_t> posts;
  for (const FramePlan::Axis& a : plan.axes) {
    posts.push_back(
        a.post_height > 0
            ? loop(curve::circle(plan.post_diameter / 2 + plan.walls, Role::body, false, a.at), "post_diameter")
            : whole.outline);
    if (a.post_height > 0) heights.push_back(a.post_height);
  }
  std::sort(heights.begin(), heights.end());
  heights.erase(std::unique(heights.begin(), heights.end(), [](double x, double y) { return y - x < math::kAlike; }),
                heights.end());
  for (std::size_t i = 0; i + 1 < heights.size(); ++i) {
    body::Layer layer{{}, {{plan.thickness + heights[i], 0}, {plan.thickness + heights[i + 1], 0}}};
    for (std::size_t k = 0; k < plan.axes.size(); ++k) {
      if (plan.axes[k].post_height < heights[i + 1] - math::kAlike) continue;
      layer.walls.emplace_back(posts[k]);
      if (whole.bores[k] != whole.outline) layer.walls.emplace_back(whole.bores[k]);
    }
    made.layers.push_back(std::move(layer));
  }
  for (const body::Collision& c : body::collisions(made)) {
    throw InvalidParameter(
        c.second, "as given",
        c.depth > body::kTouches
            ? fmt::format("two of its places, or it and the {}, run into each other by {:.6g} mm", c.first, c.depth)
            : fmt::format("it touches the {}", c.first),
        "move them apart or make one smaller");
  }
  return made;
}

}  // namespace palio::job
