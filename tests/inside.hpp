// Whether a point lies in a solid, by its triangles.
#pragma once

#include "palio/body/mesh.hpp"

namespace palio::test {

/// How often a ray upwards from a point leaves the solid less how often it enters: 1 within, 0 without.
inline int inside(const body::TriangleMesh& mesh, const Vec3& p) {
  int crossings = 0;
  for (const auto& t : mesh.triangles) {
    const Vec3 &a = mesh.vertices[t[0]], &b = mesh.vertices[t[1]], &c = mesh.vertices[t[2]];
    const Vec2 q = p.head<2>(), A = a.head<2>() - q, B = b.head<2>() - q, C = c.head<2>() - q;
    const double u = cross(B, C), v = cross(C, A), w = cross(A, B), all = u + v + w;
    if (all == 0 || (u > 0) != (v > 0) || (v > 0) != (w > 0)) continue;
    if ((u * a.z() + v * b.z() + w * c.z()) / all > p.z()) crossings += all > 0 ? 1 : -1;
  }
  return crossings;
}

}  // namespace palio::test
