// What the parts of a sheet draw with: one page, its paper and its units. Coordinates are points (1/72 in) of an A4
// page lying on its side; other papers scale them. Private to the views.
#pragma once

#include <algorithm>
#include <string>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/design/design.hpp"
#include "palio/readings/report.hpp"

namespace palio::view {

struct Paper {
  const char* name;
  double width, height;  // points
};

class SheetPen {
 public:
  SheetPen(const job::Design& design, const job::Gear& gear, const Paper& paper, Canvas& page, double zoom)
      : design_(design),
        g_(gear),
        paper_(paper),
        page_(page),
        zoom_(zoom),
        k_(std::min(paper.width / 842, paper.height / 595)) {}

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

  const job::Design& design_;
  const job::Gear& g_;
  const Paper& paper_;
  Canvas& page_;
  double zoom_;  // pixels a point
  double k_;     // size of letters and lines, of A4's
};

/// The gear from the front and cut, between two corners of the page; at which scale.
std::string sheet_views(const SheetPen& pen, double x0, double y0, double x1, double y1);

/// Tooth data, what to measure, mates and part, from a corner down.
void sheet_table(const SheetPen& pen, double x, double y, double right);

}  // namespace palio::view
