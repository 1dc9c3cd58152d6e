// Plates that carry axes: a hull of discs, with bores, posts and mounting holes, as loops × levels.
#include <algorithm>
#include <cmath>
#include <map>
#include <string_view>
#include <tuple>
#include <vector>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/body/features.hpp"
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

double widest(const FramePlan& plan, const FramePlan::Axis& axis) {
  return std::max({axis.bore, axis.seat.diameter, axis.post_height > 0 ? plan.post_diameter : 0.0});
}

namespace {

/// Loops × levels of a plate: what bounds it between two heights at which something begins or ends.
class Plate {
 public:
  explicit Plate(const FramePlan& plan) : plan_(plan) {}

  body::Body take() {
    const std::vector<double> levels = this->levels();
    for (std::size_t i = 0; i + 1 < levels.size(); ++i)
      layer(levels[i], levels[i + 1]);
    return std::move(made_);
  }

 private:
  /// Where the bore of an axis ends above: on its post.
  double end(const FramePlan::Axis& a) const { return plan_.thickness + a.post_height; }
  bool drawn_in() const { return plan_.inset > 0 && plan_.inset_height < plan_.thickness; }

  std::vector<double> levels() const {
    std::vector<double> all{0, plan_.thickness};
    if (drawn_in()) all.push_back(plan_.inset_height);
    for (const FramePlan::Axis& a : plan_.axes) {
      all.push_back(end(a));
      if (a.seat.diameter > 0) all.push_back(a.seat.top ? end(a) - a.seat.depth : a.seat.depth);
    }
    for (const body::Cutout& c : plan_.cutouts) {
      if (c.depth > 0) all.push_back(c.floor(plan_.thickness));
    }
    std::sort(all.begin(), all.end());
    const auto alike = [](double x, double y) { return y - x < math::kAlike; };
    all.erase(std::unique(all.begin(), all.end(), alike), all.end());
    return all;
  }

  /// Loops are made once, for the lowest layers and for the rest.
  template <class Make>
  std::size_t once(const char* feature, std::size_t number, bool low, Make make) {
    const auto [it, is_new] = known_.try_emplace({feature, number, low}, made_.loops.size());
    if (is_new) made_.loops.push_back({make(), false, feature});
    return it->second;
  }

  std::size_t outline(bool low) {
    if (!plan_.outline.empty()) {
      return once("outline", 0, low,
                  [&] { return body::drawn_in(plan_.outline.front(), inset(low) - plan_.walls, "outline"); });
    }
    return once("margin", 0, low, [&] {
      const double more = plan_.margin + plan_.walls - inset(low);
      std::vector<Disc> discs;
      for (const FramePlan::Axis& a : plan_.axes)
        discs.push_back({a.at, widest(plan_, a) / 2 + more});
      for (const FramePlan::Hole& h : plan_.holes)
        discs.push_back({h.at, h.diameter / 2 + more});
      return hull(discs);
    });
  }

  double inset(bool low) const { return low ? plan_.inset : 0; }

  void bore(std::size_t number, double z, bool low, body::Layer& layer) {
    const FramePlan::Axis& a = plan_.axes[number];
    const FramePlan::Axis::Seat& seat = a.seat;
    const auto hole = [&](const char* feature, double diameter) {
      layer.walls.emplace_back(
          once(feature, number, low, [&] { return curve::circle(diameter / 2 + inset(low), Role::bore, true, a.at); }));
    };
    if (seat.diameter > 0 && (seat.top ? z > end(a) - seat.depth : z < seat.depth))
      hole("bore.bearing", seat.diameter + seat.wider);
    else if (a.bore > 0)
      hole("bore", a.bore + a.wider);
  }

  void layer(double from, double to) {
    const double z = (from + to) / 2;
    const bool low = drawn_in() && z < plan_.inset_height, in_plate = z < plan_.thickness;
    body::Layer layer{{}, {{from, 0}, {to, 0}}};
    if (in_plate) layer.walls.emplace_back(outline(low));
    for (std::size_t k = 0; k < plan_.axes.size(); ++k) {
      const FramePlan::Axis& a = plan_.axes[k];
      if (z > end(a)) continue;
      if (!in_plate) {
        layer.walls.emplace_back(once("post_diameter", k, false, [&] {
          return curve::circle(plan_.post_diameter / 2 + plan_.walls, Role::body, false, a.at);
        }));
      }
      bore(k, z, low, layer);
    }
    for (std::size_t k = 0; in_plate && k < plan_.holes.size(); ++k) {
      const FramePlan::Hole& h = plan_.holes[k];
      layer.walls.emplace_back(once("holes", k, low, [&] {
        return curve::circle((h.diameter + h.wider) / 2 + inset(low), Role::bore, true, h.at);
      }));
    }
    if (in_plate) cut_out(z, low, layer);
    made_.layers.push_back(std::move(layer));
  }

  /// What is cut out along outlines: within the plate's own, and beside.
  void cut_out(double z, bool low, body::Layer& layer) {
    const auto wall = [&](const char* feature, std::size_t number, const curve::Outline& o) {
      layer.walls.emplace_back(
          once(feature, number, low, [&] { return body::drawn_in(o, inset(low) - plan_.walls, feature); }));
    };
    for (std::size_t k = 1; k < plan_.outline.size(); ++k)
      wall("outline", k, plan_.outline[k]);
    std::size_t number = 0;
    for (const body::Cutout& c : plan_.cutouts) {
      for (const curve::Outline& o : c.loops) {
        if (c.at(z, plan_.thickness)) wall("cutouts", number, o);
        ++number;
      }
    }
  }

  const FramePlan& plan_;
  body::Body made_;
  std::map<std::tuple<std::string_view, std::size_t, bool>, std::size_t> known_;
};

}  // namespace

body::Body body(const FramePlan& plan) {
  body::Body made = Plate(plan).take();
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
