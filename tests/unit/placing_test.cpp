// Where gears stand in space and how fast they turn: pitch surfaces roll on each other, and slide only along the teeth.
#include <cmath>
#include <optional>
#include <string>

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <catch2/catch.hpp>

#include "palio/design/design.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using namespace palio::job;

namespace {

/// An axis in space, and the turning about it for one radian of the first driver.
struct Axis {
  Vec3 at, along;
  double turn = 0;

  Vec3 velocity(const Vec3& p) const { return (turn * along).cross(p - at); }
};

Axis axis_of(const Design& design, const Gear& g) {
  const Group& group = design.groups[g.group];
  return {group.origin + group.axes * Vec3(g.axis.x(), g.axis.y(), g.height), group.axes.col(2),
          g.speed_ratio.value_or(0)};
}

double distance(const Axis& a, const Axis& b) {
  const Vec3 normal = a.along.cross(b.along), between = b.at - a.at;
  if (normal.norm() < 1e-9) return between.cross(a.along).norm();
  return std::abs(between.dot(normal.normalized()));
}

/// Where one axis comes nearest to the other.
Vec3 nearest(const Axis& a, const Axis& b) {
  const double c = a.along.dot(b.along), sine = 1 - c * c;
  const Vec3 between = b.at - a.at;
  return a.at + a.along * ((between.dot(a.along) - c * between.dot(b.along)) / sine);
}

std::optional<Design> turned_job(const std::string& kind, unsigned seed) {
  test::Draw draw(seed);
  const std::vector<std::string> set{fmt::format("pair.p.direction={}", draw.whole(-179, 180)),
                                     fmt::format("pair.p.start_angle={}", draw.between(-40, 40))};
  return test::try_job(test::random_job(kind, seed, false, seed % 2 == 0), set);
}

constexpr double kNear = 1e-9;

}  // namespace

TEST_CASE("on parallel axes pitch circles roll on each other without sliding") {
  int rolled = 0;
  for (const char* kind :
       {"spur", "helical", "double_helical", "internal", "true_cycloid", "cycloidal_ring", "clock", "lantern"}) {
    for (unsigned seed = 1; seed <= test::share(25); ++seed) {
      const auto design = turned_job(kind, seed);
      if (!design || !design->pairs[0].meshes()) continue;
      const Pair& p = design->pairs[0];
      const Gear &g1 = design->gears[p.driver], &g2 = design->gears[p.driven];
      const Axis a = axis_of(*design, g1), b = axis_of(*design, g2);
      CAPTURE(kind, seed, p.mounted_center_distance());
      CHECK(a.along.cross(b.along).norm() < kNear);
      CHECK(distance(a, b) == Approx(p.mounted_center_distance()).epsilon(kNear));
      CHECK(std::abs(a.turn) == Approx(1).epsilon(kNear));
      // The pitch point: on the line of centres, as far from the axes as teeth are many.
      const std::array<double, 2> pitch = p.working_pitch_diameters();
      CHECK(pitch[0] / pitch[1] == Approx(static_cast<double>(g1.teeth.count()) / g2.teeth.count()).epsilon(kNear));
      const Vec3 centres = (b.at - a.at) - (b.at - a.at).dot(a.along) * a.along;
      const double side = g2.teeth.internal() ? -1 : 1;  // a ring reaches beyond the pinion
      const Vec3 point = a.at + side * pitch[0] / 2 * centres.normalized();
      CHECK((a.velocity(point) - b.velocity(point)).norm() < kNear * pitch[0]);
      // No other point of the line of centres is so.
      const Vec3 other = point + 0.1 * centres;
      CHECK((a.velocity(other) - b.velocity(other)).norm() > 1e-3 * pitch[0] / g2.teeth.count());
      // Where the job says: from the driver's axis, in the direction of the pair.
      const Group& group = design->groups[g1.group];
      const Vec3 wanted = group.axes * Vec3(std::cos(p.direction().radians()), std::sin(p.direction().radians()), 0);
      CHECK((side * centres.normalized() - wanted).norm() < 1e-7);
      ++rolled;
    }
  }
  if (test::whole_search()) CHECK(rolled > 100);
}

TEST_CASE("a rack goes as fast as the pitch circle that rolls on it") {
  for (unsigned seed = 1; seed <= test::share(25); ++seed) {
    const auto design = turned_job("rack", seed);
    if (!design || !design->pairs[0].meshes()) continue;
    const Pair& p = design->pairs[0];
    const bool drives = design->gears[p.driver].teeth.is_rack();
    const Gear &round = design->gears[drives ? p.driven : p.driver],
               &rack = design->gears[drives ? p.driver : p.driven];
    const Axis a = axis_of(*design, round);
    const double radius = round.teeth.reference_diameter() / 2;
    CAPTURE(seed, drives, radius);
    CHECK(std::abs(*rack.speed_ratio / a.turn) == Approx(radius).epsilon(kNear));
    // Along its reference line, the way the teeth of the pinion push it.
    const Group& group = design->groups[rack.group];
    const Vec3 along = group.axes * Vec3(std::cos(rack.facing), std::sin(rack.facing), 0);
    const Vec3 to_line(rack.axis.x() - round.axis.x(), rack.axis.y() - round.axis.y(), 0);
    const Vec3 across = group.axes * to_line;
    const Vec3 normal = across - across.dot(along) * along;
    CHECK(normal.norm() == Approx(p.mounted_center_distance()).epsilon(1e-7));
    const Vec3 point = a.at + radius * normal.normalized();
    CHECK((a.velocity(point) + *rack.speed_ratio * along).norm() < 1e-7 * radius);
  }
}

TEST_CASE("bevel axes meet at the shaft angle, and pitch cones roll along a common line") {
  int rolled = 0;
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    const auto design = turned_job("bevel", seed);
    if (!design || !design->pairs[0].bevel()) continue;
    const Pair& p = design->pairs[0];
    const gear::BevelSizes& s1 = design->gears[p.driver].teeth.bevel().sizes();
    const Axis a = axis_of(*design, design->gears[p.driver]), b = axis_of(*design, design->gears[p.driven]);
    const double d1 = design->gears[p.driver].teeth.bevel().spec().pitch_cone.radians(),
                 d2 = design->gears[p.driven].teeth.bevel().spec().pitch_cone.radians();
    CAPTURE(seed, p.shaft_angle().radians());
    CHECK(distance(a, b) < kNear * s1.outer_cone_distance);
    CHECK(std::abs(std::acos(std::clamp(a.along.dot(b.along), -1.0, 1.0)) - p.shaft_angle().radians()) < 1e-7);
    CHECK(d1 + d2 == Approx(p.shaft_angle().radians()).epsilon(kNear));
    // The common line leans from the driver's axis towards the driven's by the driver's cone.
    const Vec3 apex = nearest(a, b);
    const Vec3 towards = (b.along - b.along.dot(a.along) * a.along).normalized();
    const Vec3 line = std::cos(d1) * a.along + std::sin(d1) * towards;
    CHECK(std::acos(std::clamp(line.dot(b.along), -1.0, 1.0)) == Approx(d2).epsilon(1e-7));
    for (const double at : {0.5, 1.0}) {
      const Vec3 point = apex + at * s1.outer_cone_distance * line;
      CHECK((a.velocity(point) - b.velocity(point)).norm() < 1e-7 * s1.outer_cone_distance);
    }
    ++rolled;
  }
  if (test::whole_search()) CHECK(rolled > 20);
}

TEST_CASE("crossed axes keep their angle and distance, and teeth slide along themselves alone") {
  int rolled = 0;
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    const auto design = turned_job("crossed", seed);
    if (!design || !design->pairs[0].crossed()) continue;
    const Pair& p = design->pairs[0];
    const Gear &g1 = design->gears[p.driver], &g2 = design->gears[p.driven];
    const Axis a = axis_of(*design, g1), b = axis_of(*design, g2);
    CAPTURE(seed, p.shaft_angle().radians());
    CHECK(distance(a, b) == Approx(p.mounted_center_distance()).epsilon(kNear));
    CHECK(std::abs(a.along.dot(b.along) - std::cos(p.shaft_angle().radians())) < 1e-9);
    const Vec3 foot = nearest(a, b), other = nearest(b, a), normal = (other - foot).normalized();
    const double r1 = g1.teeth.reference_diameter() / 2;
    const Vec3 point = foot + r1 * normal;
    // A right-handed helix climbs along the axis as it goes round it.
    const auto tooth = [&](const Axis& axis, const Gear& g, const Vec3& out) {
      const double beta = g.teeth.spec().helix_angle.radians();
      return Vec3(std::cos(beta) * axis.along + std::sin(beta) * axis.along.cross(out));
    };
    const Vec3 t1 = tooth(a, g1, normal), t2 = tooth(b, g2, Vec3(-normal));
    CHECK(t1.cross(t2).norm() < 1e-7);
    // Teeth that are pushed along their normal go together; what is left is sliding along the tooth.
    const Vec3 point2 = other - g2.teeth.reference_diameter() / 2 * normal;
    const Vec3 sliding = a.velocity(point) - b.velocity(point2);
    CHECK(std::abs(sliding.dot(t1.cross(normal))) < 1e-7 * r1);
    CHECK(sliding.norm() > 0);
    ++rolled;
  }
  if (test::whole_search()) CHECK(rolled > 20);
}
