// What is read of a gear: every reading with its words, its formula and the function that computes it. Here what is
// said of the teeth as a whole, and all tables together.
#include "gear_rows.hpp"

namespace palio::job::gear_rows {
namespace {

double diametral_pitch(const At& a) {
  return 25.4 / (a.gear.transverse_system ? a.teeth().transverse_module() : a.teeth().module());
}

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

Said thickness_allowance(const At& a) {
  if (a.sort == kBevel) return a.teeth().bevel().spec().thickness_allowance;
  if (a.sort == kTrueCycloid) return a.teeth().cycloidal().true_form().spec().thickness_allowance;
  return a.spec().thickness_allowance;
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

}  // namespace

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
          .is("m_n = m_t cos β", [](const At& a) { return a.teeth().module(); })
          .marked(gear_marks::pitch),
      Row("transverse_module", "transverse module", "m_t", Q::module_size)
          .in(kTeeth)
          .of(kAll, "size of the teeth in the section across the axis: reference diameter per tooth")
          .is("m_t = m_n / cos β = d / z", module_in_plane)
          .marked(gear_marks::pitch),
      Row("diametral_pitch", "diametral pitch", "P", Q::per_inch)
          .in(kTeeth)
          .of(kAll, "teeth per inch of reference diameter")
          .is("P = 25.4 mm / m", diametral_pitch),
      Row("normal_pressure_angle_deg", "normal pressure angle", "α_n", Q::angle)
          .in(kTeeth)
          .of(kSystem, "how far the flank leans at the reference circle, in the section across the teeth")
          .is("tan α_n = tan α_t cos β", normal_pressure_angle)
          .marked(gear_marks::pressure_angle),
      Row("transverse_pressure_angle_deg", "transverse pressure angle", "α_t", Q::angle)
          .in(kTeeth)
          .of(kSystem, "how far the flank leans at the reference circle, in the section across the axis")
          .is("tan α_t = tan α_n / cos β", transverse_pressure_angle)
          .marked(gear_marks::pressure_angle),
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

}  // namespace palio::job::gear_rows

namespace palio::job {

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
