// Seen along the axis the loops of all layers part the plane into regions, each just inside one loop and outside those
// that it holds. A region is material in some layers; a half of the mould is material in others; a loop bounds a layer
// of it where the regions on its two sides differ.
#include "palio/body/mould.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <tuple>

#include <fmt/format.h>

#include "palio/body/clear.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::body {
namespace {

[[noreturn]] void refuse(const std::string& allowed, const std::string& remedy) {
  throw InvalidParameter("mould", "asked for", allowed, remedy);
}

/// The least and greatest layer in which a region is material.
using Span = std::optional<std::pair<std::size_t, std::size_t>>;

class Parted {
 public:
  Parted(const Body& body, const MouldSizes& sizes) : body_(body), sizes_(sizes) {
    if (!body.tunnels.empty())
      refuse(fmt::format("a hole across ({}) keeps the part from being drawn out", body.tunnels[0].feature),
             "leave it out and drill it afterwards");
    for (const Loop& loop : body.loops)
      shapes_.emplace_back(loop.outline);
    check_apart();
    for (std::size_t i = 0; i < shapes_.size(); ++i)
      parents_.push_back(around(i));
    for (std::size_t i = 0; i < shapes_.size(); ++i)
      spans_.push_back(span(i));
    double reach = 0;
    for (const Shape& s : shapes_)
      reach = std::max(reach, s.greatest());
    block_ = reach + sizes.wall;
    for (std::size_t n = 0; n < body.layers.size(); ++n) {
      for (const Wall& w : body.layers[n].walls) {
        if (body.loops[w.below].feature == "teeth") parting_ = n + 1;
      }
    }
  }

  Mould take() { return {half(false), half(true), height(parting_)}; }

 private:
  double height(std::size_t n) const {
    return n < body_.layers.size() ? body_.layers[n].levels.front().z : body_.top();
  }

  void check_apart() const {
    for (const Layer& layer : body_.layers) {
      for (const Wall& w : layer.walls) {
        if (w.below != w.above)
          refuse(fmt::format("the {} tapers", body_.loops[w.below].feature),
                 "leave bore.chamfer out, and cut it afterwards");
      }
    }
    for (std::size_t i = 0; i < shapes_.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) {
        if (shapes_[i].distance(shapes_[j], 2 * kTouches) < kTouches)
          refuse(fmt::format("the {} and the {} cross as seen along the axis", body_.loops[i].feature,
                             body_.loops[j].feature),
                 "make one of the two smaller");
      }
    }
  }

  /// The innermost loop about another one; none for those that nothing is around.
  std::optional<std::size_t> around(std::size_t inner) const {
    std::optional<std::size_t> nearest;
    for (std::size_t i = 0; i < shapes_.size(); ++i) {
      if (i != inner && shapes_[inner].inside(shapes_[i]) && (!nearest || shapes_[i].inside(shapes_[*nearest])))
        nearest = i;
    }
    return nearest;
  }

  /// Whether the region just inside a loop is material in a layer.
  bool filled(std::size_t loop, std::size_t layer) const {
    double turns = 0;
    for (const Wall& w : body_.layers[layer].walls) {
      if (w.below == loop || shapes_[loop].inside(shapes_[w.below])) turns += shapes_[w.below].orientation();
    }
    return turns > 0.5;
  }

  Span span(std::size_t loop) const {
    Span found;
    for (std::size_t n = 0; n < body_.layers.size(); ++n) {
      if (!filled(loop, n)) continue;
      if (found && found->second + 1 != n)
        refuse(fmt::format("an undercut: along the axis there is a gap below the {}", body_.loops[loop].feature),
               "recess the other face, or make what stands out narrower");
      found = found ? std::pair(found->first, n) : std::pair(n, n);
    }
    return found;
  }

  /// Of a region without material: where the halves meet in it, as the number of the layer above.
  std::size_t meeting_of(std::size_t loop) const {
    std::optional<std::size_t> outside = parents_[loop];
    if (!outside) return parting_;
    const Span& beside = spans_[*outside];
    return beside ? std::clamp(parting_, beside->first, beside->second + 1) : meeting_of(*outside);
  }

  /// Whether a half is material in a region and layer. Layer 0 is the floor, the last one the ceiling.
  bool holds(bool upper, std::optional<std::size_t> loop, std::size_t layer) const {
    const Span found = loop ? spans_[*loop] : Span();
    const std::size_t from = found  ? found->first
                             : loop ? meeting_of(*loop)
                                    : parting_,
                      to = found ? found->second + 1 : from;
    return upper ? layer >= to + 1 : layer < from + 1;
  }

  bool drafted(std::size_t loop) const {
    const Loop& l = body_.loops[loop];
    return sizes_.draft > 0 && shapes_[loop].circle() > 0 && l.feature != "teeth" && !of_bore(l) &&
           shapes_[loop].centre().norm() < math::kAlike;
  }

  /// The number of a loop in a half, at a height; `outer`: its material lies inside it.
  std::size_t number(Body& made, std::size_t loop, bool outer, double z) {
    const double at = drafted(loop) ? z : 0;
    const auto [known, fresh] = numbers_.try_emplace({loop, outer, at}, made.loops.size());
    if (!fresh) return known->second;
    Loop copy = body_.loops[loop];
    if (drafted(loop)) {
      // The half's walls open towards the parting: its pins get narrower, its openings wider.
      const double more = std::tan(sizes_.draft) * std::abs(z - height(parting_));
      const bool pin = outer;
      copy.outline = curve::circle(shapes_[loop].circle() + (pin ? more : -more), copy.outline.period[0].role, !outer);
    } else if ((shapes_[loop].orientation() > 0) != outer) {
      copy.outline = curve::reversed(copy.outline);
    }
    made.loops.push_back(std::move(copy));
    return known->second;
  }

  Body half(bool upper) {
    Body made;
    numbers_.clear();
    made.loops.push_back({curve::circle(block_, curve::Role::body, false), false, "block"});
    const std::size_t count = body_.layers.size();
    for (std::size_t layer = 0; layer < count + 2; ++layer) {
      Layer l;
      if (layer == 0)
        l.levels = {{body_.bottom() - sizes_.floor, 0}, {body_.bottom(), 0}};
      else if (layer == count + 1)
        l.levels = {{body_.top(), 0}, {body_.top() + sizes_.floor, 0}};
      else
        l.levels = body_.layers[layer - 1].levels;
      if (holds(upper, std::nullopt, layer)) l.walls.emplace_back(0);
      for (std::size_t i = 0; i < shapes_.size(); ++i) {
        const bool inside = holds(upper, i, layer), outside = holds(upper, parents_[i], layer);
        if (inside == outside) continue;
        l.walls.emplace_back(number(made, i, inside, l.levels.front().z), number(made, i, inside, l.levels.back().z));
      }
      if (!l.walls.empty()) made.layers.push_back(std::move(l));
    }
    return made;
  }

  const Body& body_;
  const MouldSizes& sizes_;
  std::vector<Shape> shapes_;
  std::vector<std::optional<std::size_t>> parents_;
  std::vector<Span> spans_;  // of the region just inside each loop
  std::size_t parting_ = 0;  // number of the layer above it
  double block_ = 0;         // its radius
  std::map<std::tuple<std::size_t, bool, double>, std::size_t> numbers_;
};

}  // namespace

Mould mould(const Body& body, const MouldSizes& sizes) {
  for (const auto& [value, name] : {std::pair(sizes.wall, "wall"), {sizes.floor, "floor"}}) {
    if (!(value > 0)) throw InvalidParameter(name, fmt::format("{} mm", value), "above 0", "give 8, say");
  }
  if (body.slides) refuse("a rack has no round block", "make the mould of the gear that runs on it");
  Mould made = Parted(body, sizes).take();
  for (const Body* half : {&made.lower, &made.upper}) {
    for (const Collision& c : collisions(*half))
      refuse(fmt::format("between its {} and its {} no wall is left", c.first, c.second),
             "take less draft, or make one of the two smaller");
  }
  return made;
}

}  // namespace palio::body
