// Solids with features: valid in the kernel's eyes, of the exact volume, read back from the file; and packed files read
// by a library that did not write them.
#include "palio/body/mesh.hpp"
#include "palio/gear/core.hpp"
#include "palio/write/packed.hpp"
#include "palio/write/step.hpp"
// The kernel's headers come last: they are not ours to order.
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <BRep_Tool.hxx>
#include <GProp_GProps.hxx>
#include <Geom_BSplineSurface.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <STEPControl_Reader.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <catch2/catch.hpp>
#include <filesystem>

#include "palio/write/embed.hpp"
#include "palio/write/file.hpp"
#include "random_body.hpp"
#include "step/brep.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

double measured_volume(const TopoDS_Shape& shape) {
  GProp_GProps properties;
  BRepGProp::VolumeProperties(shape, properties);
  return properties.Mass();
}

}  // namespace

TEST_CASE("the kernel finds solids of every two features valid, with the exact volume") {
  const std::vector<test::NamedFeature> all = test::features();
  int made = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    for (std::size_t j = i; j < all.size(); ++j) {
      gear::CylindricalSpec spec = test::featured_wheel();
      spec.teeth = 22, spec.module = 3;  // as large; the kernel's checks take more than their share with every edge
      body::Features f;
      all[i].add(f, spec);
      if (i != j) all[j].add(f, spec);
      body::Body body;
      try {
        body = test::featured(spec, f);
      } catch (const InvalidParameter&) {
        continue;
      }
      CAPTURE(all[i].name, all[j].name);
      double deviation = 0;
      const TopoDS_Solid solid = step::solid(body, 1e-7, deviation);
      CHECK(BRepCheck_Analyzer(solid).IsValid());
      CHECK_THAT(measured_volume(solid) / body::mass_properties(body).volume, WithinAbs(1, 1e-9));
      ++made;
    }
  }
  CHECK(made > 120);
}

TEST_CASE("bodies drawn at random are valid solids or refused, never broken ones") {
  int made = 0;
  for (unsigned seed = 1; seed <= 260; ++seed) {
    const auto g = test::any_gear(seed);
    if (!g || g->spec().teeth > 40) continue;
    gear::CylindricalSpec spec = g->spec();
    test::Draw draw(seed);
    spec.bore_diameter = draw.of({0.0, 0.15, 0.25, 0.35}) * g->sizes().root_diameter;
    spec.helix_angle = Angle::degrees(draw.of({0.0, 0.0, 12.0, -25.0}));
    try {
      const gear::CylindricalGear gear(spec);
      const body::Body body = test::featured(spec, test::any_features(seed, gear));
      CAPTURE(seed);
      double deviation = 0;
      const TopoDS_Solid solid = step::solid(body, 1e-7 * std::max(1.0, spec.module / 5), deviation);
      CHECK(BRepCheck_Analyzer(solid).IsValid());
      CHECK_THAT(measured_volume(solid) / body::mass_properties(body).volume, WithinAbs(1, 1e-8));
      ++made;
    } catch (const InvalidParameter&) {
    }
  }
  CHECK(made > 25);
}

TEST_CASE("a part with everything keeps its volume through the file, and the job comes back out of it") {
  body::Features f;
  f.keyway = body::Keyway{4, 13.8, {0.0}};
  f.hubs = {{true, 22, 6}, {false, 20, 3}};
  f.web = body::Web{4, 26, 52, body::Faces::both};
  f.spokes = body::Spokes{5, 4, 29, 48, 1.5};
  f.marks = body::Marks{0.4, {0.0}, {}, ""};
  const body::Body body = test::featured(test::featured_wheel(), f);
  const std::string path = "featured.step", job = "title = \"Dachlüfter, 1. Stufe\"\n";
  write::Stamp stamp;
  stamp.title = "Roof vent";
  stamp.part = "assembly";
  stamp.version = "0.0-test";
  stamp.job = job;
  stamp.note = "drawn for process print";
  write::Placement beside;
  beside.at = Vec3(100, 0, 0);
  write::write_step({{"drum_wheel", body, {}}, {"second_wheel", body, beside}}, stamp, 1e-7, path);
  // Read as an assembly: a product for each part, by name.
  Handle(TDocStd_Document) document;
  XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", document);
  STEPCAFControl_Reader reader;
  reader.SetNameMode(true);
  REQUIRE(reader.ReadFile(path.c_str()) == IFSelect_RetDone);
  REQUIRE(reader.Transfer(document));
  const Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(document->Main());
  TDF_LabelSequence labels;
  shapes->GetShapes(labels);
  std::vector<std::string> names;
  for (int i = 1; i <= labels.Length(); ++i) {
    Handle(TDataStd_Name) name;
    if (labels.Value(i).FindAttribute(TDataStd_Name::GetID(), name))
      names.push_back(TCollection_AsciiString(name->Get()).ToCString());
  }
  for (const char* wanted : {"assembly", "drum_wheel", "second_wheel"})
    CHECK(std::count(names.begin(), names.end(), wanted) >= 1);
  TDF_LabelSequence roots;
  shapes->GetFreeShapes(roots);
  REQUIRE(roots.Length() == 1);
  const TopoDS_Shape whole = shapes->GetShape(roots.Value(1));
  CHECK(BRepCheck_Analyzer(whole).IsValid());
  CHECK_THAT(measured_volume(whole) / (2 * body::mass_properties(body).volume), WithinAbs(1, 1e-9));
  const std::string text = write::read_file(path);
  CHECK(text.find("MANIFOLD_SOLID_BREP('drum_wheel'") != std::string::npos);
  CHECK(write::job_in(text) == job);
  std::filesystem::remove(path);
}

TEST_CASE("bevel gears of every depth and end are valid solids of the exact volume, flanks ruled to the apex") {
  int made = 0;
  for (const auto& [depth, ends, degrees, fillet] :
       {std::tuple{gear::BevelDepth::constant_clearance, gear::BevelEnds::cones, 28.9, false},
        {gear::BevelDepth::tapered, gear::BevelEnds::cones, 61.1, false},
        {gear::BevelDepth::parallel, gear::BevelEnds::cones, 45.0, false},
        {gear::BevelDepth::constant_clearance, gear::BevelEnds::spheres, 35.0, false},
        {gear::BevelDepth::constant_clearance, gear::BevelEnds::cones, 90.0, false},
        {gear::BevelDepth::tapered, gear::BevelEnds::cones, 70.0, true}}) {
    gear::BevelSpec s;
    s.teeth = 18, s.module = 2, s.face_width = 8, s.pitch_cone = Angle::degrees(degrees), s.depth = depth,
    s.ends = ends, s.bore_diameter = 8;
    if (fillet) s.fillet_radius = 0.5, s.teeth = 40;
    if (depth == gear::BevelDepth::parallel) s.teeth = 26;
    body::Features f;
    f.hubs.push_back({true, made % 2 == 0 ? 14.0 : 17.0, 5});
    if (made % 3 != 0) f.keyway = body::Keyway{2.5, 9.2, {0}};
    const body::ConicalBody body = gear::body(gear::BevelGear(s), f);
    double deviation = 0;
    const TopoDS_Solid solid = step::solid(body, 1e-7, deviation);
    CAPTURE(degrees, made);
    CHECK(BRepCheck_Analyzer(solid).IsValid());
    CHECK(deviation < 1e-7);
    // The kernel's integrator takes few places on faces of degree 1 one way: 2e-7 of the volume; 1e-10 where all are of
    // higher degree.
    CHECK_THAT(measured_volume(solid),
               WithinAbs(body::mass_properties(body).volume, 1e-6 * body::mass_properties(body).volume));
    // A flank's surface is linear in one way, and runs on to the apex.
    int flanks = 0;
    for (TopExp_Explorer e(solid, TopAbs_FACE); e.More(); e.Next()) {
      const auto surface = Handle(Geom_BSplineSurface)::DownCast(BRep_Tool::Surface(TopoDS::Face(e.Current())));
      if (surface.IsNull() || surface->VDegree() != 1) continue;
      double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
      surface->Bounds(u0, u1, v0, v1);
      for (const double u : {u0, 0.5 * (u0 + u1), u1}) {
        const gp_Pnt a = surface->Value(u, v0), b = surface->Value(u, v1);
        CHECK(gp_Vec(gp_Pnt(), a).Crossed(gp_Vec(gp_Pnt(), b)).Magnitude() < 1e-7);  // mm²
      }
      ++flanks;
    }
    CHECK(flanks >= 2 * s.teeth);
    ++made;
  }
}

TEST_CASE("a rack with holes in its back is a valid solid of the exact volume, straight and inclined") {
  for (const double lean : {0.0, 18.0}) {
    gear::CylindricalSpec spec;
    spec.module = 2, spec.teeth = 12, spec.face_width = 10, spec.helix_angle = Angle::degrees(lean);
    const gear::Teeth rack{gear::Rack(spec)};
    body::Features f;
    body::Holes row{3, 0, 3, 0};
    row.row = body::Holes::Row{Vec2(rack.rack().sizes().middle, -rack.rack().sizes().base_height + 2.2), 18};
    f.holes = {row};
    const body::Body with = gear::body(rack, f), without = gear::body(rack, {});
    CHECK_THAT(body::mass_properties(without).volume - body::mass_properties(with).volume,
               WithinAbs(3 * kPi / 4 * 9 * 10, 1e-6));
    double deviation = 0;
    const TopoDS_Solid solid = step::solid(with, 1e-7, deviation);
    CHECK(BRepCheck_Analyzer(solid).IsValid());
    CHECK_THAT(measured_volume(solid) / body::mass_properties(with).volume, WithinAbs(1, 1e-9));
  }
}
