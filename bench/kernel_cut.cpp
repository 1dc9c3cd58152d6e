#include "kernel_cut.hpp"

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRep_Tool.hxx>
#include <GProp_GProps.hxx>
#include <Geom_BSplineCurve.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Wire.hxx>

#include "palio/body/features.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/gear/core.hpp"
#include "step/brep.hpp"

namespace palio::bench {
namespace {

TopoDS_Edge edge(const curve::Segment& s) {
  const curve::SplineCopy c = curve::spline_copy(s, 1e-7);
  TColgp_Array1OfPnt poles(1, static_cast<int>(c.poles.size()));
  for (std::size_t i = 0; i < c.poles.size(); ++i)
    poles.SetValue(static_cast<int>(i) + 1, gp_Pnt(c.poles[i].x(), c.poles[i].y(), 0));
  const int n = static_cast<int>(c.breaks.size());
  TColStd_Array1OfReal knots(1, n);
  TColStd_Array1OfInteger times(1, n);
  for (int i = 1; i <= n; ++i)
    knots.SetValue(i, c.breaks[static_cast<std::size_t>(i) - 1]),
        times.SetValue(i, i == 1 || i == n ? c.degree + 1 : c.degree);
  return BRepBuilderAPI_MakeEdge(new Geom_BSplineCurve(poles, knots, times, c.degree));
}

}  // namespace

double loft(const gear::CylindricalGear& g, int sections) {
  BRepBuilderAPI_MakeWire flat;
  for (int tooth = 0; tooth < g.outline().count; ++tooth) {
    for (std::size_t i = 0; i < g.outline().period.size(); ++i)
      flat.Add(edge(g.outline().segment(tooth, i)));
  }
  BRepOffsetAPI_ThruSections through(Standard_True, Standard_False, 1e-6);
  const double width = g.spec().face_width;
  for (int k = 0; k < sections; ++k) {
    const double z = width * k / (sections - 1);
    gp_Trsf turn, lift;
    turn.SetRotation(gp::OZ(), g.twist() * (z - width / 2));
    lift.SetTranslation(gp_Vec(0, 0, z));
    through.AddWire(TopoDS::Wire(flat.Wire().Moved(TopLoc_Location(lift * turn))));
  }
  through.CheckCompatibility(Standard_False);
  through.Build();
  GProp_GProps properties;
  BRepGProp::VolumeProperties(through.Shape(), properties);
  return std::abs(properties.Mass());
}

double cut_tooth_spaces(const gear::CylindricalGear& g) {
  const double tip = g.sizes().tip_diameter / 2, width = g.spec().face_width;
  TopoDS_Shape body = BRepPrimAPI_MakeCylinder(tip, width);
  const auto& period = g.outline().period;
  for (int tooth = 0; tooth < g.spec().teeth; ++tooth) {
    // From the tip of one tooth down its flank through the root and up the next one, closed outside the blank.
    BRepBuilderAPI_MakeWire wire;
    Vec2 first, last;
    bool after_tip = false;
    for (std::size_t k = 0; k < 2 * period.size(); ++k) {
      const bool second = k >= period.size();
      const curve::Segment s = g.outline().segment(tooth + (second ? 1 : 0), k % period.size());
      if (s.role == curve::Role::tip) {
        if (second) break;
        after_tip = true;
        continue;
      }
      if (!after_tip) continue;
      if (wire.IsDone() == Standard_False) first = s.first();
      wire.Add(edge(s));
      last = s.last();
    }
    const Vec2 out1 = last * (1.05), out2 = first * (1.05);
    const auto point = [](const Vec2& p) { return gp_Pnt(p.x(), p.y(), 0); };
    wire.Add(BRepBuilderAPI_MakeEdge(point(last), point(out1)));
    wire.Add(BRepBuilderAPI_MakeEdge(point(out1), point(out2)));
    wire.Add(BRepBuilderAPI_MakeEdge(point(out2), point(first)));
    body = BRepAlgoAPI_Cut(body, BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()), gp_Vec(0, 0, width)));
  }
  GProp_GProps properties;
  BRepGProp::VolumeProperties(body, properties);
  return properties.Mass();
}

namespace {

body::Features wheel_features(const gear::CylindricalGear& g) {
  const double bore = g.spec().bore_diameter, root = g.sizes().root_diameter, b = g.spec().face_width;
  body::Features f;
  f.keyway = body::Keyway{0.3 * bore, 1.15 * bore, {0.0}};
  f.hubs = {{true, 2.2 * bore, 0.5 * b}};
  f.web = body::Web{0.4 * b, 2.2 * bore, root - 10, body::Faces::both};
  f.holes = {{5, (2.2 * bore + root - 10) / 2, bore, 0.3}};
  return f;
}

TopoDS_Shape cylinder(double x, double y, double z, double diameter, double height) {
  return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(x, y, z), gp::DZ()), diameter / 2, height);
}

}  // namespace

double boolean_features(const gear::CylindricalGear& g) {
  double deviation = 0;
  const body::Features f = wheel_features(g);
  const double bore = g.spec().bore_diameter, b = g.spec().face_width, depth = (b - f.web->thickness) / 2;
  TopoDS_Shape body = step::solid(gear::body(g), 1e-7, deviation);
  const body::Hub& hub = f.hubs[0];
  body = BRepAlgoAPI_Fuse(
      body, BRepAlgoAPI_Cut(cylinder(0, 0, b, hub.diameter, hub.length), cylinder(0, 0, b, bore, hub.length)));
  for (const double z : {0.0, b - depth}) {
    body = BRepAlgoAPI_Cut(body, BRepAlgoAPI_Cut(cylinder(0, 0, z, f.web->outer_diameter, depth),
                                                 cylinder(0, 0, z, f.web->inner_diameter, depth)));
  }
  body = BRepAlgoAPI_Cut(body, BRepPrimAPI_MakeBox(gp_Pnt(0, -f.keyway->width / 2, 0), f.keyway->height - bore / 2,
                                                   f.keyway->width, b + hub.length));
  const body::Holes& h = f.holes[0];
  for (int i = 0; i < h.count; ++i) {
    const Vec2 at = from_polar(h.circle_diameter / 2, h.angle + 2 * kPi * i / h.count);
    body = BRepAlgoAPI_Cut(body, cylinder(at.x(), at.y(), 0, h.diameter, b));
  }
  GProp_GProps properties;
  BRepGProp::VolumeProperties(body, properties);
  return properties.Mass();
}

double direct_features(const gear::CylindricalGear& g) {
  double deviation = 0;
  const body::Body body = gear::body(g, wheel_features(g));
  step::solid(body, 1e-7, deviation);
  return body::mass_properties(body).volume;
}

namespace {

body::Features screwed(const gear::CylindricalGear& g, bool with_screw) {
  body::Features f;
  const double bore = g.spec().bore_diameter, b = g.spec().face_width;
  f.hubs.push_back({true, 2.5 * bore, 10});
  if (with_screw) f.cross_holes.push_back({3, 0.3, b + 5});
  return f;
}

}  // namespace

double boolean_screw(const gear::CylindricalGear& g) {
  double deviation = 0;
  const TopoDS_Shape body = step::solid(gear::body(g, screwed(g, false)), 1e-7, deviation);
  const gp_Ax2 axis(gp_Pnt(0, 0, g.spec().face_width + 5), gp_Dir(std::cos(0.3), std::sin(0.3), 0));
  const TopoDS_Shape cut =
      BRepAlgoAPI_Cut(body, BRepPrimAPI_MakeCylinder(axis, 1.5, 2 * g.spec().bore_diameter).Shape());
  GProp_GProps properties;
  BRepGProp::VolumeProperties(cut, properties);
  return properties.Mass();
}

double direct_screw(const gear::CylindricalGear& g) {
  double deviation = 0;
  const body::Body body = gear::body(g, screwed(g, true));
  step::solid(body, 1e-7, deviation);
  return body::mass_properties(body).volume;
}

int direct_solid(const gear::CylindricalGear& g) {
  double deviation = 0;
  const TopoDS_Solid solid = step::solid(gear::body(g), 1e-7, deviation);
  int faces = 0;
  for (TopExp_Explorer e(solid, TopAbs_FACE); e.More(); e.Next())
    ++faces;
  return faces;
}

int kernel_mesh(const gear::CylindricalGear& g, double chord_error) {
  double deviation = 0;
  const TopoDS_Solid solid = step::solid(gear::body(g), 1e-7, deviation);
  const BRepMesh_IncrementalMesh mesher(solid, chord_error, false, 0.5);
  int triangles = 0;
  for (TopExp_Explorer e(solid, TopAbs_FACE); e.More(); e.Next()) {
    TopLoc_Location at;
    const Handle(Poly_Triangulation) t = BRep_Tool::Triangulation(TopoDS::Face(e.Current()), at);
    if (!t.IsNull()) triangles += t->NbTriangles();
  }
  return triangles;
}

}  // namespace palio::bench
