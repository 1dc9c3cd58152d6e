// What the parts of a sheet draw with: one page, its paper and its units. Coordinates are points (1/72 in) of an A4
// page lying on its side; other papers scale them. Private to the views.
#pragma once

#include <algorithm>
#include <functional>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/design/design.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/placement.hpp"

namespace palio::view {

struct Paper {
  const char* name;
  double width, height;  // points
};

/// The largest usual scale at which `need` mm fit into `room` mm, and how it is written: "2 : 1".
std::pair<double, std::string> usual_scale(double need, double room);

/// What a cut along the axis shows: material from one side to another, between two heights.
struct Cut {
  double z0, z1;
  double in0, out0, in1, out1;  ///< across the axis, at z0 and z1 [mm]
  bool teeth;                   ///< a tooth: drawn, not hatched
};

inline constexpr double kPointsPerMm = 72 / 25.4;

class SheetPen {
 public:
  SheetPen(const job::Design& design, const Paper& paper, Canvas& page, double zoom)
      : design_(design), paper_(paper), page_(page), zoom_(zoom), k_(std::min(paper.width / 842, paper.height / 595)) {}

 protected:
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
  std::string process() const {
    if (!design_.process.given) return "—";
    return design_.process.preset.empty() ? "as the job says" : design_.process.preset;
  }
  /// Strokes of a line in the middle of something.
  std::vector<double> chain() const { return {9 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_, 2 * zoom_ * k_}; }
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
    // Where two arrows find no room between, they come from outside.
    const bool tight = x1 - x0 < 15 * k_, narrow = x1 - x0 < 8 * k_ * static_cast<double>(text.size());
    if (tight) line(x0 - 12 * k_, y, x0, y, 0.5, kBlack), line(x1, y, x1 + 12 * k_, y, 0.5, kBlack);
    arrow(x0, y, {tight ? 1.0 : -1.0, 0}), arrow(x1, y, {tight ? -1.0 : 1.0, 0});
    words(narrow ? x1 + (tight ? 15 : 6) * k_ : (x0 + x1) / 2, narrow ? y : y - 6 * k_, text, narrow ? 1 : 0);
  }
  void upright(double y0, double y1, double x, double from, const std::string& text) {
    for (const double y : {y0, y1})
      line(from, y, x + 4 * k_, y, 0.4, kGrey);
    line(x, y0, x, y1, 0.5, kBlack);
    arrow(x, y0, {0, y0 < y1 ? -1.0 : 1.0}), arrow(x, y1, {0, y0 < y1 ? 1.0 : -1.0});
    words(x + 3 * k_, y0 - 7 * k_, text, 0);
  }

  /// Hatches what is cut and draws its edges. \param px, py  from along the axis and across it [mm] to the page
  void draw_cuts(const std::vector<Cut>& cuts, const std::function<double(double)>& px,
                 const std::function<double(double)>& py);

  const job::Design& design_;
  const Paper& paper_;
  Canvas& page_;
  double zoom_;  // pixels a point
  double k_;     // size of letters and lines, of A4's
};

/// The pen in the hands of what tells of one gear.
class GearPen : protected SheetPen {
 public:
  GearPen(const SheetPen& pen, const job::Gear& gear) : SheetPen(pen), g_(gear) {}

 protected:
  std::string value(const char* key) const { return job::report_value(design_, "gear." + g_.name, key); }

  const job::Gear& g_;
};

/// Rows of two columns, downwards from a corner.
class SheetRows : protected SheetPen {
 public:
  SheetRows(const SheetPen& pen, double x, double y, double right)
      : SheetPen(pen), table_x_(x), table_right_(right), row_y_(y) {
    line(table_x_, row_y_, table_x_, paper_.height - 24 * k_, 1);
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
  /// How many rows still find room.
  int left() const { return static_cast<int>((paper_.height - 28 * k_ - row_y_) / (13 * k_)); }

 protected:
  double table_x_, table_right_, row_y_;
};

/// The gear from the front and cut, between two corners of the page; at which scale.
std::string sheet_views(const SheetPen& pen, const job::Gear& gear, double x0, double y0, double x1, double y1);

/// Tooth data, what to measure, mates and part, from a corner down.
void sheet_table(const SheetPen& pen, const job::Gear& gear, double x, double y, double right);

/// The same of any other part: from above and cut, and a table of its holes, steps and outlines.
std::string part_views(const SheetPen& pen, const Part& part, double x0, double y0, double x1, double y1);
/// \param pieces  how many of it the machine has
void part_table(const SheetPen& pen, const Part& part, std::size_t pieces, double x, double y, double right);

}  // namespace palio::view
