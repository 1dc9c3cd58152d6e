#include "shell.hpp"

#include <Geom2d_BSplineCurve.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TColgp_Array1OfPnt2d.hxx>
#include <TopoDS_Wire.hxx>
#include <algorithm>
#include <cmath>

#include "knots.hpp"
#include "palio/angle.hpp"
#include "palio/curve/bernstein.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::step {
namespace {

constexpr double kTolerance = 1e-7;  // of edges and faces [mm]

}  // namespace

TopoDS_Vertex ShellBuilder::vertex(const Vec3& p) {
  TopoDS_Vertex v;
  build_.MakeVertex(v, pnt(p), kTolerance);
  return v;
}

Edge ShellBuilder::edge(const Handle(Geom_Curve) & curve, double from, double to, const TopoDS_Vertex& a,
                        const TopoDS_Vertex& b, std::function<Vec3(double)> at) {
  Edge e{{}, from, to, std::move(at)};
  build_.MakeEdge(e.edge, curve, kTolerance);
  build_.Add(e.edge, a.Oriented(TopAbs_FORWARD));
  build_.Add(e.edge, b.Oriented(TopAbs_REVERSED));
  build_.Range(e.edge, from, to);
  return e;
}

Edge ShellBuilder::fitted(double from, double to, const TopoDS_Vertex& a, const TopoDS_Vertex& b,
                          const std::function<Vec3(double)>& at) {
  const curve::Fit f = curve::fit([&](double t) -> Eigen::VectorXd { return at(t); }, from, to, tolerance_ / 10);
  deviation_ = std::max(deviation_, f.deviation);
  TColgp_Array1OfPnt poles(1, static_cast<int>(f.poles.rows()));
  for (int i = 0; i < f.poles.rows(); ++i)
    poles.SetValue(i + 1, gp_Pnt(f.poles(i, 0), f.poles(i, 1), f.poles(i, 2)));
  return edge(new Geom_BSplineCurve(poles, knots(f.breaks), multiplicities(f.breaks.size(), f.degree), f.degree), from,
              to, a, b, at);
}

Edge ShellBuilder::level_arc(double radius, double height, double from, double to, const TopoDS_Vertex& a,
                             const TopoDS_Vertex& b) {
  return edge(new Geom_Circle(gp_Ax2(gp_Pnt(0, 0, height), gp::DZ(), gp::DX()), radius), from, to, a, b,
              [=](double t) { return Vec3(radius * std::cos(t), radius * std::sin(t), height); });
}

void ShellBuilder::pcurve(const Edge& e, const TopoDS_Face& face, const std::function<Vec2(double)>& place) {
  const curve::Fit f = curve::fit([&](double t) -> Eigen::VectorXd { return place(t); }, e.from, e.to, math::kAlike);
  TColgp_Array1OfPnt2d poles(1, static_cast<int>(f.poles.rows()));
  for (int i = 0; i < f.poles.rows(); ++i)
    poles.SetValue(i + 1, gp_Pnt2d(f.poles(i, 0), f.poles(i, 1)));
  build_.UpdateEdge(
      e.edge, new Geom2d_BSplineCurve(poles, knots(f.breaks), multiplicities(f.breaks.size(), f.degree), f.degree),
      face, kTolerance);
  build_.Range(e.edge, face, e.from, e.to);
}

void ShellBuilder::face(const Surface& on, const std::vector<std::vector<Way>>& wires) {
  TopoDS_Face made;
  build_.MakeFace(made, on.surface, kTolerance);
  for (const std::vector<Way>& ways : wires) {
    TopoDS_Wire wire;
    build_.MakeWire(wire);
    const auto add = [&](const Way& w) {
      if (on.place) pcurve(*w.edge, made, [&](double t) { return on.place(*w.edge, t); });
      build_.Add(wire, w.edge->edge.Oriented(w.forward == on.outward ? TopAbs_FORWARD : TopAbs_REVERSED));
    };
    if (on.outward) {
      for (const Way& w : ways)
        add(w);
    } else {
      for (auto w = ways.rbegin(); w != ways.rend(); ++w)
        add(*w);
    }
    wire.Closed(true);
    build_.Add(made, wire);
  }
  build_.Add(shell_, made.Oriented(on.outward ? TopAbs_FORWARD : TopAbs_REVERSED));
}

Surface ShellBuilder::revolved(double r, double z, double dr, double dz, double middle, bool outward) const {
  const double length = std::hypot(dr, dz) * (dz < 0 ? -1 : 1);
  dr /= length, dz /= length;
  if (std::abs(dz) < math::kRounding) return {new Geom_Plane(gp_Pnt(0, 0, z), gp::DZ()), {}, outward};
  const gp_Ax3 axes(gp_Pnt(0, 0, z), gp::DZ(), gp::DX());
  Handle(Geom_Surface) s;
  if (std::abs(dr) < math::kRounding)
    s = new Geom_CylindricalSurface(axes, r);
  else
    s = new Geom_ConicalSurface(axes, std::atan2(dr, dz), r);
  return {s,
          [=](const Edge& e, double t) {
            const Vec3 p = e.at(t);
            double u = std::atan2(p.y(), p.x());
            u -= 2 * kPi * std::round((u - middle) / (2 * kPi));
            return Vec2(u, (p.head<2>().norm() - r) * dr + (p.z() - z) * dz);
          },
          outward};
}

TopoDS_Solid ShellBuilder::solid() {
  shell_.Closed(true);
  TopoDS_Solid result;
  build_.MakeSolid(result);
  build_.Add(result, shell_);
  return result;
}

}  // namespace palio::step
