// What is reported of cycloidal gears and their pairs.
#include <algorithm>
#include <cmath>

#include "values.hpp"

namespace palio::job {

std::vector<Entry> cycloidal_entries(const Design& design, const Gear& g) {
  using Form = gear::CycloidalForm;
  const gear::CycloidalTeeth& t = g.teeth.cycloidal();
  const gear::CycloidalDimensions& s = t.sizes();
  const double m = t.module(), outward = t.internal() ? -1 : 1;
  std::vector<Entry> all{words("kind", g.kind)};
  const auto add = [&](std::initializer_list<Entry> more) { all.insert(all.end(), more); };
  if (t.form() != Form::lantern) add({words("form", std::string(gear::name(t.form())))});
  if (t.form() == Form::clock) add({words("role", t.clock().spec().pinion ? "pinion" : "wheel")});
  add({one("teeth", t.count()), one("normal_module", m), one("transverse_module", m), one("diametral_pitch", 25.4 / m),
       one("pitch_diameter", s.pitch_diameter), one("tip_diameter", s.tip_diameter),
       one("root_diameter", s.root_diameter)});
  if (t.form() == Form::lantern) {
    const gear::LanternSpec& l = t.lantern().spec();
    add({one("pin_diameter", l.pin_diameter), one("pin_gap", t.lantern().pin_gap()),
         one("plate_diameter", l.plate_diameter), one("plate_thickness", l.plate_thickness)});
  } else {
    add({one("form_diameter", s.form_diameter), one("addendum", outward * (s.tip_diameter - s.pitch_diameter) / 2),
         one("dedendum", outward * (s.pitch_diameter - s.root_diameter) / 2),
         one("tooth_depth", outward * (s.tip_diameter - s.root_diameter) / 2)});
  }
  if (t.form() == Form::true_form) {
    const gear::CycloidalSpec& c = t.true_form().spec();
    add({one("face_rolling_radius", c.face_rolling_radius), one("flank_rolling_radius", c.flank_rolling_radius),
         flag("radial_flanks",
              !c.internal && std::abs(c.flank_rolling_radius - s.pitch_diameter / 4) < 1e-9 * s.pitch_diameter),
         one("thickness_allowance", c.thickness_allowance),
         one("transverse_tooth_thickness", kPi * m - t.space_width()), one("tip_thickness", s.tip_thickness),
         one("pointed_diameter", gear::pointed_diameter(t.true_form()).value_or(std::nan(""))),
         one("fillet_radius", c.fillet_radius)});
  }
  if (t.form() == Form::clock) {
    const gear::ClockSpec& c = t.clock().spec();
    const gear::ClockSizes& z = t.clock().sizes();
    const int wheel = c.pinion ? c.mate_teeth : c.teeth, leaves = c.pinion ? c.teeth : c.mate_teeth;
    add({one("addendum_arc_radius", z.addendum_arc_radius), one("tooth_width", z.tooth_width),
         one("mate_teeth", c.mate_teeth),
         one("theoretical_addendum", gear::theoretical_clock_addendum(wheel, leaves))});
  }
  if (t.form() == Form::lantern_wheel) {
    const gear::LanternWheelSpec& w = t.lantern_wheel().spec();
    add({one("tip_thickness", s.tip_thickness), one("mate_teeth", w.pins), one("pin_diameter", w.pin_diameter)});
  }
  add({one("transverse_pitch", kPi * m), one("angular_pitch_deg", 2 * kPi / t.count()),
       one("face_width", t.blank().face_width)});
  if (t.internal()) add({one("outer_diameter", s.outer_diameter)});
  part(design, g, all);
  return all;
}

namespace {

/// How far the driven strays from the even ratio, peak to peak, on the flank that drives when the driver turns
/// counter-clockwise.
double stray(const roll::Result& r, double ratio) {
  double low = 1e300, high = -1e300;
  for (const roll::Position& p : r.positions) {
    const std::optional<roll::Contact>& limit = r.drives_upper ? p.upper : p.lower;
    if (!limit) return std::nan("");
    const double off = limit->driven - ratio * p.driver;
    low = std::min(low, off), high = std::max(high, off);
  }
  return high - low;
}

}  // namespace

void cycloidal_entries(const Design& design, const Pair& p, std::vector<Entry>& all) {
  const pair::CycloidalMesh& mesh = *p.cycloidal;
  const auto list = [](const std::array<double, 2>& a) { return std::vector<double>{a[0], a[1]}; };
  all.push_back(flag("conjugate", mesh.conjugate()));
  all.push_back(many("working_pitch_diameters", list(mesh.working_pitch_diameters())));
  if (const auto ratio = mesh.contact_ratio()) {
    all.push_back(one("transverse_contact_ratio", *ratio));
    all.push_back(one("total_contact_ratio", *ratio));
  }
  if (mesh.at_proper_distance()) {
    all.push_back(one("circumferential_backlash", mesh.circumferential_backlash()));
    all.push_back(many("angular_backlash_deg", list(mesh.angular_backlash())));
  }
  all.push_back(many("tip_clearance", list(mesh.tip_clearance())));
  const roll::Result rolled = job::rolled(design, p, 120);  // a few milliseconds
  const double r2 = mesh.driven().sizes().pitch_diameter / 2;
  if (rolled.play && !mesh.conjugate())
    all.push_back(many("rolled_circumferential_backlash", {rolled.play->min * r2, rolled.play->max * r2}));
  all.push_back(one("angle_error_deg", stray(rolled, mesh.motion_ratio())));
}

}  // namespace palio::job
