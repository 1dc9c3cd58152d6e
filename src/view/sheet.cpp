// One page for the shop. Coordinates below are points (1/72 in) of an A4 page lying on its side; other papers scale
// them.
#include "palio/view/sheet.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "bevel_shape.hpp"
#include "canvas.hpp"
#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/version.hpp"

namespace palio::view {
namespace {

constexpr double kPointsPerMm = 72 / 25.4;

struct Paper {
  const char* name;
  double width, height;  // points
};

const Paper& paper(const std::string& name) {
  static const Paper all[] = {{"A4", 842, 595}, {"A3", 1191, 842}, {"letter", 792, 612}};
  for (const Paper& p : all) {
    if (name == p.name) return p;
  }
  throw InvalidParameter("--paper", name, "the papers are A4, A3 and letter", "choose one of these");
}

/// "2 : 1" … the largest usual scale at which `need` mm fit into `room` mm.
std::pair<double, std::string> usual_scale(double need, double room) {
  for (const double s : {50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01}) {
    if (need * s <= room || s == 0.01) return {s, s >= 1 ? fmt::format("{:g} : 1", s) : fmt::format("1 : {:g}", 1 / s)};
  }
  return {1, "1 : 1"};
}

/// What a cut through the axis shows: material between two radii, from one height to another.
struct Cut {
  double z0, z1;
  double in0, out0, in1, out1;  // radii at z0 and z1; negative ones lie below the axis
  bool teeth;                   // a tooth: drawn, not hatched
};

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

class Sheet {
 public:
  Sheet(const job::Design& design, const job::Gear& gear, const SheetOptions& options, const std::string& format)
      : design_(design),
        g_(gear),
        paper_(paper(options.paper)),
        zoom_(format == "png" ? 1280.0 / paper_.width : 1),
        page_(
            format,
            {static_cast<int>(std::lround(paper_.width * zoom_)), static_cast<int>(std::lround(paper_.height * zoom_))},
            design.title),
        k_(std::min(paper_.width / 842, paper_.height / 595)) {}

  std::string draw() {
    const double right = paper_.width - 24 * k_, table_width = 286 * k_, left = 24 * k_, foot = 78 * k_;
    const double table_left = right - table_width, bottom = paper_.height - 24 * k_;
    frame(left, 24 * k_, right, bottom);
    views(left, 24 * k_, table_left - 12 * k_, bottom - foot);
    table(table_left, 24 * k_, right);
    title_block(left, bottom - foot, table_left - 12 * k_, bottom);
    return page_.finish();
  }

 private:
  Vec2 at(double x, double y) const { return Vec2(x, y) * zoom_; }
  void line(double x0, double y0, double x1, double y1, double width = 0.7, const Color& color = kInk) {
    page_.page_line(at(x0, y0), at(x1, y1), color, width * zoom_ * k_);
  }
  void words(double x, double y, const std::string& text, int align = 1, double size = 8, bool bold = false) {
    page_.text(at(x, y), text, kBlack, align, size * zoom_ * k_, bold);
  }
  void frame(double x0, double y0, double x1, double y1) {
    line(x0, y0, x1, y0, 1), line(x1, y0, x1, y1, 1), line(x1, y1, x0, y1, 1), line(x0, y1, x0, y0, 1);
  }
  std::string value(const char* key) const { return job::report_value(design_, "gear." + g_.name, key); }
  std::string length(double mm) const {
    return fmt::format("{:.{}f}", mm / job::mm_per(design_.units), design_.units == job::Units::inch ? 4 : 3);
  }
  /// A size as drawings give it: no more digits than it has, three at most (inch: four).
  std::string size(double mm) const {
    std::string text = length(mm);
    while (text.back() == '0')
      text.pop_back();
    if (text.back() == '.') text.pop_back();
    return text;
  }

  void arrow(double x, double y, const Vec2& way) {
    const Vec2 n(-way.y(), way.x());
    for (const double s : {1.0, -1.0}) {
      const Vec2 tail = Vec2(x, y) - 6 * k_ * way + 1.8 * k_ * s * n;
      line(x, y, tail.x(), tail.y(), 0.7, kBlack);
    }
  }
  /// A dimension along x or y; the text stands on the line, or beside it where there is no room.
  void across(double x0, double x1, double y, double from, const std::string& text) {
    for (const double x : {x0, x1})
      line(x, from, x, y + (y > from ? 4 : -4) * k_, 0.4, kGrey);
    line(x0, y, x1, y, 0.5, kBlack);
    arrow(x0, y, {-1, 0}), arrow(x1, y, {1, 0});
    const bool narrow = x1 - x0 < 8 * k_ * static_cast<double>(text.size());
    words(narrow ? x1 + 6 * k_ : (x0 + x1) / 2, narrow ? y : y - 6 * k_, text, narrow ? 1 : 0);
  }
  void upright(double y0, double y1, double x, double from, const std::string& text) {
    for (const double y : {y0, y1})
      line(from, y, x + 4 * k_, y, 0.4, kGrey);
    line(x, y0, x, y1, 0.5, kBlack);
    arrow(x, y0, {0, y0 < y1 ? -1.0 : 1.0}), arrow(x, y1, {0, y0 < y1 ? 1.0 : -1.0});
    words(x + 3 * k_, y0 - 7 * k_, text, 0);
  }

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

  void front(const body::Body& body, double x, double y, double s) {
    page_.look_at(Vec2::Zero(), s * zoom_, at(x, y));
    const Color none{0, 0, 0, 0};
    // As seen from +z, a tooth on top: what lies on the top face and at mid-face.
    for (const body::Loop& l : body.loops) {
      page_.outline(l.outline, Vec2::Zero(), kPi / 2, none, kBlack, (l.feature == "teeth" ? 0.9 : 0.7) * zoom_ * k_);
    }
    page_.circle(Vec2::Zero(), g_.teeth.reference_diameter() / 2, kInk, 0.5 * zoom_ * k_,
                 {9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_});
    const double over = g_.teeth.reach() + 4;
    for (const Vec2& v : {Vec2(over, 0), Vec2(0, over)})
      page_.line(-v, v, kInk, 0.5 * zoom_ * k_, {9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_});
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
      leader(turned(Vec2(f.flat->height - g_.teeth.bore_diameter() / 2, 0), kPi / 2 + f.flat->angle),
             fmt::format("flat {}", size(f.flat->height)));
    if (f.hex)
      leader(turned(Vec2(f.hex->across_flats / 2, 0), kPi / 2 + f.hex->angle),
             fmt::format("hexagon {}", size(f.hex->across_flats)));
    for (const body::Holes& h : f.holes)
      leader(from_polar(h.circle_diameter / 2, kPi / 2 + h.angle),
             fmt::format("{} × ⌀{} on ⌀{}", h.count, size(h.diameter), size(h.circle_diameter)));
    if (f.spokes)
      leader(turned(Vec2(0.25 * (f.spokes->inner_diameter + f.spokes->outer_diameter), f.spokes->width / 2), kPi / 2),
             fmt::format("{} arms {} wide", f.spokes->count, size(f.spokes->width)));
  }

  void section(const body::Body& body, double x, double y, double s) {
    const double from = body.bottom();
    const auto px = [&](double z) { return x + s * (z - from); };
    const auto py = [&](double r) { return y - s * r; };
    const double length = s * (body.top() - from), reach = s * g_.teeth.reach();
    page_.look_at(Vec2::Zero(), zoom_, Vec2::Zero());
    const std::vector<Cut> cuts = cut_through(g_, body);
    for (const Cut& c : cuts) {
      // On the page: y down, so polygons are given with y negated.
      const std::vector<Vec2> corners{
          {px(c.z0), -py(c.in0)}, {px(c.z1), -py(c.in1)}, {px(c.z1), -py(c.out1)}, {px(c.z0), -py(c.out0)}};
      page_.hatched(corners, c.teeth ? Color{0, 0, 0, 0} : kInk, 3.4 * k_, 0.35 * zoom_ * k_);
    }
    outline_of(cuts, px, py);
    const double d = g_.teeth.reference_diameter() / 2, b = g_.teeth.face_width(), over = 4 * k_;
    const std::initializer_list<double> chain{9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_};
    for (const double r : {d, -d})
      page_.line({px(0) - over, -py(r)}, {px(b) + over, -py(r)}, kInk, 0.5 * zoom_ * k_, chain);
    page_.line({px(from) - 8 * k_, -py(0)}, {px(body.top()) + 8 * k_, -py(0)}, kInk, 0.5 * zoom_ * k_, chain);
    words(x + length / 2, y - reach - 16 * k_, "A – A", 0, 8, true);
    // Sizes: along the axis below, diameters to the right.
    double row = y + reach + 16 * k_;
    across(px(0), px(b), row, y + reach, size(b));
    if (body.top() - from > b + 1e-9)
      across(px(from), px(body.top()), row += 16 * k_, y + reach, size(body.top() - from));
    if (g_.features.web) {
      row += 16 * k_;
      words(x, row,
            fmt::format("web {} thick, recess ⌀{} to ⌀{}", size(g_.features.web->thickness),
                        size(g_.features.web->inner_diameter), size(g_.features.web->outer_diameter)),
            1, 7);
    }
    double column = px(body.top()) + 18 * k_;
    const auto diameter = [&](double mm) {
      upright(py(mm / 2), py(-mm / 2), column, px(body.top()) - 2 * k_, "⌀" + size(mm));
      column += 30 * k_;
    };
    if (g_.teeth.bore_diameter() > 0) diameter(g_.teeth.bore_diameter());
    double hub = 0;
    for (const body::Hub& h : g_.features.hubs)
      hub = std::max(hub, h.diameter);
    if (hub > 0) diameter(hub);
    diameter(g_.teeth.tip_diameter());
    if (g_.teeth.internal()) diameter(g_.teeth.outer_diameter());
  }

  /// Outer contour of the cut: the steps between layers.
  template <class X, class Y>
  void outline_of(const std::vector<Cut>& cuts, X px, Y py) {
    for (const Cut& c : cuts) {
      line(px(c.z0), py(c.in0), px(c.z1), py(c.in1), 0.8, kBlack);
      line(px(c.z0), py(c.out0), px(c.z1), py(c.out1), 0.8, kBlack);
    }
    // An end of a cut is an edge where its neighbour across that height does not go on.
    for (const Cut& c : cuts) {
      for (const bool upper : {false, true}) {
        const double z = upper ? c.z1 : c.z0;
        std::vector<std::pair<double, double>> open{{std::min(upper ? c.in1 : c.in0, upper ? c.out1 : c.out0),
                                                     std::max(upper ? c.in1 : c.in0, upper ? c.out1 : c.out0)}};
        for (const Cut& o : cuts) {
          if (std::abs((upper ? o.z0 : o.z1) - z) > 1e-9) continue;
          const auto [low, high] = std::minmax({upper ? o.in0 : o.in1, upper ? o.out0 : o.out1});
          std::vector<std::pair<double, double>> left;
          for (const auto& [a, b] : open) {
            if (low > a) left.emplace_back(a, std::min(b, low));
            if (high < b) left.emplace_back(std::max(a, high), b);
          }
          open.clear();
          for (const auto& part : left) {
            if (part.second > part.first + 1e-9) open.push_back(part);
          }
        }
        for (const auto& [a, b] : open)
          line(px(z), py(a), px(z), py(b), 0.8, kBlack);
      }
    }
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
    const std::initializer_list<double> chain{9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_},
        dashes{3 * zoom_ * k_, 3 * zoom_ * k_};
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
                 chain);
      // The other cones run on to their own apices.
      for (const auto& [apex, at] : {std::pair{sizes.face_apex, m.tooth[1]}, {sizes.root_apex, m.tooth[0]}}) {
        if (std::abs(apex) < 10 * sizes.outer_cone_distance)
          page_.line({px(apex), -py(0)}, {px(at.y()), -py(side * at.x())}, kGrey, 0.4 * zoom_ * k_, dashes);
      }
    }
    page_.line({px(from) - 10 * k_, -py(0)}, {px(to) + 12 * k_, -py(0)}, kInk, 0.5 * zoom_ * k_, chain);
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
    if (const auto& f = g_.features.flat)
      words(x, y - s * reach - 34 * k_, fmt::format("flat {}", size(f->height)), 1, 8);
    if (const auto& h = g_.features.hex)
      words(x, y - s * reach - 34 * k_, fmt::format("hexagon {}", size(h->across_flats)), 1, 8);
  }

  void bevel_table() {
    const gear::BevelSpec& spec = g_.teeth.bevel().spec();
    heading("Tooth data");
    row("kind", "straight bevel, spherical involute");
    row("number of teeth  z", value("teeth"));
    row("outer transverse module  m_e", fmt::format("{:.6g} mm", spec.module));
    if (design_.units == job::Units::inch) row("diametral pitch  P", value("diametral_pitch"));
    row("pressure angle  α", fmt::format("{:.6g}°", spec.pressure_angle.degrees()));
    row("depth", std::string(gear::name(spec.depth)));
    row("profile shift, thickness shift",
        fmt::format("{:+.5g}, {:+.5g} m_e", spec.profile_shift, spec.thickness_shift));
    row("pitch cone angle  δ", value("pitch_cone_angle_deg"));
    row("face cone angle  δ_a", value("face_cone_angle_deg"));
    row("root cone angle  δ_f", value("root_cone_angle_deg"));
    row("outer cone distance  R_e", value("outer_cone_distance"));
    row("outer pitch circle  d_e", value("outer_pitch_diameter"));
    row("outer tip circle  d_ae", value("outer_tip_diameter"));
    row("outer addendum, dedendum", value("addendum") + ", " + value("dedendum"));
    row("apex to outer tip edge", value("crown_to_apex"));
    row("mounting distance", value("mounting_distance"));
    heading("Tooth thickness");
    row("allowance (outer arc)", value("thickness_allowance"));
    row("outer thickness, arc at d_e", value("outer_tooth_thickness"));
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
    page_.line({middle - s.length / 2 - 3, 0}, {middle + s.length / 2 + 3, 0}, kInk, 0.5 * zoom_ * k_,
               {9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_});
    across(x - k * s.length / 2, x + k * s.length / 2, y + k * s.base_height + 22 * k_, y + k * s.base_height,
           size(s.length));
    words(x, y + k * s.base_height + 44 * k_,
          fmt::format("face width {}, back {} below the reference line, tips {} above it", size(g_.teeth.face_width()),
                      size(s.base_height), size(s.tip_height)),
          0, 8);
  }

  void row(const std::string& label, const std::string& text) {
    words(table_x_ + 6 * k_, row_y_ + 6.5 * k_, label, 1, 7.2);
    words(table_right_ - 6 * k_, row_y_ + 6.5 * k_, text, -1, 7.2);
    row_y_ += 13 * k_;
    line(table_x_, row_y_, table_right_, row_y_, 0.3, kGrey);
  }
  void heading(const std::string& text) {
    row_y_ += 4 * k_;
    words(table_x_ + 6 * k_, row_y_ + 7 * k_, text, 1, 8, true);
    row_y_ += 14 * k_;
    line(table_x_, row_y_, table_right_, row_y_, 0.8);
  }

  /// A measure with the allowance, and what it would be without any.
  void limits(const std::string& label, double made, double without) {
    row(label, fmt::format("{} {}", length(made), job::symbol(design_.units)));
    if (std::abs(without - made) > 1e-9)
      row(without > made ? "    at most (no thinning at all)" : "    at least (no thinning at all)",
          fmt::format("{} {}", length(without), job::symbol(design_.units)));
  }

  void table(double x, double y, double right) {
    table_x_ = x, table_right_ = right, row_y_ = y;
    line(x, y, x, paper_.height - 24 * k_, 1);
    if (g_.teeth.is_bevel()) {
      bevel_table();
      return mates_and_part();
    }
    if (g_.teeth.is_cycloidal()) {
      cycloidal_table();
      return mates_and_part();
    }
    const gear::CylindricalSpec& spec = g_.teeth.spec();
    heading("Tooth data");
    row("kind", std::string(name(g_.kind)));
    row("number of teeth  z",
        value("teeth") + (g_.features.sector_teeth > 0 ? fmt::format(" (kept: {})", g_.features.sector_teeth) : ""));
    row("normal module  m_n", fmt::format("{:.6g} mm", spec.module));
    if (design_.units == job::Units::inch) row("diametral pitch  P", value("diametral_pitch"));
    row("normal pressure angle  α_n", fmt::format("{:.6g}°", spec.pressure_angle.degrees()));
    const double beta = spec.helix_angle.degrees();
    if (beta != 0) {
      row("helix angle  β", fmt::format("{:.6g}°", std::abs(beta)));
      row(spec.double_helical ? "apex" : "hand", spec.double_helical ? (beta > 0 ? "counter-clockwise" : "clockwise")
                                                 : beta > 0          ? "right"
                                                                     : "left");
      if (!g_.teeth.is_rack()) row("lead  p_z", value("lead"));
    }
    row("reference profile: addendum, dedendum", fmt::format("{:.5g}, {:.5g} m_n", spec.addendum, spec.dedendum));
    if (!g_.teeth.internal())
      row("tool's tip radius  ρ_fP",
          fmt::format("{:.4g} m_n", g_.teeth.is_rack() ? g_.teeth.rack().sizes().tool_tip_radius
                                                       : g_.teeth.gear().sizes().tool_tip_radius));
    row("profile shift  x", fmt::format("{:+.6g} m_n", spec.profile_shift));
    if (!g_.teeth.is_rack()) {
      row("reference circle  d", value("reference_diameter"));
      row("tip circle  d_a", value("tip_diameter"));
      row("root circle  d_f", value("root_diameter"));
      row("flank used from  d_Ff", value("root_form_diameter"));
    }
    row("tooth depth  h", value("tooth_depth"));
    heading("Tooth thickness");
    row("allowance  E_sn", value("thickness_allowance"));
    row("normal thickness at d  s_n", value("normal_tooth_thickness"));
    if (!g_.teeth.is_rack()) {
      const gear::CylindricalGear& made = g_.teeth.gear();
      gear::CylindricalSpec bare = spec;
      bare.thickness_allowance = 0;
      const gear::CylindricalGear without(bare);
      if (!g_.teeth.internal()) {
        const gear::Span span = made.span(g_.span_teeth);
        // Only what can be measured: jaws on the flanks, within the face.
        const double face =
            made.spec().double_helical ? (made.spec().face_width - made.spec().gap) / 2 : made.spec().face_width;
        const bool on_flanks = span.contact_diameter >= made.sizes().root_form_diameter &&
                               span.contact_diameter <= made.sizes().tip_form_diameter;
        const bool in_face = face >= span.length * std::sin(std::abs(made.sizes().base_helix_angle.radians()));
        if (on_flanks && in_face)
          limits(fmt::format("span over {} teeth  W", span.teeth), span.length, without.span(span.teeth).length);
        else
          row(fmt::format("span over {} teeth  W", span.teeth),
              on_flanks ? "none: the face is too narrow" : "none: off the flanks");
      }
      const bool pins = made.over_pins(g_.pin_diameter).has_value();
      const gear::OverBalls over = pins ? *made.over_pins(g_.pin_diameter) : made.over_balls(g_.pin_diameter);
      const gear::OverBalls most = pins ? *without.over_pins(over.pin_diameter) : without.over_balls(over.pin_diameter);
      limits(fmt::format("{} {} ⌀{} {}", made.internal() ? "between" : "over", pins ? "pins" : "balls",
                         length(over.pin_diameter), job::symbol(design_.units)),
             over.length, most.length);
    }
    mates_and_part();
  }

  void cycloidal_table() {
    heading("Tooth data");
    row("kind",
        g_.teeth.is_lantern() ? "lantern" : fmt::format("cycloidal, {}", gear::name(g_.teeth.cycloidal().form())));
    for (const auto& [key, words] : {std::pair{"teeth", "number of teeth  z"},
                                     {"normal_module", "module  m"},
                                     {"pitch_diameter", "pitch circle  d"},
                                     {"tip_diameter", "tip circle  d_a"},
                                     {"root_diameter", "root circle  d_f"},
                                     {"form_diameter", "flank used from"},
                                     {"addendum", "addendum"},
                                     {"dedendum", "dedendum"},
                                     {"face_rolling_radius", "circle of the faces, radius"},
                                     {"flank_rolling_radius", "circle of the flanks, radius"},
                                     {"fillet_radius", "round of the roots, radius"},
                                     {"addendum_arc_radius", "arc of the addendum, radius"},
                                     {"tooth_width", "width at the pitch circle, arc"},
                                     {"transverse_tooth_thickness", "thickness at the pitch circle, arc"},
                                     {"thickness_allowance", "allowance"},
                                     {"mate_teeth", "made for a mate of"},
                                     {"pin_diameter", "pin diameter"},
                                     {"plate_diameter", "end plates"},
                                     {"plate_thickness", "each end plate"}}) {
      if (const std::string text = value(key); !text.empty()) row(words, text);
    }
  }

  void mates_and_part() {
    for (const job::Pair& p : design_.pairs) {
      if (design_.gears[p.driver].name != g_.name && design_.gears[p.driven].name != g_.name) continue;
      const job::Gear& mate = design_.gears[design_.gears[p.driver].name == g_.name ? p.driven : p.driver];
      heading("Mating gear " + mate.name);
      row("number of teeth", fmt::format("{}", mate.teeth.count()));
      if (!p.bevel()) row("center distance  a", job::report_value(design_, "pair." + p.name, "center_distance"));
      if (p.shaft_angle() != 0) row("shaft angle  Σ", job::report_value(design_, "pair." + p.name, "shaft_angle_deg"));
      row("circumferential backlash  j_wt", job::report_value(design_, "pair." + p.name, "circumferential_backlash"));
      if (!p.cycloidal()) row("normal backlash  j_bn", job::report_value(design_, "pair." + p.name, "normal_backlash"));
    }
    heading("Part");
    if (g_.bore_given > 0) row("bore to expect / to draw", bore_sizes());
    row("material", g_.material ? g_.material->name : "—");
    if (g_.material) row("mass", value("mass_kg"));
    row("process", !design_.process.given           ? "—"
                   : design_.process.preset.empty() ? "as the job says"
                                                    : design_.process.preset);
  }

  std::string bore_sizes() const {
    const double expect = g_.teeth.bore_diameter();
    const double draw = expect + design_.process.wider(expect, design_.process.change(job::As::drawn));
    return fmt::format("⌀{} / ⌀{} {}", length(expect), length(draw), job::symbol(design_.units));
  }

  void title_block(double x0, double y0, double x1, double y1) {
    line(x0, y0, x1, y0, 1), line(x1, y0, x1, y1, 1);
    const double middle = x0 + 0.62 * (x1 - x0), half = (y0 + y1) / 2;
    line(middle, y0, middle, y1, 0.6), line(x0, half, x1, half, 0.6);
    const auto cell = [&](double x, double y, const std::string& label, const std::string& text, double size) {
      words(x + 6 * k_, y + 8 * k_, label, 1, 6);
      words(x + 6 * k_, y + 24 * k_, text, 1, size, true);
    };
    cell(x0, y0, "part", g_.part_name.empty() ? g_.name : g_.part_name, 12);
    cell(middle, y0, "part number", g_.part_number.empty() ? "—" : g_.part_number, 12);
    cell(x0, half, "belongs to", design_.title.empty() ? "—" : design_.title, 10);
    cell(middle, half, "scale     sizes in     made by",
         fmt::format("{}     {}     palio {}", scale_, job::symbol(design_.units), kVersion), 8);
  }

  const job::Design& design_;
  const job::Gear& g_;
  const Paper& paper_;
  double zoom_;
  Canvas page_;
  double k_;
  std::string scale_;
  double table_x_ = 0, table_right_ = 0, row_y_ = 0;
};

}  // namespace

std::string draw_sheet(const job::Design& design, const job::Gear& gear, const SheetOptions& options,
                       const std::string& format) {
  return Sheet(design, gear, options, format).draw();
}

}  // namespace palio::view
