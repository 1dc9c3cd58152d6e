// Where a gear has to stand to mesh with its mate.
#include <cmath>

#include "palio/pair/pair.hpp"

namespace palio::pair {
namespace {

/// Within half a pitch of 0; rounding about a tooth on +x is none.
double tidy(double angle, int teeth) {
  const double near = std::remainder(angle, 2 * kPi / teeth);
  constexpr double kRounding = 1e-14;  // [rad]: what the remainder of a turn leaves of none
  return std::abs(near) < kRounding ? 0.0 : near;
}

/// From the driver's axis to the driven's. The pitch point lies in `direction`; a ring's axis lies on the other side of
/// its pinion's.
Vec2 way(const Placed& driven, double distance, Angle direction) {
  return (driven.teeth.internal() ? -1 : 1) * from_polar(distance, direction.radians());
}

}  // namespace

double section(const Placed& gear, double datum) { return member(gear, datum).start; }

void turn_to(Placed& gear, double datum, double coordinate) {
  gear.phase = 0;
  gear.phase = coordinate - section(gear, datum);
}

double along(const Placed& rack, const Vec2& axis) { return (axis - rack.axis).dot(from_polar(1, rack.facing)); }

Placed rack_at(Placed rack, const Vec2& axis) {
  const double way = along(rack, axis);
  constexpr double kRounding = 1e-9;  // [mm]: rounding is no way
  if (std::abs(way) < kRounding) return rack;
  rack.axis += from_polar(way, rack.facing), rack.phase += way;
  return rack;
}

double mid_face(const gear::Teeth& teeth) {
  if (!teeth.is_bevel()) return teeth.face_width() / 2;
  const gear::BevelSizes& s = teeth.bevel().sizes();
  return (s.outer_cone_distance + s.inner_cone_distance) / 2 * std::cos(teeth.bevel().spec().pitch_cone.radians());
}

Placed Pair::beside(const Placed& driver, Placed driven, std::optional<Angle> direction) const {
  const Angle toward = direction.value_or(as_built_.direction);
  switch (sort_) {
    case Sort::bevel:
      driven.height = mid_face(driven.teeth);
      driven.phase = tidy(bevel_driven_phase(driver.teeth.count(), driven.teeth.count(), driver.phase, toward),
                          driven.teeth.count());
      return driven;
    case Sort::crossed:
      driven.height = axial_offset();
      if (mismatches_.empty())
        turn_to(driven, 0, driven_phase(driver.teeth, driven.teeth, section(driver, driver.height), toward));
      return driven;
    case Sort::cycloidal:
    case Sort::parallel: break;
  }
  driven.axis = driver.axis + way(driven, distance_, toward);
  driven.height = driver.height + axial_offset();
  if (driven.teeth.is_rack()) driven.facing = toward.radians() + kPi / 2;
  if (mismatches_.empty())
    turn_to(driven, driver.height, driven_phase(driver.teeth, driven.teeth, section(driver, driver.height), toward));
  return driven;
}

Placed Pair::before(const Placed& driven, Placed driver, std::optional<Angle> direction) const {
  const Angle toward = direction.value_or(as_built_.direction);
  const bool ring = driver.teeth.internal() || driven.teeth.internal();
  const Angle from_driven = ring ? toward : toward + Angle::radians(kPi);
  const int z1 = driver.teeth.count(), z2 = driven.teeth.count();
  switch (sort_) {
    case Sort::bevel:
      driver.height = mid_face(driver.teeth);
      // The driven's relation, solved for the driver.
      driver.phase = tidy(
          toward.radians() + (bevel_driven_phase(z1, z2, toward.radians(), toward) - driven.phase) / (1.0 * z1 / z2),
          z1);
      return driver;
    case Sort::crossed:
      driver.height = 0;
      if (mismatches_.empty())
        turn_to(driver, 0,
                driven_phase(driven.teeth, driver.teeth, section(driven, driven.height - axial_offset()), from_driven));
      return driver;
    case Sort::cycloidal:
    case Sort::parallel: break;
  }
  driver.axis = driven.axis - way(driven, distance_, toward);
  driver.height = driven.height - axial_offset();
  if (driver.teeth.is_rack()) driver.facing = toward.radians() - kPi / 2;
  if (mismatches_.empty())
    turn_to(driver, driver.height,
            driven_phase(driven.teeth, driver.teeth, section(driven, driver.height), from_driven));
  return driver;
}

Pair in_mesh(Placed driver, Placed driven, const Arrangement& as_built, const std::string& subject) {
  Pair pair(std::move(driver), std::move(driven), as_built, subject);
  pair.stand(pair.gears()[0], pair.beside(pair.gears()[0], pair.gears()[1]));
  return pair;
}

}  // namespace palio::pair
