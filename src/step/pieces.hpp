// Outlines cut into pieces for the kernel. Private to the STEP module.
#pragma once

#include <Geom_Curve.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Vertex.hxx>
#include <gp_Pnt.hxx>
#include <vector>

#include "palio/body/tunnel.hpp"
#include "palio/curve/profile.hpp"

namespace palio::step {

inline constexpr double kTolerance = 1e-7;  ///< of the kernel's vertices, edges and faces [mm]

/// A segment ready for the kernel: its curve at z = 0 and the parameter range, along the traversal or against it.
struct Piece {
  std::size_t of = 0;  ///< of the outline's segments, which may be cut into several pieces
  curve::Segment segment;
  Handle(Geom_Curve) flat;
  double first, last;
  bool against;  ///< the curve's own direction is against the traversal
};

inline gp_Pnt at(const Vec2& p, double z) { return {p.x(), p.y(), z}; }

/// From one vertex to another along a curve.
TopoDS_Edge edge(const Handle(Geom_Curve) & curve, double first, double last, const TopoDS_Vertex& from,
                 const TopoDS_Vertex& to);

/// Where circles about the axis are cut into pieces: all of a body alike, and clear of what goes through their walls.
struct Seams {
  int parts = 2;  ///< a closed face would need a seam
  double from = 0;
};

Seams seams(const std::vector<body::Tunnel>& tunnels);

/// \param as_splines  every piece as a spline: what a twisted wall is made from
/// \param deviation   raised to the largest distance of a spline from its exact curve [mm]
std::vector<Piece> pieces(const curve::Outline& outline, double tolerance, double& deviation, bool as_splines,
                          const Seams& seams, const std::vector<body::Tunnel>& tunnels);

}  // namespace palio::step
