// What is read of a gear: pitches, thickness, and what a caliper, pins or balls find of them.
#include "gear_rows.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::job::gear_rows {
namespace {

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

double base_pitch(const At& a) {
  return kPi * a.teeth().transverse_module() * std::cos(a.teeth().transverse_pressure_angle().radians());
}

/// With teeth as thin as they may be; nothing in the other states of a design.
std::optional<CylindricalGear> thinnest(const At& a) {
  return a.design.as == As::nominal ? a.gear.thinnest() : std::nullopt;
}

Said gauged(const gear::OverBalls& m, const std::optional<gear::OverBalls>& least) {
  if (!least) return {{"pin_diameter", m.pin_diameter}, {"length", m.length}};
  return {{"pin_diameter", m.pin_diameter}, {"length", m.length}, {"at_thinnest", least->length}};
}

Said over_balls(const At& a) {
  const gear::OverBalls balls = a.teeth().gear().over_balls(a.gear.pin_diameter);
  const auto thin = thinnest(a);
  return gauged(balls, thin ? std::optional(thin->over_balls(balls.pin_diameter)) : std::nullopt);
}

Said over_pins(const At& a) {
  const auto pins = a.teeth().gear().over_pins(a.gear.pin_diameter);
  const auto thin = thinnest(a);
  return pins ? gauged(*pins, thin ? thin->over_pins(pins->pin_diameter) : std::nullopt) : Said();
}

Said span(const At& a) {
  const gear::Span s = a.teeth().gear().span(a.gear.span_teeth);
  const auto thin = thinnest(a);
  if (!thin) return {{"teeth", s.teeth}, {"length", s.length}, {"contact_diameter", s.contact_diameter}};
  return {{"teeth", s.teeth},
          {"length", s.length},
          {"at_thinnest", thin->span(s.teeth).length},
          {"contact_diameter", s.contact_diameter}};
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

Said cutter(const At& a) {
  const auto& c = a.sizes().cutter;
  if (!c) return {};
  return {{"teeth", c->teeth},
          {"profile_shift", in_given_modules(a, c->profile_shift)},
          {"tip_diameter", c->tip_diameter},
          {"tip_corner_radius", c->tip_corner_radius}};
}

Said over_zero(double value) { return value > 0 ? Said(value) : Said(); }

}  // namespace

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
      Row("least_tooth_thickness", "least that its tolerance allows", "s_n", Q::length)
          .in(kThickness)
          .of(kInvolute, "normal tooth thickness less thickness_tolerance")
          .is([](const At& a) {
            if (!(a.gear.thickness_tolerance > 0) || a.design.as != As::nominal) return Said();
            const double s =
                a.sort == kRack ? a.teeth().rack().sizes().normal_tooth_thickness : a.sizes().normal_tooth_thickness;
            return Said(s - a.gear.thickness_tolerance);
          }),
      Row("tip_limit_diameter", "tip circle at the end of its tolerance", "d_a", Q::circle)
          .in(kCircles)
          .of(kGears, "smaller by tip_tolerance, of a ring larger")
          .is([](const At& a) {
            if (!(a.gear.tip_tolerance > 0) || a.design.as != As::nominal) return Said();
            return Said(a.sizes().tip_diameter - outward(a) * a.gear.tip_tolerance);
          }),
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
                return !cycloid(a).internal && std::abs(cycloid(a).flank_rolling_radius - d / 4) < math::kAlike * d;
              }),
      Row("fillet_radius", "round of the roots", "", Q::length)
          .in(kCircles)
          .of(kTrueCycloid | kClock, "radius of the round at the bottom of the spaces")
          .is([](const At& a) {
            const bool clock_teeth = a.teeth().cycloidal().form() == gear::CycloidalForm::clock;
            return clock_teeth ? over_zero(clock(a).spec().fillet_radius) : Said(cycloid(a).fillet_radius);
          }),
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
          .of(kInvolute | kClock, "radius of a round between flank and tip, of clock teeth of their ridge")
          .is([](const At& a) {
            return over_zero(a.teeth().is_cycloidal() ? clock(a).spec().tip_round : a.spec().tip_round);
          }),
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
          .is("W_k = m_n cos α_n (π (k − ½) + z inv α_t + 2 x_E tan α_n)", span)
          .marked(gear_marks::span),
      Row("over_balls", "over balls", "M_dK", Q::length)
          .in(kThickness)
          .of(kExternal, "over two balls in opposite spaces")
          .is("M_dK = d_K + D_M; of an odd number: d_K cos(90° / z) + D_M", over_balls)
          .marked(gear_marks::balls),
      Row("between_balls", "between balls", "M_dK", Q::length)
          .in(kThickness)
          .of(kRing, "between two balls in opposite spaces of a ring")
          .is("M_dK = d_K − D_M; of an odd number: d_K cos(90° / z) − D_M", over_balls)
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

}  // namespace palio::job::gear_rows
