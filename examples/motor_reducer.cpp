// The greenhouse's motor reducer: how near its limits it stands, how much the output can be moved while the motor
// holds, and what friction takes.
#include <cstdio>
#include <palio/angle.hpp>
#include <palio/reducer/load.hpp>
#include <palio/reducer/play.hpp>

using namespace palio;

int main() {
  reducer::Spec spec;
  spec.rollers = 24, spec.roller_circle_diameter = 80, spec.roller_diameter = 5, spec.eccentricity = 1.2;
  spec.output_pins = 6, spec.output_pin_circle_diameter = 46, spec.output_pin_diameter = 6;
  spec.bore_diameter = 19, spec.face_width = 6, spec.disc_gap = 0.6, spec.discs = 2;
  const reducer::Reducer exact(spec);
  std::printf("ratio %.0f; eccentricity %.2f of at most %.3f mm; undercut from roller radius %.3f mm\n",
              exact.sizes().ratio, spec.eccentricity, exact.sizes().max_eccentricity,
              exact.sizes().max_roller_radius_no_undercut);
  std::printf("one disc part serves at both places: %s\n", exact.sizes().same_disc_part ? "yes" : "no");

  // Without clearance everything touches; with three hundredths off the edge the output can be moved a little.
  for (const double offset : {0.0, 0.03, -0.01}) {
    spec.disc_offset = offset;
    const reducer::Rolled rolled = reducer::roll(reducer::Reducer(spec), 360, 1e-9);
    std::printf("disc_offset %.2f mm: %s", offset, std::string(roll::name(rolled.verdict)).c_str());
    if (rolled.verdict == roll::Verdict::meshes)
      std::printf(", output play %.4f to %.4f degrees\n", rolled.play->min * 180 / kPi, rolled.play->max * 180 / kPi);
    else
      std::printf(" by %.4f mm; at fault: %s\n", rolled.max_overlap, rolled.wrong.c_str());
  }
  const reducer::Efficiency fixed = reducer::efficiency(exact, 0.08);
  spec.disc_offset = 0, spec.roller_pin_diameter = 2.5;
  const reducer::Efficiency turning = reducer::efficiency(reducer::Reducer(spec), 0.08);
  std::printf(
      "efficiency at friction 0.08: %.3f, driven backwards %.3f; with rollers that turn on pins %.3f and %.3f\n",
      fixed.forward, fixed.backward, turning.forward, turning.backward);
}
