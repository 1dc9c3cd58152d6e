// Teeth by kind: from what a gear's table says to what is built.
#include <algorithm>
#include <cmath>

#include "palio/math/tolerance.hpp"
#include "resolver.hpp"

namespace palio::job {

void Resolver::teeth_and_module(const Settings& g, gear::CylindricalSpec& spec) {
  const Value *teeth = g.find("teeth"), *module = g.find("module"), *pitch = g.find("diametral_pitch"),
              *diameter = g.find("reference_diameter");
  const std::string prefix = "gear." + g.name;
  if (module && pitch) {
    return note("too-much", pitch->where, prefix + ".diametral_pitch",
                "stands beside module; they say the same thing twice: drop one");
  }
  const double m = module || pitch ? g.module() : 0;
  if (teeth) spec.teeth = static_cast<int>(teeth->number);
  if (teeth && (module || pitch)) {
    spec.module = m;
    if (diameter && std::abs(diameter->number - spec.teeth * m) > math::kAlike * diameter->number) {
      note("contradiction", diameter->where, prefix + ".reference_diameter",
           fmt::format("is {}, but {} teeth of module {:.6g} mm give {}; two of the three are enough: drop one",
                       print(diameter->number), spec.teeth, m, print(spec.teeth * m)));
    }
  } else if (teeth && diameter) {
    spec.module = diameter->number / spec.teeth;
  } else if (diameter && (module || pitch)) {
    constexpr double kWhole = 1e-6;  // diameter and module are given rounded
    const double z = diameter->number / m, whole = std::round(z);
    spec.module = m;
    spec.teeth = static_cast<int>(whole);
    if (std::abs(z - whole) > kWhole || whole < 3) {
      const int below = std::max(3, static_cast<int>(std::floor(z))),
                above = std::max(3, static_cast<int>(std::ceil(z)));
      note("broken-teeth", diameter->where, prefix + ".reference_diameter",
           fmt::format(
               "is {}, which makes {:.6g} teeth of module {:.6g} mm; nearest: {} teeth with {}, or {} teeth with {}; "
               "or keep the diameter with module {:.6g} mm ({} teeth)",
               print(diameter->number), z, m, below, print(below * m), above, print(above * m),
               diameter->number / std::max(3.0, whole), std::max(3, static_cast<int>(whole))));
    }
  } else {
    std::string missing;
    const bool teeth_told = told(prefix, "teeth") || told(prefix, "reference_diameter");
    const bool module_told =
        told(prefix, "module") || told(prefix, "diametral_pitch") || told(prefix, "reference_diameter");
    if (!teeth && !diameter && !teeth_told) missing = "teeth";
    if (!module && !pitch && !(teeth && diameter) && !module_told)
      missing += missing.empty() ? "module" : " and module";
    if (missing.empty() && (teeth_told || module_told)) return;
    std::string found;
    // Clock builders begin with a distance: the module that goes with it.
    for (const RawPair& p : raw_pairs_) {
      const Settings &one = gears_[p.driver], &other = gears_[p.driven];
      const Value *a = p.find("center_distance"), *z1 = one.find("teeth"), *z2 = other.find("teeth");
      if (missing != "module" || (&one != &g && &other != &g) || !a || !z1 || !z2 || p.is(pair::Sort::crossed))
        continue;
      const double sum =
          one.is(Kind::internal) || other.is(Kind::internal) || one.flag("internal") || other.flag("internal")
              ? std::abs(z1->number - z2->number)
              : z1->number + z2->number;
      if (sum > 0)
        found = fmt::format(" (for the center distance of pair.{} without profile shift: module = {:.6g})", p.name,
                            2 * a->number / sum);
    }
    note("missing-key", g.where, prefix + (missing == "module" ? ".module" : ".teeth"),
         fmt::format("the gear has no {}; give two of teeth, module (or diametral_pitch) and reference_diameter{}",
                     missing.empty() ? "module" : missing, found));
  }
}

/// Signed helix angle, right hand positive (double helical: of the lower half).
Angle Resolver::helix(const Settings& g, double module) {
  const std::string prefix = "gear." + g.name;
  const Value *angle = g.find("helix_angle"), *lead = g.find("lead"), *hand = g.find("hand"), *apex = g.find("apex");
  const std::optional<Kind> kind = g.kind();
  const bool double_helical = kind == Kind::double_helical;
  if (kind == Kind::spur) return {};
  double beta = angle ? angle->number * kPi / 180 : 0;
  if (lead) {
    // d tan β = p_z/π·…: with the normal module sin β = π z m/p_z, with the transverse one tan β.
    const double ratio = kPi * g.number("teeth") * module / lead->number;
    const bool transverse = g.text("system") == "transverse";
    if (kind == Kind::rack || (!transverse && ratio >= 1)) {
      note("bad-value", lead->where, prefix + ".lead",
           kind == Kind::rack
               ? "has no meaning for a rack; give helix_angle"
               : "is too short for these teeth: it must be above " + print(kPi * g.number("teeth") * module));
    } else {
      beta = transverse ? std::atan(ratio) : std::asin(ratio);
      if (beta > kPi / 3 * (1 + math::kRounding))
        note("bad-value", lead->where, prefix + ".lead",
             fmt::format("makes a helix angle of {:.4g}°, but up to 60° are allowed; give a longer lead",
                         beta * 180 / kPi));
    }
  }
  if ((kind == Kind::helical || double_helical) && !angle && !lead) {
    note("missing-key", g.where, prefix + ".helix_angle",
         fmt::format("the {} gear has no helix_angle; write helix_angle = 18, say, or its lead", name(*kind)));
    return {};
  }
  if (beta == 0 && !double_helical) return {};
  if (double_helical) {
    if (!apex)
      note("missing-key", g.where, prefix + ".apex",
           "the double helical gear has no apex; write apex = \"clockwise\" or \"counter-clockwise\": where its V "
           "points, seen from +z (its mate's points the "
           "other way)");
    // Where the lower half is right-handed the teeth run counter-clockwise up to the middle.
    return Angle::radians(apex && apex->text == "clockwise" ? -beta : beta);
  }
  if (!hand)
    note("missing-key", g.where, prefix + ".hand",
         "the teeth are inclined but have no hand; write hand = \"right\" or \"left\" (external mates on parallel axes "
         "need opposite hands)");
  return angle && beta == angle->number * kPi / 180
             ? Angle::degrees(hand && hand->text == "left" ? -angle->number : angle->number)
             : Angle::radians(hand && hand->text == "left" ? -beta : beta);
}

gear::CylindricalSpec Resolver::spec_of(const Settings& g) {
  gear::CylindricalSpec s;
  if (!g.find("kind"))
    note("missing-key", g.where, "gear." + g.name + ".kind", "the gear has no kind; write kind = \"spur\"");
  const bool rack = g.is(Kind::rack);
  if (!rack || g.find("teeth") || !g.find("length")) {
    teeth_and_module(g, s);
  } else if (g.find("module") || g.find("diametral_pitch")) {
    s.module = g.module();
  } else {
    note("missing-key", g.where, "gear." + g.name + ".module",
         "the rack has no module; give module or diametral_pitch");
  }
  if (!rack && s.teeth > 0 && s.teeth < 3)
    note("bad-value", g.find("teeth") ? g.find("teeth")->where : g.where, "gear." + g.name + ".teeth",
         fmt::format("is {}, but a whole number from 3 to 5000 is allowed", s.teeth));
  s.pressure_angle = Angle::degrees(g.number("pressure_angle"));
  s.profile_shift = g.number("profile_shift"), s.addendum = g.number("addendum"), s.dedendum = g.number("dedendum");
  s.tool_tip_radius = g.given("tool_tip_radius"), s.fillet_radius = g.given("root.fillet_radius");
  s.tip_diameter = g.given("tip_diameter"), s.root_diameter = g.given("root_diameter");
  s.thickness_allowance = g.number("thickness_allowance");
  s.flanks_only = g.text("thinning") == "flanks";
  s.tip_chamfer = g.number("tip_chamfer"), s.tip_round = g.number("tip_round");
  s.face_width = g.number("face_width");
  s.bore_diameter = g.number("bore.diameter");
  for (const char* other : {"bore.grip", "bore.allowance"}) {
    if (const Value* v = g.find(other); v && g.find("bore.fit"))
      note("too-much", v->where, "gear." + g.name + "." + other, "stands beside bore.fit; drop one of the two");
  }
  if (const Value* fit = g.find("bore.fit"); fit && !fit_limits(g))
    note("bad-value", fit->where, "gear." + g.name + ".bore.fit",
         fmt::format("is \"{}\", but limits are known of bores above 0 up to 120 mm, and this one is {}; give "
                     "bore.allowance",
                     fit->text, print(s.bore_diameter)));
  if (s.bore_diameter > 0 && g.text("bore.bearing").empty()) {
    s.bore_diameter += bore_play(g);
    if (s.bore_diameter <= 0)
      note("bad-value", g.find("bore.diameter")->where, "gear." + g.name + ".bore",
           "leaves no bore with this allowance; change one of the two");
  }
  s.helix_angle = helix(g, s.module);
  s.double_helical = g.is(Kind::double_helical);
  s.gap = g.number("gap");
  s.internal = g.is(Kind::internal);
  s.outer_diameter = g.given("outer_diameter");
  if (const Value* rim = g.find("rim_thickness"); rim && s.outer_diameter)
    note("too-much", rim->where, "gear." + g.name + ".rim_thickness",
         "stands beside outer_diameter; they say the same thing twice: drop one");
  s.length = g.given("length");
  s.base_height = g.given("base_height");
  if (const Value* v = g.find("cutter.teeth")) s.cutter.teeth = static_cast<int>(v->number);
  s.cutter.profile_shift = g.given("cutter.profile_shift");
  s.cutter.tip_diameter = g.given("cutter.tip_diameter");
  s.cutter.tip_corner_radius = g.given("cutter.tip_corner_radius");
  if (s.gap > 0 && s.gap >= s.face_width)
    note("bad-value", g.find("gap")->where, "gear." + g.name + ".gap",
         fmt::format("is {}, but the whole face is {} wide; make it smaller", print(s.gap), print(s.face_width)));
  if (g.text("system") == "transverse") {
    // Module, angle and coefficients were meant in the transverse section: m = m_t cos β, tan α_n = tan α_t cos β.
    const double cos_b = std::cos(s.helix_angle.radians());
    s.module *= cos_b;
    s.pressure_angle = Angle::radians(std::atan(std::tan(s.pressure_angle.radians()) * cos_b));
    for (double* coefficient : {&s.profile_shift, &s.addendum, &s.dedendum})
      *coefficient /= cos_b;
    if (s.tool_tip_radius) *s.tool_tip_radius /= cos_b;
    if (s.cutter.profile_shift) *s.cutter.profile_shift /= cos_b;
  }
  return s;
}

std::optional<gear::Teeth> Resolver::build(const Settings& g, const gear::CylindricalSpec& spec) {
  try {
    if (const auto& bevel = bevels_[static_cast<std::size_t>(&g - gears_.data())]) return gear::BevelGear(*bevel);
    if (const auto& plan = cycloids_[static_cast<std::size_t>(&g - gears_.data())]) return build_cycloidal(*plan);
    if (g.is(Kind::rack)) return gear::Rack(spec);
    const Value* rim = g.find("rim_thickness");
    if (!spec.internal || !rim) return gear::CylindricalGear(spec);
    // The rim stands on the root circle, which the cutter makes.
    gear::CylindricalSpec ring = spec;
    ring.outer_diameter = gear::CylindricalGear(spec).sizes().root_diameter + 2 * rim->number;
    return gear::CylindricalGear(ring);
  } catch (const InvalidParameter& e) {
    const Value* v = g.any_below(e.name());
    note("bad-value", v ? v->where : g.where, "gear." + g.name + "." + e.name(),
         in_job_units(fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy())));
  } catch (const NoConvergence& e) {
    note("no-convergence", g.where, "gear." + g.name,
         fmt::format("has teeth that could not be worked out ({}); change its numbers a little", e.what()));
  }
  return std::nullopt;
}

Design Resolver::run() {
  if (tables_.process) read_process(*tables_.process);
  read_materials();
  read_pairs();
  read_members();
  for (const Settings& g : gears_) {
    specs_.push_back(spec_of(g));
    cycloids_.push_back(g.is(kCycloidalKinds) ? std::optional(cycloidal_plan(g, specs_.back())) : std::nullopt);
    bevels_.push_back(g.is(Kind::bevel) ? std::optional(bevel_spec(g, specs_.back())) : std::nullopt);
  }
  set_pitch_cones();
  complete_cycloids();
  mistakes_.stop();

  std::vector<std::optional<gear::Teeth>> built;
  for (std::size_t i = 0; i < gears_.size(); ++i)
    built.push_back(build(gears_[i], specs_[i]));
  one_distance(built);
  thin_for_backlash(built);
  mistakes_.stop();
  for (const Settings& reducer : tables_.reducers)
    make_reducer(reducer);
  mistakes_.stop();
  Design design = placed(built);
  design_ = std::move(design);
  read_bodies();
  place_reducers();
  mistakes_.stop();
  make_axles();
  connect_reducers();
  read_trains();
  mistakes_.stop();
  set_speed_ratios();
  place_planets();
  for (const Settings& frame : tables_.frames) {
    if (frame.sound) make_frame(frame);
  }
  mistakes_.stop();
  return std::move(design_);
}

Design resolve(const Values& values) { return Resolver(values).run(); }

Design resolve(std::string_view text, const std::string& source, const std::vector<std::string>& overrides) {
  return resolve(Values::read(text, source, overrides));
}

}  // namespace palio::job
