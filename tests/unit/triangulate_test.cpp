// Triangles of plane regions: racks and rings of any size, regions drawn at random, none without area, the cost nearly
// linear.
#include <catch2/catch.hpp>
#include <ctime>
#include <set>

#include "body/triangulate.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"
#include "palio/gear/core.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinRel;

namespace {

using Loops = std::vector<std::vector<std::uint32_t>>;

double area(const std::vector<Vec2>& points, const std::vector<std::uint32_t>& loop) {
  double sum = 0;
  for (std::size_t i = 0; i < loop.size(); ++i)
    sum += cross(points[loop[i]], points[loop[(i + 1) % loop.size()]]);
  return sum / 2;
}

/// Every loop's edge once, every other edge twice, the areas adding up, all counter-clockwise.
void check(const std::vector<Vec2>& points, const Loops& loops) {
  const std::vector<body::Triangle> triangles = body::triangulate(points, loops);
  std::size_t corners = 0;
  double wanted = 0, covered = 0;
  std::set<std::pair<std::uint32_t, std::uint32_t>> border;
  for (const auto& loop : loops) {
    corners += loop.size();
    wanted += area(points, loop);
    for (std::size_t i = 0; i < loop.size(); ++i)
      border.insert({loop[i], loop[(i + 1) % loop.size()]});
  }
  CHECK(triangles.size() == corners + 2 * (loops.size() - 1) - 2);
  std::set<std::pair<std::uint32_t, std::uint32_t>> edges;
  for (const body::Triangle& t : triangles) {
    const Vec2 &a = points[t[0]], &b = points[t[1]], &c = points[t[2]];
    const double twice = cross(Vec2(b - a), Vec2(c - a)),
                 longest = std::max({(b - a).squaredNorm(), (c - b).squaredNorm(), (a - c).squaredNorm()});
    CHECK(twice > 1e-13 * longest);
    covered += twice / 2;
    for (int k = 0; k < 3; ++k)
      CHECK(edges.insert({t[static_cast<std::size_t>(k)], t[static_cast<std::size_t>((k + 1) % 3)]}).second);
  }
  for (const auto& e : border)
    CHECK(edges.count(e) == 1);
  for (const auto& e : edges)
    CHECK(edges.count({e.second, e.first}) == (border.count(e) > 0 ? 0 : 1));
  CHECK_THAT(covered, WithinRel(wanted, 1e-9));
}

std::vector<std::uint32_t> run(std::uint32_t from, std::uint32_t count, bool reversed) {
  std::vector<std::uint32_t> all;
  for (std::uint32_t i = 0; i < count; ++i)
    all.push_back(reversed ? from + count - 1 - i : from + i);
  return all;
}

/// Of this process alone: what else the machine does is not counted.
double seconds(const gear::Teeth& teeth) {
  const std::clock_t start = std::clock();
  body::mesh(gear::body(teeth), 0.005);
  return static_cast<double>(std::clock() - start) / CLOCKS_PER_SEC;
}

gear::CylindricalSpec rack(int teeth, double module = 1, double angle = 20) {
  gear::CylindricalSpec s;
  s.teeth = teeth, s.module = module, s.face_width = 8, s.pressure_angle = Angle::degrees(angle);
  return s;
}

}  // namespace

TEST_CASE("regions drawn at random, with holes and straight walls, are covered by triangles that have area") {
  for (unsigned seed = 1; seed <= 60; ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    std::vector<Vec2> points;
    Loops loops;
    // A star-shaped outline; every other one with points along its straight sides.
    const int n = draw.whole(5, 60), extra = draw.whole(0, 3);
    std::vector<Vec2> corners;
    corners.reserve(static_cast<std::size_t>(n));
    for (int i = 0; i < n; ++i)
      corners.push_back(from_polar(draw.between(60, 100), 2 * kPi * i / n));
    for (int i = 0; i < n; ++i) {
      for (int k = 0; k <= extra; ++k)
        points.push_back(corners[static_cast<std::size_t>(i)] +
                         (corners[static_cast<std::size_t>((i + 1) % n)] - corners[static_cast<std::size_t>(i)]) * k /
                             (extra + 1));
    }
    loops.push_back(run(0, static_cast<std::uint32_t>(points.size()), false));
    const int holes = draw.whole(0, 9);
    for (int h = 0; h < holes; ++h) {
      const Vec2 middle = from_polar(30, 2 * kPi * h / 9);
      const auto from = static_cast<std::uint32_t>(points.size());
      const int sides = draw.whole(3, 14);
      for (int i = 0; i < sides; ++i)
        points.push_back(middle + from_polar(draw.between(3, 9), 2 * kPi * i / sides));
      loops.push_back(run(from, static_cast<std::uint32_t>(sides), true));
    }
    check(points, loops);
  }
}

TEST_CASE("a comb with straight back and straight walls has no triangle without area") {
  for (const int teeth : {1, 2, 45, 55, 78, 80, 500, 501, 600, 700}) {
    CAPTURE(teeth);
    std::vector<Vec2> points;
    for (int i = 0; i < teeth; ++i) {
      const double x = -3.0 * i;
      for (const Vec2& p : {Vec2(x, 0), Vec2(x - 0.5, 0), Vec2(x - 0.8, 1), Vec2(x - 1.1, 2), Vec2(x - 1.9, 2),
                            Vec2(x - 2.2, 1), Vec2(x - 2.5, 0)})
        points.push_back(p);
    }
    points.push_back(Vec2(-3.0 * teeth, 0)), points.push_back(Vec2(-3.0 * teeth, -4)), points.push_back(Vec2(0, -4));
    check(points, {run(0, static_cast<std::uint32_t>(points.size()), false)});
  }
}

TEST_CASE("racks and rings of any number of teeth are closed, without triangles of no area") {
  for (const int teeth : {24, 45, 55, 78, 80, 500, 501, 600, 700}) {
    for (const double angle : {14.5, 20.0, 25.0}) {
      if (teeth > 100 && angle != 20) continue;
      CAPTURE(teeth, angle);
      const body::TriangleMesh m = body::mesh(gear::body(gear::Rack(rack(teeth, 1, angle))), 0.005);
      CHECK_NOTHROW(body::check(m));
      int thin = 0;
      for (const auto& t : m.triangles) {
        const Vec3 a = m.vertices[t[0]], b = m.vertices[t[1]], c = m.vertices[t[2]];
        const double longest = std::max({(b - a).squaredNorm(), (c - b).squaredNorm(), (a - c).squaredNorm()});
        thin += (b - a).cross(c - a).norm() <= 1e-12 * longest ? 1 : 0;
      }
      CHECK(thin == 0);
    }
  }
  int rings = 0;
  for (unsigned seed = 1; seed <= 120; ++seed) {
    test::Draw draw(seed);
    gear::CylindricalSpec s = rack(draw.whole(20, 90), draw.of({0.5, 1.0, 2.4}), draw.of({14.5, 20.0, 25.0}));
    s.internal = true;
    s.profile_shift = draw.between(-0.6, 0.3);
    s.dedendum = draw.between(0.3, 1.4);
    CAPTURE(seed, s.teeth, s.profile_shift, s.dedendum, s.pressure_angle.degrees());
    const auto ring = test::try_gear(s);
    if (!ring) continue;
    ++rings;
    for (const curve::Segment& part : ring->outline().period) {
      for (int i = 0; i <= 8; ++i) {
        const curve::Jet j = part.jet(part.from + (part.to - part.from) * i / 8);
        REQUIRE(j.p.allFinite());
        REQUIRE(j.d1.allFinite());
        REQUIRE(j.d2.allFinite());
      }
    }
    CHECK_NOTHROW(body::check(body::mesh(gear::body(*ring), 0.01)));
  }
  CHECK(rings > 60);
}

TEST_CASE("the cost of meshing grows with the teeth, not with their square") {
  if (!test::whole_search()) return;  // under sanitizers there is nothing to measure
  gear::CylindricalSpec ring = rack(250);
  ring.internal = true;
  // Four times the teeth: four times the work, and up to eleven on a machine that runs other things beside; by the
  // square it would be sixteen.
  const auto grows = [](const gear::Teeth& small, const gear::Teeth& large) {
    seconds(small);  // warm
    double least = 1e9, most = 1e9;
    for (int i = 0; i < 4; ++i)
      least = std::min(least, seconds(small)), most = std::min(most, seconds(large));
    return most / least;
  };
  CHECK(grows(gear::Rack(rack(250)), gear::Rack(rack(1000))) < 11);
  gear::CylindricalSpec large = ring;
  large.teeth = 1000;
  CHECK(grows(gear::CylindricalGear(ring), gear::CylindricalGear(large)) < 11);
}

TEST_CASE("what no writer may write is refused: open meshes, meshes turned inside out, corners that are no numbers") {
  body::TriangleMesh m = body::mesh(gear::body(gear::Rack(rack(3))), 0.01);
  CHECK_NOTHROW(body::check(m));
  body::TriangleMesh open = m;
  open.triangles.pop_back();
  CHECK_THROWS_WITH(body::check(open), Catch::Contains("open"));
  test::Draw draw(11);
  for (int i = 0; i < 40; ++i) {
    const std::size_t at = static_cast<std::size_t>(draw.whole(0, static_cast<int>(m.triangles.size()) - 1));
    CAPTURE(at);
    body::TriangleMesh twice = m, flipped = m, without = m;
    twice.triangles.push_back(m.triangles[at]);
    CHECK_THROWS_WITH(body::check(twice), Catch::Contains("open"));
    std::swap(flipped.triangles[at][0], flipped.triangles[at][1]);
    CHECK_THROWS_WITH(body::check(flipped), Catch::Contains("open"));
    without.triangles.erase(without.triangles.begin() + static_cast<std::ptrdiff_t>(at));
    CHECK_THROWS_WITH(body::check(without), Catch::Contains("open"));
  }
  body::TriangleMesh inside_out = m;
  for (auto& t : inside_out.triangles)
    std::swap(t[0], t[1]);
  CHECK_THROWS_WITH(body::check(inside_out), Catch::Contains("volume"));
  body::TriangleMesh nan = m;
  nan.vertices[3].x() = std::nan("");
  CHECK_THROWS_WITH(body::check(nan), Catch::Contains("no numbers"));
}
