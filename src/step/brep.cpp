// Edges and faces are made directly, each vertex and edge once: no sewing, no sweeps, no booleans. A wall's edges get
// their curves in the wall's own (u, v); planar faces need none.
#include "brep.hpp"
#include "bores.hpp"
#include "knots.hpp"
#include "pieces.hpp"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Vertex.hxx>
#include <TopoDS_Wire.hxx>
#include <algorithm>
#include <cmath>
#include <memory>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::step {
namespace {

using curve::Arc;
using curve::Segment;

/// The movement between two levels as polynomials in the height: a section's poles times these give those of the wall.
struct Sweep {
  int degree = 1;
  std::vector<double> breaks;  // height above the lower level
  struct Pole {
    double c, s, shift, z;  // turned by (c, s), moved along −x, lifted
  };
  std::vector<Pole> poles;

  gp_Pnt at(const Pole& m, const gp_Pnt& p) const {
    return {m.c * p.X() - m.s * p.Y() - m.shift, m.s * p.X() + m.c * p.Y(), m.z};
  }
};

Sweep sweep(const body::Body& body, const body::Level& low, const body::Level& high) {
  Sweep w;
  const double rise = high.z - low.z, turn = high.turn - low.turn;
  if (body.slides) {
    w.breaks = {0, rise};
    w.poles = {{1, 0, low.turn, low.z}, {1, 0, high.turn, high.z}};
    return w;
  }
  // cos and sin as one spline copy of the unit circle, within 1e-12 of it.
  const curve::SplineCopy unit =
      curve::spline_copy({Arc{Vec2::Zero(), 1}, 0, std::abs(turn), curve::Role::flank}, math::kRounding);
  w.degree = unit.degree;
  for (const double b : unit.breaks)
    w.breaks.push_back(rise * b / std::abs(turn));
  for (std::size_t i = 0; i < unit.poles.size(); ++i) {
    const std::size_t span = std::min(i / static_cast<std::size_t>(w.degree), w.breaks.size() - 2),
                      first = span * static_cast<std::size_t>(w.degree);
    const double share = static_cast<double>(i - first) / w.degree,
                 z = low.z + w.breaks[span] + (w.breaks[span + 1] - w.breaks[span]) * share;
    const Vec2 p = turned(turn < 0 ? Vec2(unit.poles[i].x(), -unit.poles[i].y()) : unit.poles[i], low.turn);
    w.poles.push_back({p.x(), p.y(), 0, z});
  }
  w.poles.back().z = high.z;
  return w;
}

class Maker {
 public:
  /// \param plane  the lower face alone, looking up
  Maker(const body::Body& body, double tolerance, double& deviation, bool plane = false)
      : body_(body), bores_(body.tunnels) {
    build_.MakeShell(shell_);
    const Seams seams = step::seams(body.tunnels);
    for (const body::Loop& loop : body.loops) {
      bool moves = false;
      for (const body::Layer& layer : body.layers) {
        for (const body::Level& l : layer.levels)
          moves |= loop.follows && l.turn != layer.levels.front().turn;
      }
      moves_.push_back(moves);
      pieces_.push_back(pieces(loop.outline, tolerance, deviation, moves, seams, body.tunnels));
    }
    for (const body::Layer& l : body.layers) {
      if (!plane) layer(l);
    }
    for (const body::Cap& c : body::caps(body)) {
      if (!plane || !c.up) cap(c);
    }
    if (!plane) bores_.add_to(shell_);
  }

  /// The one face of a plane region.
  TopoDS_Face face() const { return face_; }

  TopoDS_Solid solid() {
    shell_.Closed(true);
    TopoDS_Solid result;
    build_.MakeSolid(result);
    build_.Add(result, shell_);
    return result;
  }

 private:
  /// Vertices and edges of a loop at a level, made once.
  struct Ring {
    std::size_t loop;
    double z;
    std::vector<TopoDS_Vertex> vertices;
    std::vector<TopoDS_Edge> edges;
  };

  const Ring& ring(std::size_t loop, const body::Level& level) {
    for (const auto& r : rings_) {
      if (r->loop == loop && r->z == level.z) return *r;
    }
    auto made = std::make_unique<Ring>();
    made->loop = loop, made->z = level.z;
    const std::vector<Piece>& all = pieces_[loop];
    const double turn = body_.loops[loop].follows ? level.turn : 0;
    gp_Trsf move;
    if (body_.slides) {
      move.SetTranslation(gp_Vec(-turn, 0, level.z));
    } else {
      gp_Trsf lift;
      lift.SetTranslation(gp_Vec(0, 0, level.z));
      move.SetRotation(gp::OZ(), turn);
      move = lift * move;
    }
    const std::size_t n = all.size();
    made->vertices.resize(n);
    for (std::size_t i = 0; i < n; ++i)
      build_.MakeVertex(made->vertices[i], at(all[i].segment.first(), 0).Transformed(move), kTolerance);
    for (std::size_t i = 0; i < n; ++i) {
      const std::size_t j = (i + 1) % n;
      const Piece& p = all[i];
      made->edges.push_back(edge(Handle(Geom_Curve)::DownCast(p.flat->Transformed(move)), p.first, p.last,
                                 made->vertices[p.against ? j : i], made->vertices[p.against ? i : j]));
    }
    rings_.push_back(std::move(made));
    return *rings_.back();
  }

  void layer(const body::Layer& layer) {
    for (std::size_t i = 0; i + 1 < layer.levels.size(); ++i) {
      for (const body::Wall& w : layer.walls)
        walls(w, layer.levels[i], layer.levels[i + 1]);
    }
  }

  void cap(const body::Cap& cap) {
    TopoDS_Face face;
    build_.MakeFace(face, new Geom_Plane(gp_Pnt(0, 0, cap.z), gp::DZ()), kTolerance);
    for (const body::Cap::Edge& edge : cap.edges) {
      const Ring& r = ring(edge.loop, {cap.z, 0});
      TopoDS_Wire wire;
      build_.MakeWire(wire);
      for (std::size_t i = 0; i < r.edges.size(); ++i) {
        const bool against = pieces_[edge.loop][i].against != edge.reversed;
        build_.Add(wire, r.edges[i].Oriented(against ? TopAbs_REVERSED : TopAbs_FORWARD));
      }
      wire.Closed(true);
      build_.Add(face, wire);
    }
    face_ = face;
    build_.Add(shell_, face.Oriented(cap.up ? TopAbs_FORWARD : TopAbs_REVERSED));
  }

  /// All walls of a loop between two levels, with the edges that rise between them.
  void walls(const body::Wall& ends, const body::Level& low, const body::Level& high) {
    const std::size_t loop = ends.below;
    const std::vector<Piece>& all = pieces_[loop];
    const std::size_t n = all.size();
    const Ring &below = ring(loop, low), &above = ring(ends.above, high);
    if (ends.below != ends.above) return cone(ends, below, above, high.z - low.z);
    const double rise = high.z - low.z;
    const bool moves = moves_[loop] && low.turn != high.turn;
    const Sweep w = moves ? sweep(body_, low, high) : Sweep{};
    const double still = moves_[loop] && !moves ? low.turn : 0;  // a straight wall of a loop that is turned elsewhere
    std::vector<TopoDS_Edge> up(n);
    for (std::size_t i = 0; i < n; ++i) {
      const gp_Pnt foot = at(all[i].segment.first(), low.z);
      Handle(Geom_Curve) rising = new Geom_Line(BRep_Tool::Pnt(below.vertices[i]), gp::DZ());
      if (moves) {
        TColgp_Array1OfPnt poles(1, static_cast<int>(w.poles.size()));
        for (std::size_t k = 0; k < w.poles.size(); ++k)
          poles.SetValue(static_cast<int>(k) + 1, w.at(w.poles[k], foot));
        rising = new Geom_BSplineCurve(poles, knots(w.breaks), multiplicities(w.breaks.size(), w.degree), w.degree);
      }
      up[i] = edge(rising, 0, rise, below.vertices[i], above.vertices[i]);
    }
    for (std::size_t i = 0; i < n; ++i) {
      const TopoDS_Edge along[2] = {below.edges[i], above.edges[i]};
      const TopoDS_Face face =
          wall(surface(all[i], low.z, moves ? &w : nullptr, still), all[i], along, up[i], up[(i + 1) % n], rise);
      bores_.open(loop, all[i], low.z, high.z, face);
      add_wall(face, all[i]);
    }
  }

  /// Between two circles about one centre.
  void cone(const body::Wall& ends, const Ring& below, const Ring& above, double rise) {
    const std::vector<Piece>& all = pieces_[ends.below];
    const std::size_t n = all.size();
    const auto circle = [&](std::size_t loop) { return std::get<Arc>(pieces_[loop][0].segment.curve); };
    const double r0 = circle(ends.below).radius, r1 = circle(ends.above).radius, length = std::hypot(r1 - r0, rise);
    // A surface for each face: an edge keeps its plane curves by surface, and the one at the seam has two.
    const auto surface = [&]() -> Handle(Geom_Surface) {
      return new Geom_ConicalSurface(gp_Ax3(at(circle(ends.below).centre, below.z), gp::DZ(), gp::DX()),
                                     std::atan2(r1 - r0, rise), r0);
    };
    std::vector<TopoDS_Edge> up(n);
    for (std::size_t i = 0; i < n; ++i) {
      const gp_Pnt from = BRep_Tool::Pnt(below.vertices[i]), to = BRep_Tool::Pnt(above.vertices[i]);
      up[i] = edge(new Geom_Line(from, gp_Dir(gp_Vec(from, to))), 0, length, below.vertices[i], above.vertices[i]);
    }
    for (std::size_t i = 0; i < n; ++i) {
      const TopoDS_Edge along[2] = {below.edges[i], above.edges[i]};
      add_wall(wall(surface(), all[i], along, up[i], up[(i + 1) % n], length), all[i]);
    }
  }

  Handle(Geom_Surface) surface(const Piece& p, double z, const Sweep* w, double still) const {
    if (w) {
      const Handle(Geom_BSplineCurve) section = Handle(Geom_BSplineCurve)::DownCast(p.flat);
      TColgp_Array2OfPnt poles(1, section->NbPoles(), 1, static_cast<int>(w->poles.size()));
      for (int i = 1; i <= section->NbPoles(); ++i) {
        for (std::size_t k = 0; k < w->poles.size(); ++k)
          poles.SetValue(i, static_cast<int>(k) + 1, w->at(w->poles[k], section->Pole(i)));
      }
      return new Geom_BSplineSurface(poles, section->Knots(), knots(w->breaks), section->Multiplicities(),
                                     multiplicities(w->breaks.size(), w->degree), section->Degree(), w->degree);
    }
    if (const Arc* arc = std::get_if<Arc>(&p.segment.curve);
        arc && Handle(Geom_BSplineCurve)::DownCast(p.flat).IsNull()) {
      return new Geom_CylindricalSurface(gp_Ax3(at(arc->centre, z), gp::DZ(), gp::DX()), arc->radius);
    }
    if (const Handle(Geom_Line) line = Handle(Geom_Line)::DownCast(p.flat); !line.IsNull()) {
      const gp_Dir d = line->Lin().Direction();
      return new Geom_Plane(gp_Ax3(at(p.segment.first(), z), gp_Dir(d.Y(), -d.X(), 0), d));
    }
    gp_Trsf move, lift;
    move.SetRotation(gp::OZ(), still);
    lift.SetTranslation(gp_Vec(0, 0, z));
    return new Geom_SurfaceOfLinearExtrusion(Handle(Geom_Curve)::DownCast(p.flat->Transformed(lift * move)), gp::DZ());
  }

  /// The wall over one piece. Its natural normal is the curve's direction × z: outward when the curve runs along the
  /// traversal (material left), inward otherwise; then the face is reversed. A circle always runs counter-clockwise.
  TopoDS_Face wall(const Handle(Geom_Surface) & surface, const Piece& p, const TopoDS_Edge (&along)[2],
                   const TopoDS_Edge& up_from, const TopoDS_Edge& up_to, double rise) {
    const bool flat = !Handle(Geom_Plane)::DownCast(surface).IsNull();
    TopoDS_Face face;
    build_.MakeFace(face, surface, kTolerance);
    const TopoDS_Edge& start = p.against ? up_to : up_from;  // at parameter first
    const TopoDS_Edge& end = p.against ? up_from : up_to;
    if (!flat) {
      for (int k = 0; k < 2; ++k) {
        build_.UpdateEdge(along[k], new Geom2d_Line(gp_Pnt2d(0, k == 0 ? 0 : rise), gp::DX2d()), face, kTolerance);
        build_.Range(along[k], face, p.first, p.last);
      }
      for (const auto& [e, u] : {std::pair<TopoDS_Edge, double>{start, p.first}, {end, p.last}}) {
        build_.UpdateEdge(e, new Geom2d_Line(gp_Pnt2d(u, 0), gp::DY2d()), face, kTolerance);
        build_.Range(e, face, 0, rise);
      }
    }
    TopoDS_Wire wire;
    build_.MakeWire(wire);
    build_.Add(wire, along[0].Oriented(TopAbs_FORWARD));
    build_.Add(wire, end.Oriented(TopAbs_FORWARD));
    build_.Add(wire, along[1].Oriented(TopAbs_REVERSED));
    build_.Add(wire, start.Oriented(TopAbs_REVERSED));
    wire.Closed(true);
    build_.Add(face, wire);
    return face;
  }
  void add_wall(const TopoDS_Face& face, const Piece& p) {
    build_.Add(shell_, face.Oriented(p.against ? TopAbs_REVERSED : TopAbs_FORWARD));
  }

  const body::Body& body_;
  Bores bores_;
  TopoDS_Face face_;
  BRep_Builder build_;
  TopoDS_Shell shell_;
  std::vector<bool> moves_;
  std::vector<std::vector<Piece>> pieces_;
  std::vector<std::unique_ptr<Ring>> rings_;
};

}  // namespace

TopoDS_Face plane_face(const body::Body& body, double tolerance, double& deviation) {
  return Maker(body, tolerance, deviation, true).face();
}

TopoDS_Solid solid(const body::Body& body, double tolerance, double& deviation) {
  return Maker(body, tolerance, deviation).solid();
}

}  // namespace palio::step
