#include "bores.hpp"

#include <BRep_Builder.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TColgp_Array1OfPnt2d.hxx>
#include <TopoDS_Wire.hxx>
#include <cmath>

#include <fmt/format.h>

#include "knots.hpp"
#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::step {
namespace {

constexpr double kFitted = 1e-10;  // edges of holes across [mm, rad]

gp_Pnt point(const Vec3& v) { return {v.x(), v.y(), v.z()}; }
gp_Dir direction(const Vec2& v) { return {v.x(), v.y(), 0}; }
/// Its own axis outwards, from which t is counted towards the height.
gp_Ax3 axes(const body::Tunnel& t, double out) {
  const Vec2 at = out * t.outwards();
  return {gp_Pnt(at.x(), at.y(), t.z), direction(t.outwards()), direction(t.aside())};
}

Handle(Geom_BSplineCurve) spline(const curve::Fit& fit) {
  TColgp_Array1OfPnt poles(1, static_cast<int>(fit.poles.rows()));
  for (int i = 0; i < fit.poles.rows(); ++i)
    poles.SetValue(i + 1, gp_Pnt(fit.poles(i, 0), fit.poles(i, 1), fit.poles(i, 2)));
  return new Geom_BSplineCurve(poles, knots(fit.breaks), multiplicities(fit.breaks.size(), fit.degree), fit.degree);
}
/// Two of its coordinates, moved.
Handle(Geom2d_Curve) spline_within(const curve::Fit& fit, int first, double more_u, double more_v) {
  TColgp_Array1OfPnt2d poles(1, static_cast<int>(fit.poles.rows()));
  for (int i = 0; i < fit.poles.rows(); ++i)
    poles.SetValue(i + 1, gp_Pnt2d(fit.poles(i, first) + more_u, fit.poles(i, first + 1) + more_v));
  return new Geom2d_BSplineCurve(poles, knots(fit.breaks), multiplicities(fit.breaks.size(), fit.degree), fit.degree);
}

}  // namespace

Bores::Rim Bores::rim(const body::Tunnel& t, const body::Mouth& mouth) {
  Rim made;
  for (int k = 0; k < 2; ++k)
    BRep_Builder().MakeVertex(made.vertices[k], point(t.at(k * kPi, mouth)), kTolerance);
  for (int k = 0; k < 2; ++k) {
    Handle(Geom_Curve) curve = new Geom_Circle(axes(t, mouth.distance).Ax2(), t.radius);
    if (mouth.round) {
      made.fits[k] = curve::fit(
          [&](double at) {
            const Vec3 p = t.at(at, mouth);
            const double y = t.radius * std::cos(at);
            Eigen::VectorXd all(7);
            all << p.x(), p.y(), p.z(), t.angle + std::asin(y / mouth.distance), p.z(), at, mouth.reach(y);
            return all;
          },
          k * kPi, (k + 1) * kPi, kFitted);
      curve = spline(made.fits[k]);
    }
    made.edges[k] = edge(curve, k * kPi, (k + 1) * kPi, made.vertices[k], made.vertices[1 - k]);
  }
  return made;
}
Bores::Bores(const std::vector<body::Tunnel>& tunnels) {
  for (const body::Tunnel& t : tunnels)
    all_.push_back({&t, rim(t, t.inner), rim(t, t.outer)});
}

void Bores::open(std::size_t loop, const Piece& p, double low, double high, TopoDS_Face face) {
  const BRep_Builder build;
  for (Bored& b : all_) {
    const body::Tunnel& t = *b.tunnel;
    if (t.z < low || t.z > high) continue;
    for (const auto& [mouth, rim] : {std::pair(&t.inner, &b.inner), {&t.outer, &b.outer}}) {
      if (mouth->loop != loop || mouth->segment != p.of) continue;
      double turns = 0;
      if (mouth->round) {
        const double half = std::asin(t.radius / mouth->distance);
        turns = 2 * kPi * std::ceil((p.first - t.angle) / (2 * kPi));
        if (t.angle + turns - half < p.first || t.angle + turns + half > p.last) continue;
        for (int e = 0; e < 2; ++e) {
          build.UpdateEdge(rim->edges[e], spline_within(rim->fits[e], 3, turns, -low), face, kTolerance);
          build.Range(rim->edges[e], face, e * kPi, (e + 1) * kPi);
        }
      }
      // Rising t goes counter-clockwise where the wall's own u rises with the way aside: a circle's always does.
      const bool against = mouth->round || (p.segment.last() - p.segment.first()).dot(t.aside()) > 0;
      TopoDS_Wire wire;
      build.MakeWire(wire);
      for (int e = 0; e < 2; ++e)
        build.Add(wire, rim->edges[against ? 1 - e : e].Oriented(against ? TopAbs_REVERSED : TopAbs_FORWARD));
      wire.Closed(true);
      build.Add(face, wire);
      rim->open = true;
    }
  }
}

void Bores::add_to(TopoDS_Shell& shell) const {
  for (const Bored& b : all_) {
    if (!b.inner.open || !b.outer.open) {
      throw InvalidParameter(b.tunnel->feature, fmt::format("beside others, at {:.6g}°", b.tunnel->angle * 180 / kPi),
                             "no seam of the wall around it lies clear of all holes",
                             "make one of them smaller, or turn it");
    }
    add(b, shell);
  }
}

// In two halves: a closed face would need a seam.
void Bores::add(const Bored& b, TopoDS_Shell& shell) {
  const BRep_Builder build;
  const body::Tunnel& t = *b.tunnel;
  TopoDS_Edge out[2];
  for (int k = 0; k < 2; ++k) {
    const double y = t.radius * std::cos(k * kPi);
    const Vec2 at = y * t.aside();
    out[k] = edge(new Geom_Line(gp_Pnt(at.x(), at.y(), t.z), direction(t.outwards())), t.inner.reach(y),
                  t.outer.reach(y), b.inner.vertices[k], b.outer.vertices[k]);
  }
  for (int k = 0; k < 2; ++k) {
    TopoDS_Face face;
    build.MakeFace(face, new Geom_CylindricalSurface(axes(t, 0), t.radius), kTolerance);
    for (const auto& [mouth, rim] : {std::pair(&t.inner, &b.inner), {&t.outer, &b.outer}}) {
      const Handle(Geom2d_Curve) within =
          mouth->round ? spline_within(rim->fits[k], 5, 0, 0)
                       : Handle(Geom2d_Curve)(new Geom2d_Line(gp_Pnt2d(0, mouth->distance), gp::DX2d()));
      build.UpdateEdge(rim->edges[k], within, face, kTolerance);
      build.Range(rim->edges[k], face, k * kPi, (k + 1) * kPi);
    }
    for (int e = 0; e < 2; ++e) {
      const int which = (k + e) % 2;  // where this half begins, where it ends
      const double y = t.radius * std::cos(which * kPi);
      build.UpdateEdge(out[which], new Geom2d_Line(gp_Pnt2d((k + e) * kPi, 0), gp::DY2d()), face, kTolerance);
      build.Range(out[which], face, t.inner.reach(y), t.outer.reach(y));
    }
    TopoDS_Wire wire;
    build.MakeWire(wire);
    build.Add(wire, b.inner.edges[k].Oriented(TopAbs_FORWARD));
    build.Add(wire, out[1 - k].Oriented(TopAbs_FORWARD));
    build.Add(wire, b.outer.edges[k].Oriented(TopAbs_REVERSED));
    build.Add(wire, out[k].Oriented(TopAbs_REVERSED));
    wire.Closed(true);
    build.Add(face, wire);
    build.Add(shell, face.Oriented(TopAbs_REVERSED));
  }
}

}  // namespace palio::step
