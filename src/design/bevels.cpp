// Bevel gears: their pitch cones come from the pair, and pairs stand about an apex.
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "palio/math/tolerance.hpp"
#include "resolver.hpp"

namespace palio::job {

gear::BevelSpec Resolver::bevel_spec(const Settings& g, const gear::CylindricalSpec& plain) {
  gear::BevelSpec s;
  s.teeth = plain.teeth, s.module = plain.module, s.pressure_angle = plain.pressure_angle,
  s.face_width = plain.face_width;
  s.profile_shift = plain.profile_shift, s.addendum = plain.addendum, s.dedendum = plain.dedendum;
  s.tool_tip_radius = plain.tool_tip_radius, s.fillet_radius = plain.fillet_radius,
  s.bore_diameter = plain.bore_diameter;
  s.thickness_shift = g.number("thickness_shift"), s.thickness_allowance = plain.thickness_allowance;
  const std::string depth = g.text("depth");
  s.depth = depth == "tapered"    ? gear::BevelDepth::tapered
            : depth == "parallel" ? gear::BevelDepth::parallel
                                  : gear::BevelDepth::constant_clearance;
  s.ends = g.text("ends") == "spheres" ? gear::BevelEnds::spheres : gear::BevelEnds::cones;
  s.rim_thickness = g.given("rim_thickness");
  if (const Value* v = g.find("tooth_thickness")) {
    for (const char* other : {"thickness_shift", "thickness_allowance"}) {
      if (const Value* twice = g.find(other))
        note("too-much", twice->where, "gear." + g.name + "." + other,
             "stands beside tooth_thickness; they say the same thing twice: drop one");
    }
    s.thickness_shift =
        (v->number / s.module - kPi / 2 - 2 * s.profile_shift * std::tan(s.pressure_angle.radians())) / 2;
  }
  return s;
}

/// Cones by the pairs; a gear in no pair says its own.
void Resolver::set_pitch_cones() {
  std::vector<const RawPair*> from(gears_.size(), nullptr);
  for (const RawPair& p : raw_pairs_) {
    if (!p.is(pair::Sort::bevel) || !bevels_[p.driver] || !bevels_[p.driven] || bevels_[p.driver]->teeth < 3 ||
        bevels_[p.driven]->teeth < 3)
      continue;
    const double sigma = p.shaft_angle().radians();
    const Value* given = p.find("shaft_angle");
    if (sigma < 5 * kPi / 180) {
      note("bad-value", given ? given->where : p.where, "pair." + p.name + ".shaft_angle",
           fmt::format("is {:.6g}°, but bevel axes meet at 5° to 175°; near parallel axes take spur or helical gears",
                       sigma * 180 / kPi));
      continue;
    }
    const auto cones = pair::pitch_cones(bevels_[p.driver]->teeth, bevels_[p.driven]->teeth, p.shaft_angle());
    const std::size_t members[] = {p.driver, p.driven};
    for (const int i : {0, 1}) {
      gear::BevelSpec &own = *bevels_[members[i]], &mate = *bevels_[members[1 - i]];
      const std::string& name = gears_[members[i]].name;
      const double cone = cones[i].radians();
      if (cone > kPi / 2 * (1 + math::kRounding)) {
        const double most = std::acos(-static_cast<double>(mate.teeth) / own.teeth) * 180 / kPi;
        note("internal-bevel", given ? given->where : p.where, "pair." + p.name + ".shaft_angle",
             fmt::format("of {:.6g}° makes the pitch cone of {} {:.6g}°: beyond 90° its teeth stand inside the cone, "
                         "and internal bevel gears are not made; with "
                         "{} and {} teeth up to {:.6g}° are allowed (then it is a crown gear)",
                         sigma * 180 / kPi, name, cone * 180 / kPi, specs_[p.driver].teeth, specs_[p.driven].teeth,
                         most));
        continue;
      }
      if (const Value* v = gears_[members[i]].find("pitch_cone_angle");
          v && std::abs(v->number * kPi / 180 - cone) > math::kAlike) {
        note("contradiction", v->where, "gear." + name + ".pitch_cone_angle",
             fmt::format("is {:.8g}°, but pair.{} gives {:.8g}°; leave it out", v->number, p.name, cone * 180 / kPi));
      }
      if (from[members[i]] && std::abs(own.pitch_cone.radians() - cone) > math::kAlike) {
        note("contradiction", p.where, "pair." + p.name,
             fmt::format("wants a pitch cone of {:.8g}° for {}, which has {:.8g}° from pair.{}; one gear has one cone: "
                         "give this pair a gear of its own",
                         cone * 180 / kPi, name, own.pitch_cone.degrees(), from[members[i]]->name));
      }
      from[members[i]] = &p;
      own.pitch_cone = cones[i];
      own.mate_dedendum = (mate.dedendum - mate.profile_shift) * mate.module;
    }
  }
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    if (!bevels_[i] || from[i]) continue;
    if (const Value* v = gears_[i].find("pitch_cone_angle")) {
      bevels_[i]->pitch_cone = Angle::degrees(v->number);
    } else if (std::none_of(raw_pairs_.begin(), raw_pairs_.end(),
                            [&](const RawPair& p) { return p.driver == i || p.driven == i; })) {
      note("missing-key", gears_[i].where, "gear." + gears_[i].name + ".pitch_cone_angle",
           "is missing: a bevel gear that is in no pair needs its pitch cone angle (90 for a crown gear); or name it "
           "in a pair");
    }
  }
}

void Resolver::place_bevel(const RawPair& raw, const Pair& p) {
  Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
  if (!start(raw, p)) {
    note("placed-twice", raw.where, "pair." + raw.name,
         "joins gears that other pairs place already; leave one of these pairs out");
    return;
  }
  const bool forward = plans_.placed[raw.driver];
  Gear &known = forward ? g1 : g2, &fresh = forward ? g2 : g1;
  const roll::Axis tilt = p.driven_axis();
  const Group base = design_.groups[known.group];
  const Vec3 apex =
      base.origin + base.axes * Vec3(known.axis.x(), known.axis.y(), known.height - pair::mid_face(known.teeth));
  Group group;
  group.axes = base.axes * (forward ? tilt.axes : Eigen::Matrix3d(tilt.axes.transpose()));
  group.origin = forward ? Vec3(apex + base.axes * tilt.origin) : Vec3(apex - group.axes * tilt.origin);
  static_cast<pair::Placed&>(fresh) = forward ? p.beside(g1, g2) : p.before(g2, g1);
  fresh.group = design_.groups.size();
  design_.groups.push_back(group);
  plans_.placed[raw.driver] = plans_.placed[raw.driven] = true;
}

}  // namespace palio::job
