// Edges and faces are made directly, each vertex and edge once: no sewing, no sweeps, no booleans. A wall's edges get
// their curves in the wall's own (u, v); planar faces need none.
#include "brep.hpp"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Vertex.hxx>
#include <TopoDS_Wire.hxx>
#include <algorithm>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"

namespace palio::step {
namespace {

constexpr double kTolerance = 1e-7;

using curve::Arc;
using curve::Line;
using curve::Segment;

/// A segment ready for the kernel: its curve at z = 0 and the parameter range, along the traversal or against it.
struct Piece {
  Segment segment;
  Handle(Geom_Curve) flat;
  double first, last;
  bool against;  // the curve's own direction is against the traversal
};

gp_Pnt at(const Vec2& p, double z) { return {p.x(), p.y(), z}; }

Handle(Geom_BSplineCurve) kernel_spline(const curve::SplineCopy& s, double turn) {
  TColgp_Array1OfPnt poles(1, static_cast<int>(s.poles.size()));
  for (std::size_t i = 0; i < s.poles.size(); ++i) poles.SetValue(static_cast<int>(i) + 1, at(turn == 0 ? s.poles[i] : turned(s.poles[i], turn), 0));
  const int count = static_cast<int>(s.breaks.size());
  TColStd_Array1OfReal knots(1, count);
  TColStd_Array1OfInteger times(1, count);
  for (int i = 1; i <= count; ++i) {
    knots.SetValue(i, s.breaks[static_cast<std::size_t>(i) - 1]);
    times.SetValue(i, i == 1 || i == count ? s.degree + 1 : s.degree);
  }
  return new Geom_BSplineCurve(poles, knots, times, s.degree);
}

std::vector<Piece> pieces(const curve::Outline& outline, double tolerance, double& deviation) {
  // Splines are fitted for one period and turned for the others.
  std::vector<curve::SplineCopy> splines(outline.period.size());
  std::vector<Segment> period;
  std::vector<int> spline_of;
  for (const Segment& s : outline.period) {
    if (std::holds_alternative<Arc>(s.curve)) {
      const int parts = std::abs(s.to - s.from) > 0.99 * kPi ? 2 : 1;  // a closed face would need a seam
      for (int i = 0; i < parts; ++i) {
        Segment part = s;
        part.from = s.from + (s.to - s.from) * i / parts;
        part.to = i + 1 == parts ? s.to : s.from + (s.to - s.from) * (i + 1) / parts;
        period.push_back(part);
        spline_of.push_back(-1);
      }
      continue;
    }
    period.push_back(s);
    spline_of.push_back(-1);
    if (!std::holds_alternative<Line>(s.curve)) {
      spline_of.back() = static_cast<int>(period.size()) - 1;
      splines.resize(std::max(splines.size(), period.size()));
      splines[period.size() - 1] = curve::spline_copy(s, tolerance);
      deviation = std::max(deviation, splines[period.size() - 1].deviation);
    }
  }
  std::vector<Piece> all;
  for (int copy = 0; copy < outline.count; ++copy) {
    const double turn = copy * outline.pitch();
    for (std::size_t i = 0; i < period.size(); ++i) {
      Piece p{turned(period[i], turn), {}, 0, 0, false};
      if (const Arc* arc = std::get_if<Arc>(&p.segment.curve)) {
        p.flat = new Geom_Circle(gp_Ax2(at(arc->centre, 0), gp::DZ(), gp::DX()), arc->radius);
        p.against = p.segment.to < p.segment.from;
        p.first = std::min(p.segment.from, p.segment.to);
        p.last = std::max(p.segment.from, p.segment.to);
      } else if (spline_of[i] >= 0) {
        const curve::SplineCopy& s = splines[static_cast<std::size_t>(spline_of[i])];
        p.flat = kernel_spline(s, turn);
        p.first = s.breaks.front();
        p.last = s.breaks.back();
      } else {
        const Vec2 a = p.segment.first(), b = p.segment.last();
        p.flat = new Geom_Line(at(a, 0), gp_Dir(b.x() - a.x(), b.y() - a.y(), 0));
        p.last = (b - a).norm();
      }
      all.push_back(std::move(p));
    }
  }
  return all;
}

class Maker {
 public:
  Maker(double bottom, double top) : bottom_(bottom), top_(top) {
    build_.MakeShell(shell_);
    cap_[0] = planar(bottom);
    cap_[1] = planar(top);
  }

  void loop(const std::vector<Piece>& pieces) {
    const std::size_t n = pieces.size();
    std::vector<TopoDS_Vertex> low(n), high(n);
    std::vector<TopoDS_Edge> up(n);
    for (std::size_t i = 0; i < n; ++i) {
      const Vec2 p = pieces[i].segment.first();
      build_.MakeVertex(low[i], at(p, bottom_), kTolerance);
      build_.MakeVertex(high[i], at(p, top_), kTolerance);
      up[i] = edge(new Geom_Line(at(p, bottom_), gp::DZ()), 0, top_ - bottom_, low[i], high[i]);
    }
    TopoDS_Wire ring[2];
    build_.MakeWire(ring[0]);
    build_.MakeWire(ring[1]);
    for (std::size_t i = 0; i < n; ++i) {
      const std::size_t j = (i + 1) % n;
      const Piece& p = pieces[i];
      const double height[2] = {bottom_, top_};
      const std::vector<TopoDS_Vertex>* ends[2] = {&low, &high};
      TopoDS_Edge along[2];
      for (int k = 0; k < 2; ++k) {
        Handle(Geom_Curve) curve = Handle(Geom_Curve)::DownCast(p.flat->Translated(gp_Vec(0, 0, height[k])));
        along[k] = edge(curve, p.first, p.last, (*ends[k])[p.against ? j : i], (*ends[k])[p.against ? i : j]);
        build_.Add(ring[k], along[k].Oriented(p.against ? TopAbs_REVERSED : TopAbs_FORWARD));
      }
      wall(p, along, up[i], up[j]);
    }
    for (int k = 0; k < 2; ++k) {
      ring[k].Closed(true);
      build_.Add(cap_[k], ring[k]);
    }
  }

  TopoDS_Solid solid() {
    build_.Add(shell_, cap_[0].Oriented(TopAbs_REVERSED));
    build_.Add(shell_, cap_[1]);
    shell_.Closed(true);
    TopoDS_Solid result;
    build_.MakeSolid(result);
    build_.Add(result, shell_);
    return result;
  }

 private:
  TopoDS_Face planar(double z) {
    TopoDS_Face face;
    build_.MakeFace(face, new Geom_Plane(gp_Pnt(0, 0, z), gp::DZ()), kTolerance);
    return face;
  }

  TopoDS_Edge edge(const Handle(Geom_Curve) & curve, double first, double last, const TopoDS_Vertex& from, const TopoDS_Vertex& to) {
    TopoDS_Edge e;
    build_.MakeEdge(e, curve, kTolerance);
    build_.Add(e, from.Oriented(TopAbs_FORWARD));
    build_.Add(e, to.Oriented(TopAbs_REVERSED));
    build_.Range(e, first, last);
    return e;
  }

  /// The wall over one piece. Its natural normal is the curve's direction × z: outward when the curve runs along the
  /// traversal (material left), inward otherwise; then the face is reversed. A circle always runs counter-clockwise.
  void wall(const Piece& p, const TopoDS_Edge (&along)[2], const TopoDS_Edge& up_from, const TopoDS_Edge& up_to) {
    Handle(Geom_Surface) surface;
    bool flat = false;
    if (const Arc* arc = std::get_if<Arc>(&p.segment.curve)) {
      surface = new Geom_CylindricalSurface(gp_Ax3(at(arc->centre, bottom_), gp::DZ(), gp::DX()), arc->radius);
    } else if (Handle(Geom_Line) line = Handle(Geom_Line)::DownCast(p.flat); !line.IsNull()) {
      const gp_Dir d = line->Lin().Direction();
      surface = new Geom_Plane(gp_Ax3(at(p.segment.first(), bottom_), gp_Dir(d.Y(), -d.X(), 0), d));
      flat = true;
    } else {
      surface = new Geom_SurfaceOfLinearExtrusion(Handle(Geom_Curve)::DownCast(p.flat->Translated(gp_Vec(0, 0, bottom_))), gp::DZ());
    }
    TopoDS_Face face;
    build_.MakeFace(face, surface, kTolerance);
    const TopoDS_Edge& start = p.against ? up_to : up_from;  // at parameter first
    const TopoDS_Edge& end = p.against ? up_from : up_to;
    if (!flat) {
      for (int k = 0; k < 2; ++k) {
        build_.UpdateEdge(along[k], new Geom2d_Line(gp_Pnt2d(0, k == 0 ? 0 : top_ - bottom_), gp::DX2d()), face, kTolerance);
        build_.Range(along[k], face, p.first, p.last);
      }
      for (const auto& [e, u] : {std::pair<TopoDS_Edge, double>{start, p.first}, {end, p.last}}) {
        build_.UpdateEdge(e, new Geom2d_Line(gp_Pnt2d(u, 0), gp::DY2d()), face, kTolerance);
        build_.Range(e, face, 0, top_ - bottom_);
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
    build_.Add(shell_, face.Oriented(p.against ? TopAbs_REVERSED : TopAbs_FORWARD));
  }

  double bottom_, top_;
  BRep_Builder build_;
  TopoDS_Shell shell_;
  TopoDS_Face cap_[2];
};

}  // namespace

TopoDS_Solid solid(const body::Layer& layer, double tolerance, double& deviation) {
  Maker maker(layer.bottom, layer.top);
  maker.loop(pieces(layer.outer, tolerance, deviation));
  for (const curve::Outline& hole : layer.holes) maker.loop(pieces(hole, tolerance, deviation));
  return maker.solid();
}

}  // namespace palio::step
