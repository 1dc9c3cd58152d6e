// What is read of a gear: every reading with its words, its formula and the function that computes it.
#include <cmath>

#include "palio/overloaded.hpp"
#include "readings.hpp"

namespace palio::job {
namespace gear_rows {
namespace {

using gear::BevelGear;
using gear::CycloidalTeeth;
using gear::CylindricalGear;
using gear::Rack;
using At = GearAt;
using Row = ReadingRow<At>;
using Q = Quantity;

constexpr std::string_view kTeeth = "teeth", kCircles = "circles", kThickness = "thickness and gauging";

/// Coefficients are told in the modules they were given in.
double in_given_modules(const At& a, double coefficient) {
  return a.gear.transverse_system ? coefficient * std::cos(a.teeth().helix_angle().radians()) : coefficient;
}

/// +1; of a ring, whose teeth point inwards, −1.
double outward(const At& a) { return a.teeth().internal() ? -1 : 1; }

double module_in_plane(const At& a) { return a.sort & kInvolute ? a.teeth().transverse_module() : a.teeth().module(); }

double diametral_pitch(const At& a) {
  return 25.4 / (a.gear.transverse_system ? a.teeth().transverse_module() : a.teeth().module());
}

bool straight(const At& a) { return a.teeth().is_bevel() || a.teeth().helix_angle().radians() == 0; }

Said normal_pressure_angle(const At& a) {
  const double alpha =
      a.teeth().is_bevel() ? a.teeth().bevel().spec().pressure_angle.radians() : a.spec().pressure_angle.radians();
  return !a.gear.transverse_system || straight(a) ? Said::degrees(a.gear.pressure_angle_deg, alpha) : Said(alpha);
}

Said transverse_pressure_angle(const At& a) {
  const double alpha = a.teeth().is_bevel() ? a.teeth().bevel().spec().pressure_angle.radians()
                                            : a.teeth().transverse_pressure_angle().radians();
  return a.gear.transverse_system || straight(a) ? Said::degrees(a.gear.pressure_angle_deg, alpha) : Said(alpha);
}

Said addendum(const At& a) {
  return a.teeth().visit(overloaded{
      [&](const CylindricalGear& g) {
        return Said(outward(a) * (g.sizes().tip_diameter - g.sizes().reference_diameter) / 2);
      },
      [](const Rack& r) { return Said(r.sizes().tip_height); },
      [](const BevelGear& b) { return Said(b.sizes().heel.addendum); },
      [&](const CycloidalTeeth& t) {
        return Said(outward(a) * (t.sizes().tip_diameter - t.sizes().pitch_diameter) / 2);
      },
  });
}

Said dedendum(const At& a) {
  return a.teeth().visit(overloaded{
      [&](const CylindricalGear& g) {
        return Said(outward(a) * (g.sizes().reference_diameter - g.sizes().root_diameter) / 2);
      },
      [](const Rack& r) { return Said(-r.sizes().root_height); },
      [](const BevelGear& b) { return Said(b.sizes().heel.dedendum); },
      [&](const CycloidalTeeth& t) {
        return Said(outward(a) * (t.sizes().pitch_diameter - t.sizes().root_diameter) / 2);
      },
  });
}

Said tooth_depth(const At& a) {
  return a.teeth().visit(overloaded{
      [&](const CylindricalGear& g) {
        return Said(outward(a) * (g.sizes().tip_diameter - g.sizes().root_diameter) / 2);
      },
      [](const Rack& r) { return Said(r.sizes().tip_height - r.sizes().root_height); },
      [](const BevelGear& b) { return Said(b.sizes().heel.addendum + b.sizes().heel.dedendum); },
      [&](const CycloidalTeeth& t) {
        return Said(outward(a) * (t.sizes().tip_diameter - t.sizes().root_diameter) / 2);
      },
  });
}

Said tip_thickness(const At& a) {
  return a.teeth().visit(overloaded{
      [](const CylindricalGear& g) { return Said(g.sizes().tip_thickness); },
      [](const Rack& r) { return Said(r.sizes().tip_thickness); },
      [](const BevelGear& b) { return Said(b.sizes().heel.tip_thickness); },
      [](const CycloidalTeeth& t) { return Said(t.sizes().tip_thickness); },
  });
}

Said transverse_tooth_thickness(const At& a) {
  if (a.sort == kTrueCycloid) return kPi * a.teeth().module() - a.teeth().cycloidal().space_width();
  return a.sort == kRack ? a.teeth().rack().sizes().transverse_tooth_thickness : a.sizes().transverse_tooth_thickness;
}

Said tool_tip_radius(const At& a) {
  if (a.sort == kBevel) return a.bevel().tool_tip_radius;
  return in_given_modules(a, a.sort == kRack ? a.teeth().rack().sizes().tool_tip_radius : a.sizes().tool_tip_radius);
}

Said thickness_allowance(const At& a) {
  if (a.sort == kBevel) return a.teeth().bevel().spec().thickness_allowance;
  if (a.sort == kTrueCycloid) return a.teeth().cycloidal().true_form().spec().thickness_allowance;
  return a.spec().thickness_allowance;
}

double base_pitch(const At& a) {
  return kPi * a.teeth().transverse_module() * std::cos(a.teeth().transverse_pressure_angle().radians());
}

Said over(const gear::OverBalls& m) { return {{"pin_diameter", m.pin_diameter}, {"length", m.length}}; }

Said over_pins(const At& a) {
  const auto pins = a.teeth().gear().over_pins(a.gear.pin_diameter);
  return pins ? over(*pins) : Said();
}

Said end_of(const gear::BevelEnd& e) {
  return {{"cone_distance", e.cone_distance},
          {"addendum", e.addendum},
          {"dedendum", e.dedendum},
          {"tip_diameter", e.tip_diameter},
          {"pitch_diameter", e.pitch_diameter},
          {"root_diameter", e.root_diameter},
          {"tip_angle_deg", e.tip_angle.radians()},
          {"root_angle_deg", e.root_angle.radians()},
          {"root_form_angle_deg", e.root_form_angle.radians()},
          {"tooth_thickness", e.tooth_thickness},
          {"tip_thickness", e.tip_thickness},
          {"undercut", e.undercut}};
}

Said hand(const At& a) {
  const double beta = a.spec().helix_angle.radians();
  if (a.spec().double_helical || beta == 0) return {};
  return beta > 0 ? "right" : "left";
}

Said apex(const At& a) {
  if (!a.spec().double_helical) return {};
  return a.spec().helix_angle.radians() > 0 ? "counter-clockwise" : "clockwise";
}

Said cutter(const At& a) {
  const auto& c = a.sizes().cutter;
  if (!c) return {};
  return {{"teeth", c->teeth},
          {"profile_shift", in_given_modules(a, c->profile_shift)},
          {"tip_diameter", c->tip_diameter},
          {"tip_corner_radius", c->tip_corner_radius}};
}

Said speed_of(const At& a) { return speed(a.design, static_cast<std::size_t>(&a.gear - a.design.gears.data())); }

/// What the bore becomes is told of the nominal part alone: drawn and made ones have theirs.
bool bored(const At& a) { return a.teeth().bore_diameter() > 0; }
bool with_fit(const At& a) {
  return bored(a) && a.design.as == As::nominal && (a.gear.bore_play != 0 || a.design.process.given);
}

Said bore_diameter(const At& a) {
  if (!bored(a)) return {};
  return a.design.as == As::nominal ? a.gear.bore_given : a.teeth().bore_diameter();
}

Said bore_drawn(const At& a) {
  if (!with_fit(a)) return {};
  const double bore = a.teeth().bore_diameter();
  return bore + a.design.process.wider(bore, a.design.process.change(As::drawn));
}

Said over_zero(double value) { return value > 0 ? Said(value) : Said(); }
const gear::ClockGear& clock(const At& a) { return a.teeth().cycloidal().clock(); }
const gear::CycloidalSpec& cycloid(const At& a) { return a.teeth().cycloidal().true_form().spec(); }

std::vector<Row> teeth_rows() {
  return {
      {{"kind", "kind", "", Q::number},
       kTeeth,
       kAll,
       "the sort of gear",
       "",
       [](const At& a) { return Said(std::string(name(a.gear.kind))); }},
      {{"form", "form", "", Q::number},
       kTeeth,
       kCycloidal & ~kLantern,
       "which curves cycloidal teeth are made of: true cycloids, arcs of clock practice, or the wheel of a lantern",
       "",
       [](const At& a) { return Said(std::string(gear::name(a.teeth().cycloidal().form()))); }},
      {{"role", "role", "", Q::number},
       kTeeth,
       kClock,
       "wheel or pinion of a clock train: practice gives the two different teeth",
       "",
       [](const At& a) { return Said(clock(a).spec().pinion ? "pinion" : "wheel"); }},
      {{"teeth", "teeth", "z", Q::count},
       kTeeth,
       kAll,
       "number of teeth; of a pinion its leaves, of a lantern its pins",
       "",
       [](const At& a) { return a.teeth().count(); }},
      {{"normal_module", "normal module", "m_n", Q::module_size},
       kTeeth,
       kAll,
       "size of the teeth, across them: the pitch there divided by π",
       "m_n = m_t cos β",
       [](const At& a) { return a.teeth().module(); }},
      {{"transverse_module", "transverse module", "m_t", Q::module_size},
       kTeeth,
       kAll,
       "size of the teeth in the section across the axis: reference diameter per tooth",
       "m_t = m_n / cos β = d / z",
       module_in_plane},
      {{"diametral_pitch", "diametral pitch", "P", Q::per_inch},
       kTeeth,
       kAll,
       "teeth per inch of reference diameter",
       "P = 25.4 mm / m",
       diametral_pitch},
      {{"normal_pressure_angle_deg", "normal pressure angle", "α_n", Q::angle},
       kTeeth,
       kSystem,
       "how far the flank leans at the reference circle, in the section across the teeth",
       "tan α_n = tan α_t cos β",
       normal_pressure_angle},
      {{"transverse_pressure_angle_deg", "transverse pressure angle", "α_t", Q::angle},
       kTeeth,
       kSystem,
       "how far the flank leans at the reference circle, in the section across the axis",
       "tan α_t = tan α_n / cos β",
       transverse_pressure_angle},
      {{"helix_angle_deg", "helix angle", "β", Q::angle},
       kTeeth,
       kInvolute,
       "between the teeth and the axis, at the reference cylinder",
       "tan β = π d / p_z",
       [](const At& a) { return Said::degrees(a.gear.helix_angle_deg, std::abs(a.spec().helix_angle.radians())); }},
      {{"base_helix_angle_deg", "base helix angle", "β_b", Q::angle},
       kTeeth,
       kInvolute,
       "between the teeth and the axis, at the base cylinder",
       "sin β_b = sin β cos α_n",
       [](const At& a) { return std::abs(a.teeth().base_helix_angle().radians()); }},
      {{"system", "given in the section", "", Q::number},
       kTeeth,
       kInvolute,
       "in which section module, pressure angle and coefficients were given",
       "",
       [](const At& a) { return a.gear.transverse_system ? Said("transverse") : Said(); }},
      {{"apex", "apex", "", Q::number},
       kTeeth,
       kExternal,
       "which way the V of double helical teeth points, seen from +z",
       "",
       apex},
      {{"gap", "gap between the halves", "", Q::length},
       kTeeth,
       kExternal,
       "groove between the halves of double helical teeth",
       "",
       [](const At& a) { return a.spec().double_helical ? Said(a.spec().gap) : Said(); }},
      {{"hand", "hand", "", Q::number},
       kTeeth,
       kInvolute,
       "right: the teeth rise to the right when the axis stands upright",
       "",
       hand},
      {{"lead", "lead", "p_z", Q::length},
       kTeeth,
       kGears,
       "how far along the axis a tooth goes once around; none for straight teeth",
       "p_z = π d / tan β",
       [](const At& a) { return a.teeth().gear().lead(); }},
      {{"depth", "depth", "", Q::number},
       kTeeth,
       kBevel,
       "how the depth of bevel teeth runs from heel to toe",
       "",
       [](const At& a) { return Said(std::string(gear::name(a.teeth().bevel().spec().depth))); }},
      {{"ends", "closed at heel and toe by", "", Q::number},
       kTeeth,
       kBevel,
       "what closes bevel teeth at heel and toe: cones across the pitch cone, or spheres about the apex",
       "",
       [](const At& a) { return Said(a.teeth().bevel().spec().ends == gear::BevelEnds::cones ? "cones" : "spheres"); }},
      {{"profile_shift", "profile shift (modules)", "x", Q::number},
       kTeeth,
       kSystem,
       "how far the reference line of the tool stands off the reference circle; positive thickens the tooth's root",
       "",
       [](const At& a) {
         return a.sort == kBevel ? a.teeth().bevel().spec().profile_shift : in_given_modules(a, a.spec().profile_shift);
       }},
      {{"thickness_shift", "thickness shift (modules)", "x_s", Q::number},
       kTeeth,
       kBevel,
       "a bevel tooth is thicker by twice this, its mate thinner by as much",
       "",
       [](const At& a) { return a.teeth().bevel().spec().thickness_shift; }},
      {{"generating_profile_shift", "generating profile shift (modules)", "x_E", Q::number},
       kTeeth,
       kInvolute,
       "the shift the tooth is really cut with, allowance included",
       "x_E = x + E_sn / (2 m_n tan α_n)",
       [](const At& a) { return in_given_modules(a, a.teeth().generating_profile_shift()); }},
      {{"thickness_allowance", "thickness allowance", "E_sn", Q::length},
       kThickness,
       kSystem | kTrueCycloid,
       "how much the tooth is thicker than nominal, across it at the reference circle; negative thins, for backlash",
       "",
       thickness_allowance},
  };
}

std::vector<Row> circle_rows() {
  return {
      {{"pitch_diameter", "pitch circle", "d", Q::circle},
       kCircles,
       kCycloidal,
       "where the gear rolls on its mate without sliding",
       "d = z m",
       [](const At& a) { return a.teeth().cycloidal().sizes().pitch_diameter; }},
      {{"reference_diameter", "reference circle", "d", Q::circle},
       kCircles,
       kGears,
       "the circle on which teeth are counted: module times teeth",
       "d = z m_t",
       [](const At& a) { return a.sizes().reference_diameter; }},
      {{"base_diameter", "base circle", "d_b", Q::circle},
       kCircles,
       kGears,
       "the circle from which the involute is unwound; no involute lies within it",
       "d_b = d cos α_t",
       [](const At& a) { return a.sizes().base_diameter; }},
      {{"tip_diameter", "tip circle", "d_a", Q::circle},
       kCircles,
       kGears | kCycloidal,
       "over the tips of the teeth; of a ring, inside them",
       "d_a = d + 2 (x + h*_aP) m_n | internal: d_a = d − 2 (x + h*_aP) m_n",
       [](const At& a) { return a.teeth().tip_diameter(); }},
      {{"root_diameter", "root circle", "d_f", Q::circle},
       kCircles,
       kGears | kCycloidal,
       "at the bottom of the tooth spaces",
       "d_f = d − 2 (h*_fP − x_E) m_n | internal: d_f = d + 2 (h*_fP − x_E) m_n",
       [](const At& a) { return a.teeth().root_diameter(); }},
      {{"root_form_diameter", "root form circle", "d_Ff", Q::circle},
       kCircles,
       kGears,
       "where the usable flank begins and the rounded root ends",
       "",
       [](const At& a) { return a.sizes().root_form_diameter; }},
      {{"tip_form_diameter", "tip form circle", "d_Fa", Q::circle},
       kCircles,
       kGears,
       "where the usable flank ends and a break of the tip begins",
       "",
       [](const At& a) { return a.sizes().tip_form_diameter; }},
      {{"form_diameter", "usable flank ends towards the root at", "", Q::circle},
       kCircles,
       kCycloidal & ~kLantern,
       "where the usable flank ends and the round of the root begins",
       "",
       [](const At& a) { return a.teeth().cycloidal().sizes().form_diameter; }},
      {{"pin_gap", "between neighbouring pins", "", Q::length},
       kCircles,
       kLantern,
       "room between the pins of a lantern, for the wheel's tooth",
       "",
       [](const At& a) { return a.teeth().cycloidal().lantern().pin_gap(); }},
      {{"pitch_cone_angle_deg", "pitch cone angle", "δ", Q::angle},
       kCircles,
       kBevel,
       "of the cone that rolls on the mate's",
       "tan δ₁ = sin Σ / (z₂/z₁ + cos Σ)",
       [](const At& a) { return a.teeth().bevel().spec().pitch_cone.radians(); }},
      {{"base_cone_angle_deg", "base cone angle", "δ_b", Q::angle},
       kCircles,
       kBevel,
       "of the cone from which the spherical involute is unwound",
       "sin δ_b = sin δ cos α",
       [](const At& a) { return a.bevel().base_cone.radians(); }},
      {{"face_cone_angle_deg", "face cone angle", "δ_a", Q::angle},
       kCircles,
       kBevel,
       "of the cone over the tips, to turn the blank to",
       "",
       [](const At& a) { return a.bevel().face_cone.radians(); }},
      {{"root_cone_angle_deg", "root cone angle", "δ_f", Q::angle},
       kCircles,
       kBevel,
       "of the cone along the roots",
       "",
       [](const At& a) { return a.bevel().root_cone.radians(); }},
      {{"outer_cone_distance", "outer cone distance", "R_e", Q::length},
       kCircles,
       kBevel,
       "from the apex to the heel, along the pitch cone",
       "R_e = d_e / (2 sin δ)",
       [](const At& a) { return a.bevel().outer_cone_distance; }},
      {{"inner_cone_distance", "inner cone distance", "R_i", Q::length},
       kCircles,
       kBevel,
       "from the apex to the toe, along the pitch cone",
       "R_i = R_e − b",
       [](const At& a) { return a.bevel().inner_cone_distance; }},
      {{"outer_pitch_diameter", "outer pitch circle", "d_e", Q::circle},
       kCircles,
       kBevel,
       "of the pitch cone, at the heel",
       "d_e = z m",
       [](const At& a) { return a.bevel().heel.pitch_diameter; }},
      {{"outer_tip_diameter", "outer tip circle", "d_ae", Q::circle},
       kCircles,
       kBevel,
       "largest diameter over the teeth",
       "d_ae = d_e + 2 h_ae cos δ",
       [](const At& a) { return a.bevel().heel.tip_diameter; }},
      {{"outer_root_diameter", "outer root circle", "d_fe", Q::circle},
       kCircles,
       kBevel,
       "of the root cone, at the heel",
       "d_fe = d_e − 2 h_fe cos δ",
       [](const At& a) { return a.bevel().heel.root_diameter; }},
      {{"crown_to_apex", "apex to outer tip edge, along the axis", "", Q::length},
       kCircles,
       kBevel,
       "height of the outer tip edge over the apex: what the lathe is set to",
       "",
       [](const At& a) { return a.bevel().crown_to_apex; }},
      {{"mounting_distance", "mounting distance, apex to rear face", "", Q::length},
       kCircles,
       kBevel,
       "from the rear face to the apex, where both axes meet",
       "",
       [](const At& a) { return a.body().top(); }},
      {{"face_cone_apex", "apex of the face cone, from the pitch apex", "", Q::length},
       kCircles,
       kBevel,
       "how far the face cone's own point lies from the common apex",
       "",
       [](const At& a) { return a.bevel().face_apex; }},
      {{"root_cone_apex", "apex of the root cone, from the pitch apex", "", Q::length},
       kCircles,
       kBevel,
       "how far the root cone's own point lies from the common apex",
       "",
       [](const At& a) { return a.bevel().root_apex; }},
      {{"addendum", "addendum", "h_a", Q::length},
       kCircles,
       kAll & ~kLantern,
       "height of the tooth beyond the reference circle (pitch circle, reference line)",
       "h_a = (d_a − d) / 2 | internal: h_a = (d − d_a) / 2",
       addendum},
      {{"dedendum", "dedendum", "h_f", Q::length},
       kCircles,
       kAll & ~kLantern,
       "depth of the space below the reference circle (pitch circle, reference line)",
       "h_f = (d − d_f) / 2 | internal: h_f = (d_f − d) / 2",
       dedendum},
      {{"tip_height", "tips above the reference line", "", Q::length},
       kCircles,
       kRack,
       "of a rack",
       "",
       [](const At& a) { return a.teeth().rack().sizes().tip_height; }},
      {{"root_height", "roots above the reference line", "", Q::length},
       kCircles,
       kRack,
       "of a rack; below it, so negative",
       "",
       [](const At& a) { return a.teeth().rack().sizes().root_height; }},
      {{"root_form_height", "flanks begin above the reference line", "", Q::length},
       kCircles,
       kRack,
       "where the straight flank of a rack begins and the rounded root ends",
       "",
       [](const At& a) { return a.teeth().rack().sizes().root_form_height; }},
      {{"tool_tip_radius", "tool tip radius (modules)", "ρ_fP", Q::number},
       kCircles,
       kSystem & ~kRing,
       "round of the corner of the rack tool that makes the root",
       "",
       tool_tip_radius},
  };
}

std::vector<Row> thickness_rows() {
  return {
      {{"transverse_pitch", "transverse pitch", "p_t", Q::length},
       kTeeth,
       kAll,
       "from one tooth to the next, along the reference circle",
       "p_t = π m_t",
       [](const At& a) { return kPi * module_in_plane(a); }},
      {{"angular_pitch_deg", "angular pitch", "τ", Q::angle},
       kTeeth,
       kRound,
       "from one tooth to the next, as an angle",
       "τ = 360° / z",
       [](const At& a) { return 2 * kPi / a.teeth().count(); }},
      {{"transverse_base_pitch", "transverse base pitch", "p_bt", Q::length},
       kTeeth,
       kInvolute,
       "between flanks of neighbouring teeth along the line of action: mating gears must have it alike",
       "p_bt = p_t cos α_t",
       base_pitch},
      {{"normal_base_pitch", "normal base pitch", "p_bn", Q::length},
       kTeeth,
       kInvolute,
       "the same across the teeth, as a caliper spans it",
       "p_bn = p_bt cos β_b",
       [](const At& a) { return base_pitch(a) * std::cos(a.teeth().base_helix_angle().radians()); }},
      {{"normal_tooth_thickness", "normal tooth thickness", "s_n", Q::length},
       kThickness,
       kInvolute,
       "arc across the tooth on the reference cylinder, allowance included",
       "s_n = m_n (π/2 + 2 x tan α_n) + E_sn",
       [](const At& a) {
         return a.sort == kRack ? a.teeth().rack().sizes().normal_tooth_thickness : a.sizes().normal_tooth_thickness;
       }},
      {{"transverse_tooth_thickness", "transverse tooth thickness", "s_t", Q::length},
       kThickness,
       kInvolute | kTrueCycloid,
       "arc of the tooth on the reference circle, in the section across the axis",
       "s_t = s_n / cos β",
       transverse_tooth_thickness},
      {{"outer_tooth_thickness", "outer tooth thickness (arc)", "s_e", Q::length},
       kThickness,
       kBevel,
       "arc of the tooth on the pitch circle at the heel",
       "s_e = m (π/2 + 2 x tan α + 2 x_s) + E_sn",
       [](const At& a) { return a.bevel().heel.tooth_thickness; }},
      {{"tip_thickness", "tip thickness", "s_an", Q::length},
       kThickness,
       kSystem | kTrueCycloid | kLanternWheel,
       "width of the tooth's land at its tip; under a fifth of the module it breaks or prints away",
       "",
       tip_thickness},
      {{"tooth_depth", "tooth depth", "h", Q::length},
       kCircles,
       kAll & ~kLantern,
       "from root to tip",
       "h = h_a + h_f",
       tooth_depth},
      {{"pointed_diameter", "faces would meet at (none: nowhere)", "", Q::circle},
       kCircles,
       kTrueCycloid,
       "where both faces of the tooth would meet in a point",
       "",
       [](const At& a) { return gear::pointed_diameter(a.teeth().cycloidal().true_form()).value_or(std::nan("")); }},
      {{"virtual_teeth", "virtual teeth", "z_v", Q::number},
       kTeeth,
       kBevel,
       "teeth of the spur gear that a bevel gear looks like at its heel",
       "z_v = z / cos δ",
       [](const At& a) { return a.bevel().virtual_teeth; }},
      {{"undercut", "undercut", "", Q::number},
       kTeeth,
       kSystem,
       "whether the tool cuts away some of the flank near the root",
       "x_E < x_min",
       [](const At& a) {
         if (a.sort == kRack) return false;
         return a.sort == kBevel ? a.bevel().heel.undercut || a.bevel().toe.undercut : a.sizes().undercut;
       }},
      {{"min_profile_shift_no_undercut", "least shift without undercut", "x_min", Q::number},
       kTeeth,
       kExternal | kBevel,
       "the profile shift below which the tool begins to undercut",
       "x_min = h*_fP − ρ*_fP (1 − sin α_n) − z sin² α_t / (2 cos β)",
       [](const At& a) {
         return a.sort == kBevel ? a.bevel().min_profile_shift_no_undercut
                                 : in_given_modules(a, a.sizes().min_profile_shift_no_undercut);
       }},
      {{"face_rolling_radius", "rolling circle of the faces", "ρ", Q::length},
       kCircles,
       kTrueCycloid,
       "radius of the circle whose point draws the tooth beyond the pitch circle",
       "",
       [](const At& a) { return cycloid(a).face_rolling_radius; }},
      {{"flank_rolling_radius", "rolling circle of the flanks", "ρ", Q::length},
       kCircles,
       kTrueCycloid,
       "radius of the circle whose point draws the tooth below the pitch circle; the mate's faces need the same",
       "",
       [](const At& a) { return cycloid(a).flank_rolling_radius; }},
      {{"radial_flanks", "flanks are radial", "", Q::number},
       kTeeth,
       kTrueCycloid,
       "whether the flanks are straight lines towards the axis",
       "ρ = d / 4",
       [](const At& a) {
         const double d = a.teeth().cycloidal().sizes().pitch_diameter;
         return !cycloid(a).internal && std::abs(cycloid(a).flank_rolling_radius - d / 4) < 1e-9 * d;
       }},
      {{"fillet_radius", "round of the roots", "", Q::length},
       kCircles,
       kTrueCycloid,
       "radius of the round at the bottom of the spaces",
       "",
       [](const At& a) { return cycloid(a).fillet_radius; }},
      {{"addendum_arc_radius", "arc of the addendum", "", Q::length},
       kCircles,
       kClock,
       "radius of the arc that stands for the epicycloid in clock practice",
       "",
       [](const At& a) { return clock(a).sizes().addendum_arc_radius; }},
      {{"tooth_width", "tooth width at the pitch circle", "", Q::length},
       kThickness,
       kClock,
       "arc of a clock tooth on the pitch circle",
       "",
       [](const At& a) { return clock(a).sizes().tooth_width; }},
      {{"mate_teeth", "made for a mate of", "", Q::count},
       kTeeth,
       kClock | kLanternWheel,
       "teeth, leaves or pins of the mate that the teeth were made for",
       "",
       [](const At& a) {
         return a.sort == kClock ? clock(a).spec().mate_teeth : a.teeth().cycloidal().lantern_wheel().spec().pins;
       }},
      {{"theoretical_addendum", "addendum of the theory (modules)", "f", Q::number},
       kCircles,
       kClock,
       "what the epicycloid would need to carry one tooth until the next takes over",
       "",
       [](const At& a) {
         const gear::ClockSpec& c = clock(a).spec();
         return gear::theoretical_clock_addendum(c.pinion ? c.mate_teeth : c.teeth, c.pinion ? c.teeth : c.mate_teeth);
       }},
      {{"pin_diameter", "ball or pin", "D_M", Q::length},
       kCircles,
       kLantern | kLanternWheel,
       "of the pins of a lantern (of its wheel: of the lantern's)",
       "",
       [](const At& a) {
         return a.sort == kLantern ? a.teeth().cycloidal().lantern().spec().pin_diameter
                                   : a.teeth().cycloidal().lantern_wheel().spec().pin_diameter;
       }},
      {{"back_cone_deviation", "exact tooth wider than by the back cone, each flank at the outer tip", "", Q::length},
       kThickness,
       kBevel,
       "what the usual approximation by a spur gear on the back cone would be wrong by",
       "",
       [](const At& a) { return gear::back_cone_deviation(a.teeth().bevel()); }},
      {{"face_width", "face width", "b", Q::length},
       kBody,
       kAll,
       "length of the teeth along the axis (bevel: along the pitch cone; a lantern: between its plates)",
       "",
       [](const At& a) { return a.teeth().face_width(); }},
      {{"length", "length", "", Q::length},
       kBody,
       kRack,
       "of the rack",
       "",
       [](const At& a) { return a.teeth().rack().sizes().length; }},
      {{"base_height", "back below the reference line", "", Q::length},
       kBody,
       kRack,
       "from the reference line to the rack's back",
       "",
       [](const At& a) { return a.teeth().rack().sizes().base_height; }},
      {{"tip_chamfer", "tip chamfer", "", Q::length},
       kBody,
       kInvolute,
       "flat break of the tip edge",
       "",
       [](const At& a) { return over_zero(a.spec().tip_chamfer); }},
      {{"tip_round", "tip round", "", Q::length},
       kBody,
       kInvolute,
       "radius of a round between flank and tip",
       "",
       [](const At& a) { return over_zero(a.spec().tip_round); }},
      {{"outer_diameter", "outer circle", "", Q::circle},
       kBody,
       kRing | kTrueCycloid,
       "of the body of a ring",
       "",
       [](const At& a) { return a.teeth().internal() ? Said(a.teeth().outer_diameter()) : Said(); }},
      {{"cutter", "pinion cutter", "", Q::number},
       kTeeth,
       kRing,
       "the pinion-shaped cutter that makes the root of a ring",
       "",
       cutter},
      {{"span", "span", "W_k", Q::length},
       kThickness,
       kExternal,
       "what a caliper across so many teeth reads",
       "W_k = m_n cos α_n (π (k − ½) + z inv α_t + 2 x_E tan α_n)",
       [](const At& a) -> Said {
         const gear::Span span = a.teeth().gear().span(a.gear.span_teeth);
         return {{"teeth", span.teeth}, {"length", span.length}, {"contact_diameter", span.contact_diameter}};
       }},
      {{"over_balls", "over balls", "M_dK", Q::length},
       kThickness,
       kExternal,
       "over two balls in opposite spaces",
       "M_dK = d_K + D_M; of an odd number: d_K cos(90° / z) + D_M",
       [](const At& a) { return over(a.teeth().gear().over_balls(a.gear.pin_diameter)); }},
      {{"between_balls", "between balls", "M_dK", Q::length},
       kThickness,
       kRing,
       "between two balls in opposite spaces of a ring",
       "M_dK = d_K − D_M; of an odd number: d_K cos(90° / z) − D_M",
       [](const At& a) { return over(a.teeth().gear().over_balls(a.gear.pin_diameter)); }},
      {{"over_pins", "over pins", "M_dR", Q::length},
       kThickness,
       kExternal,
       "over two pins in opposite spaces; along helical teeth it differs from balls for odd numbers of teeth",
       "",
       over_pins},
      {{"between_pins", "between pins", "M_dR", Q::length},
       kThickness,
       kRing,
       "between two pins in opposite spaces of a ring",
       "",
       over_pins},
      {{"chordal_thickness", "chordal thickness", "s_c", Q::length},
       kThickness,
       kGears,
       "straight across the tooth, as a gear-tooth caliper reads it",
       "",
       [](const At& a) { return a.teeth().gear().chordal().thickness; }},
      {{"chordal_height", "chordal height", "h_c", Q::length},
       kThickness,
       kGears,
       "from the tip down to that chord: what the caliper is set to",
       "",
       [](const At& a) { return a.teeth().gear().chordal().height; }},
  };
}

std::vector<Row> body_rows() {
  return {
      {{"heel", "at the heel", "", Q::number},
       kThickness,
       kBevel,
       "the teeth at their outer end",
       "",
       [](const At& a) { return end_of(a.bevel().heel); }},
      {{"toe", "at the toe", "", Q::number},
       kThickness,
       kBevel,
       "the teeth at their inner end",
       "",
       [](const At& a) { return end_of(a.bevel().toe); }},
      {{"plate_diameter", "end plates", "", Q::circle},
       kBody,
       kLantern,
       "of the plates that hold the pins of a lantern",
       "",
       [](const At& a) { return a.teeth().cycloidal().lantern().spec().plate_diameter; }},
      {{"plate_thickness", "each end plate thick", "", Q::length},
       kBody,
       kLantern,
       "of the plates that hold the pins of a lantern",
       "",
       [](const At& a) { return a.teeth().cycloidal().lantern().spec().plate_thickness; }},
      {{"speed", "speed (r/min)", "n", Q::number},
       kBody,
       kAll & ~kRack,
       "how fast it turns, where a pair of its mechanism says a speed; negative: the other way",
       "n₂ = n₁ z₁ / z₂",
       speed_of},
      {{"speed_m_per_s", "speed (m/s)", "v", Q::number},
       kBody,
       kRack,
       "how fast the rack moves, where its mechanism says a speed",
       "v = π d n",
       [](const At& a) -> Said {
         const auto turns = speed(a.design, static_cast<std::size_t>(&a.gear - a.design.gears.data()));
         return turns ? Said(*turns / 60 * 2 * kPi / 1000) : Said();
       }},
      {{"bore_diameter", "bore", "", Q::circle}, kBody, kAll, "as asked for", "", bore_diameter},
      {{"grip", "grip of the bore", "", Q::number},
       kBody,
       kAll,
       "how the shaft sits in the bore",
       "",
       [](const At& a) { return bored(a) && a.design.as == As::nominal ? if_any(a.gear.grip) : Said(); }},
      {{"bore_expected_diameter", "bore to expect", "", Q::circle},
       kBody,
       kAll,
       "the bore with the play of its grip or allowance: what the part should have",
       "",
       [](const At& a) { return with_fit(a) ? Said(a.teeth().bore_diameter()) : Said(); }},
      {{"bore_drawn_diameter", "bore to draw", "", Q::circle},
       kBody,
       kAll,
       "what the files have, so that the process makes the bore to expect",
       "",
       bore_drawn},
      {{"keyway", "keyway", "", Q::length},
       kBody,
       kAll,
       "its width, and its height from the opposite wall of the bore",
       "",
       [](const At& a) -> Said {
         const auto& k = a.gear.features.keyway;
         if (!k) return {};
         return {{"width", k->width}, {"height", k->height}};
       }},
      {{"sector_teeth", "teeth kept", "", Q::count},
       kBody,
       kGears,
       "of a gear of which only a sector is made",
       "",
       [](const At& a) { return a.gear.features.sector_teeth > 0 ? Said(a.gear.features.sector_teeth) : Said(); }},
  };
}

}  // namespace
}  // namespace gear_rows

unsigned sort_of(const Gear& g) {
  return g.teeth.visit(overloaded{
      [](const gear::CylindricalGear& c) { return static_cast<unsigned>(c.internal() ? kRing : kExternal); },
      [](const gear::Rack&) { return static_cast<unsigned>(kRack); },
      [](const gear::BevelGear&) { return static_cast<unsigned>(kBevel); },
      [](const gear::CycloidalTeeth& t) {
        switch (t.form()) {
          case gear::CycloidalForm::true_form: return static_cast<unsigned>(kTrueCycloid);
          case gear::CycloidalForm::clock: return static_cast<unsigned>(kClock);
          case gear::CycloidalForm::lantern_wheel: return static_cast<unsigned>(kLanternWheel);
          case gear::CycloidalForm::lantern: return static_cast<unsigned>(kLantern);
        }
        return 0U;
      },
  });
}

const std::vector<ReadingRow<GearAt>>& gear_readings() {
  using namespace gear_rows;
  static const std::vector<Row> all = joined<At>({teeth_rows(), circle_rows(), thickness_rows(), body_rows(),
                                                  name_rows<At>(kAll), mass_rows<At>(kAll, kAll & ~kRack)});
  return all;
}

}  // namespace palio::job
