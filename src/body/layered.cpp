#include "palio/body/layered.hpp"

#include <algorithm>
#include <utility>

#include "palio/body/clear.hpp"

namespace palio::body {

bool of_bore(const Loop& loop) {
  return loop.feature.compare(0, 4, "bore") == 0 || loop.feature == "keyway" || loop.feature == "flat" ||
         loop.feature == "hex" || loop.feature == "square" || loop.feature == "serration" || loop.feature == "spline";
}

Vec2 moved(const Body& body, const Vec2& p, double turn) {
  return body.slides ? Vec2(p.x() - turn, p.y()) : turned(p, turn);
}

Body scaled(const Body& body, double radial, double axial) {
  Body made = body;
  for (Loop& loop : made.loops)
    loop.outline = curve::scaled(std::move(loop.outline), radial);
  for (Layer& layer : made.layers) {
    for (Level& level : layer.levels) {
      level.z *= axial;
      if (body.slides) level.turn *= radial;
    }
  }
  // A hole across stays round, by what it lies in: across the axis.
  for (Tunnel& t : made.tunnels)
    t.radius *= radial, t.z *= axial, t.inner.distance *= radial, t.outer.distance *= radial;
  return made;
}

Meeting meeting(const Body& body, std::size_t n) {
  Meeting m;
  if (n > 0) {
    for (const Wall& w : body.layers[n - 1].walls)
      m.under.push_back(w.above);
  }
  if (n < body.layers.size()) {
    for (const Wall& w : body.layers[n].walls)
      m.over.push_back(w.below);
  }
  m.all = m.under;
  for (const std::size_t l : m.over) {
    if (std::find(m.all.begin(), m.all.end(), l) == m.all.end()) m.all.push_back(l);
  }
  return m;
}

std::vector<Cap> caps(const Body& body) {
  std::vector<Shape> shapes;
  shapes.reserve(body.loops.size());
  for (const Loop& loop : body.loops)
    shapes.emplace_back(loop.outline);
  std::vector<Cap> all;
  for (std::size_t n = 0; n <= body.layers.size(); ++n) {
    const auto [under, over, here] = meeting(body, n);
    const auto within = [&](std::size_t inner, std::size_t outer) {
      return inner != outer && shapes[inner].inside(shapes[outer]);
    };
    // The region just inside a loop is filled when the loops of a layer that go around it come to one.
    const auto filled = [&](const std::vector<std::size_t>& layer, std::size_t loop) {
      double turns = 0;
      for (const std::size_t l : layer)
        turns += l == loop || within(loop, l) ? shapes[l].orientation() : 0;
      return turns > 0.5;
    };
    const double z = n < body.layers.size() ? body.layers[n].levels.front().z : body.top();
    for (const std::size_t loop : here) {
      const bool below = filled(under, loop), above = filled(over, loop);
      if (below == above) continue;
      Cap cap{z, below, {{loop, shapes[loop].orientation() < 0}}};
      for (const std::size_t child : here) {
        if (!within(child, loop)) continue;
        const bool direct = std::none_of(here.begin(), here.end(), [&](std::size_t between) {
          return within(child, between) && within(between, loop);
        });
        if (direct) cap.edges.push_back({child, shapes[child].orientation() > 0});
      }
      all.push_back(std::move(cap));
    }
  }
  return all;
}

std::vector<std::size_t> section(const Body& body, double z) {
  std::vector<std::size_t> all;
  for (const Layer& layer : body.layers) {
    if (z > layer.levels.back().z) continue;
    for (const Wall& w : layer.walls)
      all.push_back(w.below);
    break;
  }
  return all;
}

MassProperties mass_properties(const Body& body) {
  MassProperties sum{0, Vec3::Zero(), 0};
  const auto radius = [](const Loop& loop) { return std::get<curve::Arc>(loop.outline.period.front().curve).radius; };
  for (const Layer& layer : body.layers) {
    const double low = layer.levels.front().z, height = layer.levels.back().z - low;
    for (const Wall& wall : layer.walls) {
      const curve::Outline& outline = body.loops[wall.below].outline;
      // Twist and slide leave areas as they are; a slide is even about mid-face, where the outline stands.
      const double area = curve::signed_area(outline), polar = curve::polar_moment(outline);
      const Vec2 first = curve::first_moment(outline);
      if (wall.below == wall.above) {
        sum.volume += area * height;
        sum.center += height * Vec3(first.x(), first.y(), area * (low + height / 2));
        sum.polar_moment += polar * height;
        continue;
      }
      // A cone about the axis: r grows evenly, so areas are of second and polar moments of fourth degree in z; three
      // Gauss points integrate both without error.
      const double r0 = radius(body.loops[wall.below]), r1 = radius(body.loops[wall.above]), side = std::sqrt(0.6);
      for (const auto& [at, weight] :
           {std::pair{(1 - side) / 2, 5.0 / 18}, {0.5, 8.0 / 18}, {(1 + side) / 2, 5.0 / 18}}) {
        const double grown = (r0 + (r1 - r0) * at) / r0, part = height * weight;
        sum.volume += area * grown * grown * part;
        sum.center += part * Vec3(0, 0, area * grown * grown * (low + height * at));
        sum.polar_moment += polar * std::pow(grown, 4) * part;
      }
    }
  }
  for (const Tunnel& t : body.tunnels) {
    const Taken less = taken(t);
    sum.volume -= less.volume, sum.center -= less.moment, sum.polar_moment -= less.polar_moment;
  }
  sum.center /= sum.volume;
  return sum;
}

}  // namespace palio::body
