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

/// Coefficients are told in the modules they were given in.
double in_given_modules(const Gear& g, double coefficient) {
  return g.transverse_system ? coefficient * std::cos(g.teeth.helix_angle().radians()) : coefficient;
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
  const double p_t = kPi * g.teeth.transverse_module(),
               p_bt = p_t * std::cos(g.teeth.transverse_pressure_angle().radians());
  all.push_back(one("transverse_pitch", p_t));
  if (!g.teeth.is_rack()) all.push_back(one("angular_pitch_deg", 2 * kPi / g.teeth.count()));
  all.push_back(one("transverse_base_pitch", p_bt));
  all.push_back(one("normal_base_pitch", p_bt * std::cos(g.teeth.base_helix_angle().radians())));
}

void mass(const body::Solid& body, const std::optional<Material>& material, std::vector<Entry>& all) {
  const body::MassProperties m = body::mass_properties(body);
  all.push_back(many("height_range", {body.bottom(), body.top()}));
  all.push_back(one("volume", m.volume));
  all.push_back(many("center_of_mass", {m.center.x(), m.center.y(), m.center.z()}));
  if (!material) return;
  const double density = material->density * 1e-9;  // kg/mm³
  all.push_back(words("material", material->name));
  all.push_back(one("density", material->density));
  all.push_back(one("mass_kg", m.volume * density));
  if (!body.slides()) all.push_back(one("inertia_about_axis", m.polar_moment * density));
}

}  // namespace

void part(const Design& design, const Gear& g, std::vector<Entry>& all) {
  const body::Features& f = g.features;
  if (const auto turns = speed(design, static_cast<std::size_t>(&g - design.gears.data()))) {
    if (g.teeth.is_rack())
      all.push_back(one("speed_m_per_s", *turns / 60 * 2 * kPi / 1000));
    else
      all.push_back(one("speed", *turns));
  }
  if (const double bore = g.teeth.bore_diameter(); bore > 0 && design.as == As::nominal) {
    all.push_back(one("bore_diameter", g.bore_given));
    const Process::Change drawn = design.process.change(As::drawn);
    if (!g.grip.empty()) all.push_back(words("grip", g.grip));
    if (g.bore_play != 0 || design.process.given) {
      all.push_back(one("bore_expected_diameter", bore));
      all.push_back(one("bore_drawn_diameter", bore + design.process.wider(bore, drawn)));
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

namespace {

std::vector<Entry> rack_entries(const Design& design, const Gear& g) {
  const auto& s = g.teeth.rack().sizes();
  const auto& spec = g.teeth.spec();
  std::vector<Entry> all;
  common(g, all);
  for (const Entry& e :
       {one("addendum", s.tip_height), one("dedendum", -s.root_height), one("tip_height", s.tip_height),
        one("root_height", s.root_height), one("root_form_height", s.root_form_height),
        one("tool_tip_radius", in_given_modules(g, s.tool_tip_radius))}) {
    all.push_back(e);
  }
  pitches(g, all);
  for (const Entry& e :
       {one("normal_tooth_thickness", s.normal_tooth_thickness),
        one("transverse_tooth_thickness", s.transverse_tooth_thickness), one("tip_thickness", s.tip_thickness),
        one("tooth_depth", s.tip_height - s.root_height), flag("undercut", false), one("face_width", spec.face_width),
        one("length", s.length), one("base_height", s.base_height)}) {
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
    all.push_back(group("span", {one("teeth", span.teeth), one("length", span.length),
                                 one("contact_diameter", span.contact_diameter)}));
  }
  const gear::OverBalls balls = teeth.over_balls(g.pin_diameter);
  all.push_back(group(teeth.internal() ? "between_balls" : "over_balls",
                      {one("pin_diameter", balls.pin_diameter), one("length", balls.length)}));
  if (const auto pins = teeth.over_pins(g.pin_diameter)) {
    all.push_back(group(teeth.internal() ? "between_pins" : "over_pins",
                        {one("pin_diameter", pins->pin_diameter), one("length", pins->length)}));
  }
  const gear::ChordalTooth chordal = teeth.chordal();
  all.push_back(one("chordal_thickness", chordal.thickness));
  all.push_back(one("chordal_height", chordal.height));
}

}  // namespace

std::vector<Entry> entries(const Design& design, const Gear& g) {
  if (g.teeth.is_rack()) return rack_entries(design, g);
  if (g.teeth.is_bevel()) return bevel_entries(design, g);
  if (g.teeth.is_cycloidal()) return cycloidal_entries(design, g);
  const auto& s = g.teeth.gear().sizes();
  const auto& spec = g.teeth.spec();
  const double sign = g.teeth.internal() ? -1 : 1;
  std::vector<Entry> all;
  common(g, all);
  for (const Entry& e : {one("reference_diameter", s.reference_diameter), one("base_diameter", s.base_diameter),
                         one("tip_diameter", s.tip_diameter), one("root_diameter", s.root_diameter),
                         one("root_form_diameter", s.root_form_diameter), one("tip_form_diameter", s.tip_form_diameter),
                         one("addendum", sign * (s.tip_diameter - s.reference_diameter) / 2),
                         one("dedendum", sign * (s.reference_diameter - s.root_diameter) / 2)}) {
    all.push_back(e);
  }
  if (!g.teeth.internal()) all.push_back(one("tool_tip_radius", in_given_modules(g, s.tool_tip_radius)));
  pitches(g, all);
  for (const Entry& e :
       {one("normal_tooth_thickness", s.normal_tooth_thickness),
        one("transverse_tooth_thickness", s.transverse_tooth_thickness), one("tip_thickness", s.tip_thickness),
        one("tooth_depth", sign * (s.tip_diameter - s.root_diameter) / 2), flag("undercut", s.undercut)}) {
    all.push_back(e);
  }
  if (!g.teeth.internal())
    all.push_back(one("min_profile_shift_no_undercut", in_given_modules(g, s.min_profile_shift_no_undercut)));
  all.push_back(one("face_width", spec.face_width));
  if (spec.tip_chamfer > 0) all.push_back(one("tip_chamfer", spec.tip_chamfer));
  if (spec.tip_round > 0) all.push_back(one("tip_round", spec.tip_round));
  if (g.teeth.internal()) all.push_back(one("outer_diameter", s.outer_diameter));
  if (s.cutter) {
    all.push_back(
        group("cutter",
              {one("teeth", s.cutter->teeth), one("profile_shift", in_given_modules(g, s.cutter->profile_shift)),
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
  Entry rows = group("specific_sliding", {many("driver_at_start_and_end", list(sliding[0])),
                                          many("driven_at_start_and_end", list(sliding[1]))});
  rows.rows = true;
  for (const Entry& e :
       {one("working_transverse_pressure_angle_deg", r.working_pressure_angle().radians()),
        many("working_pitch_diameters", list(r.working_pitch_diameters())),
        one("transverse_contact_ratio", r.transverse_contact_ratio()), one("overlap_ratio", r.overlap_ratio()),
        one("total_contact_ratio", r.transverse_contact_ratio() + r.overlap_ratio()),
        one("contact_path_length", r.contact_path_length()),
        one("circumferential_backlash", r.circumferential_backlash()), one("normal_backlash", r.normal_backlash()),
        many("angular_backlash_deg", list(r.angular_backlash())), many("tip_clearance", list(r.tip_clearance())),
        rows}) {
    all.push_back(e);
  }
}

void crossed(const Design& design, const Pair& p, double driver_diameter, std::vector<Entry>& all) {
  const pair::CrossedPair& c = *p.crossed;
  for (const Entry& e :
       {one("contact_ratio", c.contact_ratio()), one("contact_path_length", c.contact_path_length()),
        many("face_width_needed", list(c.face_needed())), one("circumferential_backlash", c.circumferential_backlash()),
        one("normal_backlash", c.normal_backlash()), many("angular_backlash_deg", list(c.angular_backlash())),
        many("tip_clearance", list(c.tip_clearance())), one("sliding_ratio", c.sliding_ratio())}) {
    all.push_back(e);
  }
  if (const auto turns = speed(design, p.driver))
    all.push_back(
        one("sliding_speed_m_per_s", c.sliding_ratio() * std::abs(*turns) / 60 * kPi * driver_diameter / 1000));
  if (!p.friction) return;
  all.push_back(one("friction", *p.friction));
  all.push_back(one("efficiency", c.efficiency(*p.friction, false)));
  all.push_back(one("efficiency_backwards", c.efficiency(*p.friction, true)));
  all.push_back(flag("back_drivable", c.efficiency(*p.friction, true) > 0));
}

}  // namespace

namespace {

/// What follows from a speed of the mechanism: of pitch circles, teeth and, where flanks slide along each other, their
/// sliding.
void speeds(const Design& design, const Pair& p, std::vector<Entry>& all) {
  const std::size_t turning = design.gears[p.driver].teeth.is_rack() ? p.driven : p.driver;
  const auto turns = speed(design, turning);
  if (!turns || !p.meshes()) return;
  const double per_second = std::abs(*turns) / 60;
  all.push_back(one("tooth_frequency_hz", per_second * design.gears[turning].teeth.count()));
  if (p.crossed) return;  // no pitch circles that roll; its sliding is told with it
  const double diameter =
      p.bevel ? (turning == p.driver ? p.bevel->driver() : p.bevel->driven()).sizes().heel.pitch_diameter
              : p.working_pitch_diameters()[turning == p.driver ? 0 : 1];
  all.push_back(one("pitch_line_speed_m_per_s", per_second * kPi * diameter / 1000));
  if (!p.running) return;
  // Sliding is greatest where contact is farthest from the pitch point, whose tangent length is r_w sin α_w.
  const pair::ParallelPair& r = *p.running;
  const double T_pitch = diameter / 2 * std::sin(r.working_pressure_angle().radians());
  const bool on_driver = turning == p.driver;
  const auto away = [&](double T) {
    return std::abs((on_driver || r.with_rack() ? T : r.mate_tangent(true, T)) - T_pitch);
  };
  const double farthest = std::max(away(r.contact_begin()), away(r.contact_end()));
  const double relative = r.with_rack() ? 1 : std::abs(1 - (on_driver ? r.motion_ratio() : 1 / r.motion_ratio()));
  all.push_back(one("sliding_speed_m_per_s", 2 * kPi * per_second * relative * farthest / 1000));
}

}  // namespace

std::vector<Entry> entries(const Design& design, const Pair& p, bool rolled) {
  const Gear &g1 = design.gears[p.driver], &g2 = design.gears[p.driven];
  std::vector<Entry> all{
      words("driver", g1.name),
      words("driven", g2.name),
      one("gear_ratio", static_cast<double>(g2.teeth.count()) / g1.teeth.count()),
      words("sense", g1.teeth.internal() || g2.teeth.internal() ? "same" : "opposite"),
  };
  if (g1.teeth.is_bevel()) {
    bevel_entries(design, p, rolled, all);
    speeds(design, p, all);
    return all;
  }
  all.push_back(one("reference_center_distance", p.reference_center_distance));
  all.push_back(one("center_distance", p.center_distance));
  if (p.mounted_center_distance != p.center_distance)
    all.push_back(one("mounted_center_distance", p.mounted_center_distance));
  if (p.axial_offset != 0) all.push_back(one("axial_offset", p.axial_offset));
  all.push_back(one("shaft_angle_deg", p.shaft_angle));
  // A rack is moved, not turned.
  const auto turned = [](const Gear& g) {
    return g.teeth.is_rack() ? std::numeric_limits<double>::quiet_NaN() : g.phase;
  };
  all.push_back(many("phase_deg", {turned(g1), turned(g2)}));
  if (p.running) running(*p.running, all);
  speeds(design, p, all);
  if (p.cycloidal) cycloidal_entries(design, p, all);
  if (const auto play = play_as_made(design, p)) all.push_back(one("made_circumferential_backlash", *play));
  if (p.crossed) crossed(design, p, g1.teeth.reference_diameter(), all);
  return all;
}

std::vector<Entry> entries(const Design& design, const Frame& f) {
  std::vector<Entry> all{one("thickness", f.plan.thickness)};
  Entry axes = group("axes", {});
  axes.rows = true;
  for (std::size_t i = 0; i < f.plan.axes.size(); ++i) {
    const FramePlan::Axis& a = f.plan.axes[i];
    axes.children.push_back(
        group("axes", {words("gear", design.gears[f.gears[i]].name), many("at", {a.at.x(), a.at.y()}),
                       one("bore", a.bore + a.wider), one("post_height", a.post_height)}));
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
    Json gear = to_json(entries(design, g), design.units);
    // The angle was given in degrees: echo that number, not its way through radians.
    if (g.teeth.is_cycloidal()) {
      root["gears"][g.name] = gear;
      continue;
    }
    const bool straight = g.teeth.is_bevel() || g.teeth.helix_angle().radians() == 0;
    if (!g.transverse_system || straight) gear["normal_pressure_angle_deg"] = g.pressure_angle_deg;
    if (g.transverse_system || straight) gear["transverse_pressure_angle_deg"] = g.pressure_angle_deg;
    if (!g.teeth.is_bevel()) gear["helix_angle_deg"] = g.helix_angle_deg;
    root["gears"][g.name] = gear;
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
    if (subject == "pair." + p.name) return find(entries(design, p, false));
  }
  for (const Reducer& r : design.reducers) {
    if (subject == "reducer." + r.name) return find(entries(design, r));
  }
  return "";
}

}  // namespace palio::job
