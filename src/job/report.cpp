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
      {"hand", "hand", "", Q::number},
      {"apex", "apex", "", Q::number},
      {"gap", "gap between the halves", "", Q::length},
      {"system", "given in the section", "", Q::number},
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
      {"between_balls", "between balls", "M_dK", Q::length},
      {"between_pins", "between pins", "M_dR", Q::length},
      {"cutter", "pinion cutter", "", Q::number},
      {"tip_corner_radius", "corner radius", "ρ₀", Q::length},
      {"outer_diameter", "outer circle", "", Q::circle},
      {"tip_height", "tips above the reference line", "", Q::length},
      {"root_height", "roots above the reference line", "", Q::length},
      {"root_form_height", "flanks begin above the reference line", "", Q::length},
      {"base_height", "back below the reference line", "", Q::length},
      {"tip_chamfer", "tip chamfer", "", Q::length},
      {"tip_round", "tip round", "", Q::length},
      {"length", "length", "", Q::length},
      {"contact_diameter", "touching at", "", Q::circle},
      {"pin_diameter", "ball or pin", "D_M", Q::length},
      {"chordal_thickness", "chordal thickness", "s_c", Q::length},
      {"chordal_height", "chordal height", "h_c", Q::length},
      {"volume", "volume", "V", Q::volume},
      {"bore_expected_diameter", "bore to expect", "", Q::circle},
      {"bore_drawn_diameter", "bore to draw", "", Q::circle},
      {"grip", "grip of the bore", "", Q::number},
      {"keyway", "keyway", "", Q::length},
      {"width", "width", "", Q::length},
      {"height", "height", "", Q::length},
      {"sector_teeth", "teeth kept", "", Q::count},
      {"material", "material", "", Q::number},
      {"density", "density (kg/m³)", "ρ", Q::number},
      {"mass_kg", "mass", "m", Q::mass},
      {"inertia_about_axis", "moment of inertia about the axis", "J", Q::inertia},
      {"part_name", "part", "", Q::number},
      {"part_number", "part number", "", Q::number},
      {"thickness", "thickness", "", Q::length},
      {"height_range", "from, to (along the axis)", "z", Q::length},
      {"axes", "axes", "", Q::number},
      {"gear", "gear", "", Q::number},
      {"at", "at x, y", "", Q::length},
      {"bore", "bore", "", Q::circle},
      {"post_height", "post", "", Q::length},
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
      {"made_circumferential_backlash", "circumferential backlash as made", "", Q::length},
      {"angular_backlash_deg", "angular backlash [driver, driven]", "j_φ", Q::angle},
      {"tip_clearance", "tip clearance [driver's tip, driven's tip]", "c", Q::length},
      {"specific_sliding", "specific sliding", "ζ", Q::number},
      {"contact_ratio", "contact ratio, cut by the faces", "ε", Q::ratio},
      {"face_width_needed", "face needed for the contact's travel [driver, driven]", "", Q::length},
      {"sliding_ratio", "sliding speed per pitch speed of the driver", "", Q::ratio},
      {"sliding_speed_m_per_s", "sliding speed (m/s)", "v_g", Q::number},
      {"friction", "friction", "μ", Q::number},
      {"efficiency", "efficiency", "η", Q::number},
      {"efficiency_backwards", "efficiency driven backwards", "η'", Q::number},
      {"back_drivable", "can be driven backwards", "", Q::number},
      {"axial_offset", "axial offset of the driven", "", Q::length},
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
    case Quantity::inertia:
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
    case Quantity::mass: return fmt::format("{:.6g} kg", value);
    case Quantity::inertia: return fmt::format("{:.6g} kg·{}²", v, u);
    case Quantity::count: return fmt::format("{:.0f}", value);
    case Quantity::hand: return value > 0 ? "right" : "left";
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
        const bool plain = child.key->key == "length" || !child.text.empty();
        std::string value = child.text;
        for (const double n : child.numbers) value += (value.empty() ? "" : ", ") + shown(n, child.key->quantity, units, true);
        inner += (plain ? "" : fmt::format("{} ", child.key->label)) + value;
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

namespace {

/// Coefficients are told in the modules they were given in.
double in_given_modules(const Gear& g, double coefficient) {
  return g.transverse_system ? coefficient * std::cos(g.teeth.spec().helix_angle.radians()) : coefficient;
}

/// What racks and gears share.
void common(const Gear& g, std::vector<Entry>& all) {
  const auto& spec = g.teeth.spec();
  const double alpha_t = g.teeth.transverse_pressure_angle().radians(), beta = std::abs(spec.helix_angle.radians());
  all.push_back(words("kind", g.kind));
  all.push_back(one("teeth", spec.teeth));
  all.push_back(one("normal_module", spec.module));
  all.push_back(one("transverse_module", g.teeth.transverse_module()));
  all.push_back(one("diametral_pitch", 25.4 / (g.transverse_system ? g.teeth.transverse_module() : spec.module)));
  all.push_back(one("normal_pressure_angle_deg", spec.pressure_angle.radians()));
  all.push_back(one("transverse_pressure_angle_deg", alpha_t));
  all.push_back(one("helix_angle_deg", beta));
  all.push_back(one("base_helix_angle_deg", std::abs(g.teeth.base_helix_angle().radians())));
  if (g.transverse_system) all.push_back(words("system", "transverse"));
  if (spec.double_helical) {
    all.push_back(words("apex", spec.helix_angle.radians() > 0 ? "counter-clockwise" : "clockwise"));
    all.push_back(one("gap", spec.gap));
  } else if (beta > 0) {
    all.push_back(words("hand", spec.helix_angle.radians() > 0 ? "right" : "left"));
  }
  if (!g.teeth.is_rack()) all.push_back(one("lead", g.teeth.gear().lead()));
  all.push_back(one("profile_shift", in_given_modules(g, spec.profile_shift)));
  all.push_back(one("generating_profile_shift", in_given_modules(g, g.teeth.generating_profile_shift())));
  all.push_back(one("thickness_allowance", spec.thickness_allowance));
}

void pitches(const Gear& g, std::vector<Entry>& all) {
  const double p_t = kPi * g.teeth.transverse_module(), p_bt = p_t * std::cos(g.teeth.transverse_pressure_angle().radians());
  all.push_back(one("transverse_pitch", p_t));
  if (!g.teeth.is_rack()) all.push_back(one("angular_pitch_deg", 2 * kPi / g.teeth.spec().teeth));
  all.push_back(one("transverse_base_pitch", p_bt));
  all.push_back(one("normal_base_pitch", p_bt * std::cos(g.teeth.base_helix_angle().radians())));
}

void mass(const body::Body& body, const std::optional<Material>& material, std::vector<Entry>& all) {
  const body::MassProperties m = body::mass_properties(body);
  all.push_back(many("height_range", {body.bottom(), body.top()}));
  all.push_back(one("volume", m.volume));
  all.push_back(many("center_of_mass", {m.center.x(), m.center.y(), m.center.z()}));
  if (!material) return;
  const double density = material->density * 1e-9;  // kg/mm³
  all.push_back(words("material", material->name));
  all.push_back(one("density", material->density));
  all.push_back(one("mass_kg", m.volume * density));
  if (!body.slides) all.push_back(one("inertia_about_axis", m.polar_moment * density));
}

/// Bore and what is known of the part besides its teeth.
void part(const Design& design, const Gear& g, std::vector<Entry>& all) {
  const body::Features& f = g.features;
  if (const double bore = g.teeth.spec().bore_diameter; bore > 0 && design.as == As::nominal) {
    all.push_back(one("bore_diameter", g.bore_given));
    const Process::Change drawn = design.process.change(As::drawn);
    if (!g.grip.empty()) all.push_back(words("grip", g.grip));
    if (g.bore_play != 0 || design.process.given) {
      all.push_back(one("bore_expected_diameter", bore));
      all.push_back(one("bore_drawn_diameter", bore + (drawn.holes ? drawn.hole_sign * design.process.hole_smaller_by(bore) : 0) - 2 * drawn.walls));
    }
  } else if (bore > 0) {
    all.push_back(one("bore_diameter", bore));
  }
  if (f.keyway) all.push_back(group("keyway", {one("width", f.keyway->width), one("height", f.keyway->height)}));
  if (f.sector_teeth > 0) all.push_back(one("sector_teeth", f.sector_teeth));
  if (!g.part_name.empty()) all.push_back(words("part_name", g.part_name));
  if (!g.part_number.empty()) all.push_back(words("part_number", g.part_number));
  mass(body(g), g.material, all);
}

std::vector<Entry> rack_entries(const Design& design, const Gear& g) {
  const auto& s = g.teeth.rack().sizes();
  const auto& spec = g.teeth.spec();
  std::vector<Entry> all;
  common(g, all);
  for (const Entry& e : {one("addendum", s.tip_height), one("dedendum", -s.root_height), one("tip_height", s.tip_height), one("root_height", s.root_height),
                         one("root_form_height", s.root_form_height), one("tool_tip_radius", in_given_modules(g, s.tool_tip_radius))}) {
    all.push_back(e);
  }
  pitches(g, all);
  for (const Entry& e : {one("normal_tooth_thickness", s.normal_tooth_thickness), one("transverse_tooth_thickness", s.transverse_tooth_thickness),
                         one("tip_thickness", s.tip_thickness), one("tooth_depth", s.tip_height - s.root_height), flag("undercut", false),
                         one("face_width", spec.face_width), one("length", s.length), one("base_height", s.base_height)}) {
    all.push_back(e);
  }
  if (spec.tip_chamfer > 0) all.push_back(one("tip_chamfer", spec.tip_chamfer));
  if (spec.tip_round > 0) all.push_back(one("tip_round", spec.tip_round));
  part(design, g, all);
  return all;
}

void inspection(const Gear& g, std::vector<Entry>& all) {
  const gear::CylindricalGear& teeth = g.teeth.gear();
  if (!teeth.internal()) {
    const gear::Span span = teeth.span(g.span_teeth);
    all.push_back(group("span", {one("teeth", span.teeth), one("length", span.length), one("contact_diameter", span.contact_diameter)}));
  }
  const gear::OverBalls balls = teeth.over_balls(g.pin_diameter);
  all.push_back(group(teeth.internal() ? "between_balls" : "over_balls", {one("pin_diameter", balls.pin_diameter), one("length", balls.length)}));
  if (const auto pins = teeth.over_pins(g.pin_diameter)) {
    all.push_back(group(teeth.internal() ? "between_pins" : "over_pins", {one("pin_diameter", pins->pin_diameter), one("length", pins->length)}));
  }
  const gear::ChordalTooth chordal = teeth.chordal();
  all.push_back(one("chordal_thickness", chordal.thickness));
  all.push_back(one("chordal_height", chordal.height));
}

}  // namespace

std::vector<Entry> entries(const Design& design, const Gear& g) {
  if (g.teeth.is_rack()) return rack_entries(design, g);
  const auto& s = g.teeth.gear().sizes();
  const auto& spec = g.teeth.spec();
  const double sign = g.teeth.internal() ? -1 : 1;
  std::vector<Entry> all;
  common(g, all);
  for (const Entry& e :
       {one("reference_diameter", s.reference_diameter), one("base_diameter", s.base_diameter), one("tip_diameter", s.tip_diameter),
        one("root_diameter", s.root_diameter), one("root_form_diameter", s.root_form_diameter), one("tip_form_diameter", s.tip_form_diameter),
        one("addendum", sign * (s.tip_diameter - s.reference_diameter) / 2), one("dedendum", sign * (s.reference_diameter - s.root_diameter) / 2)}) {
    all.push_back(e);
  }
  if (!g.teeth.internal()) all.push_back(one("tool_tip_radius", in_given_modules(g, s.tool_tip_radius)));
  pitches(g, all);
  for (const Entry& e :
       {one("normal_tooth_thickness", s.normal_tooth_thickness), one("transverse_tooth_thickness", s.transverse_tooth_thickness),
        one("tip_thickness", s.tip_thickness), one("tooth_depth", sign * (s.tip_diameter - s.root_diameter) / 2), flag("undercut", s.undercut)}) {
    all.push_back(e);
  }
  if (!g.teeth.internal()) all.push_back(one("min_profile_shift_no_undercut", in_given_modules(g, s.min_profile_shift_no_undercut)));
  all.push_back(one("face_width", spec.face_width));
  if (spec.tip_chamfer > 0) all.push_back(one("tip_chamfer", spec.tip_chamfer));
  if (spec.tip_round > 0) all.push_back(one("tip_round", spec.tip_round));
  if (g.teeth.internal()) all.push_back(one("outer_diameter", s.outer_diameter));
  if (s.cutter) {
    all.push_back(group("cutter", {one("teeth", s.cutter->teeth), one("profile_shift", in_given_modules(g, s.cutter->profile_shift)),
                                   one("tip_diameter", s.cutter->tip_diameter), one("tip_corner_radius", s.cutter->tip_corner_radius)}));
  }
  inspection(g, all);
  part(design, g, all);
  return all;
}

namespace {

std::vector<double> list(const std::array<double, 2>& a) { return {a[0], a[1]}; }

void running(const pair::ParallelPair& r, std::vector<Entry>& all) {
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
}

void crossed(const Pair& p, double driver_diameter, std::vector<Entry>& all) {
  const pair::CrossedPair& c = *p.crossed;
  for (const Entry& e :
       {one("contact_ratio", c.contact_ratio()), one("contact_path_length", c.contact_path_length()), many("face_width_needed", list(c.face_needed())),
        one("circumferential_backlash", c.circumferential_backlash()), one("normal_backlash", c.normal_backlash()),
        many("angular_backlash_deg", list(c.angular_backlash())), many("tip_clearance", list(c.tip_clearance())), one("sliding_ratio", c.sliding_ratio())}) {
    all.push_back(e);
  }
  if (p.speed) all.push_back(one("sliding_speed_m_per_s", c.sliding_ratio() * *p.speed / 60 * kPi * driver_diameter / 1000));
  if (!p.friction) return;
  all.push_back(one("friction", *p.friction));
  all.push_back(one("efficiency", c.efficiency(*p.friction, false)));
  all.push_back(one("efficiency_backwards", c.efficiency(*p.friction, true)));
  all.push_back(flag("back_drivable", c.efficiency(*p.friction, true) > 0));
}

}  // namespace

namespace {

/// What the making leaves of the play, where it changes teeth and the files do not make up for it.
std::optional<double> play_as_made(const Design& design, const Pair& p) {
  const Process::Change c = design.process.change(As::made);
  if (design.as != As::nominal || !p.meshes() || (c.teeth == 0 && c.radial == 1)) return std::nullopt;
  try {
    const Design made = as(design, As::made);
    const Pair& q = made.pairs[static_cast<std::size_t>(&p - design.pairs.data())];
    if (q.crossed) return q.crossed->circumferential_backlash();
    return q.running ? std::optional(q.running->circumferential_backlash()) : std::nullopt;
  } catch (const InvalidParameter&) {
    return std::nullopt;  // told by --as made
  }
}

}  // namespace

std::vector<Entry> entries(const Design& design, const Pair& p) {
  const Gear &g1 = design.gears[p.driver], &g2 = design.gears[p.driven];
  std::vector<Entry> all{
      words("driver", g1.name),
      words("driven", g2.name),
      one("gear_ratio", static_cast<double>(g2.teeth.spec().teeth) / g1.teeth.spec().teeth),
      words("sense", g1.teeth.internal() || g2.teeth.internal() ? "same" : "opposite"),
      one("reference_center_distance", p.reference_center_distance),
      one("center_distance", p.center_distance),
  };
  if (p.mounted_center_distance != p.center_distance) all.push_back(one("mounted_center_distance", p.mounted_center_distance));
  if (p.axial_offset != 0) all.push_back(one("axial_offset", p.axial_offset));
  all.push_back(one("shaft_angle_deg", p.shaft_angle));
  // A rack is moved, not turned.
  const auto turned = [](const Gear& g) { return g.teeth.is_rack() ? std::numeric_limits<double>::quiet_NaN() : g.phase; };
  all.push_back(many("phase_deg", {turned(g1), turned(g2)}));
  if (p.running) running(*p.running, all);
  if (const auto play = play_as_made(design, p)) all.push_back(one("made_circumferential_backlash", *play));
  if (p.crossed) crossed(p, g1.teeth.gear().sizes().reference_diameter, all);
  return all;
}

std::vector<Entry> entries(const Design& design, const Frame& f) {
  std::vector<Entry> all{one("thickness", f.plan.thickness)};
  Entry axes = group("axes", {});
  axes.rows = true;
  for (std::size_t i = 0; i < f.plan.axes.size(); ++i) {
    const FramePlan::Axis& a = f.plan.axes[i];
    axes.children.push_back(group(
        "axes", {words("gear", design.gears[f.gears[i]].name), many("at", {a.at.x(), a.at.y()}), one("bore", a.bore), one("post_height", a.post_height)}));
  }
  all.push_back(axes);
  if (!f.part_name.empty()) all.push_back(words("part_name", f.part_name));
  if (!f.part_number.empty()) all.push_back(words("part_number", f.part_number));
  mass(body(f), f.material, all);
  return all;
}

std::string message(const Finding& f, Units units) {
  const FindingKind& kind = f.kind();
  std::string text = std::string(kind.cause) + ": " + std::string(kind.remedy);
  const auto put = [&](std::string_view mark, const std::optional<double>& value) {
    const auto at = text.find(mark);
    if (at != std::string::npos) text.replace(at, mark.size(), value ? shown(*value, kind.quantity, units, true) : "none");
  };
  if (const auto at = text.find("{detail}"); at != std::string::npos) text.replace(at, 8, f.detail);
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
          {"least_wall", p.least_wall, Q::length}};
}

Json process_json(const Design& design) {
  const Process& p = design.process;
  Json j{{"preset", p.preset}};
  Json holes = Json::array();
  for (const auto& [d, a] : p.hole_allowance) holes.push_back({{"diameter", d / mm_per(design.units)}, {"allowance", a / mm_per(design.units)}});
  j["hole_allowance"] = holes;
  for (const ProcessNumber& n : process_numbers(p)) j[n.key] = number(n.value, n.quantity, design.units);
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
  for (const std::string& c : p.corrected) corrected += (corrected.empty() ? "" : ", ") + c;
  return text + row("corrected in the files", "", corrected.empty() ? "nothing" : corrected);
}

}  // namespace

std::string report_json(const Design& design) {
  Json root;
  root["palio"] = kVersion;
  root["title"] = design.title;
  root["units"] = symbol(design.units);
  if (design.as != As::nominal) root["as"] = name(design.as);
  root["gears"] = Json::object();
  for (const Gear& g : design.gears) {
    Json gear = to_json(entries(design, g), design.units);
    // The angle was given in degrees: echo that number, not its way through radians.
    const bool straight = g.teeth.spec().helix_angle.radians() == 0;
    if (!g.transverse_system || straight) gear["normal_pressure_angle_deg"] = g.pressure_angle_deg;
    if (g.transverse_system || straight) gear["transverse_pressure_angle_deg"] = g.pressure_angle_deg;
    gear["helix_angle_deg"] = g.helix_angle_deg;
    root["gears"][g.name] = gear;
  }
  for (const char* kind : {"pairs", "frames", "reducers", "planetaries", "trains"}) root[kind] = Json::object();
  for (const Pair& p : design.pairs) root["pairs"][p.name] = to_json(entries(design, p), design.units);
  for (const Frame& f : design.frames) root["frames"][f.name] = to_json(entries(design, f), design.units);
  if (design.process.given) root["process"] = process_json(design);
  root["placing"] = Json::object();
  for (const Gear& g : design.gears) {
    const Group& group = design.groups[g.group];
    const Vec3 at = (group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), g.height)) / mm_per(design.units), axis = group.axes.col(2);
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
    text += fmt::format("  teeth face {}  moved {}", shown(g.facing + kPi / 2, Quantity::angle, design.units), length(g.phase));
  } else {
    text += fmt::format("  turned {}", shown(g.phase, Quantity::angle, design.units));
  }
  if (g.speed_ratio) {
    text += g.teeth.is_rack() ? fmt::format("  moves {} per turn", length(-*g.speed_ratio * 2 * kPi)) : fmt::format("  ratio {:+.8g}", *g.speed_ratio);
  }
  return text;
}

}  // namespace

std::string report_text(const Design& design, bool colour) {
  const auto heading = [&](const std::string& words) { return colour ? fmt::format("\n\033[1m{}\033[0m\n", words) : "\n" + words + "\n"; };
  std::string text = fmt::format("{}   (lengths in {}, modules in mm{})\n", design.title.empty() ? "A job without title" : design.title, symbol(design.units),
                                 design.as == As::made ? "; teeth and bores as they come out of the making" : "");
  for (const Gear& g : design.gears) text += heading("gear " + g.name) + table_text(entries(design, g), design.units);
  for (const Pair& p : design.pairs) text += heading("pair " + p.name) + table_text(entries(design, p), design.units);
  for (const Frame& f : design.frames) text += heading("frame " + f.name) + table_text(entries(design, f), design.units);
  if (design.process.given) text += heading("process" + (design.process.preset.empty() ? "" : " " + design.process.preset)) + process_text(design);
  if (!design.pairs.empty()) {
    text += heading("where everything stands, to repeat the motion elsewhere");
    text +=
        "  Axes at the mounted distances, seen from +z; angles counter-clockwise; the turn is that of a tooth (a ring: a space)\n"
        "  from the gear's own +x, at mid-face, at the start. Ratio: turns per turn of the first driver, + the same sense.\n";
    for (const Gear& g : design.gears) text += row(g.name, "", standing(design, g));
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
