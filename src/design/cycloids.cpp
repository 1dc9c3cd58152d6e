// Cycloidal gears: rolling circles come from keys, from the mate or from a rule of the pair; clock teeth and lantern
// wheels are made for their mate.
#include <algorithm>
#include <cmath>
#include <initializer_list>

#include "resolver.hpp"

namespace palio::job {

CycloidalPlan Resolver::cycloidal_plan(const Settings& g, const gear::CylindricalSpec& plain) {
  using Form = gear::CycloidalForm;
  CycloidalPlan plan;
  const std::string form = g.text("form"), prefix = "gear." + g.name;
  plan.form = g.is(Kind::lantern)       ? Form::lantern
              : form == "clock"         ? Form::clock
              : form == "lantern_wheel" ? Form::lantern_wheel
                                        : Form::true_form;
  plan.blank = {plain.face_width, plain.bore_diameter, plain.outer_diameter.value_or(0)};
  plan.internal = g.flag("internal");
  if (plan.internal && plan.form != Form::true_form)
    note("bad-value", g.find("internal")->where, prefix + ".internal",
         "is true, but rings are made of the true form only; write form = \"true\"");
  const auto modules = [&](const char* key) {
    const auto v = g.given(key);
    return v ? std::optional(*v * plain.module) : std::nullopt;
  };
  // Keys that another form has: told, unless they came from [shared].
  const auto only = [&](const char* key, std::initializer_list<Form> wanted) {
    const Value* v = g.find(key);
    if (v && !v->inherited && std::find(wanted.begin(), wanted.end(), plan.form) == wanted.end())
      note("no-meaning", v->where, prefix + "." + key,
           fmt::format("has no meaning for the form {}; take it out", gear::name(plan.form)));
  };
  for (const char* key : {"face_rolling_radius", "flank_rolling_radius", "rolling_radius", "thickness_allowance"})
    only(key, {Form::true_form});
  for (const char* key : {"role", "addendum_arc_radius", "tooth_width"})
    only(key, {Form::clock});
  if (plain.tip_round > 0) only("tip_round", {Form::clock});
  for (const char* key : {"dedendum", "root.fillet_radius"})
    only(key, {Form::true_form, Form::clock});
  only("mate_teeth", {Form::clock, Form::lantern_wheel});
  only("pin_diameter", {Form::lantern_wheel, Form::lantern});
  if (!plan.internal) only_beside(g, "outer_diameter", "internal = true");
  for (const char* key : {"plate_thickness", "plate_diameter"})
    only(key, {Form::lantern});

  gear::CycloidalSpec& t = plan.true_form;
  t.teeth = plain.teeth, t.module = plain.module, t.addendum = plain.addendum, t.dedendum = plain.dedendum;
  t.thickness_allowance = plain.thickness_allowance, t.internal = plan.internal;
  plan.fillet_given = plain.fillet_radius.has_value();
  t.fillet_radius = plain.fillet_radius.value_or(0.2 * plain.module);
  if (const Value* both = g.find("rolling_radius")) {
    for (const char* key : {"face_rolling_radius", "flank_rolling_radius"}) {
      if (const Value* one = g.find(key))
        note("too-much", one->where, prefix + "." + key,
             "stands beside rolling_radius, which sets both circles; drop one of the two");
    }
    t.face_rolling_radius = t.flank_rolling_radius = both->number;
  }
  if (const auto v = g.given("face_rolling_radius")) t.face_rolling_radius = *v;
  if (const auto v = g.given("flank_rolling_radius")) t.flank_rolling_radius = *v;

  gear::ClockSpec& c = plan.clock;
  c.teeth = plain.teeth, c.module = plain.module, c.pinion = g.text("role") == "pinion",
  plan.role_given = !g.text("role").empty();
  c.mate_teeth = static_cast<int>(g.number("mate_teeth"));
  c.addendum = modules("addendum"), c.dedendum = modules("dedendum"),
  c.addendum_arc_radius = g.given("addendum_arc_radius");
  c.tooth_width = g.given("tooth_width");
  c.fillet_radius = plain.fillet_radius.value_or(0), c.tip_round = plain.tip_round;

  gear::LanternWheelSpec& w = plan.wheel;
  w.teeth = plain.teeth, w.module = plain.module, w.addendum = plain.addendum, w.pins = c.mate_teeth,
  w.pin_diameter = g.given("pin_diameter").value_or(0);

  gear::LanternSpec& l = plan.lantern;
  l.pins = plain.teeth, l.module = plain.module, l.pin_diameter = g.given("pin_diameter").value_or(0);
  l.plate_thickness = g.given("plate_thickness").value_or(0), l.plate_diameter = g.given("plate_diameter").value_or(0);
  if (plan.form == Form::lantern && l.pin_diameter == 0)
    note("missing-key", g.where, prefix + ".pin_diameter",
         "is missing: a lantern pinion is made of pins; give their diameter, about 1.2 to 1.6 modules");
  return plan;
}

/// Rolling circles by rule, where the gears of a pair leave them open.
void Resolver::complete_rolling_circles(const RawPair& p, CycloidalPlan& a, CycloidalPlan& b) {
  const Value* rule = p.find("rolling");
  const bool ring = a.internal || b.internal;
  if (ring && rule && rule->text == "radial_flanks") {
    note("bad-value", rule->where, "pair." + p.name + ".rolling",
         "is \"radial_flanks\", but a ring's flanks are epicycloids and cannot be radial; take \"equal_circles\" "
         "or give the radii");
    return;
  }
  const double r1 = a.true_form.teeth * a.true_form.module / 2, r2 = b.true_form.teeth * b.true_form.module / 2;
  const bool equal = ring || (rule && rule->text == "equal_circles");
  const double one = ring ? std::min(std::min(r1, r2), std::abs(r2 - r1)) / 2 : std::min(r1, r2) / 2;
  const auto join = [&](double& face, double& flank, double by_rule) {
    // The face of one and the flank of the other are made by one circle.
    if (face == 0) face = flank > 0 ? flank : by_rule;
    if (flank == 0) flank = face;
  };
  const gear::RollingCircles circles =
      equal ? gear::equal_circles(one) : gear::radial_flanks(a.true_form.teeth, b.true_form.teeth, a.true_form.module);
  join(a.true_form.face_rolling_radius, b.true_form.flank_rolling_radius, circles.first_face);
  join(b.true_form.face_rolling_radius, a.true_form.flank_rolling_radius, circles.second_face);
}

/// What clock teeth take from their mates: the ratio they are made for, and which of the two is the pinion.
void Resolver::complete_clock_teeth(const RawPair& p, CycloidalPlan& a, CycloidalPlan& b) {
  for (const auto& [own, mate, name] : {std::tuple{&a, &b, p.driver}, {&b, &a, p.driven}}) {
    const Value* given = gears_[name].find("mate_teeth");
    const std::size_t here = name;
    const auto pairs = std::count_if(raw_pairs_.begin(), raw_pairs_.end(),
                                     [&](const RawPair& q) { return q.driver == here || q.driven == here; });
    const std::string key = "gear." + gears_[here].name + ".mate_teeth";
    if (given && own->clock.mate_teeth != mate->clock.teeth && pairs == 1)
      note("contradiction", given->where, key,
           fmt::format("is {}, but pair.{} gives it a mate of {}; leave it out", own->clock.mate_teeth, p.name,
                       mate->clock.teeth));
    if (!given && own->clock.mate_teeth != 0 && own->clock.mate_teeth != mate->clock.teeth)
      note("contradiction", gears_[here].where, key,
           fmt::format(
               "is needed: its pairs have mates of {} and {}, and clock teeth are made for one of them; say which",
               own->clock.mate_teeth, mate->clock.teeth));
    if (!given) own->clock.mate_teeth = mate->clock.teeth;
    if (!own->role_given)
      own->clock.pinion = mate->role_given ? !mate->clock.pinion : own->clock.teeth < mate->clock.teeth;
  }
  a.role_given = b.role_given = true;
}

/// What neither the gears nor their pairs say.
void Resolver::note_missing_of_cycloids() {
  using Form = gear::CycloidalForm;
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    if (!cycloids_[i]) continue;
    const CycloidalPlan& c = *cycloids_[i];
    const std::string prefix = "gear." + gears_[i].name;
    const auto missing = [&](const char* key, const std::string& why) {
      note("missing-key", gears_[i].where, prefix + "." + key, why);
    };
    if (c.form == Form::true_form && c.true_form.face_rolling_radius == 0)
      missing("face_rolling_radius",
              "is missing, and no pair gives it by rule: give rolling_radius for both circles, or face_rolling_radius "
              "and flank_rolling_radius");
    else if (c.form == Form::true_form && c.true_form.flank_rolling_radius == 0)
      missing("flank_rolling_radius",
              "is missing, and no pair gives it by rule: give it, or rolling_radius for both circles");
    if (c.form == Form::clock && c.clock.mate_teeth == 0)
      missing("mate_teeth",
              "is missing: clock teeth follow from the ratio; name the gear in a pair, or give the teeth (or leaves) "
              "of its mate");
    else if (c.form == Form::clock && !c.role_given)
      missing("role", "is missing: write role = \"wheel\" or \"pinion\", or name the gear in a pair");
    if (c.form == Form::lantern_wheel && c.wheel.pins == 0)
      missing("mate_teeth",
              "is missing: the flanks follow from the pins of the mate; name the gear in a pair with a lantern, or "
              "give their number");
    else if (c.form == Form::lantern_wheel && c.wheel.pin_diameter == 0)
      missing("pin_diameter",
              "is missing: the flanks follow from the pins of the mate; name the gear in a pair with a lantern, or "
              "give their diameter");
  }
}

void Resolver::complete_cycloids() {
  using Form = gear::CycloidalForm;
  for (const RawPair& p : raw_pairs_) {
    if (!p.is(pair::Sort::cycloidal) || !cycloids_[p.driver] || !cycloids_[p.driven]) continue;
    CycloidalPlan &a = *cycloids_[p.driver], &b = *cycloids_[p.driven];
    const bool both_true = a.form == Form::true_form && b.form == Form::true_form;
    if (const Value* rule = p.find("rolling"); rule && !both_true)
      note("no-meaning", rule->where, "pair." + p.name + ".rolling",
           "is a rule for the rolling circles of two gears of the true form; take it out");
    if (both_true) {
      complete_rolling_circles(p, a, b);
    } else if (a.form == Form::clock && b.form == Form::clock) {
      complete_clock_teeth(p, a, b);
    } else if ((a.form == Form::lantern && b.form == Form::lantern_wheel) ||
               (b.form == Form::lantern && a.form == Form::lantern_wheel)) {
      CycloidalPlan &pinion = a.form == Form::lantern ? a : b, &wheel = a.form == Form::lantern ? b : a;
      if (wheel.wheel.pins == 0) wheel.wheel.pins = pinion.lantern.pins;
      if (wheel.wheel.pin_diameter == 0) wheel.wheel.pin_diameter = pinion.lantern.pin_diameter;
    }
  }
  note_missing_of_cycloids();
}

gear::Teeth Resolver::build_cycloidal(const CycloidalPlan& plan) const {
  using Form = gear::CycloidalForm;
  const auto made = [&]() -> gear::CycloidalTeeth::Form {
    switch (plan.form) {
      case Form::clock: return gear::ClockGear(plan.clock);
      case Form::lantern_wheel: return gear::LanternWheel(plan.wheel);
      case Form::lantern: return gear::LanternPinion(plan.lantern);
      case Form::true_form: break;
    }
    gear::CycloidalSpec spec = plan.true_form;
    if (plan.fillet_given) return gear::CycloidalGear(spec);
    // The largest round that fits, by halves from a fifth of the module; a sharp corner where none does.
    for (int i = 0; i < 4; ++i, spec.fillet_radius /= 2) {
      try {
        return gear::CycloidalGear(spec);
      } catch (const InvalidParameter& e) {
        if (std::string(e.name()) != "root.fillet_radius") throw;
      }
    }
    spec.fillet_radius = 0;
    return gear::CycloidalGear(spec);
  };
  return gear::CycloidalTeeth(made(), plan.blank);
}

std::optional<double> Resolver::thinning_of_cycloids(const RawPair& p, const AskedPlay& play,
                                                     std::vector<std::optional<gear::Teeth>>& built) {
  using Form = gear::CycloidalForm;
  if (play.normal) {
    note("no-meaning", play.said->where, play.path,
         "has no meaning for cycloidal teeth, whose normal turns as they roll: say backlash, along the pitch circle");
    return std::nullopt;
  }
  const double wanted = play.amount;
  const pair::CycloidalPair mesh(*built[p.driver], *built[p.driven], 1);
  if (mesh.driver().form() == Form::clock) {
    note("no-meaning", play.said->where, play.path,
         fmt::format("cannot be chosen for clock teeth: their widths come from the table and leave {} of play; give "
                     "tooth_width to a gear",
                     print(mesh.circumferential_backlash())));
    return std::nullopt;
  }
  if (mesh.driver().form() != Form::true_form) {
    // Pins are round: all of the play lies in the wheel.
    const std::size_t wheel = mesh.driver().form() == Form::lantern_wheel ? p.driver : p.driven;
    cycloids_[wheel]->wheel.backlash = wanted;
    built[wheel] = build(gears_[wheel], specs_[wheel]);
    return std::nullopt;
  }
  const double as_is = mesh.circumferential_backlash();
  if (wanted < as_is) {
    note("play-too-wide", play.said->where, play.path,
         fmt::format("is {}, but the allowances already leave {}; drop them", print(wanted), print(as_is)));
    return std::nullopt;
  }
  return (wanted - as_is) / specs_[p.driver].module;
}

}  // namespace palio::job
