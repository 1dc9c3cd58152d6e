// Flat parts side by side on sheets of stock, to be cut out.
#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

#include "means.hpp"
#include "naming.hpp"
#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/make/make.hpp"
#include "palio/view/placement.hpp"
#include "palio/write/nest.hpp"

namespace palio::make {
namespace {

bool round(const body::Loop& l) { return l.outline.period.size() == 1; }

/// Why a part does not come out of a sheet by one cut around it; empty where it does.
std::string why_not_flat(const body::Solid& solid) {
  if (solid.is_conical()) return "no plane shows its teeth";
  const body::Body& body = solid.layers();
  const auto upright = [](const body::Wall& w) { return w.below == w.above; };
  const auto still = [](const body::Level& l) { return l.turn == 0; };
  for (const body::Layer& layer : body.layers) {
    const bool follows = std::any_of(layer.walls.begin(), layer.walls.end(),
                                     [&](const body::Wall& w) { return body.loops[w.below].follows; });
    if (follows && !std::all_of(layer.levels.begin(), layer.levels.end(), still)) return "its teeth are not straight";
  }
  if (body.layers.size() > 1 || !std::all_of(body.layers[0].walls.begin(), body.layers[0].walls.end(), upright))
    return "it is not the same from face to face";
  if (!body.tunnels.empty()) return "it has holes across";
  double width = 0;
  for (const curve::Segment& s : body.loops[body.layers[0].walls[0].below].outline.period)
    width = std::max(width, 2 * s.first().norm());
  const bool rod = std::all_of(body.loops.begin(), body.loops.end(), round) && body.top() - body.bottom() > width;
  return rod ? "it is a rod" : "";
}

/// A part as it is cut: its section, and what it is cut from.
struct Cut {
  std::string name, material;
  double thickness;
  std::vector<curve::Outline> loops;
  std::vector<curve::BulgedLoop> arcs;  // of the loops
};

/// Parts of one material and thickness lie on the same sheets.
struct Pile {
  std::string name;
  std::vector<Cut> parts;
};

std::string size_in(job::Units units, double length) {
  return units == job::Units::inch ? fmt::format("{:.6g}in", length / 25.4) : fmt::format("{:.6g}mm", length);
}

std::vector<Pile> piles_of(const job::Design& design, const Stock& stock, std::string& left_out) {
  std::vector<Pile> piles;
  std::vector<std::string> known;
  for (const view::Part& p : view::parts(design)) {
    known.push_back(p.name);
    if (!stock.only.empty() && std::find(stock.only.begin(), stock.only.end(), p.name) == stock.only.end()) continue;
    if (const std::string why = why_not_flat(p.body); !why.empty()) {
      if (p.alike.empty()) left_out += fmt::format("{}{} ({})", left_out.empty() ? "" : ", ", p.name, why);
      continue;
    }
    const body::Body& body = p.body.layers();
    Cut cut{p.name, p.material.name, body.top() - body.bottom(), {}, {}};
    for (const body::Wall& w : body.layers[0].walls)
      cut.loops.push_back(body.loops[w.below].outline);
    // Holes first: what is cut free may move.
    std::stable_partition(cut.loops.begin(), cut.loops.end(), [](const curve::Outline& o) { return o.clockwise; });
    for (const curve::Outline& o : cut.loops)
      cut.arcs.push_back(curve::biarcs(o, chord_error(stock.chord_error, p.module)));
    const std::string name = "stock_" + (cut.material.empty() ? "" : slug(cut.material) + "_") +
                             size_in(design.units, std::round(cut.thickness * 1e6) / 1e6);
    auto pile = std::find_if(piles.begin(), piles.end(), [&](const Pile& of) { return of.name == name; });
    if (pile == piles.end()) pile = piles.insert(pile, {name, {}});
    pile->parts.push_back(std::move(cut));
  }
  check_only(stock.only, known, fmt::format("the job's parts are {}", fmt::join(known, ", ")));
  return piles;
}

/// A sheet as it is written.
struct Sheet {
  std::vector<write::PlacedLoop> loops;
  write::SheetOfStock beside;
  std::size_t parts = 0;
};

/// The loops of one part, turned, not yet moved.
std::vector<write::PlacedLoop> turned_loops(const Cut& cut, double turn) {
  std::vector<write::PlacedLoop> loops;
  loops.reserve(cut.loops.size());
  for (std::size_t i = 0; i < cut.loops.size(); ++i)
    loops.push_back({cut.arcs[i], cut.name, "cut", {{}, turn}, cut.loops[i].clockwise ? "inside" : "outside"});
  return loops;
}

/// The loops of one part where it lies, tabs left, and its name on it.
void lay(const Cut& cut, const write::Lay& at, const Stock& stock, double kerf, Sheet& sheet,
         std::string& without_label) {
  const double turn = at.quarter ? kPi / 2 : 0;
  std::vector<write::PlacedLoop> loops = turned_loops(cut, turn);
  const Vec2 off = at.at - write::corners_of(loops).low;
  for (write::PlacedLoop& l : loops) {
    l.placement.at = Vec3(off.x(), off.y(), 0);
    if (stock.tabs.count == 0 || l.on_layer == "inside") {
      sheet.loops.push_back(std::move(l));
      continue;
    }
    try {
      for (curve::BulgedLoop& chain : write::with_tabs(l.loop, {stock.tabs.count, stock.tabs.width + kerf}))
        sheet.loops.push_back({std::move(chain), l.part, l.feature, l.placement, l.on_layer, true});
    } catch (const InvalidParameter& e) {
      throw InvalidParameter(e.name(), e.given(), fmt::format("of {} {}", cut.name, e.allowed()), e.remedy());
    }
  }
  ++sheet.parts;
  constexpr double kCapitals = 5;  // [mm]
  if (auto label = write::label_within(cut.loops, turn, cut.name, kCapitals)) {
    label->from += off;
    sheet.beside.labels.push_back(*label);
  } else {
    without_label += (without_label.empty() ? "" : ", ") + cut.name;
  }
}

std::vector<Sheet> sheets_of(const Pile& pile, const Stock& stock, double kerf, std::string& without_label) {
  std::vector<Vec2> sizes;
  sizes.reserve(pile.parts.size());
  for (const Cut& cut : pile.parts) {
    const write::Corners box = write::corners_of(turned_loops(cut, 0));
    sizes.emplace_back(box.high - box.low);
  }
  const auto [width, depth] = stock.size;
  write::Beds beds{width, depth, stock.between};
  beds.several = beds.quarters = true;
  const std::vector<write::Lay> lays = write::side_by_side(sizes, beds);
  std::vector<Sheet> sheets;
  for (std::size_t i = 0; i < lays.size(); ++i) {
    while (sheets.size() <= lays[i].bed)
      sheets.push_back({{}, {width, depth, {}}});
    lay(pile.parts[i], lays[i], stock, kerf, sheets[lays[i].bed], without_label);
  }
  return sheets;
}

}  // namespace

std::vector<File> sheets_of_stock(const job::Design& nominal, const Stock& stock, const Means& means) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  std::vector<std::string> formats = stock.formats;
  if (formats.empty()) formats = {"dxf", "svg"};
  for (const std::string& format : formats) {
    if (format != "dxf" && format != "svg")
      throw InvalidParameter("format", format, "sheets of stock are written as dxf and svg", "choose one of those");
  }
  std::string left_out, without_label;
  const std::vector<Pile> piles = piles_of(design, stock, left_out);
  if (piles.empty())
    throw InvalidParameter("stock", fmt::format("{:.6g} x {:.6g} mm", stock.size[0], stock.size[1]),
                           "no part lies flat in a sheet: " + left_out,
                           "make them as solids, with --format step or 3mf");
  // All is laid before anything is written: what does not fit leaves no half of a set.
  std::vector<std::pair<std::string, Sheet>> sheets;
  for (const Pile& pile : piles) {
    std::vector<Sheet> of_pile = sheets_of(pile, stock, design.process.kerf, without_label);
    for (std::size_t n = 0; n < of_pile.size(); ++n) {
      const std::string number = of_pile.size() > 1 ? fmt::format("_{}", n + 1) : "";
      sheets.emplace_back(pile.name + number, std::move(of_pile[n]));
    }
  }
  if (stock.one_file && sheets.size() > 1)
    throw InvalidParameter(
        "stock", fmt::format("{:.6g} x {:.6g} mm", stock.size[0], stock.size[1]),
        fmt::format("these parts take {} sheets, of {} materials and thicknesses", sheets.size(), piles.size()),
        "give a folder with --out, a larger sheet, or fewer parts with --only");
  std::vector<File> made;
  for (const auto& [name, sheet] : sheets) {
    for (const std::string& format : formats) {
      File file{means.path(name + "." + format), format, name};
      file.meaning = "flat parts of one thickness, to be cut out", file.parts = sheet.parts;
      if (means.about_to) means.about_to(file.path);
      save_loops(sheet.loops, make::stamp(design, name), means, file, sheet.beside);
      made.push_back(std::move(file));
    }
  }
  if (means.remark && !left_out.empty()) means.remark("--stock: left out: " + left_out);
  if (means.remark && !without_label.empty()) means.remark("--stock: too small to bear their names: " + without_label);
  return made;
}

}  // namespace palio::make
