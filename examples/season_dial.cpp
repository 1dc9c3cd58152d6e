// The greenhouse's season dial: eight leaves driven by sixty clock teeth. Circular-arc addenda are not conjugate; here
// is by how much the pinion runs ahead and behind.
#include <algorithm>
#include <cstdio>
#include <palio/angle.hpp>
#include <palio/gear/cycloidal.hpp>
#include <palio/roll/roll.hpp>

using namespace palio;

int main() {
  gear::ClockSpec wheel_spec, pinion_spec;
  wheel_spec.teeth = pinion_spec.mate_teeth = 60;
  pinion_spec.teeth = wheel_spec.mate_teeth = 8;
  wheel_spec.module = pinion_spec.module = 0.8;
  pinion_spec.pinion = true;
  const gear::ClockGear wheel(wheel_spec), pinion(pinion_spec);
  std::printf("wheel: addendum %.4f mm, arc of radius %.4f mm, tip circle %.4f mm\n", wheel.sizes().addendum,
              wheel.sizes().addendum_arc_radius, wheel.sizes().tip_diameter);
  const double distance = (wheel.sizes().pitch_diameter + pinion.sizes().pitch_diameter) / 2, start = kPi + kPi / 8,
               ratio = -60.0 / 8;
  const roll::Member driver{"wheel", wheel.outline(), roll::Motion::rotation(Vec2::Zero()), 0.0};
  const roll::Member driven{"pinion", pinion.outline(), roll::Motion::rotation(Vec2(distance, 0)), start};
  roll::Law law;
  law.ratio = ratio;
  law.positions = 180;
  const roll::Result r = roll::roll(driver, driven, law);
  double low = 1e9, high = -1e9;
  for (const roll::Position& p : r.positions) {
    const double off = p.upper->driven - start - ratio * p.driver;
    low = std::min(low, off), high = std::max(high, off);
  }
  std::printf("driven by the wheel at %.2f mm the pinion strays by %.3f degrees, peak to peak\n", distance,
              (high - low) * 180 / kPi);
  std::printf("at no position do the teeth jam: %s\n", r.verdict == roll::Verdict::jams ? "wrong" : "right");
}
