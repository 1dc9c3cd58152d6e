// The gear on its sheet: from the front, and cut through its axis.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "bevel_shape.hpp"
#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/math/tolerance.hpp"
#include "sheet_pen.hpp"

namespace palio::view {
namespace {

std::vector<Cut> cut_through(const job::Gear& g, const body::Body& body) {
  std::vector<Cut> all;
  std::vector<body::Shape> shapes;
  for (const body::Loop& l : body.loops)
    shapes.emplace_back(l.outline);
  const double root = g.teeth.root_diameter() / 2, tip = g.teeth.tip_diameter() / 2;
  const auto crossings = [&](std::size_t loop, double side) {
    std::vector<double> radii;
    const std::vector<Vec2>& p = shapes[loop].points();
    for (std::size_t i = 0; i < p.size(); ++i) {
      const Vec2 &a = p[i], &b = p[(i + 1) % p.size()];
      if ((a.y() > 0) == (b.y() > 0)) continue;
      const double x = a.x() + (b.x() - a.x()) * a.y() / (a.y() - b.y());
      if (x * side > 0) radii.push_back(x * side);
    }
    return radii;
  };
  for (const body::Layer& layer : body.layers) {
    for (const double side : {1.0, -1.0}) {
      std::vector<std::pair<double, double>> radii;  // at the lower and the upper end
      bool toothed = false;
      for (const body::Wall& w : layer.walls) {
        if (body.loops[w.below].feature == "teeth" && !g.teeth.is_lantern()) {
          // By custom the cut runs along a tooth: the root circle bounds the blank, the tooth stays unhatched.
          toothed = true;
          if (g.features.sector_teeth == 0 || side > 0)
            radii.emplace_back(root, root);
          else
            radii.emplace_back(g.features.sector_back_diameter / 2, g.features.sector_back_diameter / 2);
          continue;
        }
        const std::vector<double> below = crossings(w.below, side), above = crossings(w.above, side);
        for (std::size_t i = 0; i < std::min(below.size(), above.size()); ++i)
          radii.emplace_back(below[i], above[i]);
      }
      std::sort(radii.begin(), radii.end());
      if (radii.size() % 2 == 1) radii.insert(radii.begin(), {0, 0});
      for (std::size_t i = 0; i + 1 < radii.size(); i += 2) {
        all.push_back({layer.levels.front().z, layer.levels.back().z, side * radii[i].first, side * radii[i + 1].first,
                       side * radii[i].second, side * radii[i + 1].second, false});
      }
      if (toothed && (g.features.sector_teeth == 0 || side > 0)) {
        all.push_back(
            {layer.levels.front().z, layer.levels.back().z, side * root, side * tip, side * root, side * tip, true});
      }
    }
  }
  return all;
}

/// A hole across whose axis lies in the plane of the cut leaves what is above and below it.
std::vector<Cut> without_holes_across(std::vector<Cut> cuts, const body::Body& body) {
  constexpr double kSame = 0.01;  // of a radius read off a polygon [mm]
  for (const body::Tunnel& t : body.tunnels) {
    if (std::abs(std::sin(t.angle)) > math::kAlike) continue;
    const double side = std::cos(t.angle) > 0 ? 1 : -1;
    for (std::size_t i = 0; i < cuts.size(); ++i) {
      Cut below = cuts[i];
      const bool there = t.z > below.z0 && t.z < below.z1 && std::abs(side * t.inner.distance - below.in0) < kSame &&
                         std::abs(side * t.outer.distance - below.out0) < kSame;
      if (!there) continue;
      Cut above = below;
      below.z1 = t.z - t.radius, above.z0 = t.z + t.radius;
      cuts[i] = below;
      cuts.push_back(above);
      break;
    }
  }
  return cuts;
}

class SheetViews : private GearPen {
 public:
  SheetViews(const SheetPen& pen, const job::Gear& gear) : GearPen(pen, gear) {}

  void views(double x0, double y0, double x1, double y1) {
    if (g_.teeth.is_rack()) return rack_view(x0, y0, x1, y1);
    if (g_.teeth.is_bevel()) return bevel_view(x0, y0, x1, y1);
    const body::Body body = job::body(g_).layers();
    const double reach = g_.teeth.reach(), from = body.bottom(), to = body.top();
    const double room_x = (x1 - x0 - 190 * k_) / kPointsPerMm, room_y = (y1 - y0 - 110 * k_) / kPointsPerMm;
    const auto by_x = usual_scale(2 * reach + (to - from), room_x), by_y = usual_scale(2 * reach, room_y);
    const auto& chosen = by_x.first < by_y.first ? by_x : by_y;
    scale_ = chosen.second;
    const double s = chosen.first * kPointsPerMm, middle_y = (y0 + y1) / 2 - 4 * k_;
    const double spare = x1 - x0 - s * (2 * reach + to - from) - 190 * k_,
                 front_x = x0 + 40 * k_ + spare / 4 + s * reach;
    const double section_x = front_x + s * reach + 60 * k_ + spare / 3;
    front(body, front_x, middle_y, s);
    section(body, section_x, middle_y, s);
  }

  const std::string& scale() const { return scale_; }

 private:
  void front(const body::Body& body, double x, double y, double s) {
    page_.look_at(Vec2::Zero(), s * zoom_, at(x, y));
    const Color none{0, 0, 0, 0};
    // As seen from +z, a tooth on top: what lies on the top face and at mid-face.
    for (const body::Loop& l : body.loops) {
      page_.outline(l.outline, Vec2::Zero(), kPi / 2, none, kBlack, (l.feature == "teeth" ? 0.9 : 0.7) * zoom_ * k_);
    }
    page_.circle(Vec2::Zero(), g_.teeth.reference_diameter() / 2, kInk, 0.5 * zoom_ * k_, chain());
    const double over = g_.teeth.reach() + 4;
    for (const Vec2& v : {Vec2(over, 0), Vec2(0, over)})
      page_.line(-v, v, kInk, 0.5 * zoom_ * k_, chain());
    words(x, y + s * g_.teeth.reach() + 22 * k_, "view from +z", 0, 7);
    // The plane of the section.
    words(x, y - s * g_.teeth.reach() - 16 * k_, "A", 0, 9, true);
    words(x, y + s * g_.teeth.reach() + 12 * k_, "A", 0, 9, true);
    const body::Features& f = g_.features;
    double note = y - s * g_.teeth.reach() - 18 * k_;
    const auto leader = [&](const Vec2& foot, const std::string& text) {
      // Above the gear, left of the cut's letter; each line goes down to what it names.
      const double label_x = x - 16 * k_;
      line(x + s * foot.x(), y - s * foot.y(), label_x, note, 0.4, kGrey);
      words(label_x - 3 * k_, note, text, -1, 7);
      note -= 12 * k_;
    };
    if (f.keyway)
      leader(turned(Vec2(f.keyway->height - g_.teeth.bore_diameter() / 2, 0), kPi / 2 + f.keyway->angles.front()),
             fmt::format("keyway {} × {}", size(f.keyway->width), size(f.keyway->height)));
    if (f.flat)
      leader(turned(Vec2(f.flat->twice ? f.flat->height / 2 : f.flat->height - g_.teeth.bore_diameter() / 2, 0),
                    kPi / 2 + f.flat->angle),
             flat_words(*f.flat));
    if (f.sided) leader(turned(Vec2(f.sided->across_flats / 2, 0), kPi / 2 + f.sided->angle), sided_words(*f.sided));
    if (f.serration)
      leader(turned(Vec2(f.serration->outer_diameter / 2, 0), kPi / 2 + f.serration->angle),
             serration_words(*f.serration));
    if (f.shaped) leader(turned(Vec2(f.shaped->outer_diameter / 2, 0), kPi / 2), shaped_words(*f.shaped));
    for (const body::Holes& h : f.holes)
      leader(from_polar(h.circle_diameter / 2, kPi / 2 + h.angle),
             fmt::format("{} × ⌀{} on ⌀{}", h.count, size(h.diameter), size(h.circle_diameter)));
    if (f.spokes)
      leader(turned(Vec2(0.25 * (f.spokes->inner_diameter + f.spokes->outer_diameter), f.spokes->width / 2), kPi / 2),
             fmt::format("{} arms {} wide", f.spokes->count, size(f.spokes->width)));
  }

  std::string flat_words(const body::Flat& f) const {
    return fmt::format(f.twice ? "double D {} from flat to flat" : "flat {}", size(f.height));
  }
  std::string sided_words(const body::Sided& b) const {
    return fmt::format("{} {}", b.sides == 4 ? "square" : "hexagon", size(b.across_flats));
  }
  std::string shaped_words(const body::ShapedBore& b) const {
    return fmt::format("{} (⌀{} / ⌀{})", b.label, size(b.outer_diameter + 2 * b.wider),
                       size(b.inner_diameter + 2 * b.wider));
  }
  std::string serration_words(const body::Serration& s) const {
    return fmt::format("{} serrations ⌀{} / ⌀{}", s.teeth, size(s.outer_diameter), size(s.inner_diameter));
  }

  void section(const body::Body& body, double x, double y, double s) {
    const double from = body.bottom();
    const auto px = [&](double z) { return x + s * (z - from); };
    const auto py = [&](double r) { return y - s * r; };
    const double length = s * (body.top() - from), reach = s * g_.teeth.reach();
    draw_cuts(without_holes_across(cut_through(g_, body), body), px, py);
    const double d = g_.teeth.reference_diameter() / 2, b = g_.teeth.face_width(), over = 4 * k_;
    for (const double r : {d, -d})
      page_.line({px(0) - over, -py(r)}, {px(b) + over, -py(r)}, kInk, 0.5 * zoom_ * k_, chain());
    page_.line({px(from) - 8 * k_, -py(0)}, {px(body.top()) + 8 * k_, -py(0)}, kInk, 0.5 * zoom_ * k_, chain());
    words(x + length / 2, y - reach - 16 * k_, "A – A", 0, 8, true);
    // Sizes: along the axis below, diameters to the right.
    double row = y + reach + 16 * k_;
    across(px(0), px(b), row, y + reach, size(b));
    if (body.top() - from > b + math::kAlike)
      across(px(from), px(body.top()), row += 16 * k_, y + reach, size(body.top() - from));
    if (g_.features.web) {
      row += 16 * k_;
      words(x, row,
            fmt::format("web {} thick, recess ⌀{} to ⌀{}", size(g_.features.web->thickness),
                        size(g_.features.web->inner_diameter), size(g_.features.web->outer_diameter)),
            1, 7);
    }
    for (const std::string& step : steps())
      words(x, row += 16 * k_, step, 1, 7);
    for (const body::CrossHole& h : g_.features.cross_holes)
      words(x, row += 16 * k_, across_words(h), 1, 7);
    double column = px(body.top()) + 18 * k_;
    const auto diameter = [&](double mm, const std::string& said) {
      upright(py(mm / 2), py(-mm / 2), column, px(body.top()) - 2 * k_, "⌀" + said);
      column += 30 * k_;
    };
    if (const double bore = g_.teeth.bore_diameter(); bore > 0)
      diameter(bore, g_.bearing ? size(bore) : by_symbol(bore));
    double hub = 0;
    for (const body::Hub& h : g_.features.hubs)
      hub = std::max(hub, h.diameter);
    if (hub > 0) diameter(hub, size(hub));
    diameter(g_.teeth.tip_diameter(), size(g_.teeth.tip_diameter()));
    if (g_.teeth.internal()) diameter(g_.teeth.outer_diameter(), size(g_.teeth.outer_diameter()));
  }

  /// Of the hole that grip or fit are for: a fit's symbol says all beside the nominal size.
  std::string by_symbol(double diameter) const {
    return g_.fit_limits() ? size(g_.fitted_diameter()) + " " + g_.grip : size(diameter);
  }

  std::string across_words(const body::CrossHole& h) const {
    const std::string what = h.through ? "pin across" : h.label.empty() ? "set screw" : "set screw " + h.label;
    std::string text =
        fmt::format("{} ⌀{} at z {}, {:.4g}°", what, size(h.diameter), size(h.height), h.angle * 180 / kPi);
    if (h.nut) text += fmt::format("; nut {} × {}", size(h.nut->across_flats), size(h.nut->thickness));
    return text;
  }

  /// The bore's steps as notes; the same at both ends is one.
  std::vector<std::string> steps() const {
    std::vector<std::string> notes;
    const auto& all = g_.features.steps;
    for (std::size_t i = 0; i < all.size(); ++i) {
      const body::Step& s = all[i];
      const auto mirrored = [&](const body::Step& o) {
        return o.top != s.top && o.diameter == s.diameter && o.depth == s.depth && o.seat == s.seat;
      };
      if (std::any_of(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(i), mirrored)) continue;
      const bool both = std::any_of(all.begin() + static_cast<std::ptrdiff_t>(i), all.end(), mirrored);
      notes.push_back(fmt::format("{} ⌀{} × {} deep, {}",
                                  s.seat && g_.bearing ? fmt::format("seat of {}:", g_.bearing->designation) : "step",
                                  s.seat ? by_symbol(s.diameter) : size(s.diameter), size(s.depth),
                                  both    ? "both ends"
                                  : s.top ? "right end"
                                          : "left end"));
    }
    return notes;
  }

  /// Cut through the axis, which lies along the page; the apex on the left.
  void bevel_view(double x0, double y0, double x1, double y1) {
    const body::ConicalBody body = job::body(g_).cones();
    const gear::BevelGear& b = g_.teeth.bevel();
    const gear::BevelSizes& sizes = b.sizes();
    const Meridian m = meridian(body);
    const double reach = g_.teeth.reach(), from = std::min({0.0, body.bottom(), sizes.face_apex, sizes.root_apex}),
                 to = body.top();
    const auto by_x = usual_scale(to - from, (x1 - x0 - 190 * k_) / kPointsPerMm),
               by_y = usual_scale(2 * reach, (y1 - y0 - 130 * k_) / kPointsPerMm);
    const auto& chosen = by_x.first < by_y.first ? by_x : by_y;
    scale_ = chosen.second;
    const double s = chosen.first * kPointsPerMm, y = (y0 + y1) / 2 - 14 * k_,
                 x = x0 + 50 * k_ + (x1 - x0 - 190 * k_ - s * (to - from)) / 2;
    const auto px = [&](double z) { return x + s * (z - from); };
    const auto py = [&](double r) { return y - s * r; };
    page_.look_at(Vec2::Zero(), zoom_, Vec2::Zero());
    const std::vector<double> dashes{3 * zoom_ * k_, 3 * zoom_ * k_};
    for (const double side : {1.0, -1.0}) {
      const auto there = [&](const std::vector<Vec2>& points) {
        std::vector<Vec2> all;
        all.reserve(points.size());
        for (const Vec2& p : points)
          all.emplace_back(px(p.y()), -py(side * p.x()));
        return all;
      };
      page_.hatched(there(m.blank), kInk, 3.4 * k_, 0.35 * zoom_ * k_);
      page_.polygon(there(m.blank), {0, 0, 0, 0}, kBlack, 0.8 * zoom_ * k_);
      page_.polygon(there(m.tooth), {0, 0, 0, 0}, kBlack, 0.8 * zoom_ * k_);
      const double delta = b.spec().pitch_cone.radians(), R = 1.08 * sizes.outer_cone_distance;
      page_.line({px(0), -py(0)}, {px(R * std::cos(delta)), -py(side * R * std::sin(delta))}, kInk, 0.5 * zoom_ * k_,
                 chain());
      // The other cones run on to their own apices.
      for (const auto& [apex, at] : {std::pair{sizes.face_apex, m.tooth[1]}, {sizes.root_apex, m.tooth[0]}}) {
        if (std::abs(apex) < 10 * sizes.outer_cone_distance)
          page_.line({px(apex), -py(0)}, {px(at.y()), -py(side * at.x())}, kGrey, 0.4 * zoom_ * k_, dashes);
      }
    }
    page_.line({px(from) - 10 * k_, -py(0)}, {px(to) + 12 * k_, -py(0)}, kInk, 0.5 * zoom_ * k_, chain());
    words(px(0), py(0) - 12 * k_, "apex", 0, 7);
    // Heights from the apex below, widths at the right.
    const double edge = y + s * reach;
    double row = edge + 18 * k_;
    across(px(0), px(sizes.crown_to_apex), row, edge, size(sizes.crown_to_apex));
    across(px(0), px(body.top()), row + 18 * k_, edge, size(body.top()));
    words(px(body.top()) + 8 * k_, row + 18 * k_, "mounting distance", 1, 7);
    double column = px(body.top()) + 20 * k_;
    const auto diameter = [&](double mm) {
      upright(py(mm / 2), py(-mm / 2), column, px(body.top()) - 2 * k_, "⌀" + size(mm));
      column += 32 * k_;
    };
    if (b.spec().bore_diameter > 0) diameter(b.spec().bore_diameter);
    if (body.hub()) diameter(2 * body.hub()->radius);
    diameter(sizes.heel.tip_diameter);
    words(x, y - s * reach - 22 * k_,
          fmt::format("face width {} along the pitch cone, outer cone distance {}", size(b.spec().face_width),
                      size(sizes.outer_cone_distance)),
          1, 8);
    if (const auto& k = g_.features.keyway)
      words(x, y - s * reach - 34 * k_, fmt::format("keyway {} × {}", size(k->width), size(k->height)), 1, 8);
    if (const auto& f = g_.features.flat) words(x, y - s * reach - 34 * k_, flat_words(*f), 1, 8);
    if (const auto& h = g_.features.sided) words(x, y - s * reach - 34 * k_, sided_words(*h), 1, 8);
    if (const auto& h = g_.features.serration) words(x, y - s * reach - 34 * k_, serration_words(*h), 1, 8);
  }

  void rack_view(double x0, double y0, double x1, double y1) {
    const auto& s = g_.teeth.rack().sizes();
    const double room = (x1 - x0 - 60 * k_) / kPointsPerMm;
    const auto chosen = usual_scale(s.length, room);
    scale_ = chosen.second;
    const double k = chosen.first * kPointsPerMm, middle = g_.teeth.count() % 2 == 0 ? g_.teeth.rack().pitch() / 2 : 0,
                 y = (y0 + y1) / 2, x = (x0 + x1) / 2;
    page_.look_at({middle, 0}, k * zoom_, at(x, y));
    page_.outline(g_.teeth.outline(), Vec2::Zero(), 0, {0, 0, 0, 0}, kBlack, 0.9 * zoom_ * k_);
    page_.line({middle - s.length / 2 - 3, 0}, {middle + s.length / 2 + 3, 0}, kInk, 0.5 * zoom_ * k_, chain());
    across(x - k * s.length / 2, x + k * s.length / 2, y + k * s.base_height + 22 * k_, y + k * s.base_height,
           size(s.length));
    words(x, y + k * s.base_height + 44 * k_,
          fmt::format("face width {}, back {} below the reference line, tips {} above it", size(g_.teeth.face_width()),
                      size(s.base_height), size(s.tip_height)),
          0, 8);
    double below = 58 * k_;
    for (const body::Holes& h : g_.features.holes) {
      for (int i = 0; i < h.count; ++i)
        page_.circle(h.place(i), h.diameter / 2, kBlack, 0.9 * zoom_ * k_, {});
      const std::string apart = h.count == 1 ? "" : fmt::format(", {} apart", size(h.row->spacing));
      words(x, y + k * s.base_height + below,
            fmt::format("{} × ⌀{}{}, {} above the back, the first {} from the end", h.count, size(h.diameter), apart,
                        size(h.row->middle.y() + s.base_height), size(h.place(0).x() - s.middle + s.length / 2)),
            0, 8);
      below += 14 * k_;
    }
  }

  std::string scale_;
};

}  // namespace

std::string sheet_views(const SheetPen& pen, const job::Gear& gear, double x0, double y0, double x1, double y1) {
  SheetViews views(pen, gear);
  views.views(x0, y0, x1, y1);
  return views.scale();
}

}  // namespace palio::view
