// Rolls a pair by its real outlines, mounted ever closer, until it jams.
#include <algorithm>
#include <cstdio>
#include <palio/pair/parallel.hpp>
#include <palio/roll/roll.hpp>

using namespace palio;

int main() {
  gear::CylindricalSpec spec;
  spec.module = 1.5;
  spec.teeth = 17;
  spec.profile_shift = 0.18;
  spec.face_width = 14;
  spec.thickness_allowance = -0.03;
  const gear::CylindricalGear motor_pinion(spec);
  spec.teeth = 43;
  spec.profile_shift = 0.09;
  const gear::CylindricalGear drum_wheel(spec);

  for (const double distance : {45.6, 45.5, 45.4, 45.3}) {
    const pair::ParallelPair stage(motor_pinion, drum_wheel, distance);
    const roll::Member driver{"motor_pinion", motor_pinion.outline(), roll::Motion::rotation({0, 0}), 0};
    const roll::Member driven{"drum_wheel", drum_wheel.outline(), roll::Motion::rotation({distance, 0}),
                              pair::driven_phase(motor_pinion, drum_wheel, 0, Angle())};
    roll::Law law;
    law.ratio = -1 / stage.gear_ratio();
    law.theoretical_play = stage.angular_backlash()[1].radians();
    law.touch_mm = 1.5e-9;
    law.positions = 90;
    const roll::Result result = roll::roll(driver, driven, law);
    const double radius = stage.working_pitch_diameters()[1] / 2;
    std::printf("%.1f mm: %s, play %.6f mm (formula %.6f), overlap %.6f mm\n", distance,
                roll::name(result.verdict).data(), result.play->min * radius, stage.circumferential_backlash(),
                result.max_overlap);
  }
}
