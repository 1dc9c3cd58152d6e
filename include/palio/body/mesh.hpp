// Watertight triangles from a layered body.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "palio/body/layered.hpp"

namespace palio::body {

/// Closed surface; triangles counter-clockwise seen from outside. Neighbours share vertex numbers, so no seam can open.
struct TriangleMesh {
  std::vector<Vec3> vertices;  ///< [mm]
  std::vector<std::array<std::uint32_t, 3>> triangles;
  double deviation = 0;  ///< largest distance of the exact surface from the triangles [mm]
};

/// Cuts the walls into strips that stay within `chord_error` [mm] of the exact surface, and closes all ends. Twisted
/// walls are cut along the height too; there the distance of the surface from the triangles is measured, not assumed.
/// \throws InvalidParameter "chord_error"
TriangleMesh mesh(const Body& body, double chord_error);

/// What every writer of triangles asks first: corners that are numbers, closed, and not turned inside out.
/// \throws InvalidParameter "mesh"
void check(const TriangleMesh& mesh);

/// Signed volume of a closed mesh [mm³].
double volume(const TriangleMesh& mesh);

}  // namespace palio::body
