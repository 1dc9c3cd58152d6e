// A gear alone on its bore, and what its solid leaves free about the axis.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>

#include "palio/body/mesh.hpp"
#include "palio/design/design.hpp"

namespace palio::test {

inline std::string idler(const std::string& more, const std::string& rest = "") {
  return "[gear.idler]\nkind='spur'\nteeth=40\nmodule=1.5\nface_width=18\n" + more + rest;
}

/// The largest circle about the axis that is free of material at a height, by the solid's triangles; 0 on the axis.
inline double free_radius(const body::TriangleMesh& mesh, double z) {
  double least = 1e9;
  for (const auto& t : mesh.triangles) {
    for (int k = 0; k < 3; ++k) {
      const Vec3 &a = mesh.vertices[t[static_cast<std::size_t>(k)]],
                 &b = mesh.vertices[t[static_cast<std::size_t>((k + 1) % 3)]];
      if ((a.z() - z) * (b.z() - z) >= 0) continue;
      const Vec3 p = a + (b - a) * (z - a.z()) / (b.z() - a.z());
      least = std::min(least, std::hypot(p.x(), p.y()));
    }
  }
  return least;
}

inline body::TriangleMesh mesh_of(const job::Design& d, std::size_t gear = 0) {
  return body::mesh(job::body(d.gears[gear]).layers(), 0.002);
}

}  // namespace palio::test
