#include "palio/reducer/load.hpp"

#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/reducer/play.hpp"

namespace palio::reducer {
namespace {

/// Torques on shaft and flange for a load of one unit at one input angle, with `side` +1 while the input drives, −1
/// while the output does. The input turns by 1, the output by −1/Z.
struct Torques {
  double input, output;  // that the shaft needs; that the flange gets
};

Torques torques(const Reducer& r, double input, double friction, int side) {
  const Spec& s = r.spec();
  const double Z = r.sizes().lobes,
               rolling = s.roller_pin_diameter > 0 ? friction * s.roller_pin_diameter / s.roller_diameter : friction;
  const Vec2 C = r.centre(0, input), drift = quarter_turn(C);  // speed of the disc's centre
  struct Sum {
    Vec2 force = Vec2::Zero();
    double moment = 0, about_axis = 0;  // about the disc's centre, about the reducer's axis
    void add(const Vec2& at, const Vec2& f, const Vec2& centre) {
      force += f, moment += cross(Vec2(at - centre), f), about_axis += cross(at, f);
    }
  };
  Sum rollers, pins;
  for (const RollerGap& g : roller_gaps(r, 0, input, 0)) {
    // A roller pushes the disc inwards; while the input drives, those do whose push turns the disc backwards.
    const double share = side * g.lever;
    if (share <= 0) continue;
    const Vec2 speed = drift - quarter_turn(Vec2(g.point - C)) / Z,
               along = speed.norm() > 0 ? Vec2(speed.normalized()) : Vec2::Zero();
    rollers.add(g.point, share * (-g.normal - rolling * along), C);
  }
  const double R_p = s.output_pin_circle_diameter / 2;
  for (int i = 0; i < s.output_pins; ++i) {
    // Without play all pins touch their holes in the direction from the disc's centre back to the axis.
    const Vec2 H = from_polar(R_p, r.output(input) + r.flange_phase().radians() + 2 * kPi * i / s.output_pins),
               u = -C.normalized();
    const double share = side * cross(H, u);
    if (share <= 0) continue;
    const Vec2 at = C + H + r.sizes().output_hole_diameter / 2 * u, along = drift.normalized();
    pins.add(at, share * (u - friction * along), C);
  }
  // No moment is left on the disc about its bearing; the bearing takes what force is left.
  const double scale = -rollers.moment / pins.moment;
  const Vec2 bearing = -(rollers.force + scale * pins.force);
  return {cross(C, bearing), -scale * pins.about_axis};
}

}  // namespace

Efficiency efficiency(const Reducer& r, double friction) {
  if (!(friction >= 0))
    throw InvalidParameter("friction", fmt::format("{:.6g}", friction), "a coefficient of friction is 0 or more",
                           "give 0.1, say");
  const double Z = r.sizes().lobes;
  constexpr int kPositions = 240;
  double spent = 0, gained = 0;
  for (int i = 0; i < kPositions; ++i) {
    const double input = 2 * kPi * (i + 0.37) / kPositions;
    const Torques out = torques(r, input, friction, +1), back = torques(r, input, friction, -1);
    spent += out.input / (-out.output / Z) / kPositions;
    gained += back.input / (-back.output / Z) / kPositions;
  }
  return {1 / spent, gained};
}

Unbalance unbalance(const Spec& spec, int discs, double mass) {
  Vec2 force = Vec2::Zero(), couple = Vec2::Zero();
  const double apart = spec.face_width + spec.disc_gap;
  for (int d = 0; d < discs; ++d) {
    const Vec2 arm = from_polar(mass * spec.eccentricity, 2 * kPi * d / discs);
    force += arm;
    couple += arm * (d - (discs - 1) / 2.0) * apart;
  }
  const auto tidy = [&](double v) { return v < math::kRounding * mass * spec.eccentricity * (1 + apart) ? 0.0 : v; };
  return {tidy(force.norm()), tidy(couple.norm())};
}

}  // namespace palio::reducer
