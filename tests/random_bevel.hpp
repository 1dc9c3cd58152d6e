// Seeded random bevel pairs: any shaft angle that external gears allow, shifts that cancel out.
#pragma once

#include "palio/pair/bevel.hpp"
#include "palio/roll/sphere.hpp"
#include "random_gear.hpp"

namespace palio::test {

inline std::optional<pair::BevelPair> any_bevel_pair(unsigned seed) {
  Draw draw(seed);
  gear::BevelSpec a;
  a.teeth = draw.whole(8, 40), a.module = draw.of({0.5, 1.0, 1.5, 2.0, 4.0});
  a.pressure_angle = Angle::degrees(draw.of({14.5, 20.0, 20.0, 25.0}));
  a.addendum = draw.of({0.8, 1.0, 1.0}), a.dedendum = a.addendum + draw.of({0.2, 0.25, 0.3});
  a.depth = draw.of({gear::BevelDepth::constant_clearance, gear::BevelDepth::tapered, gear::BevelDepth::parallel});
  a.ends = draw.of({gear::BevelEnds::cones, gear::BevelEnds::spheres});
  gear::BevelSpec b = a;
  b.teeth = draw.whole(0, 4) == 0 ? a.teeth : draw.whole(8, 60);
  // Two nearly flat wheels face to face foul each other beside the mesh; that is not this page's theory.
  const double most =
      std::min(2.3, std::acos(-static_cast<double>(std::min(a.teeth, b.teeth)) / std::max(a.teeth, b.teeth)));
  const double sigma = draw.whole(0, 5) == 0 ? most : draw.between(0.5, most);  // sometimes a crown gear
  const auto cones = pair::pitch_cones(a.teeth, b.teeth, Angle::radians(sigma));
  a.pitch_cone = cones[0], b.pitch_cone = cones[1];
  a.profile_shift = draw.between(-0.3, 0.4), b.profile_shift = -a.profile_shift;
  a.thickness_shift = draw.between(-0.05, 0.05), b.thickness_shift = -a.thickness_shift;
  a.thickness_allowance = -draw.of({0.0, 0.02, 0.05}) * a.module,
  b.thickness_allowance = -draw.of({0.0, 0.02, 0.06}) * a.module;
  a.mate_dedendum = (b.dedendum - b.profile_shift) * b.module,
  b.mate_dedendum = (a.dedendum - a.profile_shift) * a.module;
  a.face_width = b.face_width = draw.of({0.2, 0.3, 0.33}) * a.module * a.teeth / (2 * std::sin(cones[0].radians()));
  try {
    return pair::BevelPair(gear::BevelGear(a), gear::BevelGear(b), Angle::radians(sigma));
  } catch (const InvalidParameter&) {
    return std::nullopt;
  }
}

/// Rolled on the spheres through heel and toe, the driver turned by `start`, the driven's axis in `direction`.
inline roll::Result rolled(const pair::BevelPair& p, int positions, double start, Angle direction) {
  std::vector<roll::SphereSection> sections;
  const double phase = pair::bevel_driven_phase(p.driver().spec().teeth, p.driven().spec().teeth, start, direction);
  for (const double R : {p.driver().sizes().outer_cone_distance, p.driver().sizes().inner_cone_distance}) {
    sections.push_back(
        {R,
         {"driver", p.driver().section(R), roll::Motion::on_sphere(Angle(), Angle(), R), start},
         {"driven", p.driven().section(R), roll::Motion::on_sphere(p.shaft_angle(), direction, R), phase}});
  }
  roll::Law law;
  law.ratio = p.motion_ratio();
  law.theoretical_play = p.angular_backlash()[1].radians();
  law.touch_mm = 1e-9 * std::max(1.0, p.driver().spec().module);
  law.positions = positions;
  return roll::roll(sections, law);
}

}  // namespace palio::test
