#include "palio/view/parts_list.hpp"

#include <algorithm>
#include <iterator>

#include <fmt/format.h>

#include "canvas.hpp"
#include "palio/utf8.hpp"
#include "palio/version.hpp"

namespace palio::view {
namespace {

std::string what_it_is(const job::Design& design, const Part& part) {
  if (part.gear) {
    const gear::Teeth& teeth = part.gear->teeth;
    std::string kind(job::name(part.gear->kind));
    std::replace(kind.begin(), kind.end(), '_', ' ');
    return fmt::format("{}{}, {} teeth, module {:.6g}", kind, teeth.is_rack() ? "" : " gear", teeth.count(),
                       teeth.module());
  }
  if (part.axle) {
    const job::Axle& a = design.axles[*part.axle];
    const double per_unit = job::mm_per(design.units);
    if (a.gears.empty())
      return fmt::format("axle, ⌀{:.6g} × {:.6g} {}", a.diameter / per_unit, (a.to - a.from) / per_unit,
                         job::symbol(design.units));
    std::vector<std::string> gears;
    gears.reserve(a.gears.size());
    for (const std::size_t g : a.gears)
      gears.push_back(fmt::format("{} {}", design.gears[g].name, design.gears[g].teeth.count()));
    return fmt::format("one piece: {}", fmt::join(gears, ", "));
  }
  return part.motion ? "part of a reducer" : "plate";
}

/// Another one of the same sort, or more of one that is bought already.
void add_bought(const std::string& name, const std::string& what, std::size_t quantity,
                std::vector<ListedPart>& bought) {
  const auto known = std::find_if(bought.begin(), bought.end(), [&](const ListedPart& p) { return p.name == name; });
  if (known != bought.end()) return void(known->quantity += quantity);
  ListedPart line;
  line.name = name, line.what = what;
  line.quantity = quantity, line.bought = true;
  bought.push_back(std::move(line));
}

void add_bearing(const job::Bearing& b, std::size_t seats, std::vector<ListedPart>& bought) {
  add_bought(
      std::string(b.designation),
      fmt::format(
          "{}ball bearing, {:.6g} × {:.6g} × {:.6g} mm{}", b.flange_width > 0 ? "flanged " : "", b.bore, b.outside,
          b.width,
          b.flange_width > 0 ? fmt::format(", flange {:.6g} × {:.6g} mm", b.flange_diameter, b.flange_width) : ""),
      seats, bought);
}

/// The bearings that sit in a part, beside those of the parts before.
void add_bearings(const job::Design& design, const Part& part, std::vector<ListedPart>& bought) {
  if (part.gear && part.gear->bearing) {
    const std::vector<body::Step>& steps = part.gear->features.steps;
    const auto seats = std::count_if(steps.begin(), steps.end(), [](const body::Step& s) { return s.seat; });
    add_bearing(*part.gear->bearing, static_cast<std::size_t>(seats), bought);
  }
  for (const job::Frame& f : design.frames) {
    if (f.name != part.name || part.gear || !f.bearing) continue;
    const auto seats = std::count_if(f.plan.axes.begin(), f.plan.axes.end(),
                                     [](const job::FramePlan::Axis& a) { return a.seat.diameter > 0; });
    add_bearing(*f.bearing, static_cast<std::size_t>(seats), bought);
  }
}

/// Screws and nuts of hubs that are held by them.
void add_screws(const Part& part, std::vector<ListedPart>& bought) {
  if (!part.gear) return;
  for (const body::CrossHole& h : part.gear->features.cross_holes) {
    if (h.label.empty()) continue;
    add_bought(h.label + " set screw", fmt::format("set screw {} through a hub", h.label), 1, bought);
    if (h.nut) add_bought(h.label + " nut", fmt::format("hexagon nut {} in a hub", h.label), 1, bought);
  }
}

/// Retaining rings, of each copy of an axle.
void add_rings(const job::Design& design, const Part& part, std::vector<ListedPart>& bought) {
  if (!part.axle) return;
  const job::Axle& a = design.axles[*part.axle];
  if (a.grooves.empty()) return;
  add_bought(fmt::format("retaining ring {:.6g}", a.diameter),
             fmt::format("retaining ring for a shaft of {:.6g} mm, {:.6g} mm thick", a.diameter, a.ring_thickness),
             a.grooves.size(), bought);
}

/// Motors that are bolted to plates, with their screws.
void add_motors(const job::Design& design, std::vector<ListedPart>& bought) {
  for (const job::Frame& frame : design.frames) {
    for (const job::Frame::Motor& m : frame.motors) {
      if (m.flange.empty()) continue;
      add_bought("motor " + m.flange, fmt::format("motor with a flange of size {}", m.flange), 1, bought);
      add_bought(m.screw, fmt::format("screw {} for a motor's face", m.screw), static_cast<std::size_t>(m.count),
                 bought);
    }
  }
}

/// A field of a CSV.
std::string field(const std::string& text) {
  if (text.find_first_of(",\"\n") == std::string::npos) return text;
  std::string quoted = "\"";
  for (const char c : text)
    quoted += c == '"' ? std::string("\"\"") : std::string(1, c);
  return quoted + "\"";
}

}  // namespace

std::pair<std::string, std::string> title_of(const job::Gear& gear) {
  return {gear.part_name.empty() ? gear.name : gear.part_name, gear.part_number};
}

std::pair<std::string, std::string> title_of(const job::Design& design, const Part& part) {
  if (part.gear) return title_of(*part.gear);
  for (const job::Frame& f : design.frames) {
    if (f.name == part.name) return {f.part_name.empty() ? part.name : f.part_name, f.part_number};
  }
  return {part.name, ""};
}

ListedPart listed(const job::Design& design, const Part& part) {
  const auto [name, number] = title_of(design, part);
  ListedPart line{name, number, what_it_is(design, part), part.material.name};
  line.volume = body::mass_properties(part.body).volume;
  constexpr double kGramsPerMillimetre = 1e-6;  // of kg/m³ times mm³
  if (part.material.density > 0) line.mass = line.volume * part.material.density * kGramsPerMillimetre;
  return line;
}

std::vector<ListedPart> parts_list(const job::Design& design) {
  std::vector<ListedPart> all, bought;
  std::vector<std::string> names;  // of parts, beside their lines
  for (const Part& p : parts(design)) {
    add_bearings(design, p, bought);
    add_screws(p, bought);
    add_rings(design, p, bought);
    if (!p.alike.empty()) {
      const auto first = std::find(names.begin(), names.end(), p.alike);
      ++all[static_cast<std::size_t>(first - names.begin())].quantity;
      continue;
    }
    all.push_back(listed(design, p)), names.push_back(p.name);
  }
  add_motors(design, bought);
  std::move(bought.begin(), bought.end(), std::back_inserter(all));
  return all;
}

std::string parts_csv(const job::Design& design) {
  std::string text = "number,name,part_number,what,material,quantity,volume_mm3,mass_g\n";
  std::size_t number = 0;
  for (const ListedPart& p : parts_list(design))
    text += fmt::format("{},{},{},{},{},{},{},{}\n", ++number, field(p.name), field(p.number), field(p.what),
                        field(p.material), p.quantity, p.bought ? "" : fmt::format("{:.6f}", p.volume),
                        p.mass ? fmt::format("{:.6f}", *p.mass) : "");
  return text;
}

std::string draw_parts_list(const job::Design& design, const std::string& format) {
  constexpr int kWidth = 842, kHeight = 595;  // A4 [points]
  const double zoom = format == "png" ? 1280.0 / kWidth : 1;
  Canvas page(format, {static_cast<int>(kWidth * zoom), static_cast<int>(kHeight * zoom)}, design.title);
  const std::vector<ListedPart> all = parts_list(design);
  const auto words = [&](double x, double y, const std::string& text, int align, double size, bool bold = false) {
    page.text({x * zoom, y * zoom}, text, kInk, align, size * zoom, bold);
  };
  words(36, 40, design.title.empty() ? "Parts" : design.title + ", parts", 1, 15, true);
  struct Column {
    const char* head;
    double x;
    int align;
  };
  constexpr Column kColumns[] = {{"", 36, 1},          {"part", 62, 1},     {"number", 232, 1},  {"what it is", 312, 1},
                                 {"material", 570, 1}, {"pieces", 690, -1}, {"g each", 750, -1}, {"g", 806, -1}};
  constexpr double kTop = 70, kFoot = 40;
  const auto row = [&](double y, const std::vector<std::string>& cells, double size, bool bold) {
    for (std::size_t i = 0; i < cells.size(); ++i) {
      // What is too long for its column ends in dots.
      const double room =
          i + 1 < std::size(kColumns) && kColumns[i].align > 0 ? kColumns[i + 1].x - kColumns[i].x - 6 : 0;
      const auto fits = static_cast<std::size_t>(room / (0.62 * size));
      const bool bounded = room > 0 && kColumns[i + 1].align > 0 && fits > 1;
      words(kColumns[i].x, y, bounded ? shortened(cells[i], fits - 1) : cells[i], kColumns[i].align, size, bold);
    }
  };
  row(kTop, {"", "part", "number", "what it is", "material", "pieces", "g each", "g"}, 9, true);
  const double step = std::clamp((kHeight - kTop - kFoot - 20) / static_cast<double>(all.size() + 2), 9.0, 20.0);
  const auto most = static_cast<std::size_t>((kHeight - kTop - kFoot - 20) / step) - 2;
  double y = kTop, total = 0;
  std::size_t pieces = 0, unknown = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    const ListedPart& p = all[i];
    pieces += p.quantity;
    if (p.mass)
      total += *p.mass * static_cast<double>(p.quantity);
    else if (!p.bought)
      unknown += p.quantity;
    if (i > most) continue;
    y += step;
    if (i == most && all.size() > most + 1) {
      words(62, y, fmt::format("and {} more, in the CSV", all.size() - i), 1, 9);
      continue;
    }
    const double each = p.mass.value_or(0);
    row(y,
        {std::to_string(i + 1), p.name, p.number, p.what,
         p.bought             ? "bought"
         : p.material.empty() ? "–"
                              : p.material,
         std::to_string(p.quantity), p.mass ? fmt::format("{:.2f}", each) : "–",
         p.mass ? fmt::format("{:.2f}", each * static_cast<double>(p.quantity)) : "–"},
        std::min(9.0, 0.75 * step), false);
  }
  page.page_line({36 * zoom, (y + 0.6 * step) * zoom}, {806 * zoom, (y + 0.6 * step) * zoom}, kGrey, zoom);
  y += 1.4 * step;
  words(62, y, unknown > 0 ? fmt::format("all together; the material of {} is not given", unknown) : "all together", 1,
        9);
  words(690, y, std::to_string(pieces), -1, 9, true),
      words(806, y, total > 0 ? fmt::format("{:.2f}", total) : "–", -1, 9, true);
  words(36, kHeight - 24, fmt::format("palio {}", kVersion), 1, 7);
  return page.finish();
}

}  // namespace palio::view
