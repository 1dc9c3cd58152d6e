// Reported values: what each is called, and how it becomes text or JSON.
#include "values.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

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
      {"angular_backlash_deg", "angular backlash [driver, driven]; of a reducer at its output", "j_φ", Q::angle},
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
      {"pitch_cone_angle_deg", "pitch cone angle", "δ", Q::angle},
      {"base_cone_angle_deg", "base cone angle", "δ_b", Q::angle},
      {"face_cone_angle_deg", "face cone angle", "δ_a", Q::angle},
      {"root_cone_angle_deg", "root cone angle", "δ_f", Q::angle},
      {"outer_cone_distance", "outer cone distance", "R_e", Q::length},
      {"inner_cone_distance", "inner cone distance", "R_i", Q::length},
      {"outer_tip_diameter", "outer tip circle", "d_ae", Q::circle},
      {"outer_pitch_diameter", "outer pitch circle", "d_e", Q::circle},
      {"outer_root_diameter", "outer root circle", "d_fe", Q::circle},
      {"crown_to_apex", "apex to outer tip edge, along the axis", "", Q::length},
      {"mounting_distance", "mounting distance, apex to rear face", "", Q::length},
      {"face_cone_apex", "apex of the face cone, from the pitch apex", "", Q::length},
      {"root_cone_apex", "apex of the root cone, from the pitch apex", "", Q::length},
      {"virtual_teeth", "virtual teeth", "z_v", Q::number},
      {"depth", "depth", "", Q::number},
      {"ends", "closed at heel and toe by", "", Q::number},
      {"thickness_shift", "thickness shift (modules)", "x_s", Q::number},
      {"outer_tooth_thickness", "outer tooth thickness (arc)", "s_e", Q::length},
      {"rim_thickness", "rim behind the outer roots", "", Q::length},
      {"back_cone_deviation", "exact tooth wider than by the back cone, each flank at the outer tip", "", Q::length},
      {"heel", "at the heel", "", Q::number},
      {"toe", "at the toe", "", Q::number},
      {"cone_distance", "cone distance", "R", Q::length},
      {"tip_angle_deg", "tip seen from the apex at", "", Q::angle},
      {"root_angle_deg", "root seen from the apex at", "", Q::angle},
      {"root_form_angle_deg", "usable flank begins at", "", Q::angle},
      {"pitch_diameter", "pitch circle", "d", Q::circle},
      {"form", "form", "", Q::number},
      {"ratio", "ratio, input turns per output turn", "i", Q::ratio},
      {"rollers", "rollers", "N", Q::count},
      {"lobes", "lobes", "Z", Q::count},
      {"roller_circle_diameter", "circle of the rollers", "", Q::circle},
      {"roller_diameter", "rollers", "", Q::circle},
      {"adjacent_roller_gap", "between neighbouring rollers", "", Q::length},
      {"eccentricity", "eccentricity", "E", Q::length},
      {"max_eccentricity", "its limit R/N", "", Q::length},
      {"eccentricity_margin", "left to that limit", "", Q::length},
      {"max_roller_radius_no_undercut", "roller radius from which the disc is undercut", "", Q::length},
      {"undercut_margin", "left to that limit", "", Q::length},
      {"min_convex_radius", "tightest crest of the edge, radius", "", Q::length},
      {"min_concave_radius", "tightest hollow of the edge, radius (none: nowhere hollow)", "", Q::length},
      {"largest_disc_cutter", "largest cutter that follows the edge, diameter", "", Q::length},
      {"largest_hole_cutter", "largest cutter for holes and bore, diameter", "", Q::length},
      {"disc_root_diameter", "roots of the disc", "", Q::circle},
      {"disc_crest_diameter", "crests of the disc", "", Q::circle},
      {"disc_offset", "edge inside the exact one by", "", Q::length},
      {"discs", "discs", "", Q::count},
      {"same_disc_part", "one disc part serves at all places", "", Q::number},
      {"discs_flip", "the second disc is the first turned over", "", Q::number},
      {"serving_output_pins", "one part serves with so many output pins", "", Q::count},
      {"output_pins", "output pins", "n", Q::count},
      {"output_pin_circle_diameter", "circle of the output pins", "", Q::circle},
      {"output_pin_diameter", "output pins", "", Q::circle},
      {"output_hole_diameter", "their holes", "", Q::circle},
      {"web_between_holes", "between neighbouring holes", "", Q::length},
      {"wall_hole_to_lobe", "from a hole to the roots of the lobes", "", Q::length},
      {"wall_hole_to_bore", "from a hole to the bore", "", Q::length},
      {"journal_diameter", "journals, seat of the bearing inside", "", Q::circle},
      {"shaft_diameter", "shaft", "", Q::circle},
      {"ring_inner_diameter", "ring inside", "", Q::circle},
      {"ring_outer_diameter", "ring outside", "", Q::circle},
      {"disc_gap", "between discs, and to the flange", "", Q::length},
      {"verdict", "rolled", "", Q::number},
      {"disc_play_deg", "play of a disc between the rollers, over a turn of the input", "", Q::angle},
      {"min", "least", "", Q::angle},
      {"max", "most", "", Q::angle},
      {"rollers_turn", "rollers turn", "", Q::number},
      {"torque", "input torque (N m)", "", Q::number},
      {"speed", "speed (r/min)", "n", Q::number},
      {"speed_m_per_s", "speed (m/s)", "v", Q::number},
      {"pitch_line_speed_m_per_s", "speed at the working pitch circles (m/s)", "v", Q::number},
      {"tooth_frequency_hz", "teeth that meet each second (Hz)", "f_z", Q::number},
      {"output_torque", "output torque (N m)", "", Q::number},
      {"output_torque_without_losses", "output torque without losses (N m)", "", Q::number},
      {"output_speed", "output speed (r/min)", "", Q::number},
      {"back_driving_torque", "output torque that overcomes this torque held at the input (N m)", "", Q::number},
      {"disc_volume", "volume of a disc", "", Q::volume},
      {"disc_mass_kg", "mass of a disc", "", Q::mass},
      {"unbalance", "unbalance of the discs", "", Q::number},
      {"force_g_mm", "mass times arm (g mm)", "", Q::number},
      {"couple_g_mm2", "couple (g mm²)", "", Q::number},
      {"role", "role", "", Q::number},
      {"form_diameter", "usable flank ends towards the root at", "", Q::circle},
      {"face_rolling_radius", "rolling circle of the faces", "ρ", Q::length},
      {"flank_rolling_radius", "rolling circle of the flanks", "ρ", Q::length},
      {"radial_flanks", "flanks are radial", "", Q::number},
      {"pointed_diameter", "faces would meet at (none: nowhere)", "", Q::circle},
      {"fillet_radius", "round of the roots", "", Q::length},
      {"addendum_arc_radius", "arc of the addendum", "", Q::length},
      {"tooth_width", "tooth width at the pitch circle", "", Q::length},
      {"theoretical_addendum", "addendum of the theory (modules)", "f", Q::number},
      {"mate_teeth", "made for a mate of", "", Q::count},
      {"pin_gap", "between neighbouring pins", "", Q::length},
      {"plate_diameter", "end plates", "", Q::circle},
      {"plate_thickness", "each end plate thick", "", Q::length},
      {"conjugate", "keeps the ratio within a tooth", "", Q::number},
      {"angle_error_deg", "angle error of the driven within a tooth, peak to peak, from the roll", "", Q::angle},
      {"rolled_circumferential_backlash", "circumferential backlash found by rolling [least, most]", "", Q::length},
      {"tooth_thickness", "tooth thickness (arc)", "s", Q::length},
      {"contact_ratio_heel", "contact ratio at the heel", "ε_e", Q::ratio},
      {"contact_ratio_toe", "contact ratio at the toe", "ε_i", Q::ratio},
      {"mounting_distances", "mounting distances [driver, driven]", "", Q::length},
      {"mounting_error", "mounted with an error of", "", Q::number},
      {"shift_of_driver", "driver moved along its axis [by, play found, play by formula]", "", Q::length},
      {"shift_of_driven", "driven moved along its axis [by, play found, play by formula]", "", Q::length},
      {"shaft_angle", "shaft angle", "", Q::angle},
      {"offset", "offset of the axes", "", Q::length},
      {"driver_at_start_and_end", "of the driver [start, end of contact]", "ζ₁", Q::number},
      {"driven_at_start_and_end", "of the driven [start, end of contact]", "ζ₂", Q::number},
  };
  return all;
}

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

Entry one(std::string_view key, double value) {
  return {&report_key(key), {value}, false, "", {}, false, false, false};
}
Entry many(std::string_view key, std::vector<double> values) {
  return {&report_key(key), std::move(values), true, "", {}, false, false, false};
}
Entry words(std::string_view key, std::string text) {
  return {&report_key(key), {}, false, std::move(text), {}, false, false, false};
}
Entry flag(std::string_view key, bool value) { return {&report_key(key), {}, false, "", {}, value, true, false}; }
Entry group(std::string_view key, std::vector<Entry> children) {
  return {&report_key(key), {}, false, "", std::move(children), false, false, false};
}

namespace {

/// Rounding of differences that are nothing is nothing.
double tidied(double value, Quantity quantity) {
  constexpr double kNoLength = 1e-12, kNoAngle = 1e-14;  // mm, rad
  if ((quantity == Quantity::length || quantity == Quantity::circle) && std::abs(value) < kNoLength) return 0;
  if (quantity == Quantity::angle && std::abs(value) < kNoAngle) return 0;
  return value == 0 ? 0 : value;
}

}  // namespace

std::string fixed(double value, int places) {
  return fmt::format("{:.{}f}", std::abs(value) < 0.5 * std::pow(10.0, -places) ? 0 : value, places);
}

std::string small_error(double value) { return fmt::format("{:.3g}", std::abs(value) < 1e-8 ? 0 : value); }

std::string shown(double value, Quantity quantity, Units units, bool short_form) {
  if (!std::isfinite(value)) return std::isnan(value) ? "none" : value < 0 ? "-∞" : "∞";
  const std::string_view u = symbol(units);
  const int places = units == Units::inch ? 5 : 4;
  const double v = tidied(value, quantity) * scale(quantity, units);
  switch (quantity) {
    case Quantity::length: return fmt::format("{} {}", fixed(v, places), u);
    case Quantity::circle:
      return short_form ? fmt::format("⌀{} {}", fixed(v, places), u)
                        : fmt::format("⌀ {} {}  (r {} {})", fixed(v, places), u, fixed(v / 2, places), u);
    case Quantity::module_size: return fmt::format("{:.6g} mm", value);
    case Quantity::per_inch: return fmt::format("{:.6g} /in", value);
    case Quantity::angle: return fixed(v, 4) + "°";
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
  const double tidy = tidied(value, quantity);
  return quantity == Quantity::angle ? Angle::radians(tidy).degrees()
         : units == Units::mm        ? tidy
                                     : tidy * scale(quantity, units);
}

Json to_json(const Entry& e, Units units) {
  if (e.is_flag) return e.flag;
  if (!e.text.empty()) return e.text;
  if (e.rows) {
    Json rows = Json::array();
    for (const Entry& child : e.children)
      rows.push_back(to_json(child, units));
    return rows;
  }
  if (!e.children.empty()) return to_json(e.children, units);
  if (!e.list) return number(e.numbers.front(), e.key->quantity, units);
  Json all = Json::array();
  for (const double n : e.numbers)
    all.push_back(number(n, e.key->quantity, units));
  return all;
}

Json to_json(const std::vector<Entry>& entries, Units units) {
  Json object = Json::object();
  for (const Entry& e : entries)
    object[std::string(e.key->key)] = to_json(e, units);
  return object;
}

namespace {

/// Columns a terminal takes for UTF-8 text without wide characters.
std::size_t columns(std::string_view text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}

std::string padded(std::string_view text, std::size_t width) {
  return std::string(text) + std::string(width > columns(text) ? width - columns(text) : 0, ' ');
}

}  // namespace

std::string row(std::string_view label, std::string_view sign, std::string_view value) {
  return fmt::format("  {} {} {}\n", padded(label, 44), padded(sign, 5), value);
}

std::string table_text(const std::vector<Entry>& entries, Units units) {
  std::string text;
  for (const Entry& e : entries) {
    if (!e.children.empty()) {
      std::string inner;
      if (e.rows) {
        for (const Entry& child : e.children)
          text += table_text({child}, units);
        continue;
      }
      constexpr std::size_t kOneLine = 5;
      if (e.children.size() > kOneLine) {
        text += row(e.key->label, e.key->symbol, "");
        for (Entry child : e.children) {
          const std::string label = "  " + std::string(child.key->label);
          const ReportKey indented{child.key->key, label, child.key->symbol, child.key->quantity};
          child.key = &indented;
          text += table_text({child}, units);
        }
        continue;
      }
      for (const Entry& child : e.children) {
        if (!inner.empty()) inner += ", ";
        const bool plain = child.key->key == "length" || !child.text.empty();
        std::string value = child.is_flag ? (child.flag ? "yes" : "no") : child.text;
        for (const double n : child.numbers)
          value += (value.empty() ? "" : ", ") + shown(n, child.key->quantity, units, true);
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

}  // namespace palio::job
