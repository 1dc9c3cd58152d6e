// Bodies around cores that are no gear's: what a body is must follow from its core alone.
#include "palio/body/core.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/body/conical.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/gear/core.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

/// A regular polygon: a side is the period.
body::Core polygon(int sides, double radius, double width) {
  body::Core core;
  const curve::Segment side{curve::Line{from_polar(radius, 0), from_polar(radius, 2 * kPi / sides)}, 0, 1,
                            curve::Role::flank};
  core.outline = curve::Outline{{side}, sides};
  core.width = width;
  core.root_radius = radius * std::cos(kPi / sides), core.reference_radius = core.root_radius;
  core.module = radius / sides;
  return core;
}

double polygon_area(int sides, double radius) { return 0.5 * sides * radius * radius * std::sin(2 * kPi / sides); }

/// The volume within a closed chain of points (r, z) that turns about the axis.
double turned_volume(const std::vector<Vec2>& chain) {
  double sum = 0;
  for (std::size_t i = 0; i < chain.size(); ++i) {
    const Vec2 &p = chain[i], &q = chain[(i + 1) % chain.size()];
    sum += (p.x() * p.x() + p.x() * q.x() + q.x() * q.x()) * (q.y() - p.y());
  }
  return std::abs(sum) * kPi / 3;
}

void check_meshed(const body::Body& body, double volume) {
  const body::TriangleMesh mesh = body::mesh(body, 0.001);
  CHECK_NOTHROW(body::check(mesh));
  CHECK_THAT(body::volume(mesh), WithinRel(volume, 2e-3));
}

}  // namespace

TEST_CASE("a prism around any polygon has its area times its width, turned on along the way or not") {
  for (const int sides : {5, 6, 12, 31}) {
    CAPTURE(sides);
    body::Core core = polygon(sides, 20, 8);
    const double volume = polygon_area(sides, 20) * 8;
    const body::Body upright = body::body(core, {});
    CHECK_THAT(body::mass_properties(upright).volume, WithinRel(volume, 1e-12));
    check_meshed(upright, volume);
    core.turn = [](double above) { return 0.05 * above; };
    const body::Body turned_on = body::body(core, {});
    CHECK_THAT(body::mass_properties(turned_on).volume, WithinRel(volume, 1e-12));
    check_meshed(turned_on, volume);
  }
}

TEST_CASE("bore, hub and holes take and give their cylinders, whatever the core") {
  body::Core core = polygon(12, 20, 8);
  core.bore_radius = 4;
  body::Features f;
  f.hubs.push_back({true, 16, 5});
  f.holes.push_back({3, 26, 4, 0});
  const double area = polygon_area(12, 20) - kPi * 16 - 3 * kPi * 4, hub = kPi * (64 - 16) * 5;
  const body::Body made = body::body(core, f);
  CHECK_THAT(body::mass_properties(made).volume, WithinRel(area * 8 + hub, 1e-12));
  check_meshed(made, area * 8 + hub);
  CHECK_THAT(body::heights(f, core.width).top, WithinAbs(13, 0));
  f.holes.front().circle_diameter = 12;  // they run into the bore
  CHECK_THROWS_WITH(body::body(core, f), Contains("holes") && Contains("bore"));
}

TEST_CASE("a ring, pins between plates, and halves with a groove have what their cores say") {
  body::Core ring = polygon(9, 20, 6);
  ring.outline = curve::reversed(ring.outline);
  ring.outline.clockwise = true;
  ring.ring = true, ring.outer_radius = 25, ring.root_radius = 20;
  CHECK_THAT(body::mass_properties(body::body(ring, {})).volume,
             WithinRel((kPi * 625 - polygon_area(9, 20)) * 6, 1e-12));

  body::Core pins;
  pins.outline.count = 7, pins.width = 10, pins.outer_radius = 12, pins.root_radius = 6, pins.module = 2;
  pins.pins = body::Core::Pins{1.5, 9, 2};
  const body::Body cage = body::body(pins, {});
  const double cage_volume = 7 * kPi * 2.25 * 10 + 2 * 2 * kPi * 144;
  CHECK_THAT(body::mass_properties(cage).volume, WithinRel(cage_volume, 1e-12));
  CHECK_THAT(cage.top() - cage.bottom(), WithinAbs(14, 1e-12));

  body::Core halves = polygon(12, 20, 10);
  halves.turn = [](double above) { return -0.04 * std::abs(above); };
  halves.gap = 2;
  const double floor = halves.root_radius - 0.1 * halves.module;
  CHECK_THAT(body::mass_properties(body::body(halves, {})).volume,
             WithinRel(polygon_area(12, 20) * 8 + kPi * floor * floor * 2, 1e-12));
}

TEST_CASE("around a plain cone the body is what its meridian sweeps") {
  for (const double delta : {0.4, 0.8, 1.2}) {
    CAPTURE(delta);
    body::ConicalCore core;
    core.count = 10, core.inner = 14, core.outer = 22, core.pitch_cone = delta, core.module = 1;
    core.height = 0, core.depth = 0.5, core.rim = 2.0;
    const double tip = core.outer * std::sin(delta);
    core.tip_radius = core.root_radius = tip;
    core.section = [delta](double) {
      const curve::Arc arc{Vec2::Zero(), std::tan(delta / 2)};
      return curve::Outline{{{arc, -kPi / 10, kPi / 10, curve::Role::tip}}, 10};
    };
    core.distance = [delta](double angle, double R) { return R / std::cos(angle - delta); };
    core.tip_angle = core.root_angle = [delta](double) { return delta; };
    const body::ConicalBody made(core, {});
    const Vec2 along(std::sin(delta), std::cos(delta));
    const double volume = turned_volume({{0, made.front().z},
                                         {made.front().radius, made.front().z},
                                         core.inner * along,
                                         core.outer * along,
                                         {made.rear().radius, made.rear().z},
                                         {0, made.rear().z}});
    CHECK_THAT(body::mass_properties(made).volume, WithinRel(volume, 1e-9));
    CHECK_THAT(made.top(), WithinAbs(made.rear().z, 1e-12));
  }
}

TEST_CASE("the core of a gear says of its teeth what the gear says") {
  for (unsigned seed = 1; seed <= test::share(40); ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s = test::any_rack(draw);
    s.teeth = draw.whole(12, 60);
    s.helix_angle = Angle::degrees(draw.of({0.0, 0.0, 15.0, -20.0}));
    const auto g = test::try_gear(s);
    if (!g) continue;
    CAPTURE(seed);
    const body::Core core = gear::core(*g);
    CHECK(core.outline.count == s.teeth);
    CHECK(static_cast<bool>(core.turn) == (s.helix_angle.radians() != 0));
    if (core.turn) CHECK_THAT(core.turn(3), WithinAbs(3 * g->twist(), 1e-15));
    // A section's area times the width, by the outline alone.
    CHECK_THAT(body::mass_properties(gear::body(*g)).volume,
               WithinRel(curve::signed_area(core.outline) * s.face_width, 1e-11));
  }
}
