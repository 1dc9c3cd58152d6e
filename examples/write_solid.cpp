// Writes a gear as STL and as a DXF outline, and says how far each is from the exact curves.
#include <cstdio>
#include <palio/body/mesh.hpp>
#include <palio/gear/core.hpp>
#include <palio/write/formats.hpp>

using namespace palio;

int main() {
  gear::CylindricalSpec spec;
  spec.module = 1.5;
  spec.teeth = 43;
  spec.face_width = 12;
  spec.bore_diameter = 8;
  const gear::CylindricalGear drum_wheel(spec);
  const body::Body body = gear::body(drum_wheel);

  write::Stamp stamp;
  stamp.title = "Roof vent, first stage";
  stamp.part = "drum_wheel";
  stamp.version = "example";
  const body::TriangleMesh mesh = body::mesh(body, 0.005);
  const write::Written stl = write::stl(mesh, stamp);
  write::write_file("drum_wheel.stl", stl.bytes);
  std::printf("drum_wheel.stl: within 0.005 mm: %s\n", stl.deviation <= 0.00501 ? "yes" : "no");

  std::vector<write::PlacedLoop> loops;
  for (const body::Loop& loop : body.loops)
    loops.push_back({curve::biarcs(loop.outline, 0.005), "drum_wheel", loop.feature, {}});
  write::write_file("drum_wheel.dxf", write::dxf(loops, stamp));
  std::printf("drum_wheel.dxf: %zu arcs\n", loops[0].loop.points.size() + loops[1].loop.points.size());
  std::printf("exact volume %.6f mm3\n", body::mass_properties(body).volume);
}
