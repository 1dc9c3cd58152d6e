// What is reported of bevel gears and their pairs.
#include <cmath>

#include "palio/body/solid.hpp"
#include "values.hpp"

namespace palio::job {
namespace {

Entry end_entries(std::string_view key, const gear::BevelEnd& e) {
  return group(key, {one("cone_distance", e.cone_distance), one("addendum", e.addendum), one("dedendum", e.dedendum),
                     one("tip_diameter", e.tip_diameter), one("pitch_diameter", e.pitch_diameter),
                     one("root_diameter", e.root_diameter), one("tip_angle_deg", e.tip_angle.radians()),
                     one("root_angle_deg", e.root_angle.radians()),
                     one("root_form_angle_deg", e.root_form_angle.radians()), one("tooth_thickness", e.tooth_thickness),
                     one("tip_thickness", e.tip_thickness), flag("undercut", e.undercut)});
}

}  // namespace

std::vector<Entry> bevel_entries(const Design& design, const Gear& g) {
  const gear::BevelGear& b = g.teeth.bevel();
  const gear::BevelSpec& spec = b.spec();
  const gear::BevelSizes& s = b.sizes();
  std::vector<Entry> all{words("kind", g.kind),
                         one("teeth", spec.teeth),
                         one("normal_module", spec.module),
                         one("transverse_module", spec.module),
                         one("diametral_pitch", 25.4 / spec.module),
                         one("normal_pressure_angle_deg", spec.pressure_angle.radians()),
                         one("transverse_pressure_angle_deg", spec.pressure_angle.radians()),
                         words("depth", std::string(gear::name(spec.depth))),
                         words("ends", spec.ends == gear::BevelEnds::cones ? "cones" : "spheres"),
                         one("profile_shift", spec.profile_shift),
                         one("thickness_shift", spec.thickness_shift),
                         one("thickness_allowance", spec.thickness_allowance),
                         one("pitch_cone_angle_deg", spec.pitch_cone.radians()),
                         one("base_cone_angle_deg", s.base_cone.radians()),
                         one("face_cone_angle_deg", s.face_cone.radians()),
                         one("root_cone_angle_deg", s.root_cone.radians()),
                         one("outer_cone_distance", s.outer_cone_distance),
                         one("inner_cone_distance", s.inner_cone_distance),
                         one("face_width", spec.face_width),
                         one("outer_pitch_diameter", s.heel.pitch_diameter),
                         one("outer_tip_diameter", s.heel.tip_diameter),
                         one("outer_root_diameter", s.heel.root_diameter),
                         one("crown_to_apex", s.crown_to_apex),
                         one("mounting_distance", body(g).top()),
                         one("face_cone_apex", s.face_apex),
                         one("root_cone_apex", s.root_apex),
                         one("addendum", s.heel.addendum),
                         one("dedendum", s.heel.dedendum),
                         one("tooth_depth", s.heel.addendum + s.heel.dedendum),
                         one("outer_tooth_thickness", s.heel.tooth_thickness),
                         one("tip_thickness", s.heel.tip_thickness),
                         one("transverse_pitch", kPi * spec.module),
                         one("angular_pitch_deg", 2 * kPi / spec.teeth),
                         one("virtual_teeth", s.virtual_teeth),
                         one("tool_tip_radius", s.tool_tip_radius),
                         flag("undercut", s.heel.undercut || s.toe.undercut),
                         one("min_profile_shift_no_undercut", s.min_profile_shift_no_undercut),
                         one("back_cone_deviation", gear::back_cone_deviation(b)),
                         end_entries("heel", s.heel),
                         end_entries("toe", s.toe)};
  part(design, g, all);
  return all;
}

void bevel_entries(const Design& design, const Pair& p, bool rolled, std::vector<Entry>& all) {
  const Gear &g1 = design.gears[p.driver], &g2 = design.gears[p.driven];
  all.push_back(one("shaft_angle_deg", p.shaft_angle));
  all.push_back(many("phase_deg", {g1.phase, g2.phase}));
  all.push_back(many("mounting_distances", {body(g1).top() + p.error.driver, body(g2).top() + p.error.driven}));
  if (p.error.any()) {
    all.push_back(
        group("mounting_error", {one("driver", p.error.driver), one("driven", p.error.driven),
                                 one("shaft_angle_deg", p.error.shaft_angle), one("offset", p.error.offset)}));
  }
  if (!p.bevel) return;
  const pair::BevelPair& b = *p.bevel;
  const auto [inner, outer] = common_face(p);
  const auto play = b.angular_backlash(), tips = b.tip_clearance();
  const double heel = b.contact_ratio(outer), toe = b.contact_ratio(inner);
  for (const Entry& e :
       {one("transverse_contact_ratio", std::max(heel, toe)), one("overlap_ratio", 0),
        one("total_contact_ratio", std::max(heel, toe)), one("contact_ratio_heel", heel), one("contact_ratio_toe", toe),
        one("circumferential_backlash", b.circumferential_backlash()), one("normal_backlash", b.normal_backlash()),
        many("angular_backlash_deg", {play[0], play[1]}), many("tip_clearance", {tips[0], tips[1]})}) {
    all.push_back(e);
  }
  if (!rolled) return;
  for (const bool driver : {true, false}) {
    Entry rows = group(driver ? "shift_of_driver" : "shift_of_driven", {});
    rows.rows = true;
    for (const AxialShift& s : axial_shifts(design, p, driver)) {
      rows.children.push_back(many(driver ? "shift_of_driver" : "shift_of_driven", {s.shift, s.found, s.by_formula}));
    }
    all.push_back(rows);
  }
}

}  // namespace palio::job
