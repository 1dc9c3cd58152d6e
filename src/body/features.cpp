// Features become loops; heights at which something begins or ends cut the body into layers. Nothing is subtracted:
// every layer lists the loops that bound it.
#include "palio/body/features.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

#include <fmt/format.h>

#include "bore.hpp"
#include "feature_checks.hpp"
#include "marks.hpp"
#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::body {
namespace {

using curve::Arc;
using curve::Line;
using curve::Outline;
using curve::Role;
using curve::Segment;

/// The window between two arms, whose middle lies at polar angle π/n.
std::vector<Segment> window(const Spokes& s) {
  const double r1 = s.inner_diameter / 2, r2 = s.outer_diameter / 2, w = s.width / 2, rho = s.fillet_radius,
               half = kPi / s.count;
  const auto clear_at = [&](double r) { return std::asin(std::min(1.0, (w + rho) / r)); };
  const double x2 = std::sqrt(std::max(0.0, std::pow(r2 - rho, 2) - std::pow(w + rho, 2))), gamma2 = clear_at(r2 - rho);
  require(rho >= 0 && r2 - rho > w + rho && gamma2 < half, "spokes",
          fmt::format("width {}, fillet_radius {}", mm(2 * w), mm(rho)),
          fmt::format("{} arms leave no window between diameters {} and {}", s.count, mm(2 * r1), mm(2 * r2)),
          "make arms or fillets narrower, or fewer arms");
  // At the inner end: two rounds and the inner circle's arc, or one round where the arms meet before they reach it.
  const bool meets = clear_at(r1 + rho) >= half;
  const double centre1 = meets ? (w + rho) / std::sin(half) : r1 + rho, gamma1 = meets ? half : clear_at(r1 + rho);
  constexpr double kLeastArm = 1e-6;  // [mm] between the rounds of its ends
  const double x1 = centre1 * std::cos(gamma1);
  require(x1 < x2 - kLeastArm, "spokes", fmt::format("fillet_radius {}", mm(rho)),
          "the rounds at both ends of an arm overlap", "make it smaller");
  std::vector<Segment> lower;  // the half next to the arm on +x, from the inner end's middle to the outer end's
  if (!meets) lower.push_back({Arc{Vec2::Zero(), r1}, half, gamma1, Role::body});
  if (rho > 0) {
    // From the inner circle (or the middle between the arms) round to the arm's side.
    lower.push_back({Arc{from_polar(centre1, gamma1), rho}, meets ? kPi + half : gamma1 + kPi, 1.5 * kPi, Role::body});
  }
  lower.push_back({Line{{x1, w}, {x2, w}}, 0, 1, Role::body});
  if (rho > 0) lower.push_back({Arc{from_polar(r2 - rho, gamma2), rho}, -kPi / 2, gamma2, Role::body});
  lower.push_back({Arc{Vec2::Zero(), r2}, gamma2, half, Role::body});
  std::vector<Segment> all = lower;
  for (auto it = lower.rbegin(); it != lower.rend(); ++it)
    all.push_back(curve::turned(curve::mirrored(*it), 2 * half));
  return all;
}

Outline sector_outline(const Outline& whole, int count, double back_radius) {
  Outline made;
  const int first = -((count - 1) / 2);
  for (int i = 0; i < count; ++i) {
    for (std::size_t k = 0; k < whole.period.size(); ++k)
      made.period.push_back(whole.segment(first + i, k));
  }
  const Vec2 end = made.period.back().last(), start = made.period.front().first();
  const double from = std::atan2(end.y(), end.x());
  double to = std::atan2(start.y(), start.x());
  while (to <= from)
    to += 2 * kPi;
  const Arc back{Vec2::Zero(), back_radius};
  made.period.push_back({Line{end, from_polar(back_radius, from)}, 0, 1, Role::body});
  made.period.push_back({back, from, to, Role::body});
  made.period.push_back({Line{from_polar(back_radius, to), start}, 0, 1, Role::body});
  return made;
}

class Builder {
 public:
  Builder(const Core& core, const Features& features, const Core* first_layer)
      : core_(core), first_(first_layer), f_(features) {
    made_.slides = core.slides;
    check_features(core_, f_);
    const Heights h = heights(f_, width(), plate());
    bottom_ = h.bottom, top_ = h.top;
    if (f_.first_layer_inset > 0) low_ = drawn_in(f_, f_.first_layer_inset);
  }

  Body take() {
    std::vector<double> cuts = breaks();
    for (std::size_t i = 0; i + 1 < cuts.size(); ++i)
      layer(cuts[i], cuts[i + 1]);
    for (const CrossHole& h : f_.cross_holes) {
      tunnels(h, h.angle);
      if (h.through) tunnels(h, h.angle + kPi);
    }
    for (const Collision& c : collisions(made_)) {
      throw InvalidParameter(
          c.second, described(core_, f_, c.second),
          c.depth > kTouches
              ? fmt::format("it runs into the {} by {}", c.first == "teeth" ? "teeth or roots" : c.first, mm(c.depth))
              : fmt::format("it touches the {}", c.first == "teeth" ? "teeth or roots" : c.first),
          "move or shrink one of the two until material is left between them");
    }
    return std::move(made_);
  }

 private:
  double width() const { return core_.width; }
  double plate() const { return core_.plate(); }
  double bore_radius(bool low) const { return core_.bore_radius + (low ? f_.first_layer_inset : 0); }

  std::vector<double> breaks() const {
    const double b = width();
    std::vector<double> all{bottom_, top_, 0, b};
    if (plate() > 0) all.insert(all.end(), {-plate(), b + plate()});
    for (const Hub& h : f_.hubs)
      all.push_back(h.top ? b + plate() + h.length : -plate() - h.length);
    if (f_.web) {
      const auto [low, high] = web_heights();
      all.insert(all.end(), {low, high});
    }
    if (core_.gap) {
      const double gap = *core_.gap;
      if (gap == 0)
        all.push_back(b / 2);
      else
        all.insert(all.end(), {b / 2 - gap / 2, b / 2 + gap / 2});
    }
    if (f_.marks) all.push_back(b - f_.marks->depth);
    for (const Step& s : f_.steps)
      all.push_back(s.top ? top_ - s.depth : bottom_ + s.depth);
    for (const Cutout& c : f_.cutouts) {
      if (c.depth > 0) all.push_back(c.floor(b));
    }
    if (f_.bore_chamfer > 0) all.insert(all.end(), {bottom_ + f_.bore_chamfer, top_ - f_.bore_chamfer});
    if (f_.first_layer_inset > 0) all.push_back(bottom_ + f_.first_layer_height);
    for (const CrossHole& h : f_.cross_holes) {
      if (h.nut) all.push_back(pocket_end(h));
    }
    std::sort(all.begin(), all.end());
    all.erase(std::unique(all.begin(), all.end(), [](double x, double y) { return y - x < math::kAlike; }), all.end());
    return all;
  }

  /// Bottom and top of the plate that a web leaves.
  std::pair<double, double> web_heights() const {
    const double b = width(), t = f_.web->thickness;
    if (f_.web->faces == Faces::both) return {(b - t) / 2, (b + t) / 2};
    return f_.web->faces == Faces::top ? std::pair(0.0, t) : std::pair(b - t, b);
  }

  /// Whether a hole across stands in the upper hub.
  bool above(const CrossHole& h) const { return h.height > width() / 2; }
  /// The closed end of a nut's pocket: a corner of the nut points there.
  double pocket_end(const CrossHole& h) const {
    const double corner = h.nut->across_flats / 2 / std::cos(kPi / 6);
    return h.height + (above(h) ? -corner : corner);
  }

  double turn(double z) const { return core_.turn ? core_.turn(z - width() / 2) : 0; }

  std::size_t loop(Outline outline, const char* feature, bool follows = false) {
    made_.loops.push_back({std::move(outline), follows, feature});
    return made_.loops.size() - 1;
  }

  /// One number for circles about the axis that are alike, so that walls go through.
  std::size_t circle(double radius, bool hole, Role role, const char* feature) {
    for (std::size_t i = 0; i < made_.loops.size(); ++i) {
      const Outline& o = made_.loops[i].outline;
      const Arc* arc = o.period.size() == 1 ? std::get_if<Arc>(&o.period[0].curve) : nullptr;
      if (arc && arc->centre == Vec2::Zero() && std::abs(arc->radius - radius) < math::kAlike && o.clockwise == hole)
        return i;
    }
    return loop(curve::circle(radius, role, hole), feature);
  }

  /// Loops other than circles are made once, for the lowest layer and for the rest.
  template <class Make>
  std::size_t once(const char* feature, int number, bool low, Make make) {
    for (const Kept& k : kept_) {
      if (k.feature == feature && k.number == number && k.low == low) return k.loop;
    }
    kept_.push_back({feature, number, low, make()});
    return kept_.back().loop;
  }

  /// What an end's chamfer adds to the bore's radius.
  double chamfer(double z) const {
    return std::max({0.0, f_.bore_chamfer - (z - bottom_), f_.bore_chamfer - (top_ - z)});
  }

  /// The widest step of the bore there; null where there is none.
  const Step* step(const Features& f, double z) const {
    const Step* widest = nullptr;
    for (const Step& s : f.steps) {
      const bool there = s.top ? z > top_ - s.depth : z < bottom_ + s.depth;
      if (there && (!widest || s.diameter > widest->diameter)) widest = &s;
    }
    return widest;
  }

  void round_bore(double radius, const char* feature, double z0, double z1, Layer& made) {
    const std::size_t below = circle(radius + chamfer(z0), true, Role::bore, feature),
                      above = circle(radius + chamfer(z1), true, Role::bore, feature);
    made.walls.push_back({below, above});
  }

  void layer(double z0, double z1) {
    const double z = (z0 + z1) / 2, b = width();
    const bool low = f_.first_layer_inset > 0 && z < bottom_ + f_.first_layer_height;
    const Features& f = low ? low_ : f_;
    const Core& core = low && first_ ? *first_ : core_;
    const bool twisted = static_cast<bool>(core.turn), in_teeth = z > 0 && z < b;
    Layer made;
    made.levels = {{z0, twisted && in_teeth ? turn(z0) : 0}, {z1, twisted && in_teeth ? turn(z1) : 0}};
    const bool in_plate = !in_teeth && z > -plate() && z < b + plate();
    if (in_teeth && core.pins)
      pins(core, low, made);
    else if (in_teeth)
      core_loops(core, f, z, low, made);
    else if (in_plate)
      made.walls.push_back(circle(core.outer_radius, false, Role::body, "plate_diameter"));
    else
      hub_loop(f, z, made);
    if (in_teeth && f.web) {
      const auto [from, to] = web_heights();
      if (z < from || z > to) {
        made.walls.push_back(circle(f.web->outer_diameter / 2, true, Role::body, "web"));
        made.walls.push_back(circle(f.web->inner_diameter / 2, false, Role::body, "web"));
      }
    }
    // Between the plates that hold pins nothing surrounds the shaft.
    if (!core.slides && !core.ring && !(in_teeth && core.pins)) bore_loop(f, z0, z1, low, made);
    holes(f, z, low, made);
    pockets(f, z, low, made);
    if (f.marks && in_teeth && z > b - f.marks->depth) marks(*f.marks, made);
    made_.layers.push_back(std::move(made));
  }

  void pins(const Core& core, bool low, Layer& made) {
    const int count = core.outline.count;
    for (int i = 0; i < count; ++i) {
      made.walls.push_back(once("teeth", i, low, [&] {
        const Vec2 at = from_polar(core.pins->circle_radius, 2 * kPi * i / count);
        return loop(curve::circle(core.pins->radius, Role::flank, false, at), "teeth");
      }));
    }
  }

  void core_loops(const Core& core, const Features& f, double z, bool low, Layer& made) {
    const bool twisted = static_cast<bool>(core.turn);
    if (core.ring) made.walls.push_back(circle(core.outer_radius, false, Role::body, "outer_diameter"));
    if (core.gap && std::abs(z - width() / 2) < *core.gap / 2) {
      // The groove is as deep as the roots and a tenth of a module more, so that it is no edge of the root.
      made.walls.push_back(circle(core.root_radius - 0.1 * core.module, false, Role::body, "gap"));
      return;
    }
    made.walls.push_back(once("teeth", 0, low, [&] {
      return loop(
          f.sector_teeth > 0 ? sector_outline(core.outline, f.sector_teeth, f.sector_back_diameter / 2) : core.outline,
          "teeth", twisted);
    }));
  }

  void hub_loop(const Features& f, double z, Layer& made) {
    double radius = 0;
    for (const Hub& h : f.hubs) {
      if (h.top ? z > 0 && z < width() + plate() + h.length : z < 0 && z > -plate() - h.length)
        radius = std::max(radius, h.diameter / 2);
    }
    made.walls.push_back(circle(radius, false, Role::body, "hubs"));
  }

  void bore_loop(const Features& f, double z0, double z1, bool low, Layer& made) {
    if (const Step* s = step(f, (z0 + z1) / 2)) {
      round_bore(s->diameter / 2, feature_of(*s), z0, z1, made);
    } else if (f.sided) {
      made.walls.push_back(once("hex", 0, low, [&] { return loop(sided_outline(*f.sided), feature_of(*f.sided)); }));
    } else if (f.serration) {
      made.walls.push_back(
          once("serration", 0, low, [&] { return loop(serrated_outline(*f.serration), "serration"); }));
    } else if (f.shaped) {
      made.walls.push_back(
          once("shaped", 0, low, [&] { return loop(f.shaped->outline(), f.shaped->feature.c_str()); }));
    } else if (core_.bore_radius > 0 && plain_bore(f_)) {
      round_bore(bore_radius(low), "bore", z0, z1, made);
    } else if (core_.bore_radius > 0) {
      made.walls.push_back(
          once("bore", 0, low, [&] { return loop(bore_outline(bore_radius(low), f), f.keyway ? "keyway" : "flat"); }));
    }
  }

  /// Holes, windows and cut-outs go through every layer whose material they lie in.
  void holes(const Features& f, double z, bool low, Layer& made) {
    std::vector<std::size_t> candidates;
    int number = 0;
    for (const Holes& h : f.holes) {
      for (int i = 0; i < h.count; ++i, ++number) {
        candidates.push_back(once("holes", number, low, [&] {
          return loop(curve::circle(h.diameter / 2, Role::body, true, h.place(i)), "holes");
        }));
      }
    }
    if (f.spokes) {
      for (int i = 0; i < f.spokes->count; ++i) {
        candidates.push_back(once("spokes", i, low, [&] {
          return loop(curve::turned(hole_of(window(*f.spokes)), 2 * kPi * i / f.spokes->count), "spokes");
        }));
      }
    }
    std::vector<std::size_t> islands;
    number = 0;
    for (const Cutout& c : f.cutouts) {
      for (const Outline& o : c.loops) {
        const std::size_t made_of = once("cutouts", number++, low, [&] { return loop(o, "cutouts"); });
        if (c.at(z, width())) (o.clockwise ? candidates : islands).push_back(made_of);
      }
    }
    const std::vector<Wall> base = made.walls;
    for (const std::size_t c : candidates) {
      const Shape& shape = this->shape(c);
      double around = 0;
      for (const Wall& w : base) {
        const Shape& other = this->shape(w.below);
        if (shape.inside(other)) around += other.orientation();
      }
      if (around > 0.5)
        made.walls.push_back(c);
      else if (!base.empty() && made.levels.front().z >= 0 && made.levels.back().z <= width())
        lost(c, made);
    }
    // What stands within a pocket stands where the pocket is.
    for (const std::size_t c : islands) {
      const bool within = std::any_of(made.walls.begin() + static_cast<std::ptrdiff_t>(base.size()), made.walls.end(),
                                      [&](const Wall& w) { return shape(c).inside(shape(w.below)); });
      if (within) made.walls.push_back(c);
    }
  }

  void pockets(const Features& f, double z, bool low, Layer& made) {
    for (std::size_t i = 0; i < f.cross_holes.size(); ++i) {
      const CrossHole& h = f.cross_holes[i];
      if (!h.nut || (above(h) ? z < pocket_end(f_.cross_holes[i]) : z > pocket_end(f_.cross_holes[i]))) continue;
      made.walls.push_back(once("nut", static_cast<int>(i), low, [&] { return loop(nut_outline(h), h.key()); }));
    }
  }

  /// Midway between bore and hub, its flats along the axis.
  Outline nut_outline(const CrossHole& h) const {
    const std::optional<Outline> opening = bore(core_.bore_radius, f_);
    double hub = 0;
    for (const Hub& each : f_.hubs) {
      if (each.top == above(h)) hub = std::max(hub, each.diameter / 2);
    }
    Tunnel way;
    way.radius = h.diameter / 2, way.angle = h.angle;
    double inner = 0;
    if (opening) {
      for (const Mouth& m : crossed(*opening, 0, way).mouths)
        inner = m.distance;
    }
    const double middle = (inner + hub) / 2, t = h.nut->thickness / 2, w = h.nut->across_flats / 2;
    std::vector<Segment> sides;
    sides.reserve(4);
    const Vec2 corners[] = {{middle - t, -w}, {middle + t, -w}, {middle + t, w}, {middle - t, w}};
    for (int i = 0; i < 4; ++i)
      sides.push_back({Line{turned(corners[i], h.angle), turned(corners[(i + 1) % 4], h.angle)}, 0, 1, Role::body});
    return hole_of(std::move(sides));
  }

  /// One direction of a hole across: through every wall of its layer that it meets.
  void tunnels(const CrossHole& h, double angle) {
    const std::string given = fmt::format("of diameter {} at height {}", mm(h.diameter), mm(h.height));
    require(h.diameter > 0, h.key(), given, "its diameter is above 0", "give the hole's diameter");
    const auto layer = std::find_if(made_.layers.begin(), made_.layers.end(),
                                    [&](const Layer& l) { return h.height < l.levels.back().z; });
    const double low = layer == made_.layers.end() ? 0 : layer->levels.front().z,
                 high = layer == made_.layers.end() ? 0 : layer->levels.back().z, room = h.diameter / 2 + kTouches;
    require(layer != made_.layers.end() && h.height > bottom_, h.key(), given,
            fmt::format("the body goes from {} to {}", mm(bottom_), mm(top_)), "give a height within a hub");
    const bool fits = h.height - room > low && h.height + room < high;
    const bool could = high - low > 2 * room;
    require(fits, h.key(), given, fmt::format("what surrounds it goes on alike from {} to {} only", mm(low), mm(high)),
            could ? fmt::format("give a height between {} and {}", mm(low + room), mm(high - room))
                  : fmt::format("make it smaller than {}, or the hub longer", mm(high - low - 2 * kTouches)));
    Tunnel tunnel;
    tunnel.radius = h.diameter / 2, tunnel.z = h.height, tunnel.angle = angle, tunnel.feature = h.key();
    std::vector<Mouth> mouths;
    for (const Wall& w : layer->walls) {
      const Loop& met = made_.loops[w.below];
      const Crossed c = crossed(met.outline, w.below, tunnel);
      if (c.clean && c.mouths.empty()) continue;
      require(c.clean && w.below == w.above, h.key(), given,
              fmt::format("it meets the {} at a slant, at a corner or where it tapers", met.feature),
              met.feature == "teeth" ? "give a height within a hub: gear teeth are not drilled through"
                                     : "turn it by angle, make it smaller, or give another height");
      mouths.insert(mouths.end(), c.mouths.begin(), c.mouths.end());
    }
    std::sort(mouths.begin(), mouths.end(), [](const Mouth& a, const Mouth& b) { return a.distance < b.distance; });
    require(mouths.size() >= 2 && mouths.size() % 2 == 0, h.key(), given,
            "it goes from a bore to the outside of a hub, and there is no bore", "give a bore");
    for (std::size_t i = 0; i < mouths.size(); i += 2) {
      tunnel.inner = mouths[i], tunnel.outer = mouths[i + 1];
      for (const Tunnel& other : made_.tunnels)
        keep_apart(tunnel, other, given);
      made_.tunnels.push_back(tunnel);
    }
  }

  static void keep_apart(const Tunnel& a, const Tunnel& b, const std::string& given) {
    if (a.inner.loop != b.inner.loop || std::abs(a.z - b.z) > a.radius + b.radius + kTouches) return;
    const double half = std::asin(std::min(1.0, (a.radius + kTouches) / a.inner.distance)) +
                        std::asin(std::min(1.0, b.radius / b.inner.distance)),
                 apart = std::abs(std::remainder(a.angle - b.angle, 2 * kPi));
    require(
        apart > half, a.feature.c_str(), given,
        fmt::format("beside the {} at the same height it needs an angle of {:.4g}° between them, and there are {:.4g}°",
                    b.feature, half * 180 / kPi, apart * 180 / kPi),
        "turn one of them, or give it another height");
  }

  /// The widest ring of the top face that carries a text: between its inner and outer radius.
  std::pair<double, double> text_ring() const {
    const std::optional<Outline> opening = bore(bore_radius(false), f_);
    double inner = opening ? reach(*opening) : 0;
    if (core_.ring) return {core_.root_radius, core_.outer_radius};
    for (const Step& s : f_.steps)
      inner = s.top ? std::max(inner, s.diameter / 2) : inner;
    for (const Hub& h : f_.hubs)
      inner = h.top ? std::max(inner, h.diameter / 2) : inner;
    if (f_.web && f_.web->faces != Faces::bottom) inner = f_.web->outer_diameter / 2;
    return {inner, core_.root_radius};
  }

  void marks(const Marks& m, Layer& made) {
    const double module = core_.module, r = core_.reference_radius, root = core_.root_radius;
    std::vector<Dot> dots;
    for (const double a : m.teeth)
      dots.push_back({from_polar(r, a + turn(width())), 0.5 * module});
    for (const double a : m.spaces)
      dots.push_back({from_polar(root + (core_.ring ? 0.7 : -0.7) * module, a + turn(width())), 0.5 * module});
    if (!m.text.empty()) {
      const auto [inner, outer] = text_ring();
      const double room = outer - inner, height = std::min(2 * module, 0.5 * room);
      require(height > 0.4, "mark", fmt::format("text \"{}\"", m.text),
              fmt::format("the ring that could carry it is only {} wide", mm(room)), "leave mark.text out");
      const std::vector<Dot> text = dotted_text(m.text, (inner + outer) / 2, height, -kPi / 2);
      dots.insert(dots.end(), text.begin(), text.end());
    }
    int number = 0;
    for (const Dot& d : dots)
      made.walls.push_back(once("mark", number++, false,
                                [&] { return loop(curve::circle(d.diameter / 2, Role::body, true, d.at), "mark"); }));
  }

  /// A hole that lies in no material of any layer is told by the collisions of the layer with the teeth.
  void lost(std::size_t hole, Layer& made) {
    const bool in_recess = std::any_of(made.walls.begin(), made.walls.end(), [&](const Wall& w) {
      const Loop& l = made_.loops[w.below];
      const bool recess = l.feature == "web" || l.feature == "bore.steps" || l.feature == "bore.bearing";
      return recess && l.outline.clockwise && shape(hole).inside(shape(w.below));
    });
    if (!in_recess) made.walls.push_back(hole);
  }

  const Shape& shape(std::size_t number) {
    while (shapes_.size() < made_.loops.size())
      shapes_.push_back(std::make_unique<Shape>(made_.loops[shapes_.size()].outline));
    return *shapes_[number];
  }

  struct Kept {
    std::string feature;
    int number;
    bool low;
    std::size_t loop;
  };
  const Core& core_;
  const Core* first_;
  const Features& f_;
  Features low_;
  Body made_;
  double bottom_ = 0, top_ = 0;
  std::vector<Kept> kept_;
  std::vector<std::unique_ptr<Shape>> shapes_;
};

}  // namespace

Body body(const Core& core, const Features& features, const Core* first_layer) {
  return Builder(core, features, first_layer).take();
}

}  // namespace palio::body
