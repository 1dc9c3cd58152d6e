// The dimensions of the greenhouse's first stage: from teeth, module and shifts to distance, contact and play.
#include <cstdio>
#include <palio/pair/parallel.hpp>

using namespace palio;

int main() {
  gear::CylindricalSpec spec;
  spec.module = 1.5;
  spec.teeth = 17;
  spec.profile_shift = 0.18;
  spec.face_width = 14;
  spec.thickness_allowance = -0.02;
  const gear::CylindricalGear motor_pinion(spec);
  spec.teeth = 43;
  spec.profile_shift = 0.09;
  spec.face_width = 12;
  const gear::CylindricalGear drum_wheel(spec);

  const double without_play = *pair::zero_play_center_distance(motor_pinion, drum_wheel);
  const pair::ParallelPair stage(motor_pinion, drum_wheel, 45.5);
  std::printf("tip circles %.4f and %.4f mm\n", motor_pinion.sizes().tip_diameter, drum_wheel.sizes().tip_diameter);
  std::printf("without play the axes would stand %.6f mm apart\n", without_play);
  std::printf("at %.1f mm: contact ratio %.6f, backlash %.6f mm\n", stage.center_distance(),
              stage.transverse_contact_ratio(), stage.circumferential_backlash());
  const gear::Span span = drum_wheel.span();
  std::printf("check the wheel: %.4f mm over %d teeth\n", span.length, span.teeth);
  for (const Finding& f : stage.findings("stage", "pinion", "wheel"))
    std::printf("doubt: %s\n", f.kind().text_id.data());
}
