// Involute splines: flanks are involutes of the shaft's base circle, spaces as wide as they should be, and a wider one
// is the exact parallel.
#include <algorithm>
#include <cmath>

#include <catch2/catch.hpp>

#include "inside.hpp"
#include "palio/angle.hpp"
#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/gear/core.hpp"
#include "palio/gear/spline.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

constexpr double kAngles[] = {30 * kPi / 180, 37.5 * kPi / 180, 45 * kPi / 180};

/// The nearest place of an outline's chords.
double distance(const std::vector<Vec2>& points, const Vec2& p) {
  double least = 1e9;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const Vec2& a = points[i];
    const Vec2 way = points[(i + 1) % points.size()] - a;
    const double t = std::clamp((p - a).dot(way) / way.squaredNorm(), 0.0, 1.0);
    least = std::min(least, (p - a - t * way).norm());
  }
  return least;
}

std::vector<Vec2> sampled(const curve::Outline& outline, int steps) {
  std::vector<Vec2> all;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (std::size_t k = 0; k < outline.period.size(); ++k) {
      const curve::Segment s = outline.segment(copy, k);
      for (int i = 0; i < steps; ++i)
        all.push_back(s.point(s.from + (s.to - s.from) * i / steps));
    }
  }
  return all;
}

}  // namespace

TEST_CASE(
    "spaces of a spline are half a pitch and the allowance wide on the reference circle, their flanks involutes") {
  for (const double angle : kAngles) {
    for (const int teeth : {8, 9, 14, 33, 120, 200}) {
      for (const double allowance : {0.0, 0.08}) {
        const double module = 1.25, r = module * teeth / 2, base = r * std::cos(angle);
        const gear::CylindricalGear bore = gear::spline_bore({teeth, module, angle, allowance});
        CAPTURE(angle, teeth, allowance);
        int flanks = 0;
        for (const curve::Segment& s : bore.outline().period) {
          if (s.role != curve::Role::flank) continue;
          ++flanks;
          // A normal of an involute touches the base circle.
          for (const double u : {0.1, 0.5, 0.9}) {
            const double t = s.from + (s.to - s.from) * u;
            CHECK_THAT(std::abs(cross(s.point(t), s.normal(t))), WithinAbs(base, 1e-9));
          }
        }
        CHECK(flanks == 2);
        // Where the outline crosses the reference circle: the two sides of a space, by bisection on points.
        std::vector<double> at;
        const curve::Outline& outline = bore.outline();
        for (const curve::Segment& s : outline.period) {
          double a = s.from, b = s.to;
          if ((s.point(a).norm() - r) * (s.point(b).norm() - r) > 0) continue;
          for (int i = 0; i < 80; ++i)
            ((s.point(a).norm() - r) * (s.point((a + b) / 2).norm() - r) > 0 ? a : b) = (a + b) / 2;
          at.push_back(std::atan2(s.point(a).y(), s.point(a).x()));
        }
        REQUIRE(at.size() == 2);
        const double apart = std::abs(std::remainder(at[0] - at[1], 2 * kPi)), pitch = 2 * kPi / teeth;
        const double space = kPi * module / 2 + allowance;
        // One way round lies the space, the other way the tooth.
        CHECK(std::min(std::abs(apart * r - space), std::abs((pitch - apart) * r - space)) < 1e-9);
      }
    }
  }
}

TEST_CASE("a wider spline is everywhere the parallel of the one it is made from") {
  test::Draw draw(5);
  for (const double angle : kAngles) {
    const gear::SplineSpec spec{draw.whole(8, 30), 1, angle, 0.02};
    const body::ShapedBore bore = gear::shaped_bore(spec, 0, 0.3);
    const std::vector<Vec2> plain = sampled(bore.wall(0), 400);
    for (const double by : {0.03, -0.03}) {
      int exact = 0, all = 0;
      for (const Vec2& p : sampled(bore.wall(by), 7)) {
        const double off = distance(plain, p);
        CAPTURE(angle, spec.teeth, by);
        // Edges stay edges: both sides go on until they meet, a little further out than the parallel of the edge.
        CHECK(off > std::abs(by) - 2e-4);
        CHECK(off < 1.5 * std::abs(by));
        ++all, exact += std::abs(off - std::abs(by)) < 2e-4;
      }
      CHECK(exact > 0.8 * all);
    }
  }
}

TEST_CASE("a splined wheel is open where a space is, and turned as asked") {
  gear::CylindricalSpec spec;
  spec.teeth = 43, spec.module = 1.5, spec.face_width = 12;
  for (const double turn : {0.0, 0.2}) {
    body::Features f;
    f.shaped = gear::shaped_bore({14, 1, kPi / 6, 0}, 0, turn);
    const body::TriangleMesh mesh = body::mesh(gear::body(gear::CylindricalGear(spec), f), 0.005);
    CHECK_NOTHROW(body::check(mesh));
    for (int i = 0; i < 28; ++i) {
      // At the reference circle: spaces at every pitch from the turn on, teeth half a pitch on.
      const Vec2 at = from_polar(7, turn + kPi * i / 14 + 1e-3);
      CHECK(test::inside(mesh, Vec3(at.x(), at.y(), 5)) == i % 2);
    }
  }
}

TEST_CASE("splines that there are none of are refused") {
  CHECK_THROWS_WITH(gear::spline_bore({14, 1, 20 * kPi / 180, 0}), Contains("37.5°"));
  gear::CylindricalSpec spec;
  spec.teeth = 20, spec.module = 1, spec.face_width = 8, spec.bore_diameter = 5;
  body::Features f;
  f.shaped = gear::shaped_bore({10, 1, kPi / 6, 0}, 0, 0);
  CHECK_THROWS_WITH(gear::body(gear::CylindricalGear(spec), f), Contains("bore.diameter"));
  spec.bore_diameter = 0;
  CHECK_NOTHROW(gear::body(gear::CylindricalGear(spec), f));
  f.cross_holes = {{1, 0, 4}};
  CHECK_THROWS_AS(gear::body(gear::CylindricalGear(spec), f), InvalidParameter);
  f.cross_holes.clear(), f.sided = body::Sided{6, 8, 0};
  CHECK_THROWS_WITH(gear::body(gear::CylindricalGear(spec), f), Contains("another shape"));
}
