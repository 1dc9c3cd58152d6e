// One page for the shop.
#include "palio/view/sheet.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/version.hpp"
#include "palio/view/parts_list.hpp"
#include "sheet_pen.hpp"

namespace palio::view {
namespace {

const Paper& paper(const std::string& name) {
  static const Paper all[] = {{"A4", 842, 595}, {"A3", 1191, 842}, {"letter", 792, 612}};
  for (const Paper& p : all) {
    if (name == p.name) return p;
  }
  throw InvalidParameter("--paper", name, "the papers are A4, A3 and letter", "choose one of these");
}

/// The frame about all, and the block at the foot.
class Sheet : private SheetPen {
 public:
  explicit Sheet(const SheetPen& pen) : SheetPen(pen) {}

  void draw(const SheetOf& of) {
    const double right = paper_.width - 24 * k_, table_width = 286 * k_, left = 24 * k_, foot = 78 * k_;
    const double table_left = right - table_width, bottom = paper_.height - 24 * k_;
    frame(left, 24 * k_, right, bottom);
    const double views_right = table_left - 12 * k_;
    std::string scale;
    if (of.gear) {
      scale = sheet_views(*this, *of.gear, left, 24 * k_, views_right, bottom - foot);
      sheet_table(*this, *of.gear, table_left, 24 * k_, right);
    } else {
      scale = part_views(*this, *of.part, left, 24 * k_, views_right, bottom - foot);
      part_table(*this, *of.part, of.pieces, table_left, 24 * k_, right);
    }
    const auto [called, number] = of.gear ? title_of(*of.gear) : title_of(design_, *of.part);
    title_block(called, number, scale, left, bottom - foot, views_right, bottom);
  }

 private:
  void title_block(const std::string& called, const std::string& number, const std::string& scale, double x0, double y0,
                   double x1, double y1) {
    line(x0, y0, x1, y0, 1), line(x1, y0, x1, y1, 1);
    const double middle = x0 + 0.62 * (x1 - x0), half = (y0 + y1) / 2;
    line(middle, y0, middle, y1, 0.6), line(x0, half, x1, half, 0.6);
    const auto cell = [&](double x, double y, const std::string& label, const std::string& text, double size) {
      words(x + 6 * k_, y + 8 * k_, label, 1, 6);
      words(x + 6 * k_, y + 24 * k_, text, 1, size, true);
    };
    cell(x0, y0, "part", called, 12);
    cell(middle, y0, "part number", number.empty() ? "—" : number, 12);
    cell(x0, half, "belongs to", design_.title.empty() ? "—" : design_.title, 10);
    cell(middle, half, "scale     sizes in     made by",
         fmt::format("{}     {}     palio {}", scale, job::symbol(design_.units), kVersion), 8);
  }
};

}  // namespace

SheetOf sheet_of(const Part& part, const std::vector<Part>& parts) {
  if (part.gear) return {part.gear};
  const auto more = std::count_if(parts.begin(), parts.end(), [&](const Part& o) { return o.alike == part.name; });
  return {nullptr, &part, static_cast<std::size_t>(1 + more)};
}

std::vector<SheetOf> all_sheets(const job::Design& design, const std::vector<Part>& parts) {
  std::vector<SheetOf> all;
  for (const job::Gear& g : design.gears)
    all.push_back({&g});
  for (const Part& p : parts) {
    if (!p.gear && p.alike.empty()) all.push_back(sheet_of(p, parts));
  }
  return all;
}

const std::string& name(const SheetOf& sheet) { return sheet.gear ? sheet.gear->name : sheet.part->name; }

std::string draw_sheets(const job::Design& design, const std::vector<SheetOf>& sheets, const SheetOptions& options,
                        const std::string& format) {
  const Paper& on = paper(options.paper);
  const double zoom = format == "png" ? 1280.0 / on.width : 1;  // pixels a point
  Canvas page(format, {static_cast<int>(std::lround(on.width * zoom)), static_cast<int>(std::lround(on.height * zoom))},
              design.title);
  for (std::size_t i = 0; i < sheets.size(); ++i) {
    if (i > 0) page.next_page();
    Sheet(SheetPen(design, on, page, zoom)).draw(sheets[i]);
  }
  return page.finish();
}

std::string draw_sheet(const job::Design& design, const job::Gear& gear, const SheetOptions& options,
                       const std::string& format) {
  return draw_sheets(design, {{&gear}}, options, format);
}

}  // namespace palio::view
