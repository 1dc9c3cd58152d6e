// Holes across the axis: held against integrals worked out in another order, against points told in or out by the
// triangles, and against what cannot be made.
#include <cmath>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include <boost/math/quadrature/gauss_kronrod.hpp>
#include <catch2/catch.hpp>

#include "inside.hpp"
#include "palio/body/mesh.hpp"
#include "palio/body/stack.hpp"
#include "palio/error.hpp"
#include "palio/gear/core.hpp"
#include "random_body.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

/// From a line square to the tunnel at distance `from` (or a circle of radius −from) to a circle of radius R: slices at
/// one height first, in closed form, then over the heights.
double hole_volume(double s, double from, double to) {
  const auto circle = [](double r, double w) { return w * std::sqrt(r * r - w * w) + r * r * std::asin(w / r); };
  const auto slice = [&](double h) {
    const double w = std::sqrt(s * s - h * h);
    return circle(to, w) - (from < 0 ? circle(-from, w) : 2 * w * from);
  };
  // h = s sin u takes the root out of the ends.
  return boost::math::quadrature::gauss_kronrod<double, 61>::integrate(
      [&](double u) { return slice(s * std::sin(u)) * s * std::cos(u); }, -kPi / 2, kPi / 2, 10, 1e-14);
}

struct Hubbed {
  gear::CylindricalSpec spec = test::featured_wheel();  // bore 12, face 12
  body::Features features;
  Hubbed() { features.hubs = {{true, 24, 10}}; }
  body::Body body() const { return test::featured(spec, features); }
};

}  // namespace

TEST_CASE("a hole across takes what two cylinders and its own size leave between them") {
  for (const double diameter : {0.5, 2.5, 5.0, 8.5}) {
    for (const double angle : {0.0, 0.3, 2.0, 5.5}) {
      Hubbed one;
      const body::MassProperties plain = body::mass_properties(one.body());
      one.features.cross_holes = {{diameter, angle, 17}};
      const body::MassProperties set = body::mass_properties(one.body());
      const double hole = hole_volume(diameter / 2, -6, 12);
      CAPTURE(diameter, angle);
      CHECK_THAT(plain.volume - set.volume, WithinAbs(hole, 1e-9 * plain.volume));
      // Its middle stands at its height, and in its direction.
      const Vec3 moved = plain.center * plain.volume - set.center * set.volume;
      CHECK_THAT(moved.z() / hole, WithinAbs(17, 1e-6));
      CHECK_THAT(std::remainder(std::atan2(moved.y(), moved.x()) - angle, 2 * kPi), WithinAbs(0, 1e-9));
      CHECK(std::hypot(moved.x(), moved.y()) / hole > 8.5);
      CHECK(std::hypot(moved.x(), moved.y()) / hole < 9.1);
      CHECK(plain.polar_moment - set.polar_moment > hole * 80);
      CHECK(plain.polar_moment - set.polar_moment < hole * 92);
      one.features.cross_holes[0].through = true;
      CHECK_THAT(plain.volume - body::mass_properties(one.body()).volume, WithinAbs(2 * hole, 1e-9 * plain.volume));
    }
  }
  // Onto a flat, a hexagon's and the bottom of a keyway.
  const auto less = [&](const std::function<void(body::Features&, gear::CylindricalSpec&)>& add, double angle) {
    Hubbed one;
    add(one.features, one.spec);
    const double plain = body::mass_properties(one.body()).volume;
    one.features.cross_holes = {{3, angle, 17}};
    return plain - body::mass_properties(one.body()).volume;
  };
  CHECK_THAT(less(
                 [](auto& f, auto&) {
                   f.flat = body::Flat{10.5, 0.7};
                 },
                 0.7),
             WithinAbs(hole_volume(1.5, 4.5, 12), 1e-6));
  CHECK_THAT(less(
                 [](auto& f, auto& s) {
                   f.sided = body::Sided{6, 11, 0.2}, s.bore_diameter = 0;
                 },
                 0.2 + kPi / 3),
             WithinAbs(hole_volume(1.5, 5.5, 12), 1e-6));
  CHECK_THAT(less(
                 [](auto& f, auto&) {
                   f.keyway = body::Keyway{4, 13.8, {1}};
                 },
                 1),
             WithinAbs(hole_volume(1.5, 7.8, 12), 1e-6));
}

TEST_CASE("a body with holes across is material where its formula says so") {
  Hubbed one;
  one.features.hubs = {{true, 24, 10}, {false, 30, 9}};
  one.features.cross_holes = {{3.4, 0.4, 17, false, body::NutPocket{5.7, 2.6}}, {4, 2.1, 16.5}, {3, 4.4, -4, true}};
  const body::Body body = one.body();
  const auto in_tunnel = [&](const Vec3& p) {
    for (const body::Tunnel& t : body.tunnels) {
      const Vec2 q = p.head<2>();
      if (q.dot(t.outwards()) > 0 && std::hypot(q.dot(t.aside()), p.z() - t.z) < t.radius) return true;
    }
    return false;
  };
  const auto in_pocket = [&](const Vec3& p) {
    const Vec2 q = turned(p.head<2>(), -0.4);
    return std::abs(q.x() - 9) < 1.3 && std::abs(q.y()) < 2.85 && p.z() > 17 - 2.85 / std::cos(kPi / 6);
  };
  for (const double error : {0.01, 0.1, 0.3}) {
    const body::TriangleMesh mesh = body::mesh(body, error);
    CHECK_NOTHROW(body::check(mesh));
    CHECK(mesh.deviation <= error * 1.02);
    test::Draw draw(7);
    int looked = 0;
    for (int i = 0; i < 1500; ++i) {
      const double z = i % 2 ? draw.between(12.1, 21.9) : draw.between(-8.9, -0.1), r = draw.between(1, 16);
      const Vec2 at = from_polar(r, draw.between(0, 2 * kPi));
      const Vec3 p(at.x(), at.y(), z);
      const double hub = z > 0 ? 12 : 15;
      // Not within the chords' error of a surface.
      bool near = std::abs(r - 6) < error || std::abs(r - hub) < error;
      const bool filled = r > 6 && r < hub && !in_tunnel(p) && !in_pocket(p);
      for (int k = 0; k < 6 && !near; ++k) {
        Vec3 q = p;
        q[k / 2] += k % 2 ? error : -error;
        const double rq = q.head<2>().norm();
        near = (rq > 6 && rq < hub && !in_tunnel(q) && !in_pocket(q)) != filled;
      }
      if (near) continue;
      ++looked;
      CAPTURE(error, p.x(), p.y(), z);
      CHECK(test::inside(mesh, p) == (filled ? 1 : 0));
    }
    CHECK(looked > 500);
  }
}

TEST_CASE("what holes across take from a mesh is what they take exactly, as far as its chords go") {
  Hubbed one;
  const body::Body plain = one.body();
  one.features.cross_holes = {{4, 1, 17}, {4, 3, 17, true}};
  const body::Body body = one.body();
  const double exact = 3 * hole_volume(2, -6, 12), area = 3 * 2 * kPi * 2 * 7;
  for (const double error : {0.3, 0.08, 0.02, 0.005, 0.00125}) {
    const double less = body::volume(body::mesh(plain, error)) - body::volume(body::mesh(body, error));
    CAPTURE(error);
    CHECK_THAT(less, WithinAbs(exact, 1.5 * error * area));
  }
}

TEST_CASE("one wall holds as many holes as there is room for, at any angle between its chords") {
  for (int count = 1; count <= 6; ++count) {
    for (const double turn : {0.0, 1e-7, 1e-4, 0.03, 0.2}) {
      Hubbed one;
      for (int i = 0; i < count; ++i)
        one.features.cross_holes.push_back({2.4, turn + 2 * kPi * i / count, 17});
      const body::Body body = one.body();
      for (const double error : {0.004, 0.05}) {
        const body::TriangleMesh mesh = body::mesh(body, error);
        CAPTURE(count, turn, error);
        CHECK_NOTHROW(body::check(mesh));
        double thinnest = 1;  // edges that rounding of a file would close
        for (const auto& t : mesh.triangles) {
          for (int k = 0; k < 3; ++k)
            thinnest = std::min(thinnest, (mesh.vertices[t[static_cast<std::size_t>(k)]] -
                                           mesh.vertices[t[static_cast<std::size_t>((k + 1) % 3)]])
                                              .norm());
        }
        CHECK(thinnest > 1e-4);
      }
    }
  }
}

TEST_CASE("a hole across that cannot be is refused with what would do") {
  struct Case {
    const char* name;
    std::function<void(Hubbed&)> add;
    std::vector<std::string> said;
  };
  const Case cases[] = {
      {"too high",
       [](Hubbed& h) {
         h.features.cross_holes = {{3, 0, 21}};
       },
       {"set_screw", "12 mm to 22 mm", "between 13.501"}},
      {"in the teeth",
       [](Hubbed& h) {
         h.features.cross_holes = {{3, 0, 6}};
       },
       {"set_screw", "teeth", "within a hub"}},
      {"above everything",
       [](Hubbed& h) {
         h.features.cross_holes = {{3, 0, 40}};
       },
       {"22 mm"}},
      {"wider than the hub is long",
       [](Hubbed& h) {
         h.features.cross_holes = {{11, 0, 17}};
       },
       {"9.998 mm"}},
      {"wider than the bore",
       [](Hubbed& h) {
         h.features.hubs = {{true, 24, 20}}, h.features.cross_holes = {{12.5, 0, 22}};
       },
       {"slant"}},
      {"no bore",
       [](Hubbed& h) {
         h.spec.bore_diameter = 0, h.features.cross_holes = {{3, 0, 17}};
       },
       {"no bore", "give a bore"}},
      {"of no size",
       [](Hubbed& h) {
         h.features.cross_holes = {{0, 0, 17}};
       },
       {"above 0"}},
      {"at a keyway's edge",
       [](Hubbed& h) {
         h.features.keyway = body::Keyway{4, 13.8, {0.0}}, h.features.cross_holes = {{3, 0.35, 17}};
       },
       {"corner"}},
      {"beside a flat",
       [](Hubbed& h) {
         h.features.flat = body::Flat{10.5, 0}, h.features.cross_holes = {{3, 0.2, 17}};
       },
       {"slant"}},
      {"in serrations",
       [](Hubbed& h) {
         h.features.serration = body::Serration{25, 10.8, 12, 0.1}, h.spec.bore_diameter = 0;
         h.features.cross_holes = {{3, 0, 17}};
       },
       {"serration"}},
      {"into a hole along the axis",
       [](Hubbed& h) {
         h.features.holes = {{4, 18, 2, 0}}, h.features.cross_holes = {{3, 0, 17}};
       },
       {"holes"}},
      {"into another",
       [](Hubbed& h) {
         h.features.cross_holes = {{3, 0, 17}, {3, 0.4, 17}};
       },
       {"28.96°", "22.92°"}},
      {"one above the other, too near",
       [](Hubbed& h) {
         h.features.cross_holes = {{3, 0, 15}, {3, 0, 17.5}};
       },
       {"0°"}},
      {"a nut that leaves the hub",
       [](Hubbed& h) {
         h.features.hubs = {{true, 18, 10}}, h.features.cross_holes = {{3.4, 0, 17, false, body::NutPocket{5.7, 2.6}}};
       },
       {"set_screw"}}};
  for (const Case& c : cases) {
    Hubbed one;
    c.add(one);
    CAPTURE(c.name);
    try {
      one.body();
      FAIL("it was made");
    } catch (const InvalidParameter& e) {
      for (const std::string& words : c.said)
        CHECK_THAT(e.what(), Contains(words));
    }
  }
  // The height that is told would do.
  Hubbed one;
  one.features.cross_holes = {{3, 0, 13.502}};
  CHECK_NOTHROW(one.body());
  one.features.cross_holes = {{3, 0, 17}, {3, 0.52, 17}, {3, 0, 13.8}};
  CHECK_NOTHROW(one.body());
}

TEST_CASE("holes across shrink, stack and stay with their body") {
  Hubbed one;
  one.features.cross_holes = {{3, 1, 17}};
  const body::Body body = one.body(), smaller = body::scaled(body, 0.98, 0.98);
  CHECK_THAT(body::mass_properties(smaller).volume / body::mass_properties(body).volume,
             WithinAbs(0.98 * 0.98 * 0.98, 1e-12));
  CHECK_NOTHROW(body::check(body::mesh(smaller, 0.01)));
  // Two on one hollow shaft: each hole goes along, turned and lifted.
  const std::vector<body::Stacked> two{{"low", body, 0, 0.3}, {"high", body, 22, 1.2}};
  const body::Body both = body::stacked(two, 0, 0, 0);
  REQUIRE(both.tunnels.size() == 2);
  CHECK_THAT(both.tunnels[1].z, WithinAbs(39, 1e-12));
  CHECK_THAT(both.tunnels[1].angle, WithinAbs(2.2, 1e-12));
  CHECK_THAT(body::mass_properties(both).volume, WithinAbs(2 * body::mass_properties(body).volume, 1e-6));
  CHECK_NOTHROW(body::check(body::mesh(both, 0.01)));
  // Where an axle fills the bore nothing is left to be screwed onto.
  CHECK_THROWS_WITH(body::stacked(two, 8, -5, 50), Contains("set_screw") && Contains("leave"));
}
