// Triangles of upright walls that tunnels open, and of the tunnels. Private to the bodies.
#pragma once

#include <cstdint>
#include <vector>

#include "palio/body/mesh.hpp"
#include "palio/body/tunnel.hpp"

namespace palio::body {

/// The edge where a tunnel comes out of a wall: its vertices by rising angle round the tunnel.
struct Rim {
  const Tunnel* tunnel;
  const Mouth* mouth;
  std::vector<double> at{};  ///< [rad], from 0 on
  std::vector<std::uint32_t> vertices{};
};

/// A wall of a loop between two rings of as many vertices, one above the other.
struct Upright {
  std::uint32_t low, high;  ///< the first vertex of either ring
  std::size_t count;
};

/// Adds the triangles of a wall with its mouths, none outside the strip between two neighbours of its rings; rims get
/// their vertices. \return how much further than those of the rings its chords are from the wall [mm]
/// \throws NoConvergence where chords are too coarse for it
double add_pierced(TriangleMesh& mesh, const Upright& wall, std::vector<Rim>& rims, double chord_error);

/// The wall of a tunnel between its two rims. \return how far its triangles are from it [mm]
double add_tunnel(TriangleMesh& mesh, const Rim& inner, const Rim& outer);

}  // namespace palio::body
