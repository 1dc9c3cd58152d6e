// What is read of a gear: its circles, cones and heights.
#include "gear_rows.hpp"

namespace palio::job::gear_rows {
namespace {

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

Said tool_tip_radius(const At& a) {
  if (a.sort == kBevel) return a.bevel().tool_tip_radius;
  return in_given_modules(a, a.sort == kRack ? a.teeth().rack().sizes().tool_tip_radius : a.sizes().tool_tip_radius);
}

}  // namespace

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
          .is([](const At& a) {
            return a.teeth().cycloidal().lantern().pin_gap() - 2 * a.teeth().cycloidal().growth();
          })
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
          .marked(gear_marks::addendum),
      Row("root_height", "roots above the reference line", "", Q::length)
          .in(kCircles)
          .of(kRack, "of a rack; below it, so negative")
          .is([](const At& a) { return a.teeth().rack().sizes().root_height; })
          .marked(gear_marks::dedendum),
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

}  // namespace palio::job::gear_rows
