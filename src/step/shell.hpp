// Faces that close a shell: vertices and edges are made once; every edge knows its exact points, so that its curves on
// the surfaces beside it are fitted from the same ones. Private to the module.
#pragma once

#include <BRep_Builder.hxx>
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <TopoDS_Vertex.hxx>
#include <functional>
#include <gp_Pnt.hxx>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::step {

inline gp_Pnt pnt(const Vec3& p) { return {p.x(), p.y(), p.z()}; }

/// An edge with its exact points over its parameter.
struct Edge {
  TopoDS_Edge edge;
  double from, to;
  std::function<Vec3(double)> at;
};

/// An edge as a wire runs over it.
struct Way {
  const Edge* edge;
  bool forward;
};

/// A face's surface; `place` maps exact points to its parameters (none: a plane needs none). `outward`: its natural
/// normal looks out of the material.
struct Surface {
  Handle(Geom_Surface) surface;
  std::function<Vec2(const Edge&, double)> place;
  bool outward = true;
};

class ShellBuilder {
 public:
  /// \param deviation  of fitted edges is gathered here [mm]
  ShellBuilder(double tolerance, double& deviation) : tolerance_(tolerance), deviation_(deviation) {
    build_.MakeShell(shell_);
  }

  TopoDS_Vertex vertex(const Vec3& p);
  Edge edge(const Handle(Geom_Curve) & curve, double from, double to, const TopoDS_Vertex& a, const TopoDS_Vertex& b,
            std::function<Vec3(double)> at);
  /// A spline through exact points.
  Edge fitted(double from, double to, const TopoDS_Vertex& a, const TopoDS_Vertex& b,
              const std::function<Vec3(double)>& at);
  /// A level arc about the axis; its parameter is the azimuth.
  Edge level_arc(double radius, double height, double from, double to, const TopoDS_Vertex& a, const TopoDS_Vertex& b);
  void pcurve(const Edge& e, const TopoDS_Face& face, const std::function<Vec2(double)>& place);
  /// A face from wires that run counter-clockwise seen from outside (holes clockwise).
  void face(const Surface& on, const std::vector<std::vector<Way>>& wires);
  /// The surface that a straight meridian line turns into, through (r, z) along (dr, dz). `middle`: azimuths come out
  /// within half a turn of it. Its natural normal looks to the right of the line's upward run, away from the axis.
  Surface revolved(double r, double z, double dr, double dz, double middle, bool outward) const;

  /// All faces made, closed.
  TopoDS_Solid solid();

 protected:
  double tolerance_;
  double& deviation_;

 private:
  BRep_Builder build_;
  TopoDS_Shell shell_;
};

}  // namespace palio::step
