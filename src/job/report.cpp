#include "palio/job/report.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "palio/body/features.hpp"
#include "palio/error.hpp"
#include "palio/version.hpp"
#include "values.hpp"

namespace palio::job {
namespace {}  // namespace

std::string message(const Finding& f, Units units) {
  const FindingKind& kind = f.kind();
  std::string text = std::string(kind.cause) + ": " + std::string(kind.remedy);
  const auto put = [&](std::string_view mark, const std::optional<double>& value) {
    const auto at = text.find(mark);
    if (at != std::string::npos)
      text.replace(at, mark.size(), value ? shown(*value, kind.quantity, units, true) : "none");
  };
  if (const auto at = text.find("{detail}"); at != std::string::npos) text.replace(at, 8, f.detail);
  put("{value}", f.value);
  put("{limit}", f.limit);
  put("{limit}", f.limit);
  return text;
}

std::string painted(std::string_view word, std::string_view verdict, bool colour) {
  if (!colour) return std::string(word);
  const int code = verdict == "error" || verdict == "jams"              ? 31
                   : verdict == "warning" || verdict == "loses_contact" ? 33
                   : verdict == "meshes"                                ? 32
                                                                        : 36;
  return fmt::format("\033[{};1m{}\033[0m", code, word);
}

namespace {

/// The numbers of the process, each with its key.
struct ProcessNumber {
  const char* key;
  double value;
  Quantity quantity;
};

std::vector<ProcessNumber> process_numbers(const Process& p) {
  using Q = Quantity;
  return {{"press", p.press, Q::length},
          {"slide", p.slide, Q::length},
          {"free", p.free, Q::length},
          {"surface_offset", p.surface_offset, Q::length},
          {"first_layer_inset", p.inset, Q::length},
          {"first_layer_up_to", p.inset_up_to, Q::length},
          {"shrinkage_radial", p.shrinkage_radial, Q::number},
          {"shrinkage_axial", p.shrinkage_axial, Q::number},
          {"kerf", p.kerf, Q::length},
          {"draft_deg", p.draft, Q::angle},
          {"smallest_radius", p.smallest_radius, Q::length},
          {"least_wall", p.least_wall, Q::length},
          {"center_distance_tolerance", p.center_distance_tolerance, Q::length}};
}

Json process_json(const Design& design) {
  const Process& p = design.process;
  Json j{{"preset", p.preset}};
  Json holes = Json::array();
  for (const auto& [d, a] : p.hole_allowance)
    holes.push_back({{"diameter", d / mm_per(design.units)}, {"allowance", a / mm_per(design.units)}});
  j["hole_allowance"] = holes;
  for (const ProcessNumber& n : process_numbers(p))
    j[n.key] = number(n.value, n.quantity, design.units);
  j["corrected"] = p.corrected;
  return j;
}

std::string process_text(const Design& design) {
  const Process& p = design.process;
  std::string text, holes, corrected;
  for (const auto& [d, a] : p.hole_allowance) {
    holes += fmt::format("{}{}{}", holes.empty() ? "" : ", ", shown(a, Quantity::length, design.units),
                         p.hole_allowance.size() > 1 ? " at " + shown(d, Quantity::circle, design.units, true) : "");
  }
  if (!holes.empty()) text += row("holes come out smaller by", "", holes);
  for (const ProcessNumber& n : process_numbers(p)) {
    if (n.value != 0) text += row(n.key, "", shown(n.value, n.quantity, design.units));
  }
  for (const std::string& c : p.corrected)
    corrected += (corrected.empty() ? "" : ", ") + c;
  return text + row("corrected in the files", "", corrected.empty() ? "nothing" : corrected);
}

}  // namespace

std::string report_json(const Design& design, bool rolled) {
  Json root;
  root["palio"] = kVersion;
  root["title"] = design.title;
  root["units"] = symbol(design.units);
  if (design.as != As::nominal) root["as"] = name(design.as);
  root["gears"] = Json::object();
  for (const Gear& g : design.gears) {
    root["gears"][g.name] = to_json(entries(design, g), design.units);
  }
  for (const char* kind : {"pairs", "frames", "reducers", "planetaries", "trains"})
    root[kind] = Json::object();
  for (const Pair& p : design.pairs)
    root["pairs"][p.name] = to_json(entries(design, p, rolled), design.units);
  for (const Frame& f : design.frames)
    root["frames"][f.name] = to_json(entries(design, f), design.units);
  for (const Reducer& r : design.reducers)
    root["reducers"][r.name] = to_json(entries(design, r), design.units);
  if (design.process.given) root["process"] = process_json(design);
  root["placing"] = Json::object();
  for (const Gear& g : design.gears) {
    const Group& group = design.groups[g.group];
    const Vec3 at = (group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), g.height)) / mm_per(design.units),
               axis = group.axes.col(2);
    Json place{{"center", {at.x(), at.y(), at.z()}}, {"axis", {axis.x(), axis.y(), axis.z()}}};
    if (g.teeth.is_rack()) {
      place["facing_deg"] = (g.facing + kPi / 2) * 180 / kPi;
      place["moved"] = g.phase / mm_per(design.units);
      if (g.speed_ratio) place["travel_per_turn"] = -*g.speed_ratio * 2 * kPi / mm_per(design.units);
    } else {
      place["phase_deg"] = g.phase * 180 / kPi;
      if (g.speed_ratio) place["ratio"] = *g.speed_ratio;
    }
    root["placing"][g.name] = place;
  }
  root["findings"] = Json::array();
  for (const Finding& f : findings(design)) {
    Json finding;
    finding["id"] = f.kind().text_id;
    finding["severity"] = name(f.kind().severity);
    finding["subject"] = f.subject;
    finding["message"] = message(f, design.units);
    finding["value"] = f.value ? number(*f.value, f.kind().quantity, design.units) : Json(nullptr);
    finding["limit"] = f.limit ? number(*f.limit, f.kind().quantity, design.units) : Json(nullptr);
    root["findings"].push_back(finding);
  }
  return root.dump(2) + "\n";
}

namespace {

std::string standing(const Design& design, const Gear& g) {
  const Group& group = design.groups[g.group];
  const Vec3 at = group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), g.height);
  const auto length = [&](double v) { return shown(std::abs(v) < 1e-12 ? 0.0 : v, Quantity::length, design.units); };
  std::string text = fmt::format("x {}  y {}  z {}", length(at.x()), length(at.y()), length(at.z()));
  if (const Vec3 axis = group.axes.col(2); (axis - Vec3::UnitZ()).norm() > 1e-12) {
    text += fmt::format("  axis along ({:.6f}, {:.6f}, {:.6f})", axis.x(), axis.y(), axis.z());
  }
  if (g.teeth.is_rack()) {
    text += fmt::format("  teeth face {}  moved {}", shown(g.facing + kPi / 2, Quantity::angle, design.units),
                        length(g.phase));
  } else {
    text += fmt::format("  turned {}", shown(g.phase, Quantity::angle, design.units));
  }
  if (g.speed_ratio) {
    text += g.teeth.is_rack() ? fmt::format("  moves {} per turn", length(-*g.speed_ratio * 2 * kPi))
                              : fmt::format("  ratio {:+.8g}", *g.speed_ratio);
  }
  return text;
}

}  // namespace

std::string report_text(const Design& design, bool colour) {
  const auto heading = [&](const std::string& words) {
    return colour ? fmt::format("\n\033[1m{}\033[0m\n", words) : "\n" + words + "\n";
  };
  std::string text = fmt::format("{}   (lengths in {}, modules in mm{})\n",
                                 design.title.empty() ? "A job without title" : design.title, symbol(design.units),
                                 design.as == As::made ? "; teeth and bores as they come out of the making" : "");
  for (const Gear& g : design.gears)
    text += heading("gear " + g.name) + table_text(entries(design, g), design.units);
  for (const Pair& p : design.pairs)
    text += heading("pair " + p.name) + table_text(entries(design, p, true), design.units);
  for (const Frame& f : design.frames)
    text += heading("frame " + f.name) + table_text(entries(design, f), design.units);
  for (const Reducer& r : design.reducers)
    text += heading("reducer " + r.name) + table_text(entries(design, r), design.units);
  if (design.process.given)
    text +=
        heading("process" + (design.process.preset.empty() ? "" : " " + design.process.preset)) + process_text(design);
  if (!design.pairs.empty()) {
    text += heading("where everything stands, to repeat the motion elsewhere");
    text +=
        "  Axes at the mounted distances, seen from +z; angles counter-clockwise; the turn is that of a tooth (a ring: "
        "a space)\n"
        "  from the gear's own +x, at mid-face, at the start. Ratio: turns per turn of the first driver, + the same "
        "sense.\n";
    for (const Gear& g : design.gears)
      text += row(g.name, "", standing(design, g));
  }
  text += heading("findings");
  const std::vector<Finding> found = findings(design);
  if (found.empty()) text += "  none\n";
  for (const Finding& f : found) {
    const std::string_view severity = name(f.kind().severity);
    text += fmt::format("  {} {} ({})\n      {}\n", painted(severity, severity, colour), f.subject, f.kind().text_id,
                        message(f, design.units));
  }
  return text;
}

std::string report_value(const Design& design, const std::string& subject, const std::string& key) {
  const auto value = entry_of(design, subject + "." + key);
  if (!value || value->numbers.empty()) return "";
  return shown(value->numbers.front(), value->key->quantity, design.units, true);
}

}  // namespace palio::job
