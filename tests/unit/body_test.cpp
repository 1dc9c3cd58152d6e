#include "filled.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"

#include <catch2/catch.hpp>
#include <map>

#include "palio/gear/core.hpp"
#include "palio/write/formats.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

/// Every directed edge once, its reverse once.
bool closed(const body::TriangleMesh& mesh) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
  for (const auto& t : mesh.triangles) {
    for (int k = 0; k < 3; ++k)
      ++edges[{t[k], t[(k + 1) % 3]}];
  }
  for (const auto& [edge, count] : edges) {
    const auto reverse = edges.find({edge.second, edge.first});
    if (count != 1 || reverse == edges.end() || reverse->second != 1) return false;
  }
  return true;
}

}  // namespace

TEST_CASE("of every sort of teeth: the mesh is closed, and comes to area × width as the chord error falls") {
  for (const auto& [what, teeth] : test::one_of_each()) {
    const body::Body body = gear::body(teeth);
    CAPTURE(what);
    const auto area = [&](std::size_t layer) {
      double sum = 0;
      for (const body::Wall& w : body.layers[layer].walls)
        sum += curve::signed_area(body.loops[w.below].outline);
      return sum;
    };
    const double b = teeth.spec().face_width, gap = teeth.spec().gap;
    const double exact = area(0) * (b - gap) + (gap > 0 ? area(1) * gap : 0);
    CHECK_THAT(body::mass_properties(body).volume / exact, WithinAbs(1, 1e-12));
    CHECK_THAT(body::mass_properties(body).center.z(), WithinAbs(b / 2, 1e-12));
    double before = 1;
    for (const double chord_error : {1e-2, 1e-3}) {
      const body::TriangleMesh mesh = body::mesh(body, chord_error);
      CAPTURE(chord_error, mesh.triangles.size());
      CHECK(closed(mesh));
      CHECK(mesh.deviation <= chord_error);
      const double missing = std::abs(body::volume(mesh) / exact - 1);
      CHECK(missing < std::max(0.3 * before, 2e-4));
      before = missing;
    }
    CHECK(before < 1e-3);
  }
}

TEST_CASE("a twisted wall strays from its triangles by no more than the mesh says, by an independent measure") {
  // Dense points of the exact screw surface, and for each the nearest triangle of the mesh.
  const gear::Teeth teeth = test::one_of_each()[2].second;
  const body::TriangleMesh mesh = body::mesh(gear::body(teeth), 0.005);
  const auto distance = [](const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
    const Vec3 n = (b - a).cross(c - a), q = p - n * (n.dot(p - a) / n.squaredNorm());
    const bool inside =
        n.dot((b - a).cross(q - a)) >= 0 && n.dot((c - b).cross(q - b)) >= 0 && n.dot((a - c).cross(q - c)) >= 0;
    if (inside) return std::abs(n.dot(p - a)) / n.norm();
    const auto edge = [&](const Vec3& u, const Vec3& v) {
      return (p - u - (v - u) * std::clamp((p - u).dot(v - u) / (v - u).squaredNorm(), 0.0, 1.0)).norm();
    };
    return std::min({edge(a, b), edge(b, c), edge(c, a)});
  };
  double worst = 0;
  for (const curve::Segment& s : teeth.outline().period) {
    for (int i = 0; i <= 12; ++i) {
      const Vec2 p = s.point(s.from + (s.to - s.from) * i / 12);
      for (const double z : {0.9, 6.5, 7.03, 13.1}) {
        const Vec2 q = turned(p, teeth.twist() * (z - 7));
        const Vec3 at(q.x(), q.y(), z);
        double least = 1e9;
        for (const auto& t : mesh.triangles) {
          const Vec3 &a = mesh.vertices[t[0]], &b = mesh.vertices[t[1]], &c = mesh.vertices[t[2]];
          if ((a - at).squaredNorm() < 9) least = std::min(least, distance(at, a, b, c));
        }
        worst = std::max(worst, least);
      }
    }
  }
  CHECK(worst <= mesh.deviation * (1 + 1e-6));
  CHECK(worst > 0.2 * mesh.deviation);
}

TEST_CASE("a mesh is closed and orderly: every directed edge once, its reverse once") {
  int gears = 0;
  for (unsigned seed = 1; seed <= 30; ++seed) {
    auto g = test::any_gear(seed);
    if (!g) continue;
    ++gears;
    gear::CylindricalSpec s = g->spec();
    s.bore_diameter = (seed % 3) * 0.3 * g->sizes().root_diameter;
    g = gear::CylindricalGear(s);
    const body::TriangleMesh mesh = body::mesh(gear::body(*g), 0.004 * s.module);
    CAPTURE(seed, s.teeth, s.bore_diameter, mesh.triangles.size());
    CHECK(closed(mesh));
    CHECK(mesh.deviation <= 0.004 * s.module);
    const double exact = body::mass_properties(gear::body(*g)).volume;
    CHECK_THAT(body::volume(mesh) / exact, WithinAbs(1, 0.02));
  }
  CHECK(gears > 15);
}

TEST_CASE("the mesh's volume converges to area × width with the chord error") {
  gear::CylindricalSpec s;
  s.teeth = 24, s.module = 2, s.face_width = 15, s.bore_diameter = 10;
  const body::Body layer = gear::body(gear::CylindricalGear(s));
  const body::MassProperties mass = body::mass_properties(layer);
  CHECK((mass.center - Vec3(0, 0, 7.5)).norm() < 1e-12);
  double before = 0;
  for (const double chord_error : {1e-2, 1e-3, 1e-4}) {
    const double missing = std::abs(body::volume(body::mesh(layer, chord_error)) / mass.volume - 1);
    CAPTURE(chord_error, missing);
    if (before > 0) CHECK(missing < 0.2 * before);  // linear in the chord error, that is quadratic in the chord
    before = missing;
  }
  CHECK(before < 1e-5);
}

TEST_CASE("STL bytes: count, size, shared corners, and no word that passes for the text form") {
  gear::CylindricalSpec s;
  s.teeth = 17, s.module = 1.5, s.face_width = 10, s.bore_diameter = 5;
  const body::TriangleMesh mesh = body::mesh(gear::body(gear::CylindricalGear(s)), 0.005);
  const auto [bytes, deviation] = write::stl(mesh, test::stamp("motor_pinion"));
  CHECK(bytes.size() == 84 + 50 * mesh.triangles.size());
  CHECK(bytes.substr(0, 5) == "palio");
  CHECK(bytes.find("Roof vent") < 80);
  CHECK(deviation >= mesh.deviation);
  CHECK(deviation < mesh.deviation + 1e-5);
}
