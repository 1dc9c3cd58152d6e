#include "palio/body/stack.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "palio/body/clear.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::body {
namespace {

[[noreturn]] void refuse(const std::string& allowed, const std::string& remedy) {
  throw InvalidParameter("one_piece", "true", allowed, remedy);
}

/// Loops and layers as they are gathered, one body above the other.
class Stack {
 public:
  explicit Stack(double diameter, const std::vector<Neck>& necks = {}) : necks_(necks) {
    if (diameter > 0) {
      rod_ = made_.loops.size();
      made_.loops.push_back({curve::circle(diameter / 2, curve::Role::body, false), false, "diameter"});
    }
  }

  void rod(double from, double to) {
    for (const Neck& neck : necks_) {
      if (neck.from < from - math::kAlike || neck.to > to + math::kAlike) continue;
      piece(*rod_, from, neck.from);
      made_.loops.push_back({curve::circle(neck.diameter / 2, curve::Role::body, false), false, "ring"});
      piece(made_.loops.size() - 1, neck.from, neck.to);
      from = neck.to;
    }
    piece(*rod_, from, to);
  }

  void add(const Stacked& piece) {
    std::vector<std::optional<std::size_t>> number;  // of each of its loops; none: filled
    std::vector<Shape> shapes;
    for (std::size_t i = 0; i < piece.body.loops.size(); ++i)
      shapes.emplace_back(piece.body.loops[i].outline), number.push_back(taken(piece, i, shapes.back()));
    for (const Layer& layer : piece.body.layers) {
      Layer moved{{}, layer.levels};
      for (Level& level : moved.levels)
        level.z += piece.z;
      // Whether the middle is material: of all loops about it the innermost, at the layer's lower end.
      double innermost = math::kInfinite;
      bool solid = false;
      for (const Wall& wall : layer.walls) {
        if (!number[wall.below] || !number[wall.above]) continue;
        Wall w(*number[wall.below], *number[wall.above]);
        moved.walls.push_back(w);
        const Shape& s = shapes[wall.below];
        if (s.around_origin() && s.greatest() < innermost) innermost = s.greatest(), solid = s.orientation() > 0;
      }
      if (rod_ && !solid) moved.walls.emplace_back(*rod_);
      made_.layers.push_back(std::move(moved));
    }
    for (Tunnel t : piece.body.tunnels) {
      const std::optional<std::size_t> inner = number[t.inner.loop], outer = number[t.outer.loop];
      if (!inner || !outer)
        refuse(fmt::format("{} has a hole across ({}), and where its bore was the axle is now", piece.name, t.feature),
               fmt::format("leave {} out: what is of one piece with its axle needs none", t.feature));
      t.inner.loop = *inner, t.outer.loop = *outer, t.z += piece.z, t.angle += piece.turn;
      made_.tunnels.push_back(std::move(t));
    }
  }

  Body finish() && { return std::move(made_); }

 private:
  void piece(std::size_t loop, double from, double to) {
    if (to - from > math::kAlike) made_.layers.push_back({{loop}, {{from, 0}, {to, 0}}});
  }

  /// The number under which a loop of a piece goes on; none for a bore that the rod fills. Equal circles are one.
  std::optional<std::size_t> taken(const Stacked& piece, std::size_t i, const Shape& shape) {
    Loop loop = piece.body.loops[i];
    if (of_bore(loop)) {
      if (rod_) return std::nullopt;
      if (shape.circle() > 0) {
        for (const auto& [radius, number] : bores_) {
          if (std::abs(radius - shape.circle()) < math::kAlike) return number;
        }
        bores_.emplace_back(shape.circle(), made_.loops.size());
      }
    }
    loop.outline = curve::turned(std::move(loop.outline), piece.turn);
    made_.loops.push_back(std::move(loop));
    return made_.loops.size() - 1;
  }

  std::vector<Neck> necks_;
  std::optional<std::size_t> rod_;
  std::vector<std::pair<double, std::size_t>> bores_;
  Body made_;
};

double bottom(const Stacked& s) { return s.z + s.body.bottom(); }
double top(const Stacked& s) { return s.z + s.body.top(); }

void check_meeting(const Stacked& below, const Stacked& above, double diameter) {
  if (bottom(above) - top(below) > math::kAlike) return;
  Stack both(diameter);
  both.add(below), both.add(above);
  for (const Collision& c : collisions(std::move(both).finish()))
    refuse(fmt::format("where {} and {} meet, {} and {} {}", below.name, above.name, c.first, c.second,
                       c.depth > kTouches ? fmt::format("run into each other by {:.6g} mm", c.depth) : "touch"),
           "leave a gap between them with a diameter for what joins them, or make one smaller");
}

void check_necks(const std::vector<Neck>& necks, double diameter, double from, double to) {
  double free = from;
  for (const Neck& n : necks) {
    if (!(n.diameter > 0) || !(n.diameter < diameter))
      throw InvalidParameter("ring", fmt::format("a groove of diameter {:.6g} mm", n.diameter),
                             fmt::format("above 0 and below the axle's {:.6g} mm", diameter), "mend groove_diameter");
    if (!(n.to > n.from) || n.from < free - math::kAlike || n.to > to - math::kAlike)
      throw InvalidParameter("ring", fmt::format("a groove from {:.6g} to {:.6g} mm", n.from, n.to),
                             fmt::format("within the axle, {:.6g} to {:.6g} mm", free, to),
                             "let the axle stand out further");
    free = n.to;
  }
}

}  // namespace

Body rod(double diameter, double from, double to, const std::vector<Neck>& necks) {
  if (!(diameter > 0)) throw InvalidParameter("diameter", fmt::format("{} mm", diameter), "above 0", "make it thicker");
  if (!(to > from))
    throw InvalidParameter("ends", fmt::format("{} mm long", to - from), "above 0", "let it stand out further");
  check_necks(necks, diameter, from, to);
  Stack all(diameter, necks);
  all.rod(from, to);
  return std::move(all).finish();
}

Body stacked(std::vector<Stacked> bodies, double diameter, double from, double to, const std::vector<Neck>& necks) {
  std::stable_sort(bodies.begin(), bodies.end(),
                   [](const Stacked& a, const Stacked& b) { return bottom(a) < bottom(b); });
  if (diameter > 0 && (from > bottom(bodies.front()) + math::kAlike || to < top(bodies.back()) - math::kAlike))
    throw InvalidParameter("ends", "within the gears", "0 and more", "let the axle stand out or end flush");
  check_necks(necks, diameter, from, to);
  Stack all(diameter, necks);
  double height = from;
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    const double gap = bottom(bodies[i]) - height;
    if (i > 0 && gap < -math::kAlike)
      refuse(fmt::format("{} and {} overlap by {:.6g} mm along the shaft", bodies[i - 1].name, bodies[i].name, -gap),
             "move them apart by gap or places");
    if (i > 0 && gap > math::kAlike && !(diameter > 0))
      refuse(fmt::format("{} and {} stand {:.6g} mm apart, and nothing joins them", bodies[i - 1].name, bodies[i].name,
                         gap),
             "give a diameter for what joins them, or gap = 0");
    if (i > 0) check_meeting(bodies[i - 1], bodies[i], diameter);
    if (diameter > 0) all.rod(height, bottom(bodies[i]));
    all.add(bodies[i]);
    height = top(bodies[i]);
  }
  if (diameter > 0) all.rod(height, to);
  Body made = std::move(all).finish();
  for (const Collision& c : collisions(made))
    refuse(fmt::format("its {} and its {} {}", c.first, c.second,
                       c.depth > kTouches ? fmt::format("run into each other by {:.6g} mm", c.depth) : "touch"),
           "make one smaller or move them apart");
  return made;
}

}  // namespace palio::body
