// The table of a sheet: tooth data, what to measure, mates and part.
#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "palio/math/tolerance.hpp"
#include "palio/overloaded.hpp"
#include "sheet_pen.hpp"

namespace palio::view {
namespace {

class SheetTable : private GearPen {
 public:
  SheetTable(const SheetPen& pen, const job::Gear& gear, double x, double y, double right)
      : GearPen(pen, gear), rows_(pen, x, y, right) {}

  void draw() {
    g_.teeth.visit(overloaded{
        [&](const gear::BevelGear&) { bevel_table(); },
        [&](const gear::CycloidalTeeth&) { cycloidal_table(); },
        [&](const gear::CylindricalGear&) { involute_table(); },
        [&](const gear::Rack&) { involute_table(); },
    });
    mates_and_part();
  }

 private:
  void row(const std::string& label, const std::string& text) { rows_.row(label, text); }
  void heading(const std::string& text) { rows_.heading(text); }

  /// A reading and the other end of its tolerance, where it has one.
  void from_to(const std::string& label, const char* key, const char* limit) {
    const std::string other = value(limit);
    row(label, value(key) + (other.empty() ? "" : " … " + other));
  }

  /// A measure with the allowance, with teeth as thin as they may be, and what it would be without any allowance.
  void limits(const std::string& label, double made, std::optional<double> thinnest, double without) {
    const std::string unit(job::symbol(design_.units));
    row(label, thinnest ? fmt::format("{} … {} {}", length(made), length(*thinnest), unit)
                        : fmt::format("{} {}", length(made), unit));
    if (std::abs(without - made) > math::kAlike)
      row(without > made ? "    at most (no thinning at all)" : "    at least (no thinning at all)",
          fmt::format("{} {}", length(without), job::symbol(design_.units)));
  }

  void bevel_table() {
    const gear::BevelSpec& spec = g_.teeth.bevel().spec();
    heading("Tooth data");
    row("kind", "straight bevel, spherical involute");
    row("number of teeth  z", value("teeth"));
    row("outer transverse module  m_e", fmt::format("{:.6g} mm", spec.module));
    if (design_.units == job::Units::inch) row("diametral pitch  P", value("diametral_pitch"));
    row("pressure angle  α", fmt::format("{:.6g}°", spec.pressure_angle.degrees()));
    row("depth", std::string(gear::name(spec.depth)));
    row("profile shift, thickness shift",
        fmt::format("{:+.5g}, {:+.5g} m_e", spec.profile_shift, spec.thickness_shift));
    row("pitch cone angle  δ", value("pitch_cone_angle_deg"));
    row("face cone angle  δ_a", value("face_cone_angle_deg"));
    row("root cone angle  δ_f", value("root_cone_angle_deg"));
    row("outer cone distance  R_e", value("outer_cone_distance"));
    row("outer pitch circle  d_e", value("outer_pitch_diameter"));
    row("outer tip circle  d_ae", value("outer_tip_diameter"));
    row("outer addendum, dedendum", value("addendum") + ", " + value("dedendum"));
    row("apex to outer tip edge", value("crown_to_apex"));
    row("mounting distance", value("mounting_distance"));
    heading("Tooth thickness");
    row("allowance (outer arc)", value("thickness_allowance"));
    row("outer thickness, arc at d_e", value("outer_tooth_thickness"));
  }

  void involute_table() {
    const gear::CylindricalSpec& spec = g_.teeth.spec();
    heading("Tooth data");
    row("kind", std::string(name(g_.kind)));
    row("number of teeth  z",
        value("teeth") + (g_.features.sector_teeth > 0 ? fmt::format(" (kept: {})", g_.features.sector_teeth) : ""));
    row("normal module  m_n", fmt::format("{:.6g} mm", spec.module));
    if (design_.units == job::Units::inch) row("diametral pitch  P", value("diametral_pitch"));
    row("normal pressure angle  α_n", fmt::format("{:.6g}°", spec.pressure_angle.degrees()));
    const double beta = spec.helix_angle.degrees();
    if (beta != 0) {
      row("helix angle  β", fmt::format("{:.6g}°", std::abs(beta)));
      row(spec.double_helical ? "apex" : "hand", spec.double_helical ? (beta > 0 ? "counter-clockwise" : "clockwise")
                                                 : beta > 0          ? "right"
                                                                     : "left");
      if (!g_.teeth.is_rack()) row("lead  p_z", value("lead"));
    }
    row("reference profile: addendum, dedendum", fmt::format("{:.5g}, {:.5g} m_n", spec.addendum, spec.dedendum));
    if (!g_.teeth.internal())
      row("tool's tip radius  ρ_fP",
          fmt::format("{:.4g} m_n", g_.teeth.is_rack() ? g_.teeth.rack().sizes().tool_tip_radius
                                                       : g_.teeth.gear().sizes().tool_tip_radius));
    row("profile shift  x", fmt::format("{:+.6g} m_n", spec.profile_shift));
    if (!g_.teeth.is_rack()) {
      row("reference circle  d", value("reference_diameter"));
      from_to("tip circle  d_a", "tip_diameter", "tip_limit_diameter");
      row("root circle  d_f", value("root_diameter"));
      row("flank used from  d_Ff", value("root_form_diameter"));
    }
    row("tooth depth  h", value("tooth_depth"));
    heading("Tooth thickness");
    row("allowance  E_sn", value("thickness_allowance"));
    from_to("normal thickness at d  s_n", "normal_tooth_thickness", "least_tooth_thickness");
    if (!g_.teeth.is_rack()) gauge_rows();
  }

  /// Span and pins, as made and as they would be without any thinning.
  void gauge_rows() {
    const gear::CylindricalGear& made = g_.teeth.gear();
    gear::CylindricalSpec bare = g_.teeth.spec();
    bare.thickness_allowance = 0;
    const gear::CylindricalGear without(bare);
    if (!g_.teeth.internal()) span_rows(made, without);
    const bool pins = made.over_pins(g_.pin_diameter).has_value();
    const gear::OverBalls over = pins ? *made.over_pins(g_.pin_diameter) : made.over_balls(g_.pin_diameter);
    const gear::OverBalls most = pins ? *without.over_pins(over.pin_diameter) : without.over_balls(over.pin_diameter);
    const std::optional<gear::CylindricalGear> thin = g_.thinnest();
    const auto least = [&] { return pins ? *thin->over_pins(over.pin_diameter) : thin->over_balls(over.pin_diameter); };
    limits(fmt::format("{} {} ⌀{} {}", made.internal() ? "between" : "over", pins ? "pins" : "balls",
                       length(over.pin_diameter), job::symbol(design_.units)),
           over.length, thin ? std::optional(least().length) : std::nullopt, most.length);
  }

  void span_rows(const gear::CylindricalGear& made, const gear::CylindricalGear& without) {
    const gear::Span span = made.span(g_.span_teeth);
    const std::optional<gear::CylindricalGear> thin = g_.thinnest();
    // Only what can be measured: jaws on the flanks, within the face.
    const double face =
        made.spec().double_helical ? (made.spec().face_width - made.spec().gap) / 2 : made.spec().face_width;
    const bool on_flanks = span.contact_diameter >= made.sizes().root_form_diameter &&
                           span.contact_diameter <= made.sizes().tip_form_diameter;
    const bool in_face = face >= span.length * std::sin(std::abs(made.sizes().base_helix_angle.radians()));
    if (on_flanks && in_face)
      limits(fmt::format("span over {} teeth  W", span.teeth), span.length,
             thin ? std::optional(thin->span(span.teeth).length) : std::nullopt, without.span(span.teeth).length);
    else
      row(fmt::format("span over {} teeth  W", span.teeth),
          on_flanks ? "none: the face is too narrow" : "none: off the flanks");
  }

  void cycloidal_table() {
    heading("Tooth data");
    row("kind",
        g_.teeth.is_lantern() ? "lantern" : fmt::format("cycloidal, {}", gear::name(g_.teeth.cycloidal().form())));
    for (const auto& [key, words] : {std::pair{"teeth", "number of teeth  z"},
                                     {"normal_module", "module  m"},
                                     {"pitch_diameter", "pitch circle  d"},
                                     {"tip_diameter", "tip circle  d_a"},
                                     {"root_diameter", "root circle  d_f"},
                                     {"form_diameter", "flank used from"},
                                     {"addendum", "addendum"},
                                     {"dedendum", "dedendum"},
                                     {"face_rolling_radius", "circle of the faces, radius"},
                                     {"flank_rolling_radius", "circle of the flanks, radius"},
                                     {"fillet_radius", "round of the roots, radius"},
                                     {"addendum_arc_radius", "arc of the addendum, radius"},
                                     {"tooth_width", "width at the pitch circle, arc"},
                                     {"transverse_tooth_thickness", "thickness at the pitch circle, arc"},
                                     {"thickness_allowance", "allowance"},
                                     {"mate_teeth", "made for a mate of"},
                                     {"pin_diameter", "pin diameter"},
                                     {"plate_diameter", "end plates"},
                                     {"plate_thickness", "each end plate"}}) {
      if (const std::string text = value(key); !text.empty()) row(words, text);
    }
  }

  void mates_and_part() {
    for (const job::Pair& p : design_.pairs) {
      if (design_.gears[p.driver].name != g_.name && design_.gears[p.driven].name != g_.name) continue;
      const job::Gear& mate = design_.gears[design_.gears[p.driver].name == g_.name ? p.driven : p.driver];
      heading("Mating gear " + mate.name);
      row("number of teeth", fmt::format("{}", mate.teeth.count()));
      if (!p.bevel()) row("center distance  a", job::report_value(design_, "pair." + p.name, "center_distance"));
      if (p.shaft_angle().radians() != 0)
        row("shaft angle  Σ", job::report_value(design_, "pair." + p.name, "shaft_angle_deg"));
      const std::string most = job::report_value(design_, "pair." + p.name, "greatest_circumferential_backlash");
      row("circumferential backlash  j_wt", job::report_value(design_, "pair." + p.name, "circumferential_backlash") +
                                                (most.empty() ? "" : " … " + most));
      if (!p.cycloidal()) row("normal backlash  j_bn", job::report_value(design_, "pair." + p.name, "normal_backlash"));
    }
    heading("Part");
    if (g_.bore_given > 0) row("bore to expect / to draw", bore_sizes());
    if (const std::string least = value("fit_least_diameter"); !least.empty())
      row(fmt::format("{} {} from … to", g_.bearing ? "seat" : "bore", g_.grip),
          least + " … " + value("fit_greatest_diameter"));
    if (const body::Step* seat = g_.features.seat())
      row(fmt::format("seat of {} to expect / to draw", g_.bearing->designation), as_made(seat->diameter));
    if (!g_.features.cutouts.empty()) row("cut out along outlines", cutouts());
    row("material", g_.material ? g_.material->name : "—");
    if (g_.material) row("mass", value("mass_kg"));
    row("process", process());
  }

  std::string cutouts() const {
    std::string all;
    for (const body::Cutout& c : g_.features.cutouts) {
      const auto count =
          std::count_if(c.loops.begin(), c.loops.end(), [](const curve::Outline& o) { return o.clockwise; });
      all += fmt::format("{}{} {}", all.empty() ? "" : ", ", count,
                         c.depth > 0 ? fmt::format("pockets {} deep", size(c.depth)) : std::string("through"));
    }
    return all;
  }

  std::string bore_sizes() const { return as_made(g_.teeth.bore_diameter()); }

  /// A hole to expect and to draw.
  std::string as_made(double expect) const {
    return fmt::format("⌀{} / ⌀{} {}", length(expect), length(design_.process.drawn_hole(expect)),
                       job::symbol(design_.units));
  }

  SheetRows rows_;
};

}  // namespace

void sheet_table(const SheetPen& pen, const job::Gear& gear, double x, double y, double right) {
  SheetTable(pen, gear, x, y, right).draw();
}

}  // namespace palio::view
