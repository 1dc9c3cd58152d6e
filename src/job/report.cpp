#include "palio/job/report.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/body/layered.hpp"
#include "palio/version.hpp"
#include "values.hpp"

namespace palio::job {
namespace {

const std::vector<ReportKey>& report_keys() {
  using Q = Quantity;
  static const std::vector<ReportKey> all{
      {"kind", "kind", "", Q::number},
      {"teeth", "teeth", "z", Q::count},
      {"normal_module", "normal module", "m_n", Q::module_size},
      {"transverse_module", "transverse module", "m_t", Q::module_size},
      {"diametral_pitch", "diametral pitch", "P", Q::per_inch},
      {"normal_pressure_angle_deg", "normal pressure angle", "α_n", Q::angle},
      {"transverse_pressure_angle_deg", "transverse pressure angle", "α_t", Q::angle},
      {"helix_angle_deg", "helix angle", "β", Q::angle},
      {"base_helix_angle_deg", "base helix angle", "β_b", Q::angle},
      {"lead", "lead", "p_z", Q::length},
      {"profile_shift", "profile shift (modules)", "x", Q::number},
      {"generating_profile_shift", "generating profile shift (modules)", "x_E", Q::number},
      {"thickness_allowance", "thickness allowance", "E_sn", Q::length},
      {"reference_diameter", "reference circle", "d", Q::circle},
      {"base_diameter", "base circle", "d_b", Q::circle},
      {"tip_diameter", "tip circle", "d_a", Q::circle},
      {"root_diameter", "root circle", "d_f", Q::circle},
      {"root_form_diameter", "root form circle", "d_Ff", Q::circle},
      {"tip_form_diameter", "tip form circle", "d_Fa", Q::circle},
      {"addendum", "addendum", "h_a", Q::length},
      {"dedendum", "dedendum", "h_f", Q::length},
      {"tool_tip_radius", "tool tip radius (modules)", "ρ_fP", Q::number},
      {"transverse_pitch", "transverse pitch", "p_t", Q::length},
      {"angular_pitch_deg", "angular pitch", "τ", Q::angle},
      {"transverse_base_pitch", "transverse base pitch", "p_bt", Q::length},
      {"normal_base_pitch", "normal base pitch", "p_bn", Q::length},
      {"normal_tooth_thickness", "normal tooth thickness", "s_n", Q::length},
      {"transverse_tooth_thickness", "transverse tooth thickness", "s_t", Q::length},
      {"tip_thickness", "tip thickness", "s_an", Q::length},
      {"tooth_depth", "tooth depth", "h", Q::length},
      {"undercut", "undercut", "", Q::number},
      {"min_profile_shift_no_undercut", "least shift without undercut", "x_min", Q::number},
      {"face_width", "face width", "b", Q::length},
      {"bore_diameter", "bore", "", Q::circle},
      {"span", "span", "W_k", Q::length},
      {"over_balls", "over balls", "M_dK", Q::length},
      {"over_pins", "over pins", "M_dR", Q::length},
      {"length", "length", "", Q::length},
      {"contact_diameter", "touching at", "", Q::circle},
      {"pin_diameter", "ball or pin", "D_M", Q::length},
      {"chordal_thickness", "chordal thickness", "s_c", Q::length},
      {"chordal_height", "chordal height", "h_c", Q::length},
      {"volume", "volume", "V", Q::volume},
      {"center_of_mass", "center of mass", "", Q::length},
      {"driver", "driver", "", Q::number},
      {"driven", "driven", "", Q::number},
      {"gear_ratio", "gear ratio", "u", Q::ratio},
      {"sense", "sense of turning", "", Q::number},
      {"reference_center_distance", "reference center distance", "a_d", Q::length},
      {"center_distance", "center distance", "a", Q::length},
      {"mounted_center_distance", "as mounted", "a_m", Q::length},
      {"shaft_angle_deg", "shaft angle", "Σ", Q::angle},
      {"phase_deg", "turned at start [driver, driven]", "", Q::angle},
      {"working_transverse_pressure_angle_deg", "working pressure angle", "α_wt", Q::angle},
      {"working_pitch_diameters", "working pitch circles [driver, driven]", "d_w", Q::circle},
      {"transverse_contact_ratio", "transverse contact ratio", "ε_α", Q::ratio},
      {"overlap_ratio", "overlap ratio", "ε_β", Q::ratio},
      {"total_contact_ratio", "total contact ratio", "ε_γ", Q::ratio},
      {"contact_path_length", "contact path", "g_α", Q::length},
      {"circumferential_backlash", "circumferential backlash", "j_wt", Q::length},
      {"normal_backlash", "normal backlash", "j_bn", Q::length},
      {"angular_backlash_deg", "angular backlash [driver, driven]", "j_φ", Q::angle},
      {"tip_clearance", "tip clearance [driver's tip, driven's tip]", "c", Q::length},
      {"specific_sliding", "specific sliding", "ζ", Q::number},
      {"driver_at_start_and_end", "of the driver [start, end of contact]", "ζ₁", Q::number},
      {"driven_at_start_and_end", "of the driven [start, end of contact]", "ζ₂", Q::number},
  };
  return all;
}

Entry one(std::string_view key, double value) { return {&report_key(key), {value}, false, "", {}, false, false, false}; }
Entry many(std::string_view key, std::vector<double> values) { return {&report_key(key), std::move(values), true, "", {}, false, false, false}; }
Entry words(std::string_view key, std::string text) { return {&report_key(key), {}, false, std::move(text), {}, false, false, false}; }
Entry flag(std::string_view key, bool value) { return {&report_key(key), {}, false, "", {}, value, true, false}; }
Entry group(std::string_view key, std::vector<Entry> children) { return {&report_key(key), {}, false, "", std::move(children), false, false, false}; }

double scale(Quantity quantity, Units units) {
  const double unit = mm_per(units);
  switch (quantity) {
    case Quantity::length:
    case Quantity::circle: return 1 / unit;
    case Quantity::area: return 1 / (unit * unit);
    case Quantity::volume: return 1 / (unit * unit * unit);
    case Quantity::angle: return 180 / kPi;
    default: return 1;
  }
}

}  // namespace

const ReportKey& report_key(std::string_view key) {
  for (const ReportKey& k : report_keys()) {
    if (k.key == key) return k;
  }
  throw std::logic_error("undeclared report key " + std::string(key));
}

std::string shown(double value, Quantity quantity, Units units, bool short_form) {
  if (!std::isfinite(value)) return std::isnan(value) ? "none" : value < 0 ? "-∞" : "∞";
  const std::string_view u = symbol(units);
  const double v = value * scale(quantity, units);
  const int places = units == Units::inch ? 5 : 4;
  switch (quantity) {
    case Quantity::length: return fmt::format("{:.{}f} {}", v, places, u);
    case Quantity::circle:
      return short_form ? fmt::format("⌀{:.{}f} {}", v, places, u) : fmt::format("⌀ {:.{}f} {}  (r {:.{}f} {})", v, places, u, v / 2, places, u);
    case Quantity::module_size: return fmt::format("{:.6g} mm", value);
    case Quantity::per_inch: return fmt::format("{:.6g} /in", value);
    case Quantity::angle: return fmt::format("{:.4f}°", v);
    case Quantity::area: return fmt::format("{:.3f} {}²", v, u);
    case Quantity::volume: return fmt::format("{:.3f} {}³", v, u);
    case Quantity::count: return fmt::format("{:.0f}", value);
    case Quantity::ratio:
    case Quantity::number: return fmt::format("{:.5g}", value);
  }
  return "";
}

Json number(double value, Quantity quantity, Units units) {
  if (!std::isfinite(value)) return nullptr;
  if (quantity == Quantity::count) return static_cast<long>(value);
  const double v = quantity == Quantity::angle ? Angle::radians(value).degrees() : units == Units::mm ? value : value * scale(quantity, units);
  return v;
}

Json to_json(const Entry& e, Units units) {
  if (e.is_flag) return e.flag;
  if (!e.text.empty()) return e.text;
  if (e.rows) {
    Json rows = Json::array();
    for (const Entry& child : e.children) rows.push_back(to_json(child, units));
    return rows;
  }
  if (!e.children.empty()) return to_json(e.children, units);
  if (!e.list) return number(e.numbers.front(), e.key->quantity, units);
  Json all = Json::array();
  for (const double n : e.numbers) all.push_back(number(n, e.key->quantity, units));
  return all;
}

Json to_json(const std::vector<Entry>& entries, Units units) {
  Json object = Json::object();
  for (const Entry& e : entries) object[std::string(e.key->key)] = to_json(e, units);
  return object;
}

namespace {

/// Columns a terminal takes for UTF-8 text without wide characters.
std::size_t columns(std::string_view text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}

std::string padded(std::string_view text, std::size_t width) { return std::string(text) + std::string(width > columns(text) ? width - columns(text) : 0, ' '); }

std::string row(std::string_view label, std::string_view sign, std::string_view value) {
  return fmt::format("  {} {} {}\n", padded(label, 44), padded(sign, 5), value);
}

}  // namespace

std::string table_text(const std::vector<Entry>& entries, Units units) {
  std::string text;
  for (const Entry& e : entries) {
    if (!e.children.empty()) {
      std::string inner;
      if (e.rows) {
        for (const Entry& child : e.children) text += table_text({child}, units);
        continue;
      }
      for (const Entry& child : e.children) {
        if (!inner.empty()) inner += ", ";
        const bool plain = child.key->key == "length";
        inner += (plain ? "" : fmt::format("{} ", child.key->label)) + shown(child.numbers.front(), child.key->quantity, units, true);
      }
      text += row(e.key->label, e.key->symbol, inner);
      continue;
    }
    std::string value = e.is_flag ? (e.flag ? "yes" : "no") : e.text;
    for (std::size_t i = 0; i < e.numbers.size(); ++i) {
      value += (i > 0 ? "   " : "") + shown(e.numbers[i], e.key->quantity, units);
    }
    text += row(e.key->label, e.key->symbol, value);
  }
  return text;
}

std::vector<Entry> entries(const Design&, const Gear& g) {
  const auto& s = g.teeth.sizes();
  const auto& spec = g.teeth.spec();
  const double alpha_t = s.transverse_pressure_angle.radians(), beta = spec.helix_angle.radians();
  const gear::Span span = g.teeth.span(g.span_teeth);
  const gear::OverBalls balls = g.teeth.over_balls(g.pin_diameter);
  const gear::ChordalTooth chordal = g.teeth.chordal();
  const body::MassProperties mass = body::mass_properties(body::body(g.teeth));
  const double p_t = kPi * s.transverse_module, p_bt = p_t * std::cos(alpha_t);
  std::vector<Entry> all{
      words("kind", g.kind),
      one("teeth", spec.teeth),
      one("normal_module", spec.module),
      one("transverse_module", s.transverse_module),
      one("diametral_pitch", 25.4 / spec.module),
      one("normal_pressure_angle_deg", spec.pressure_angle.radians()),
      one("transverse_pressure_angle_deg", alpha_t),
      one("helix_angle_deg", beta),
      one("base_helix_angle_deg", s.base_helix_angle.radians()),
      one("lead", beta == 0 ? std::numeric_limits<double>::infinity() : kPi * s.reference_diameter / std::tan(beta)),
      one("profile_shift", spec.profile_shift),
      one("generating_profile_shift", s.generating_profile_shift),
      one("thickness_allowance", spec.thickness_allowance),
      one("reference_diameter", s.reference_diameter),
      one("base_diameter", s.base_diameter),
      one("tip_diameter", s.tip_diameter),
      one("root_diameter", s.root_diameter),
      one("root_form_diameter", s.root_form_diameter),
      one("tip_form_diameter", s.tip_form_diameter),
      one("addendum", (s.tip_diameter - s.reference_diameter) / 2),
      one("dedendum", (s.reference_diameter - s.root_diameter) / 2),
      one("tool_tip_radius", s.tool_tip_radius),
      one("transverse_pitch", p_t),
      one("angular_pitch_deg", 2 * kPi / spec.teeth),
      one("transverse_base_pitch", p_bt),
      one("normal_base_pitch", p_bt * std::cos(s.base_helix_angle.radians())),
      one("normal_tooth_thickness", s.normal_tooth_thickness),
      one("transverse_tooth_thickness", s.transverse_tooth_thickness),
      one("tip_thickness", s.tip_thickness),
      one("tooth_depth", (s.tip_diameter - s.root_diameter) / 2),
      flag("undercut", s.undercut),
      one("min_profile_shift_no_undercut", s.min_profile_shift_no_undercut),
      one("face_width", spec.face_width),
  };
  if (spec.bore_diameter > 0) all.push_back(one("bore_diameter", spec.bore_diameter));
  all.push_back(group("span", {Entry{&report_key("teeth"), {static_cast<double>(span.teeth)}, false, "", {}, false, false, false}, one("length", span.length),
                               one("contact_diameter", span.contact_diameter)}));
  all.push_back(group("over_balls", {one("pin_diameter", balls.pin_diameter), one("length", balls.length)}));
  all.push_back(group("over_pins", {one("pin_diameter", balls.pin_diameter), one("length", balls.length)}));
  all.push_back(one("chordal_thickness", chordal.thickness));
  all.push_back(one("chordal_height", chordal.height));
  all.push_back(one("volume", mass.volume));
  all.push_back(many("center_of_mass", {mass.center.x(), mass.center.y(), mass.center.z()}));
  return all;
}

std::vector<Entry> entries(const Design& design, const Pair& p) {
  const Gear &g1 = design.gears[p.driver], &g2 = design.gears[p.driven];
  std::vector<Entry> all{
      words("driver", g1.name),
      words("driven", g2.name),
      one("gear_ratio", static_cast<double>(g2.teeth.spec().teeth) / g1.teeth.spec().teeth),
      words("sense", "opposite"),
      one("reference_center_distance", p.reference_center_distance),
      one("center_distance", p.center_distance),
  };
  if (p.mounted_center_distance != p.center_distance) all.push_back(one("mounted_center_distance", p.mounted_center_distance));
  all.push_back(one("shaft_angle_deg", 0));
  all.push_back(many("phase_deg", {g1.phase, g2.phase}));
  if (!p.running) return all;
  const pair::ParallelPair& r = *p.running;
  const auto list = [](const std::array<double, 2>& a) { return std::vector<double>{a[0], a[1]}; };
  const auto sliding = r.specific_sliding();
  Entry rows = group("specific_sliding", {many("driver_at_start_and_end", list(sliding[0])), many("driven_at_start_and_end", list(sliding[1]))});
  rows.rows = true;
  for (const Entry& e :
       {one("working_transverse_pressure_angle_deg", r.working_pressure_angle().radians()), many("working_pitch_diameters", list(r.working_pitch_diameters())),
        one("transverse_contact_ratio", r.transverse_contact_ratio()), one("overlap_ratio", r.overlap_ratio()),
        one("total_contact_ratio", r.transverse_contact_ratio() + r.overlap_ratio()), one("contact_path_length", r.contact_path_length()),
        one("circumferential_backlash", r.circumferential_backlash()), one("normal_backlash", r.normal_backlash()),
        many("angular_backlash_deg", list(r.angular_backlash())), many("tip_clearance", list(r.tip_clearance())), rows}) {
    all.push_back(e);
  }
  return all;
}

std::string message(const Finding& f, Units units) {
  const FindingKind& kind = f.kind();
  std::string text = std::string(kind.cause) + ": " + std::string(kind.remedy);
  const auto put = [&](std::string_view mark, const std::optional<double>& value) {
    const auto at = text.find(mark);
    if (at != std::string::npos) text.replace(at, mark.size(), value ? shown(*value, kind.quantity, units, true) : "none");
  };
  put("{value}", f.value);
  put("{limit}", f.limit);
  put("{limit}", f.limit);
  return text;
}

std::string painted(std::string_view word, std::string_view verdict, bool colour) {
  if (!colour) return std::string(word);
  const int code = verdict == "error" || verdict == "jams" ? 31 : verdict == "warning" || verdict == "loses_contact" ? 33 : verdict == "meshes" ? 32 : 36;
  return fmt::format("\033[{};1m{}\033[0m", code, word);
}

std::string report_json(const Design& design) {
  Json root;
  root["palio"] = kVersion;
  root["title"] = design.title;
  root["units"] = symbol(design.units);
  root["gears"] = Json::object();
  for (const Gear& g : design.gears) {
    Json gear = to_json(entries(design, g), design.units);
    // The angle was given in degrees: echo that number, not its way through radians.
    gear["normal_pressure_angle_deg"] = g.pressure_angle_deg;
    if (g.teeth.spec().helix_angle.radians() == 0) gear["transverse_pressure_angle_deg"] = g.pressure_angle_deg;
    root["gears"][g.name] = gear;
  }
  for (const char* kind : {"pairs", "reducers", "planetaries", "trains"}) root[kind] = Json::object();
  for (const Pair& p : design.pairs) root["pairs"][p.name] = to_json(entries(design, p), design.units);
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

std::string report_text(const Design& design, bool colour) {
  const auto heading = [&](const std::string& words) { return colour ? fmt::format("\n\033[1m{}\033[0m\n", words) : "\n" + words + "\n"; };
  std::string text = fmt::format("{}   (lengths in {}, modules in mm)\n", design.title.empty() ? "A job without title" : design.title, symbol(design.units));
  for (const Gear& g : design.gears) text += heading("gear " + g.name) + table_text(entries(design, g), design.units);
  for (const Pair& p : design.pairs) text += heading("pair " + p.name) + table_text(entries(design, p), design.units);
  if (!design.pairs.empty()) {
    text += heading("where everything stands (axes at the mounted distance; turned so at the start)");
    for (const Gear& g : design.gears) {
      text += row(g.name, "",
                  fmt::format("x {}   y {}   turned {}", shown(g.axis.x(), Quantity::length, design.units), shown(g.axis.y(), Quantity::length, design.units),
                              shown(g.phase, Quantity::angle, design.units)));
    }
  }
  text += heading("findings");
  const std::vector<Finding> found = findings(design);
  if (found.empty()) text += "  none\n";
  for (const Finding& f : found) {
    const std::string_view severity = name(f.kind().severity);
    text += fmt::format("  {} {} ({})\n      {}\n", painted(severity, severity, colour), f.subject, f.kind().text_id, message(f, design.units));
  }
  return text;
}

std::string report_value(const Design& design, const std::string& subject, const std::string& key) {
  const auto find = [&](const std::vector<Entry>& list) -> std::string {
    for (const Entry& e : list) {
      if (e.key->key == key && !e.numbers.empty()) return shown(e.numbers.front(), e.key->quantity, design.units, true);
    }
    return "";
  };
  for (const Gear& g : design.gears) {
    if (subject == "gear." + g.name) return find(entries(design, g));
  }
  for (const Pair& p : design.pairs) {
    if (subject == "pair." + p.name) return find(entries(design, p));
  }
  return "";
}

}  // namespace palio::job
