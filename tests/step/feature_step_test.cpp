// Solids with features: valid in the kernel's eyes, of the exact volume, read back from the file; and packed files read by
// a library that did not write them.
#include "palio/body/mesh.hpp"
#include "palio/write/packed.hpp"
#include "palio/write/step.hpp"
// The kernel's headers come last: they are not ours to order.
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
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

double kernel_volume(const TopoDS_Shape& shape) {
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
      CHECK_THAT(kernel_volume(solid) / body::mass_properties(body).volume, WithinAbs(1, 1e-9));
      ++made;
    }
  }
  CHECK(made > 120);
}

TEST_CASE("bodies drawn at random are valid solids or refused, never broken ones") {
  int made = 0;
  for (unsigned seed = 1; seed <= 180; ++seed) {
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
      CHECK_THAT(kernel_volume(solid) / body::mass_properties(body).volume, WithinAbs(1, 1e-8));
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
  write::Stamp stamp{"Roof vent", "assembly", "0.0-test", false, job, "drawn for process print"};
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
    if (labels.Value(i).FindAttribute(TDataStd_Name::GetID(), name)) names.push_back(TCollection_AsciiString(name->Get()).ToCString());
  }
  for (const char* wanted : {"assembly", "drum_wheel", "second_wheel"}) CHECK(std::count(names.begin(), names.end(), wanted) >= 1);
  TDF_LabelSequence roots;
  shapes->GetFreeShapes(roots);
  REQUIRE(roots.Length() == 1);
  const TopoDS_Shape whole = shapes->GetShape(roots.Value(1));
  CHECK(BRepCheck_Analyzer(whole).IsValid());
  CHECK_THAT(kernel_volume(whole) / (2 * body::mass_properties(body).volume), WithinAbs(1, 1e-9));
  const std::string text = write::read_file(path);
  CHECK(text.find("MANIFOLD_SOLID_BREP('drum_wheel'") != std::string::npos);
  CHECK(write::job_in(text) == job);
  std::filesystem::remove(path);
}
