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

Said over_zero(double value) { return value > 0 ? Said(value) : Said(); }
const gear::ClockGear& clock(const At& a) { return a.teeth().cycloidal().clock(); }
const gear::CycloidalSpec& cycloid(const At& a) { return a.teeth().cycloidal().true_form().spec(); }

std::vector<Row> teeth_rows() {
  return {
      Row("kind", "kind", "", Q::number).in(kTeeth).of(kAll, "the sort of gear").is([](const At& a) {
        return Said(std::string(name(a.gear.kind)));
      }),
      Row("form", "form", "", Q::number)
          .in(kTeeth)
          .of(kCycloidal & ~kLantern,
              "which curves cycloidal teeth are made of: true cycloids, arcs of clock practice, or the wheel of a "
              "lantern")
          .is([](const At& a) { return Said(std::string(gear::name(a.teeth().cycloidal().form()))); }),
      Row("role", "role", "", Q::number)
          .in(kTeeth)
          .of(kClock, "wheel or pinion of a clock train: practice gives the two different teeth")
          .is([](const At& a) { return Said(clock(a).spec().pinion ? "pinion" : "wheel"); }),
      Row("teeth", "teeth", "z", Q::count)
          .in(kTeeth)
          .of(kAll, "number of teeth; of a pinion its leaves, of a lantern its pins")
          .is([](const At& a) { return a.teeth().count(); }),
      Row("normal_module", "normal module", "m_n", Q::module_size)
          .in(kTeeth)
          .of(kAll, "size of the teeth, across them: the pitch there divided by π")
          .is("m_n = m_t cos β", [](const At& a) { return a.teeth().module(); }),
      Row("transverse_module", "transverse module", "m_t", Q::module_size)
          .in(kTeeth)
          .of(kAll, "size of the teeth in the section across the axis: reference diameter per tooth")
          .is("m_t = m_n / cos β = d / z", module_in_plane),
      Row("diametral_pitch", "diametral pitch", "P", Q::per_inch)
          .in(kTeeth)
          .of(kAll, "teeth per inch of reference diameter")
          .is("P = 25.4 mm / m", diametral_pitch),
      Row("normal_pressure_angle_deg", "normal pressure angle", "α_n", Q::angle)
          .in(kTeeth)
          .of(kSystem, "how far the flank leans at the reference circle, in the section across the teeth")
          .is("tan α_n = tan α_t cos β", normal_pressure_angle),
      Row("transverse_pressure_angle_deg", "transverse pressure angle", "α_t", Q::angle)
          .in(kTeeth)
          .of(kSystem, "how far the flank leans at the reference circle, in the section across the axis")
          .is("tan α_t = tan α_n / cos β", transverse_pressure_angle),
      Row("helix_angle_deg", "helix angle", "β", Q::angle)
          .in(kTeeth)
          .of(kInvolute, "between the teeth and the axis, at the reference cylinder")
          .is("tan β = π d / p_z",
              [](const At& a) {
                return Said::degrees(a.gear.helix_angle_deg, std::abs(a.spec().helix_angle.radians()));
              }),
      Row("base_helix_angle_deg", "base helix angle", "β_b", Q::angle)
          .in(kTeeth)
          .of(kInvolute, "between the teeth and the axis, at the base cylinder")
          .is("sin β_b = sin β cos α_n", [](const At& a) { return std::abs(a.teeth().base_helix_angle().radians()); }),
      Row("system", "given in the section", "", Q::number)
          .in(kTeeth)
          .of(kInvolute, "in which section module, pressure angle and coefficients were given")
          .is([](const At& a) { return a.gear.transverse_system ? Said("transverse") : Said(); }),
      Row("apex", "apex", "", Q::number)
          .in(kTeeth)
          .of(kExternal, "which way the V of double helical teeth points, seen from +z")
          .is(apex),
      Row("gap", "gap between the halves", "", Q::length)
          .in(kTeeth)
          .of(kExternal, "groove between the halves of double helical teeth")
          .is([](const At& a) { return a.spec().double_helical ? Said(a.spec().gap) : Said(); }),
      Row("hand", "hand", "", Q::number)
          .in(kTeeth)
          .of(kInvolute, "right: the teeth rise to the right when the axis stands upright")
          .is(hand),
      Row("lead", "lead", "p_z", Q::length)
          .in(kTeeth)
          .of(kGears, "how far along the axis a tooth goes once around; none for straight teeth")
          .is("p_z = π d / tan β", [](const At& a) { return a.teeth().gear().lead(); }),
      Row("depth", "depth", "", Q::number)
          .in(kTeeth)
          .of(kBevel, "how the depth of bevel teeth runs from heel to toe")
          .is([](const At& a) { return Said(std::string(gear::name(a.teeth().bevel().spec().depth))); }),
      Row("ends", "closed at heel and toe by", "", Q::number)
          .in(kTeeth)
          .of(kBevel, "what closes bevel teeth at heel and toe: cones across the pitch cone, or spheres about the apex")
          .is([](const At& a) {
            return Said(a.teeth().bevel().spec().ends == gear::BevelEnds::cones ? "cones" : "spheres");
          }),
      Row("profile_shift", "profile shift (modules)", "x", Q::number)
          .in(kTeeth)
          .of(kSystem,
              "how far the reference line of the tool stands off the reference circle; positive thickens the tooth's "
              "root")
          .is([](const At& a) {
            return a.sort == kBevel ? a.teeth().bevel().spec().profile_shift
                                    : in_given_modules(a, a.spec().profile_shift);
          }),
      Row("thickness_shift", "thickness shift (modules)", "x_s", Q::number)
          .in(kTeeth)
          .of(kBevel, "a bevel tooth is thicker by twice this, its mate thinner by as much")
          .is([](const At& a) { return a.teeth().bevel().spec().thickness_shift; }),
      Row("generating_profile_shift", "generating profile shift (modules)", "x_E", Q::number)
          .in(kTeeth)
          .of(kInvolute, "the shift the tooth is really cut with, allowance included")
          .is("x_E = x + E_sn / (2 m_n tan α_n)",
              [](const At& a) { return in_given_modules(a, a.teeth().generating_profile_shift()); }),
      Row("thickness_allowance", "thickness allowance", "E_sn", Q::length)
          .in(kThickness)
          .of(kSystem | kTrueCycloid,
              "how much the tooth is thicker than nominal, across it at the reference circle; negative thins, for "
              "backlash")
          .is(thickness_allowance),
  };
}

std::vector<Row> circle_rows() {
  return {
      Row("pitch_diameter", "pitch circle", "d", Q::circle)
          .in(kCircles)
          .of(kCycloidal, "where the gear rolls on its mate without sliding")
          .is("d = z m", [](const At& a) { return a.teeth().cycloidal().sizes().pitch_diameter; }),
      Row("reference_diameter", "reference circle", "d", Q::circle)
          .in(kCircles)
          .of(kGears, "the circle on which teeth are counted: module times teeth")
          .is("d = z m_t", [](const At& a) { return a.sizes().reference_diameter; }),
      Row("base_diameter", "base circle", "d_b", Q::circle)
          .in(kCircles)
          .of(kGears, "the circle from which the involute is unwound; no involute lies within it")
          .is("d_b = d cos α_t", [](const At& a) { return a.sizes().base_diameter; }),
      Row("tip_diameter", "tip circle", "d_a", Q::circle)
          .in(kCircles)
          .of(kGears | kCycloidal, "over the tips of the teeth; of a ring, inside them")
          .is("d_a = d + 2 (x + h*_aP) m_n | internal: d_a = d − 2 (x + h*_aP) m_n | cycloidal:",
              [](const At& a) { return a.teeth().tip_diameter(); }),
      Row("root_diameter", "root circle", "d_f", Q::circle)
          .in(kCircles)
          .of(kGears | kCycloidal, "at the bottom of the tooth spaces")
          .is("d_f = d − 2 (h*_fP − x_E) m_n | internal: d_f = d + 2 (h*_fP − x_E) m_n | cycloidal:",
              [](const At& a) { return a.teeth().root_diameter(); }),
      Row("root_form_diameter", "root form circle", "d_Ff", Q::circle)
          .in(kCircles)
          .of(kGears, "where the usable flank begins and the rounded root ends")
          .is([](const At& a) { return a.sizes().root_form_diameter; }),
      Row("tip_form_diameter", "tip form circle", "d_Fa", Q::circle)
          .in(kCircles)
          .of(kGears, "where the usable flank ends and a break of the tip begins")
          .is([](const At& a) { return a.sizes().tip_form_diameter; }),
      Row("form_diameter", "usable flank ends towards the root at", "", Q::circle)
          .in(kCircles)
          .of(kCycloidal & ~kLantern, "where the usable flank ends and the round of the root begins")
          .is([](const At& a) { return a.teeth().cycloidal().sizes().form_diameter; }),
      Row("pin_gap", "between neighbouring pins", "", Q::length)
          .in(kCircles)
          .of(kLantern, "room between the pins of a lantern, for the wheel's tooth")
          .is([](const At& a) { return a.teeth().cycloidal().lantern().pin_gap(); })
          .marked(gear_marks::pin_gap),
      Row("pitch_cone_angle_deg", "pitch cone angle", "δ", Q::angle)
          .in(kCircles)
          .of(kBevel, "of the cone that rolls on the mate's")
          .is("tan δ₁ = sin Σ / (z₂/z₁ + cos Σ)",
              [](const At& a) { return a.teeth().bevel().spec().pitch_cone.radians(); })
          .marked(gear_marks::pitch_cone),
      Row("base_cone_angle_deg", "base cone angle", "δ_b", Q::angle)
          .in(kCircles)
          .of(kBevel, "of the cone from which the spherical involute is unwound")
          .is("sin δ_b = sin δ cos α", [](const At& a) { return a.bevel().base_cone.radians(); })
          .marked(gear_marks::base_cone),
      Row("face_cone_angle_deg", "face cone angle", "δ_a", Q::angle)
          .in(kCircles)
          .of(kBevel, "of the cone over the tips, to turn the blank to")
          .is([](const At& a) { return a.bevel().face_cone.radians(); })
          .marked(gear_marks::face_cone),
      Row("root_cone_angle_deg", "root cone angle", "δ_f", Q::angle)
          .in(kCircles)
          .of(kBevel, "of the cone along the roots")
          .is([](const At& a) { return a.bevel().root_cone.radians(); })
          .marked(gear_marks::root_cone),
      Row("outer_cone_distance", "outer cone distance", "R_e", Q::length)
          .in(kCircles)
          .of(kBevel, "from the apex to the heel, along the pitch cone")
          .is("R_e = d_e / (2 sin δ)", [](const At& a) { return a.bevel().outer_cone_distance; })
          .marked(gear_marks::outer_cone_distance),
      Row("inner_cone_distance", "inner cone distance", "R_i", Q::length)
          .in(kCircles)
          .of(kBevel, "from the apex to the toe, along the pitch cone")
          .is("R_i = R_e − b", [](const At& a) { return a.bevel().inner_cone_distance; })
          .marked(gear_marks::inner_cone_distance),
      Row("outer_pitch_diameter", "outer pitch circle", "d_e", Q::circle)
          .in(kCircles)
          .of(kBevel, "of the pitch cone, at the heel")
          .is("d_e = z m", [](const At& a) { return a.bevel().heel.pitch_diameter; })
          .marked(gear_marks::outer_pitch),
      Row("outer_tip_diameter", "outer tip circle", "d_ae", Q::circle)
          .in(kCircles)
          .of(kBevel, "largest diameter over the teeth")
          .is("d_ae = d_e + 2 h_ae cos δ", [](const At& a) { return a.bevel().heel.tip_diameter; })
          .marked(gear_marks::outer_tip),
      Row("outer_root_diameter", "outer root circle", "d_fe", Q::circle)
          .in(kCircles)
          .of(kBevel, "of the root cone, at the heel")
          .is("d_fe = d_e − 2 h_fe cos δ", [](const At& a) { return a.bevel().heel.root_diameter; })
          .marked(gear_marks::outer_root),
      Row("crown_to_apex", "apex to outer tip edge, along the axis", "", Q::length)
          .in(kCircles)
          .of(kBevel, "height of the outer tip edge over the apex: what the lathe is set to")
          .is([](const At& a) { return a.bevel().crown_to_apex; })
          .marked(gear_marks::crown),
      Row("mounting_distance", "mounting distance, apex to rear face", "", Q::length)
          .in(kCircles)
          .of(kBevel, "from the rear face to the apex, where both axes meet")
          .is([](const At& a) { return a.body().top(); })
          .marked(gear_marks::mounting_distance),
      Row("face_cone_apex", "apex of the face cone, from the pitch apex", "", Q::length)
          .in(kCircles)
          .of(kBevel, "how far the face cone's own point lies from the common apex")
          .is([](const At& a) { return a.bevel().face_apex; }),
      Row("root_cone_apex", "apex of the root cone, from the pitch apex", "", Q::length)
          .in(kCircles)
          .of(kBevel, "how far the root cone's own point lies from the common apex")
          .is([](const At& a) { return a.bevel().root_apex; }),
      Row("addendum", "addendum", "h_a", Q::length)
          .in(kCircles)
          .of(kAll & ~kLantern, "height of the tooth beyond the reference circle (pitch circle, reference line)")
          .is("h_a = (d_a − d) / 2 | internal: h_a = (d − d_a) / 2", addendum)
          .marked(gear_marks::addendum),
      Row("dedendum", "dedendum", "h_f", Q::length)
          .in(kCircles)
          .of(kAll & ~kLantern, "depth of the space below the reference circle (pitch circle, reference line)")
          .is("h_f = (d − d_f) / 2 | internal: h_f = (d_f − d) / 2", dedendum)
          .marked(gear_marks::dedendum),
      Row("tip_height", "tips above the reference line", "", Q::length)
          .in(kCircles)
          .of(kRack, "of a rack")
          .is([](const At& a) { return a.teeth().rack().sizes().tip_height; })
          .marked(gear_marks::rack_tip),
      Row("root_height", "roots above the reference line", "", Q::length)
          .in(kCircles)
          .of(kRack, "of a rack; below it, so negative")
          .is([](const At& a) { return a.teeth().rack().sizes().root_height; })
          .marked(gear_marks::rack_root),
      Row("root_form_height", "flanks begin above the reference line", "", Q::length)
          .in(kCircles)
          .of(kRack, "where the straight flank of a rack begins and the rounded root ends")
          .is([](const At& a) { return a.teeth().rack().sizes().root_form_height; })
          .marked(gear_marks::rack_form),
      Row("tool_tip_radius", "tool tip radius (modules)", "ρ_fP", Q::number)
          .in(kCircles)
          .of(kSystem & ~kRing, "round of the corner of the rack tool that makes the root")
          .is(tool_tip_radius),
  };
}

std::vector<Row> thickness_rows() {
  return {
      Row("transverse_pitch", "transverse pitch", "p_t", Q::length)
          .in(kTeeth)
          .of(kAll, "from one tooth to the next, along the reference circle")
          .is("p_t = π m_t | cycloidal: p_t = π d / z", [](const At& a) { return kPi * module_in_plane(a); })
          .marked(gear_marks::pitch),
      Row("angular_pitch_deg", "angular pitch", "τ", Q::angle)
          .in(kTeeth)
          .of(kRound, "from one tooth to the next, as an angle")
          .is("τ = 360° / z", [](const At& a) { return 2 * kPi / a.teeth().count(); })
          .marked(gear_marks::angular_pitch),
      Row("transverse_base_pitch", "transverse base pitch", "p_bt", Q::length)
          .in(kTeeth)
          .of(kInvolute,
              "between flanks of neighbouring teeth along the line of action: mating gears must have it alike")
          .is("p_bt = p_t cos α_t", base_pitch)
          .marked(gear_marks::base_pitch),
      Row("normal_base_pitch", "normal base pitch", "p_bn", Q::length)
          .in(kTeeth)
          .of(kInvolute, "the same across the teeth, as a caliper spans it")
          .is("p_bn = p_bt cos β_b",
              [](const At& a) { return base_pitch(a) * std::cos(a.teeth().base_helix_angle().radians()); })
          .marked(gear_marks::base_pitch),
      Row("normal_tooth_thickness", "normal tooth thickness", "s_n", Q::length)
          .in(kThickness)
          .of(kInvolute, "arc across the tooth on the reference cylinder, allowance included")
          .is("s_n = m_n (π/2 + 2 x tan α_n) + E_sn",
              [](const At& a) {
                return a.sort == kRack ? a.teeth().rack().sizes().normal_tooth_thickness
                                       : a.sizes().normal_tooth_thickness;
              })
          .marked(gear_marks::tooth_thickness),
      Row("transverse_tooth_thickness", "transverse tooth thickness", "s_t", Q::length)
          .in(kThickness)
          .of(kInvolute | kTrueCycloid, "arc of the tooth on the reference circle, in the section across the axis")
          .is("s_t = s_n / cos β", transverse_tooth_thickness)
          .marked(gear_marks::tooth_thickness),
      Row("outer_tooth_thickness", "outer tooth thickness (arc)", "s_e", Q::length)
          .in(kThickness)
          .of(kBevel, "arc of the tooth on the pitch circle at the heel")
          .is("s_e = m (π/2 + 2 x tan α + 2 x_s) + E_sn", [](const At& a) { return a.bevel().heel.tooth_thickness; }),
      Row("tip_thickness", "tip thickness", "s_an", Q::length)
          .in(kThickness)
          .of(kSystem | kTrueCycloid | kLanternWheel,
              "width of the tooth's land at its tip; under a fifth of the module it breaks or prints away")
          .is(tip_thickness)
          .marked(gear_marks::tip_thickness),
      Row("tooth_depth", "tooth depth", "h", Q::length)
          .in(kCircles)
          .of(kAll & ~kLantern, "from root to tip")
          .is("h = h_a + h_f", tooth_depth)
          .marked(gear_marks::tooth_depth),
      Row("pointed_diameter", "faces would meet at (none: nowhere)", "", Q::circle)
          .in(kCircles)
          .of(kTrueCycloid, "where both faces of the tooth would meet in a point")
          .is([](const At& a) {
            return gear::pointed_diameter(a.teeth().cycloidal().true_form()).value_or(std::nan(""));
          }),
      Row("virtual_teeth", "virtual teeth", "z_v", Q::number)
          .in(kTeeth)
          .of(kBevel, "teeth of the spur gear that a bevel gear looks like at its heel")
          .is("z_v = z / cos δ", [](const At& a) { return a.bevel().virtual_teeth; }),
      Row("undercut", "undercut", "", Q::number)
          .in(kTeeth)
          .of(kSystem, "whether the tool cuts away some of the flank near the root")
          .is("x_E < x_min",
              [](const At& a) {
                if (a.sort == kRack) return false;
                return a.sort == kBevel ? a.bevel().heel.undercut || a.bevel().toe.undercut : a.sizes().undercut;
              })
          .marked(gear_marks::undercut),
      Row("min_profile_shift_no_undercut", "least shift without undercut", "x_min", Q::number)
          .in(kTeeth)
          .of(kExternal | kBevel, "the profile shift below which the tool begins to undercut")
          .is("x_min = h*_fP − ρ*_fP (1 − sin α_n) − z sin² α_t / (2 cos β)",
              [](const At& a) {
                return a.sort == kBevel ? a.bevel().min_profile_shift_no_undercut
                                        : in_given_modules(a, a.sizes().min_profile_shift_no_undercut);
              }),
      Row("face_rolling_radius", "rolling circle of the faces", "ρ", Q::length)
          .in(kCircles)
          .of(kTrueCycloid, "radius of the circle whose point draws the tooth beyond the pitch circle")
          .is([](const At& a) { return cycloid(a).face_rolling_radius; })
          .marked(gear_marks::face_circle),
      Row("flank_rolling_radius", "rolling circle of the flanks", "ρ", Q::length)
          .in(kCircles)
          .of(kTrueCycloid,
              "radius of the circle whose point draws the tooth below the pitch circle; the mate's faces need the same")
          .is([](const At& a) { return cycloid(a).flank_rolling_radius; })
          .marked(gear_marks::flank_circle),
      Row("radial_flanks", "flanks are radial", "", Q::number)
          .in(kTeeth)
          .of(kTrueCycloid, "whether the flanks are straight lines towards the axis")
          .is("ρ = d / 4",
              [](const At& a) {
                const double d = a.teeth().cycloidal().sizes().pitch_diameter;
                return !cycloid(a).internal && std::abs(cycloid(a).flank_rolling_radius - d / 4) < 1e-9 * d;
              }),
      Row("fillet_radius", "round of the roots", "", Q::length)
          .in(kCircles)
          .of(kTrueCycloid, "radius of the round at the bottom of the spaces")
          .is([](const At& a) { return cycloid(a).fillet_radius; }),
      Row("addendum_arc_radius", "arc of the addendum", "", Q::length)
          .in(kCircles)
          .of(kClock, "radius of the arc that stands for the epicycloid in clock practice")
          .is([](const At& a) { return clock(a).sizes().addendum_arc_radius; }),
      Row("tooth_width", "tooth width at the pitch circle", "", Q::length)
          .in(kThickness)
          .of(kClock, "arc of a clock tooth on the pitch circle")
          .is([](const At& a) { return clock(a).sizes().tooth_width; })
          .marked(gear_marks::tooth_thickness),
      Row("mate_teeth", "made for a mate of", "", Q::count)
          .in(kTeeth)
          .of(kClock | kLanternWheel, "teeth, leaves or pins of the mate that the teeth were made for")
          .is([](const At& a) {
            return a.sort == kClock ? clock(a).spec().mate_teeth : a.teeth().cycloidal().lantern_wheel().spec().pins;
          }),
      Row("theoretical_addendum", "addendum of the theory (modules)", "f", Q::number)
          .in(kCircles)
          .of(kClock, "what the epicycloid would need to carry one tooth until the next takes over")
          .is([](const At& a) {
            const gear::ClockSpec& c = clock(a).spec();
            return gear::theoretical_clock_addendum(c.pinion ? c.mate_teeth : c.teeth,
                                                    c.pinion ? c.teeth : c.mate_teeth);
          }),
      Row("pin_diameter", "ball or pin", "D_M", Q::length)
          .in(kCircles)
          .of(kLantern | kLanternWheel, "of the pins of a lantern (of its wheel: of the lantern's)")
          .is([](const At& a) {
            return a.sort == kLantern ? a.teeth().cycloidal().lantern().spec().pin_diameter
                                      : a.teeth().cycloidal().lantern_wheel().spec().pin_diameter;
          }),
      Row("back_cone_deviation", "exact tooth wider than by the back cone, each flank at the outer tip", "", Q::length)
          .in(kThickness)
          .of(kBevel, "what the usual approximation by a spur gear on the back cone would be wrong by")
          .is([](const At& a) { return gear::back_cone_deviation(a.teeth().bevel()); }),
      Row("face_width", "face width", "b", Q::length)
          .in(kBody)
          .of(kAll, "length of the teeth along the axis (bevel: along the pitch cone; a lantern: between its plates)")
          .is([](const At& a) { return a.teeth().face_width(); })
          .marked(gear_marks::face_width),
      Row("length", "length", "", Q::length)
          .in(kBody)
          .of(kRack, "of the rack")
          .is([](const At& a) { return a.teeth().rack().sizes().length; })
          .marked(gear_marks::rack_length),
      Row("base_height", "back below the reference line", "", Q::length)
          .in(kBody)
          .of(kRack, "from the reference line to the rack's back")
          .is([](const At& a) { return a.teeth().rack().sizes().base_height; })
          .marked(gear_marks::rack_back),
      Row("tip_chamfer", "tip chamfer", "", Q::length)
          .in(kBody)
          .of(kInvolute, "flat break of the tip edge")
          .is([](const At& a) { return over_zero(a.spec().tip_chamfer); }),
      Row("tip_round", "tip round", "", Q::length)
          .in(kBody)
          .of(kInvolute, "radius of a round between flank and tip")
          .is([](const At& a) { return over_zero(a.spec().tip_round); }),
      Row("outer_diameter", "outer circle", "", Q::circle)
          .in(kBody)
          .of(kRing | kTrueCycloid, "of the body of a ring")
          .is([](const At& a) { return a.teeth().internal() ? Said(a.teeth().outer_diameter()) : Said(); }),
      Row("cutter", "pinion cutter", "", Q::number)
          .in(kTeeth)
          .of(kRing, "the pinion-shaped cutter that makes the root of a ring")
          .is(cutter),
      Row("span", "span", "W_k", Q::length)
          .in(kThickness)
          .of(kExternal, "what a caliper across so many teeth reads")
          .is("W_k = m_n cos α_n (π (k − ½) + z inv α_t + 2 x_E tan α_n)",
              [](const At& a) -> Said {
                const gear::Span span = a.teeth().gear().span(a.gear.span_teeth);
                return {{"teeth", span.teeth}, {"length", span.length}, {"contact_diameter", span.contact_diameter}};
              })
          .marked(gear_marks::span),
      Row("over_balls", "over balls", "M_dK", Q::length)
          .in(kThickness)
          .of(kExternal, "over two balls in opposite spaces")
          .is("M_dK = d_K + D_M; of an odd number: d_K cos(90° / z) + D_M",
              [](const At& a) { return over(a.teeth().gear().over_balls(a.gear.pin_diameter)); })
          .marked(gear_marks::balls),
      Row("between_balls", "between balls", "M_dK", Q::length)
          .in(kThickness)
          .of(kRing, "between two balls in opposite spaces of a ring")
          .is("M_dK = d_K − D_M; of an odd number: d_K cos(90° / z) − D_M",
              [](const At& a) { return over(a.teeth().gear().over_balls(a.gear.pin_diameter)); })
          .marked(gear_marks::balls),
      Row("over_pins", "over pins", "M_dR", Q::length)
          .in(kThickness)
          .of(kExternal,
              "over two pins in opposite spaces; along helical teeth it differs from balls for odd numbers of teeth")
          .is(over_pins)
          .marked(gear_marks::pins),
      Row("between_pins", "between pins", "M_dR", Q::length)
          .in(kThickness)
          .of(kRing, "between two pins in opposite spaces of a ring")
          .is(over_pins)
          .marked(gear_marks::pins),
      Row("chordal_thickness", "chordal thickness", "s_c", Q::length)
          .in(kThickness)
          .of(kGears, "straight across the tooth, as a gear-tooth caliper reads it")
          .is([](const At& a) { return a.teeth().gear().chordal().thickness; })
          .marked(gear_marks::chordal_thickness),
      Row("chordal_height", "chordal height", "h_c", Q::length)
          .in(kThickness)
          .of(kGears, "from the tip down to that chord: what the caliper is set to")
          .is([](const At& a) { return a.teeth().gear().chordal().height; })
          .marked(gear_marks::chordal_height),
      Row("heel", "at the heel", "", Q::number)
          .in(kThickness)
          .of(kBevel, "the teeth at their outer end")
          .is([](const At& a) { return end_of(a.bevel().heel); }),
      Row("toe", "at the toe", "", Q::number)
          .in(kThickness)
          .of(kBevel, "the teeth at their inner end")
          .is([](const At& a) { return end_of(a.bevel().toe); }),
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
  static const std::vector<Row> all = joined<At>({teeth_rows(), circle_rows(), thickness_rows(), gear_body_rows(),
                                                  name_rows<At>(kAll), mass_rows<At>(kAll, kAll & ~kRack)});
  return all;
}

}  // namespace palio::job
