// A part that is no single gear, on its sheet: from above, and cut.
#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/body/solid.hpp"
#include "palio/math/tolerance.hpp"
#include "part_shapes.hpp"

namespace palio::view {
namespace {

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
std::pair<double, std::size_t> best_plane(const std::vector<RoundWalls>& walls, double middle) {
  std::map<long, std::size_t> met;  // by micrometres
  for (const RoundWalls& l : walls) {
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
  for (body::Loop& l : turned.loops)
    l.outline = curve::turned(std::move(l.outline), kPi / 2);
  const auto meets = [](const body::Body& b) {
    const std::vector<RoundWalls> walls = grouped(round_walls(b, shapes_of(b)));
    return best_plane(walls, extent_of(b).center().x()).second;
  };
  upright = meets(turned) > meets(body);
  return upright ? turned : body;
}

class PartViews : private PartPen {
 public:
  PartViews(const SheetPen& pen, const Part& part)
      : PartPen(pen, part),
        body_(best_turned(part.body.layers(), upright_)),
        shapes_(shapes_of(body_)),
        box_(extent_of(body_)),
        walls_(grouped(round_walls(body_, shapes_))),
        plane_(best_plane(walls_, box_.center().x()).first) {}

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

  void from_above(double x, double y, double s) {
    const Vec2 middle = box_.center();
    page_.look_at(middle, s * zoom_, at(x, y));
    edges();
    letters(x, y, s);
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
               chain());
    words(cut_x, top - 16 * k_, "A", 0, 9, true), words(cut_x, foot + 14 * k_, "A", 0, 9, true);
    words(x, foot + 48 * k_, upright_ ? "view from +z, x upwards" : "view from +z, x to the right", 0, 7);
  }

  /// Seen from +z: those that lie open are drawn through, others dashed.
  void edges() {
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
          if (run.size() > 1) draw_run(run, hidden);
          run = {a}, hidden = here;
        }
      }
    }
  }

  /// The axes of round walls, with the letters of the table; of a circle of alike ones the first stands for all.
  void letters(double x, double y, double s) {
    for (const RoundWalls& l : walls_) {
      const double over = l.first.radius + 2 * k_ / s;
      for (const Vec2& at : l.at) {
        for (const Vec2& v : {Vec2(over, 0), Vec2(0, over)})
          page_.line(at - v, at + v, kGrey, 0.3 * zoom_ * k_, chain());
      }
      if (l.letter == 0) continue;
      const bool one_stands_for_all = l.at.size() == 1 || even_circle(l.at) > 0;
      // Letters of circles about one axis stand apart.
      const double way = (60 - 25 * ((l.letter - 'a') % 5)) * kPi / 180;
      for (std::size_t k = 0; k < (one_stands_for_all ? 1 : l.at.size()); ++k) {
        const Vec2 beside = l.at[k] + from_polar(l.first.radius, way) - box_.center();
        words(x + s * beside.x() + 5 * k_, y - s * beside.y() - 7 * k_,
              one_stands_for_all ? std::string(1, l.letter) : fmt::format("{}{}", l.letter, k + 1), 1, 6.5, true);
      }
    }
  }

  void draw_run(const std::vector<Vec2>& run, bool hidden) {
    if (hidden)
      page_.polyline(run, kGrey, 0.5 * zoom_ * k_, {3 * zoom_ * k_, 2 * zoom_ * k_});
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
    if (turned_part(body_, shapes_))
      page_.line({px(from) - 8 * k_, -py(0)}, {px(to) + 8 * k_, -py(0)}, kInk, 0.5 * zoom_ * k_, chain());
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
    for (const RoundWalls& l : walls_) {
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
  std::vector<RoundWalls> walls_;
  double plane_;  // of the cut, along y [mm]
};

}  // namespace

std::string part_views(const SheetPen& pen, const Part& part, double x0, double y0, double x1, double y1) {
  return PartViews(pen, part).views(x0, y0, x1, y1);
}

}  // namespace palio::view
