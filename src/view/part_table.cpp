// The table of a part that is no single gear: what it is, holes, steps and outlines, teeth of gears in one piece.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/body/solid.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/view/parts_list.hpp"
#include "part_shapes.hpp"

namespace palio::view {
namespace {

class PartTable : private PartPen {
 public:
  PartTable(const SheetPen& pen, const Part& part, std::size_t pieces, double x, double y, double right)
      : PartPen(pen, part),
        pieces_(pieces),
        body_(part.body.layers()),
        shapes_(shapes_of(body_)),
        walls_(grouped(round_walls(body_, shapes_))),
        rows_(pen, x, y, right) {}

  void draw() {
    about();
    for (std::size_t i = 0; axle_ && i < axle_->gears.size(); ++i)
      teeth_of(design_.gears[axle_->gears[i]]);
    cylinders(true, "Holes (x, y from 0, z from the lower face)");
    cylinders(false, "Round outsides");
    holes_across();
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
    if (const auto limits = axle_ ? axle_->fit_limits() : std::nullopt)
      rows_.row(fmt::format("⌀{} {} from … to", size(axle_->diameter), axle_->fit),
                fmt::format("⌀{} … ⌀{} {}", length(axle_->diameter + limits->least),
                            length(axle_->diameter + limits->greatest), job::symbol(design_.units)));
    rows_.row("process", process());
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
    told("    at the end of its tolerance", "tip_limit_diameter");
    told("root circle  d_f", "root_diameter");
    told("face width", "face_width");
    if (!g.teeth.is_cycloidal() && !g.teeth.is_bevel() && !g.teeth.is_rack() && !g.teeth.internal()) {
      const gear::Span span = g.teeth.gear().span(g.span_teeth);
      const auto thin = g.thinnest();
      rows_.row(fmt::format("span over {} teeth  W", span.teeth),
                fmt::format("{}{} {}", length(span.length), thin ? " … " + length(thin->span(span.teeth).length) : "",
                            job::symbol(design_.units)));
    }
  }

  std::string height(double z) const { return size(z - body_.bottom()); }

  /// Whether nothing of the part is in a hole's way from end to end, and it has one size.
  bool through(const RoundWalls& l) const {
    const Vec2& at = l.at.front();
    for (const RoundWalls& o : walls_) {
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

  std::string along(const RoundWalls& l) const {
    const RoundWall& c = l.first;
    if (c.hole && through(l)) return "through";
    if (c.from < body_.bottom() + math::kAlike && c.to > body_.top() - math::kAlike) return "from end to end";
    return fmt::format("z {} … {}", height(c.from), height(c.to));
  }

  /// Empty where each place has a row of its own.
  std::string where(const RoundWalls& l) const {
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
    if (feature == "outer_diameter") return "outside";
    if (feature == "hubs") return "hub";
    if (feature == "teeth" && part_.motion) return "lobes, or seats of rollers";
    if (feature != "bore.bearing") {
      std::string words = feature;
      std::replace(words.begin(), words.end(), '_', ' ');
      return words;
    }
    const auto frame = std::find_if(design_.frames.begin(), design_.frames.end(),
                                    [&](const job::Frame& f) { return f.name == part_.name; });
    const bool known = frame != design_.frames.end() && frame->bearing;
    return known ? fmt::format("seat of {}", frame->bearing->designation) : "seat";
  }

  void cylinders(bool holes, const std::string& heading) {
    bool told = false;
    std::size_t untold = 0;
    for (const RoundWalls& l : walls_) {
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

  /// Holes whose axes lie across the part's own.
  void holes_across() {
    if (!body_.tunnels.empty()) rows_.heading("Holes across (z from the lower face, angle from x)");
    for (const body::Tunnel& t : body_.tunnels)
      rows_.row(fmt::format("⌀{} at z {}, {:.4g}°", size(2 * t.radius), height(t.z), t.angle * 180 / kPi),
                purpose(t.feature));
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
      const bool told_as_gear = axle_ && body_.loops[i].feature == "teeth";
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
  std::vector<RoundWalls> walls_;
  SheetRows rows_;
};

}  // namespace

void part_table(const SheetPen& pen, const Part& part, std::size_t pieces, double x, double y, double right) {
  PartTable(pen, part, pieces, x, y, right).draw();
}

}  // namespace palio::view
