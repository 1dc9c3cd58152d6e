// Holes across a body: their mouths in walls, and their own walls. Private to the STEP module.
#pragma once

#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Vertex.hxx>
#include <vector>

#include "palio/curve/bernstein.hpp"
#include "pieces.hpp"

namespace palio::step {

/// All tunnels of a body.
class Bores {
 public:
  explicit Bores(const std::vector<body::Tunnel>& tunnels);

  /// Adds the holes of the wall over one piece of a loop, between two heights, to its face.
  void open(std::size_t loop, const Piece& piece, double low, double high, TopoDS_Face face);
  /// Adds their own walls. \throws InvalidParameter where a mouth has found no wall
  void add_to(TopoDS_Shell& shell) const;

 private:
  /// The edge at which a tunnel comes out of a wall: in two halves that meet beside its axis, from one side over the
  /// top to the other and back below.
  struct Rim {
    TopoDS_Vertex vertices[2];
    TopoDS_Edge edges[2];
    curve::Fit fits[2];  // of a round wall: the edge in space, in the wall's (angle, height), in the tunnel's (t, v)
    bool open = false;   // a wall was found for it
  };
  struct Bored {
    const body::Tunnel* tunnel;
    Rim inner, outer;
  };

  static Rim rim(const body::Tunnel& tunnel, const body::Mouth& mouth);
  static void add(const Bored& bored, TopoDS_Shell& shell);

  std::vector<Bored> all_;
};

}  // namespace palio::step
