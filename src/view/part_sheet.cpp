// The sheet of a part that is no single gear: a plate, an axle, gears in one piece, a part of a reducer. All of it is
// read off the body that its files are made of.
#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/body/solid.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/view/parts_list.hpp"
#include "sheet_pen.hpp"

namespace palio::view {
namespace {

/// An upright round wall: a hole, or the outside of a post or a step.
struct Cylinder {
  Vec2 at;
  double radius, from, to;  // [mm]
  bool hole;
  std::string feature;
};

/// What a loop lies within, read off its exact curves.
struct Within {
  Eigen::AlignedBox2d box;
  double least = math::kInfinite, greatest = 0;  // from the origin [mm]
};

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

/// Cylinders of one size, depth and feature, as one row of the table.
struct Likes {
  Cylinder first;
  std::vector<Vec2> at;
  char letter = 0;  // by which the view names them
};

std::vector<body::Shape> shapes_of(const body::Body& body) {
  std::vector<body::Shape> all;
  all.reserve(body.loops.size());
  for (const body::Loop& l : body.loops)
    all.emplace_back(l.outline);
  return all;
}

/// Walls that go on through several layers are one.
std::vector<Cylinder> cylinders_of(const body::Body& body, const std::vector<body::Shape>& shapes) {
  std::vector<Cylinder> all;
  for (const body::Layer& layer : body.layers) {
    for (const body::Wall& w : layer.walls) {
      const body::Shape& s = shapes[w.below];
      if (w.below != w.above || s.circle() <= 0) continue;
      const Cylinder c{s.centre(),
                       s.circle(),
                       layer.levels.front().z,
                       layer.levels.back().z,
                       s.orientation() < 0,
                       body.loops[w.below].feature};
      const auto goes_on = std::find_if(all.begin(), all.end(), [&](const Cylinder& o) {
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

std::vector<Likes> grouped(const std::vector<Cylinder>& cylinders) {
  std::vector<Likes> all;
  for (const Cylinder& c : cylinders) {
    const auto same = std::find_if(all.begin(), all.end(), [&](const Likes& l) {
      return l.first.hole == c.hole && (l.first.at.norm() < math::kAlike) == (c.at.norm() < math::kAlike) &&
             l.first.feature == c.feature && std::abs(l.first.radius - c.radius) < math::kAlike &&
             std::abs(l.first.from - c.from) < math::kAlike && std::abs(l.first.to - c.to) < math::kAlike;
    });
    if (same != all.end())
      same->at.push_back(c.at);
    else
      all.push_back({c, {c.at}});
  }
  std::stable_sort(all.begin(), all.end(), [](const Likes& a, const Likes& b) { return a.first.hole > b.first.hole; });
  char next = 'a';
  for (Likes& l : all) {
    // What stands about the origin is dimensioned in the cut.
    if (l.at.front().norm() > math::kAlike && next <= 'z') l.letter = next++;
  }
  return all;
}

/// Radius of the circle about the origin on which places stand evenly; 0: they do not.
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

/// All that stands on the part is round about its own axis.
bool turned_part(const body::Body& body, const std::vector<body::Shape>& shapes) {
  for (std::size_t i = 0; i < shapes.size(); ++i) {
    if (shapes[i].orientation() > 0 && body.loops[i].feature != "teeth" &&
        (shapes[i].circle() <= 0 || shapes[i].centre().norm() > math::kAlike))
      return false;
  }
  return true;
}

/// Of planes along y the one that meets the axes of most cylinders; of several the nearest to the middle. Where it
/// lies, and how many it meets.
std::pair<double, std::size_t> best_plane(const std::vector<Likes>& likes, double middle) {
  std::map<long, std::size_t> met;  // by micrometres
  for (const Likes& l : likes) {
    for (const Vec2& p : l.at)
      ++met[std::lround(p.x() * 1000)];
  }
  std::pair<double, std::size_t> best{middle, 0};
  for (const auto& [um, count] : met) {
    const double x = static_cast<double>(um) / 1000;
    if (count > best.second || (count == best.second && std::abs(x - middle) < std::abs(best.first - middle)))
      best = {x, count};
  }
  return best;
}

/// A body with its x axis upwards, where a cut along x meets more than one along y. \param upright  whether it is so
body::Body best_turned(const body::Body& body, bool& upright) {
  body::Body turned = body;
  for (body::Loop& l : turned.loops) {
    for (curve::Segment& s : l.outline.period)
      s = curve::turned(s, kPi / 2);
  }
  const auto meets = [](const body::Body& b) {
    const std::vector<Likes> likes = grouped(cylinders_of(b, shapes_of(b)));
    return best_plane(likes, extent_of(b).center().x()).second;
  };
  upright = meets(turned) > meets(body);
  return upright ? turned : body;
}

/// The pen in the hands of what tells of one part.
class PartPen : protected SheetPen {
 public:
  PartPen(const SheetPen& pen, const Part& part) : SheetPen(pen), part_(part) {}

 protected:
  /// Of an axle with a fit the nominal size and its symbol.
  std::string diameter(double d) const {
    const job::Axle* axle = part_.axle ? &design_.axles[*part_.axle] : nullptr;
    const auto limits = axle ? axle->fit_limits() : std::nullopt;
    if (limits && std::abs(axle->diameter + limits->middle() - d) < math::kAlike)
      return fmt::format("⌀{} {}", size(axle->diameter), axle->fit);
    return "⌀" + size(d);
  }

  const Part& part_;
};

class PartViews : private PartPen {
 public:
  PartViews(const SheetPen& pen, const Part& part)
      : PartPen(pen, part),
        body_(best_turned(part.body.layers(), upright_)),
        shapes_(shapes_of(body_)),
        box_(extent_of(body_)),
        likes_(grouped(cylinders_of(body_, shapes_))),
        plane_(best_plane(likes_, box_.center().x()).first) {}

  std::string views(double x0, double y0, double x1, double y1) {
    const double wide = box_.sizes().x(), high = box_.sizes().y(), along = body_.top() - body_.bottom();
    const double margins = 200 * k_;
    const auto by_x = usual_scale(wide + along, (x1 - x0 - margins) / kPointsPerMm),
               by_y = usual_scale(high, (y1 - y0 - 130 * k_) / kPointsPerMm);
    const auto& chosen = by_x.first < by_y.first ? by_x : by_y;
    const double s = chosen.first * kPointsPerMm, spare = x1 - x0 - s * (wide + along) - margins;
    const double middle_y = (y0 + y1) / 2 - 12 * k_, front_x = x0 + 56 * k_ + spare / 4 + s * wide / 2;
    from_above(front_x, middle_y, s);
    cut(front_x + s * wide / 2 + 70 * k_ + spare / 3, middle_y, s);
    return chosen.second;
  }

 private:
  /// Whether material stands over a point of a wall whose upper end lies at z.
  bool covered(const Vec2& p, double z) const {
    for (const body::Layer& layer : body_.layers) {
      if (layer.levels.back().z < z + math::kAlike) continue;
      const Vec2 own = body::moved(body_, p, -layer.levels.front().turn);
      int inside = 0;
      for (const body::Wall& w : layer.walls)
        inside += shapes_[w.below].holds(body_.loops[w.below].follows ? own : p) ? 1 : 0;
      if (layer.levels.front().z > z - math::kAlike && inside % 2 == 1) return true;
    }
    return false;
  }

  /// Seen from +z: edges that lie open are drawn through, others dashed.
  void from_above(double x, double y, double s) {
    const Vec2 middle = box_.center();
    page_.look_at(middle, s * zoom_, at(x, y));
    const std::initializer_list<double> dashes{3 * zoom_ * k_, 2 * zoom_ * k_},
        chain{9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_};
    for (std::size_t i = 0; i < shapes_.size(); ++i) {
      const auto [z, turn] = upper_end(i);
      const std::vector<Vec2>& p = shapes_[i].points();
      std::vector<Vec2> run;
      bool hidden = false;
      for (std::size_t k = 0; k <= p.size(); ++k) {
        const Vec2 a = body::moved(body_, p[k % p.size()], turn), b = body::moved(body_, p[(k + 1) % p.size()], turn);
        const bool here = covered((a + b) / 2, z);
        run.push_back(a);
        if (k == 0) hidden = here;
        if (k == p.size() || here != hidden) {
          if (run.size() > 1) draw_run(run, hidden, dashes);
          run = {a}, hidden = here;
        }
      }
    }
    for (const Likes& l : likes_) {
      for (std::size_t k = 0; k < l.at.size(); ++k) {
        const double over = l.first.radius + 2 * k_ / s;
        for (const Vec2& v : {Vec2(over, 0), Vec2(0, over)})
          page_.line(l.at[k] - v, l.at[k] + v, kGrey, 0.3 * zoom_ * k_, chain);
        if (k > 0 && even_circle(l.at) > 0) continue;
        // Letters of circles about one axis stand apart.
        const double way = (60 - 25 * ((l.letter - 'a') % 5)) * kPi / 180;
        const Vec2 beside = l.at[k] + from_polar(l.first.radius, way);
        if (l.letter != 0)
          words(x + s * (beside - middle).x() + 5 * k_, y - s * (beside - middle).y() - 7 * k_,
                l.at.size() == 1 || even_circle(l.at) > 0 ? std::string(1, l.letter)
                                                          : fmt::format("{}{}", l.letter, k + 1),
                1, 6.5, true);
      }
    }
    const double left = x - s * box_.sizes().x() / 2, right = x + s * box_.sizes().x() / 2,
                 top = y - s * box_.sizes().y() / 2, foot = y + s * box_.sizes().y() / 2;
    if (!turned_part(body_, shapes_)) {
      across(left, right, foot + 32 * k_, foot, size(box_.sizes().x()));
      upright(top, foot, left - 22 * k_, left, size(box_.sizes().y()));
    }
    // Where the files have their origin, and the plane of the cut.
    const Vec2 origin = -middle;
    page_.circle(Vec2::Zero(), 1.6 * k_ / s, kBlack, 0.6 * zoom_ * k_, {});
    words(x + s * origin.x() - 3 * k_, y - s * origin.y() + 7 * k_, "0", -1, 6);
    const double cut_x = x + s * (plane_ - middle.x());
    page_.line({plane_, box_.min().y() - 10 * k_ / s}, {plane_, box_.max().y() + 10 * k_ / s}, kInk, 0.5 * zoom_ * k_,
               chain);
    words(cut_x, top - 16 * k_, "A", 0, 9, true), words(cut_x, foot + 14 * k_, "A", 0, 9, true);
    words(x, foot + 48 * k_, upright_ ? "view from +z, x upwards" : "view from +z, x to the right", 0, 7);
  }

  void draw_run(const std::vector<Vec2>& run, bool hidden, std::initializer_list<double> dashes) {
    if (hidden)
      page_.polyline(run, kGrey, 0.5 * zoom_ * k_, dashes);
    else
      page_.polyline(run, kBlack, 0.8 * zoom_ * k_);
  }

  /// Of a loop: the height at which its wall ends, and how far it is turned there.
  std::pair<double, double> upper_end(std::size_t loop) const {
    std::pair<double, double> end{body_.bottom(), 0};
    for (const body::Layer& layer : body_.layers) {
      for (const body::Wall& w : layer.walls) {
        // A loop that a chamfer begins with lies at that layer's lower end.
        if (w.above == loop)
          end = {layer.levels.back().z, layer.levels.back().turn};
        else if (w.below == loop)
          end = {layer.levels.front().z, layer.levels.front().turn};
      }
    }
    if (!body_.loops[loop].follows) end.second = 0;
    return end;
  }

  /// Where a loop crosses the plane, from below.
  std::vector<double> crossings(std::size_t loop) const {
    std::vector<double> all;
    const std::vector<Vec2>& p = shapes_[loop].points();
    for (std::size_t i = 0; i < p.size(); ++i) {
      const Vec2 &a = p[i], &b = p[(i + 1) % p.size()];
      if ((a.x() > plane_) != (b.x() > plane_))
        all.push_back(a.y() + (b.y() - a.y()) * (plane_ - a.x()) / (b.x() - a.x()));
    }
    // A circle is crossed where it is, not where its polygon is.
    if (const double r = shapes_[loop].circle(); r > 0 && all.size() == 2) {
      const double off = plane_ - shapes_[loop].centre().x(), half = std::sqrt(std::max(0.0, r * r - off * off));
      all = {shapes_[loop].centre().y() - half, shapes_[loop].centre().y() + half};
    }
    std::sort(all.begin(), all.end());
    return all;
  }

  std::vector<Cut> cuts() const {
    std::vector<Cut> all;
    for (const body::Layer& layer : body_.layers) {
      const double z0 = layer.levels.front().z, z1 = layer.levels.back().z;
      std::vector<std::pair<double, double>> edges;
      for (const body::Wall& w : layer.walls) {
        if (body_.loops[w.below].feature == "teeth" && shapes_[w.below].orientation() > 0) {
          // By custom the cut runs along a tooth, which stays unhatched.
          const double root = shapes_[w.below].least(), tip = shapes_[w.below].greatest();
          for (const double side : {-1.0, 1.0}) {
            edges.emplace_back(side * root, side * root);
            all.push_back({z0, z1, side * root, side * tip, side * root, side * tip, true});
          }
          continue;
        }
        const std::vector<double> below = crossings(w.below), above = crossings(w.above);
        for (std::size_t i = 0; i < std::min(below.size(), above.size()); ++i)
          edges.emplace_back(below[i], above[i]);
      }
      std::sort(edges.begin(), edges.end());
      for (std::size_t i = 0; i + 1 < edges.size(); i += 2)
        all.push_back({z0, z1, edges[i].first, edges[i + 1].first, edges[i].second, edges[i + 1].second, false});
    }
    return all;
  }

  void cut(double x, double y, double s) {
    const double from = body_.bottom(), to = body_.top(), middle = box_.center().y();
    const auto px = [&](double z) { return x + s * (z - from); };
    const auto py = [&](double v) { return y - s * (v - middle); };
    draw_cuts(cuts(), px, py);
    const std::initializer_list<double> chain{9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_};
    if (turned_part(body_, shapes_))
      page_.line({px(from) - 8 * k_, -py(0)}, {px(to) + 8 * k_, -py(0)}, kInk, 0.5 * zoom_ * k_, chain);
    const double top = y - s * box_.sizes().y() / 2, foot = y + s * box_.sizes().y() / 2;
    words(px((from + to) / 2), top - 16 * k_, "A – A", 0, 8, true);
    // Heights of all steps, from the lower face.
    std::vector<double> heights;
    for (const body::Layer& layer : body_.layers)
      heights.push_back(layer.levels.back().z);
    constexpr std::size_t kMost = 5;
    if (heights.size() > kMost) heights.erase(heights.begin(), heights.end() - kMost);
    double row = foot + 16 * k_;
    for (const double z : heights) {
      across(px(from), px(z), row, foot, size(z - from));
      row += 15 * k_;
    }
    // Diameters about the part's own axis, inside out.
    std::vector<double> about;
    for (const Likes& l : likes_) {
      if (l.at.front().norm() < math::kAlike) about.push_back(2 * l.first.radius);
    }
    std::sort(about.begin(), about.end());
    about.erase(std::unique(about.begin(), about.end(), [](double a, double b) { return b - a < math::kAlike; }),
                about.end());
    if (about.size() > kMost) about.erase(about.begin(), about.end() - kMost);
    double column = px(to) + 18 * k_;
    for (const double d : about) {
      upright(py(d / 2), py(-d / 2), column, px(to) - 2 * k_, diameter(d));
      column += 28 * k_;
    }
  }

  bool upright_ = false;  // the part's own x axis points up
  body::Body body_;       // as it lies on the sheet
  std::vector<body::Shape> shapes_;
  Eigen::AlignedBox2d box_;
  std::vector<Likes> likes_;
  double plane_;  // of the cut, along y [mm]
};

class PartTable : private PartPen {
 public:
  PartTable(const SheetPen& pen, const Part& part, std::size_t pieces, double x, double y, double right)
      : PartPen(pen, part),
        pieces_(pieces),
        body_(part.body.layers()),
        shapes_(shapes_of(body_)),
        likes_(grouped(cylinders_of(body_, shapes_))),
        rows_(pen, x, y, right) {}

  void draw() {
    about();
    for (const std::size_t g : part_.axle ? design_.axles[*part_.axle].gears : std::vector<std::size_t>{})
      teeth_of(design_.gears[g]);
    cylinders(true, "Holes (x, y from 0, z from the lower face)");
    cylinders(false, "Round outsides");
    outlines();
  }

 private:
  void about() {
    rows_.heading("Part");
    const ListedPart line = listed(design_, part_);
    rows_.row("what it is", line.what);
    rows_.row("pieces", fmt::format("{}", pieces_));
    rows_.row("material", line.material.empty() ? "—" : line.material);
    const Eigen::AlignedBox2d box = extent_of(body_);
    rows_.row("size over all, x × y × z", fmt::format("{} × {} × {} {}", size(box.sizes().x()), size(box.sizes().y()),
                                                      size(body_.top() - body_.bottom()), job::symbol(design_.units)));
    rows_.row("volume", fmt::format("{:.1f} mm³", line.volume));
    if (line.mass) rows_.row("mass", fmt::format("{:.2f} g", *line.mass));
    if (part_.axle) {
      const job::Axle& axle = design_.axles[*part_.axle];
      if (const auto limits = axle.fit_limits())
        rows_.row(fmt::format("⌀{} {} from … to", size(axle.diameter), axle.fit),
                  fmt::format("⌀{} … ⌀{} {}", length(axle.diameter + limits->least),
                              length(axle.diameter + limits->greatest), job::symbol(design_.units)));
    }
    rows_.row("process", !design_.process.given           ? "—"
                         : design_.process.preset.empty() ? "as the job says"
                                                          : design_.process.preset);
  }

  void teeth_of(const job::Gear& g) {
    rows_.heading("Teeth of " + g.name);
    const auto told = [&](const char* label, const char* key) {
      if (const std::string text = job::report_value(design_, "gear." + g.name, key); !text.empty())
        rows_.row(label, text);
    };
    rows_.row("kind", std::string(name(g.kind)));
    told("number of teeth  z", "teeth");
    told("module", "normal_module");
    told("pressure angle", "normal_pressure_angle_deg");
    told("helix angle", "helix_angle_deg");
    told("profile shift  x", "profile_shift");
    told("tip circle  d_a", "tip_diameter");
    told("root circle  d_f", "root_diameter");
    told("face width", "face_width");
    if (!g.teeth.is_cycloidal() && !g.teeth.is_bevel() && !g.teeth.is_rack() && !g.teeth.internal()) {
      const gear::Span span = g.teeth.gear().span(g.span_teeth);
      rows_.row(fmt::format("span over {} teeth  W", span.teeth),
                length(span.length) + " " + std::string(job::symbol(design_.units)));
    }
  }

  std::string height(double z) const { return size(z - body_.bottom()); }

  /// Whether nothing of the part is in a hole's way from end to end, and it has one size.
  bool through(const Likes& l) const {
    const Vec2& at = l.at.front();
    for (const Likes& o : likes_) {
      const bool stepped = &o != &l && o.first.hole && std::any_of(o.at.begin(), o.at.end(), [&](const Vec2& p) {
        return (p - at).norm() < math::kAlike;
      });
      if (stepped) return false;
    }
    return std::none_of(body_.layers.begin(), body_.layers.end(), [&](const body::Layer& layer) {
      return std::count_if(layer.walls.begin(), layer.walls.end(),
                           [&](const body::Wall& w) { return shapes_[w.below].holds(at); }) %
                 2 ==
             1;
    });
  }

  std::string along(const Likes& l) const {
    const Cylinder& c = l.first;
    if (c.hole && through(l)) return "through";
    if (c.from < body_.bottom() + math::kAlike && c.to > body_.top() - math::kAlike) return "from end to end";
    return fmt::format("z {} … {}", height(c.from), height(c.to));
  }

  /// Empty where each place has a row of its own.
  std::string where(const Likes& l) const {
    if (const double circle = even_circle(l.at); circle > 0)
      return fmt::format(" on ⌀{}, the first at {:.4g}°", size(2 * circle), first_angle(l.at));
    if (l.at.size() > 1) return "";
    return l.at.front().norm() < math::kAlike
               ? " about 0"
               : fmt::format(" at {}, {}", size(l.at.front().x()), size(l.at.front().y()));
  }

  /// What a key of the job asks for, in words of the shop.
  std::string purpose(const std::string& feature) const {
    if (feature == "post_diameter") return "post";
    if (feature == "margin") return "outline";
    if (feature == "ring") return "groove of a ring";
    if (feature == "diameter") return "axle";
    if (feature != "bore.bearing") return feature;
    const auto frame = std::find_if(design_.frames.begin(), design_.frames.end(),
                                    [&](const job::Frame& f) { return f.name == part_.name; });
    const bool known = frame != design_.frames.end() && frame->bearing;
    return known ? fmt::format("seat of {}", frame->bearing->designation) : "seat";
  }

  void cylinders(bool holes, const std::string& heading) {
    bool told = false;
    std::size_t untold = 0;
    for (const Likes& l : likes_) {
      if (l.first.hole != holes) continue;
      if (!told) rows_.heading(heading);
      told = true;
      const std::string place = where(l);
      const std::size_t each = place.empty() ? l.at.size() : 0;
      if (rows_.left() < 2 + static_cast<int>(each)) {
        ++untold;
        continue;
      }
      rows_.row(fmt::format("{}{}{} {}{}", l.letter != 0 ? fmt::format("{}  ", l.letter) : "",
                            l.at.size() > 1 ? fmt::format("{} × ", l.at.size()) : "", diameter(2 * l.first.radius),
                            along(l), place),
                purpose(l.first.feature));
      for (std::size_t k = 0; k < each; ++k)
        rows_.row(fmt::format("      {}{}", l.letter != 0 ? std::string(1, l.letter) : "", k + 1),
                  fmt::format("{}, {}", size(l.at[k].x()), size(l.at[k].y())));
    }
    if (untold > 0) rows_.row(fmt::format("and {} sorts more, in its files", untold), "");
  }

  static double first_angle(const std::vector<Vec2>& at) {
    double least = 360;
    for (const Vec2& p : at) {
      const double a = std::atan2(p.y(), p.x()) * 180 / kPi;
      least = std::min(least, a < -math::kAlike ? a + 360 : std::max(0.0, a));
    }
    return least;
  }

  /// What is no circle is told by what it lies within, and where its curves are to be had.
  void outlines() {
    std::vector<std::string> told;
    for (std::size_t i = 0; i < shapes_.size(); ++i) {
      const bool told_as_gear = part_.axle && body_.loops[i].feature == "teeth";
      if (shapes_[i].circle() > 0 || told_as_gear) continue;
      const Within w = within(body_.loops[i]);
      const std::string bounds = shapes_[i].around_origin() && body_.loops[i].outline.count > 1
                                     ? fmt::format("⌀{} … ⌀{}", size(2 * w.least), size(2 * w.greatest))
                                     : fmt::format("{} × {}", size(w.box.sizes().x()), size(w.box.sizes().y()));
      const std::string text = fmt::format("{}|{}", body_.loops[i].feature, bounds);
      if (std::find(told.begin(), told.end(), text) != told.end()) continue;
      if (told.empty()) rows_.heading("Other outlines, exact in the STEP file");
      told.push_back(text);
      if (rows_.left() < 1) return;
      rows_.row(purpose(body_.loops[i].feature) + (shapes_[i].orientation() < 0 ? ", open" : ""), "within " + bounds);
    }
  }

  std::size_t pieces_;
  body::Body body_;
  std::vector<body::Shape> shapes_;
  std::vector<Likes> likes_;
  SheetRows rows_;
};

}  // namespace

std::string part_views(const SheetPen& pen, const Part& part, double x0, double y0, double x1, double y1) {
  return PartViews(pen, part).views(x0, y0, x1, y1);
}

void part_table(const SheetPen& pen, const Part& part, std::size_t pieces, double x, double y, double right) {
  PartTable(pen, part, pieces, x, y, right).draw();
}

}  // namespace palio::view
