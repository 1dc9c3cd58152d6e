#include "palio/body/mesh.hpp"

#include <catch2/catch.hpp>
#include <map>

#include "palio/write/formats.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

TEST_CASE("a mesh is closed and orderly: every directed edge once, its reverse once") {
  int gears = 0;
  for (unsigned seed = 1; seed <= 30; ++seed) {
    auto g = test::any_gear(seed);
    if (!g) continue;
    ++gears;
    gear::CylindricalSpec s = g->spec();
    s.bore_diameter = (seed % 3) * 0.3 * g->sizes().root_diameter;
    g = gear::CylindricalGear(s);
    const body::TriangleMesh mesh = body::mesh(body::body(*g), 0.004 * s.module);
    CAPTURE(seed, s.teeth, s.bore_diameter, mesh.triangles.size());
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
    for (const auto& t : mesh.triangles) {
      for (int k = 0; k < 3; ++k) ++edges[{t[k], t[(k + 1) % 3]}];
    }
    bool closed = true;
    for (const auto& [edge, count] : edges) {
      const auto reverse = edges.find({edge.second, edge.first});
      closed = closed && count == 1 && reverse != edges.end() && reverse->second == 1;
    }
    CHECK(closed);
    CHECK(mesh.deviation <= 0.004 * s.module);
    const double exact = body::mass_properties(body::body(*g)).volume;
    CHECK_THAT(body::volume(mesh) / exact, WithinAbs(1, 0.02));
  }
  CHECK(gears > 15);
}

TEST_CASE("the mesh's volume converges to area × width with the chord error") {
  gear::CylindricalSpec s;
  s.teeth = 24, s.module = 2, s.face_width = 15, s.bore_diameter = 10;
  const body::Layer layer = body::body(gear::CylindricalGear(s));
  const body::MassProperties mass = body::mass_properties(layer);
  CHECK_THAT(mass.volume, WithinAbs(mass.area * 15, 1e-9));
  CHECK(mass.center == Vec3(0, 0, 7.5));
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
  const body::TriangleMesh mesh = body::mesh(body::body(gear::CylindricalGear(s)), 0.005);
  double deviation = 0;
  const std::string bytes = write::stl(mesh, {"Roof vent", "motor_pinion", "0.0", false}, deviation);
  CHECK(bytes.size() == 84 + 50 * mesh.triangles.size());
  CHECK(bytes.substr(0, 5) == "palio");
  CHECK(bytes.find("Roof vent") < 80);
  CHECK(deviation >= mesh.deviation);
  CHECK(deviation < mesh.deviation + 1e-5);
}
