// The greenhouse's corner drive: how far the usual back-cone approximation is from the exact spherical tooth, and what
// an apex that is missed by a twentieth of a millimetre does to the play.
#include <Eigen/Geometry>
#include <cmath>
#include <cstdio>
#include <palio/pair/bevel.hpp>
#include <palio/roll/space.hpp>

using namespace palio;

int main() {
  const Angle shaft_angle = Angle::degrees(90);
  const auto cones = pair::pitch_cones(16, 29, shaft_angle);
  gear::BevelSpec spec;
  spec.teeth = 16, spec.pitch_cone = cones[0], spec.thickness_allowance = -0.05;
  for (const double module : {0.5, 1.5, 4.0}) {
    spec.module = module, spec.face_width = 5 * module;
    std::printf("module %.1f mm: the exact tooth is %.2f um wider on each flank at the tip\n", module,
                1000 * gear::back_cone_deviation(gear::BevelGear(spec)));
  }
  spec.module = 1.5, spec.face_width = 8;
  const gear::BevelGear pinion(spec);
  spec.teeth = 29, spec.pitch_cone = cones[1];
  const gear::BevelGear wheel(spec);
  const pair::BevelPair corner(pinion, wheel, shaft_angle);
  std::printf("contact ratio %.6f at the heel, %.6f at the toe\n",
              corner.contact_ratio(pinion.sizes().outer_cone_distance),
              corner.contact_ratio(pinion.sizes().inner_cone_distance));

  const auto placed = [](const gear::BevelGear& g, const roll::Axis& axis, double start) {
    return roll::Coned{"gear",
                       g.section(g.sizes().outer_cone_distance),
                       g.sizes().inner_cone_distance,
                       g.sizes().outer_cone_distance,
                       g.spec().pitch_cone,
                       [g](double R) { return std::tan(g.tip_angle(R).radians() / 2); },
                       axis,
                       start};
  };
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(shaft_angle.radians(), Vec3::UnitY()).toRotationMatrix();
  const double phase = pair::bevel_driven_phase(16, 29, 0, Angle()), radius = wheel.sizes().heel.pitch_diameter / 2;
  roll::Law law;
  law.ratio = corner.motion_ratio();
  law.theoretical_play = corner.angular_backlash()[1].radians();
  law.positions = 8;
  for (const double shift : {0.05, -0.05}) {
    const roll::Result r = roll::roll(placed(pinion, {}, 0), placed(wheel, {shift * axes.col(2), axes}, phase), law);
    std::printf("wheel moved by %+.2f mm: play %.4f to %.4f mm in place of %.4f mm\n", shift, r.play->min * radius,
                r.play->max * radius, corner.circumferential_backlash());
  }
}
