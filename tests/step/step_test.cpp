// STEP files read back: by the kernel (validity, volume, kinds of surfaces), and by a small reader of our own that
// evaluates the written poles against the exact involute.
#include "palio/write/step.hpp"
#include "filled.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"
#include "palio/body/stack.hpp"
#include "palio/gear/core.hpp"
#include "palio/gear/lobed_disc.hpp"
#include "palio/reducer/parts.hpp"

#include <BRepAdaptor_Surface.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <Interface_InterfaceModel.hxx>
#include <STEPControl_Reader.hxx>
#include <StepBasic_Product.hxx>
#include <StepShape_ManifoldSolidBrep.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <algorithm>
#include <catch2/catch.hpp>
#include <filesystem>
#include <map>
#include <sstream>
#include <tuple>

#include "palio/design/design.hpp"
#include "palio/math/roots.hpp"
#include "palio/write/file.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

gear::CylindricalGear vent_gear(int teeth, double shift, double bore, std::optional<double> fillet = {}) {
  gear::CylindricalSpec s;
  s.teeth = teeth, s.module = 1.5, s.profile_shift = shift, s.face_width = 12, s.bore_diameter = bore,
  s.fillet_radius = fillet;
  return gear::CylindricalGear(s);
}

std::string written(const std::vector<write::StepPart>& parts, write::StepMade& made) {
  std::string path =
      (std::filesystem::temp_directory_path() / ("palio-step-" + std::to_string(::getpid()) + ".step")).string();
  write::Stamp stamp = test::stamp("part");
  stamp.title = "Roof vent, first stage – é";
  made = write::write_step(parts, stamp, 1e-7, path);
  return path;
}

TopoDS_Shape read(const std::string& path) {
  STEPControl_Reader reader;
  REQUIRE(reader.ReadFile(path.c_str()) == IFSelect_RetDone);
  reader.TransferRoots();
  return reader.OneShape();
}

double kernel_volume(const TopoDS_Shape& shape) {
  GProp_GProps properties;
  BRepGProp::VolumeProperties(shape, properties);
  return properties.Mass();
}

std::map<GeomAbs_SurfaceType, int> surfaces(const TopoDS_Shape& shape) {
  std::map<GeomAbs_SurfaceType, int> kinds;
  for (TopExp_Explorer e(shape, TopAbs_FACE); e.More(); e.Next())
    ++kinds[BRepAdaptor_Surface(TopoDS::Face(e.Current())).GetType()];
  return kinds;
}

/// Every B-spline curve of a STEP text: degree, poles, knots.
struct TextSpline {
  int degree;
  std::vector<Vec3> poles;
  std::vector<double> knots;
};

std::vector<TextSpline> splines_in(const std::string& text) {
  std::map<int, std::string> entities;
  std::istringstream lines(text);
  std::string statement, line;
  while (std::getline(lines, line)) {
    statement += line;
    if (line.empty() || line.back() != ';') continue;
    const auto hash = statement.find('#'), equals = statement.find('=');
    if (hash != std::string::npos && equals != std::string::npos && hash < equals) {
      entities[std::stoi(statement.substr(hash + 1))] = statement.substr(equals + 1);
    }
    statement.clear();
  }
  const auto numbers = [](const std::string& list) {
    std::vector<double> all;
    std::istringstream in(list);
    for (std::string item; std::getline(in, item, ',');)
      all.push_back(std::stod(item));
    return all;
  };
  std::vector<TextSpline> found;
  for (const auto& [id, body] : entities) {
    const auto at = body.find("B_SPLINE_CURVE_WITH_KNOTS(");
    if (at == std::string::npos) continue;
    TextSpline s;
    const auto name_end = body.find(',', at), degree_end = body.find(',', name_end + 1);
    s.degree = std::stoi(body.substr(name_end + 1, degree_end - name_end - 1));
    auto open = body.find('(', degree_end), close = body.find(')', open);
    std::string poles = body.substr(open + 1, close - open - 1);
    for (char& c : poles)
      c = c == '#' ? ' ' : c;
    for (const double n : numbers(poles)) {
      const std::string& point = entities.at(static_cast<int>(n));
      const auto last_open = point.rfind('('), first_close = point.find(')', last_open);
      const auto xyz = numbers(point.substr(last_open + 1, first_close - last_open - 1));
      s.poles.emplace_back(xyz[0], xyz[1], xyz[2]);
    }
    open = body.find('(', close + 1), close = body.find(')', open);
    const auto times = numbers(body.substr(open + 1, close - open - 1));
    open = body.find('(', close + 1), close = body.find(')', open);
    const auto knots = numbers(body.substr(open + 1, close - open - 1));
    for (std::size_t i = 0; i < knots.size(); ++i)
      s.knots.insert(s.knots.end(), static_cast<std::size_t>(times[i]), knots[i]);
    found.push_back(std::move(s));
  }
  return found;
}

/// De Boor's algorithm.
Vec3 evaluate(const TextSpline& s, double t) {
  const auto p = static_cast<std::size_t>(s.degree);
  std::size_t k = p;
  while (k + 1 < s.knots.size() - p - 1 && t >= s.knots[k + 1])
    ++k;
  std::vector<Vec3> d(s.poles.begin() + static_cast<long>(k - p), s.poles.begin() + static_cast<long>(k + 1));
  for (std::size_t r = 1; r <= p; ++r) {
    for (std::size_t j = p; j >= r; --j) {
      const double a = s.knots[j + k - p], b = s.knots[j + 1 + k - r], u = (t - a) / (b - a);
      d[j] = (1 - u) * d[j - 1] + u * d[j];
    }
  }
  return d[p];
}

}  // namespace

TEST_CASE("of every sort of teeth: a valid solid, with the exact volume after reading back") {
  for (const auto& [what, teeth] : test::one_of_each()) {
    CAPTURE(what);
    const body::Body body = gear::body(teeth);
    write::StepMade made{};
    const TopoDS_Shape shape = read(written({{"part", body, {}}}, made));
    CHECK(BRepCheck_Analyzer(shape).IsValid());
    const double exact = body::mass_properties(body).volume;
    CHECK_THAT(made.volume / exact, WithinAbs(1, 1e-9));
    CHECK_THAT(kernel_volume(shape) / exact, WithinAbs(1, 1e-9));
    CHECK(made.deviation <= 1e-7);
  }
}

TEST_CASE(
    "of every cycloidal form and every part of a reducer: a valid solid with the volume of its curves, and a closed "
    "mesh") {
  std::vector<std::pair<std::string, body::Body>> bodies;
  for (const auto& [what, teeth] : test::one_of_each_cycloidal())
    bodies.emplace_back(what, gear::body(teeth));
  reducer::Spec s;
  s.rollers = 12, s.roller_circle_diameter = 60, s.roller_diameter = 8, s.eccentricity = 1.5, s.output_pins = 5,
  s.output_pin_circle_diameter = 30;
  s.output_pin_diameter = 4, s.bore_diameter = 12, s.face_width = 5, s.disc_gap = 0.5, s.discs = 2;
  for (const reducer::Part& p : reducer::parts(reducer::Reducer(s))) {
    if (p.alike.empty()) bodies.emplace_back(p.name, p.body);
  }
  s.ring = reducer::RingForm::one_piece, s.roller_pin_diameter = 0;
  bodies.emplace_back("ring of one piece", reducer::parts(reducer::Reducer(s)).front().body);
  CHECK(bodies.size() == 6 + 5 + 1);
  for (const auto& [what, body] : bodies) {
    CAPTURE(what);
    write::StepMade made{};
    const std::string path = written({{"part", body, {}}}, made);
    const TopoDS_Shape shape = read(path);
    std::filesystem::remove(path);
    CHECK(BRepCheck_Analyzer(shape).IsValid());
    const double exact = body::mass_properties(body).volume;
    CHECK_THAT(kernel_volume(shape) / exact, WithinAbs(1, 1e-8));
    CHECK(made.deviation <= 1e-7);
    const body::TriangleMesh mesh = body::mesh(body, 0.01);
    CHECK(mesh.deviation <= 0.01);
    CHECK_THAT(body::volume(mesh) / exact, WithinAbs(1, 5e-3));
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
    for (const auto& t : mesh.triangles) {
      for (int k = 0; k < 3; ++k)
        ++edges[{t[static_cast<std::size_t>(k)], t[static_cast<std::size_t>((k + 1) % 3)]}];
    }
    for (const auto& [edge, times] : edges)
      CHECK((times == 1 && edges.count({edge.second, edge.first}) == 1));
  }
}

TEST_CASE(
    "a plane region is one face, of the area between blank and teeth, placed and turned; the lobed edge within 1e-7 mm "
    "in the text") {
  const gear::LobedDisc disc({24, 80, 5, 1.2});
  body::Body slice;
  slice.loops = {{curve::circle(45, curve::Role::body, false), false, "boundary"},
                 {curve::reversed(disc.outline()), false, "teeth"}};
  slice.layers.push_back({{0, 1}, {{0, 0}, {1, 0}}});
  write::StepMade made{};
  const std::string path = written({{"region", slice, {{30, -4, 0}, 0.2, Eigen::Matrix3d::Identity()}, true}}, made),
                    text = write::read_file(path);
  const TopoDS_Shape shape = read(path);
  std::filesystem::remove(path);
  CHECK(BRepCheck_Analyzer(shape).IsValid());
  int faces = 0, solids = 0;
  for (TopExp_Explorer e(shape, TopAbs_FACE); e.More(); e.Next())
    ++faces;
  for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next())
    ++solids;
  CHECK(faces == 1);
  CHECK(solids == 0);
  GProp_GProps properties;
  BRepGProp::SurfaceProperties(shape, properties);
  CHECK_THAT(properties.Mass() / (kPi * 45 * 45 - curve::signed_area(disc.outline())), WithinAbs(1, 1e-7));
  CHECK_THAT(properties.CentreOfMass().X(), WithinAbs(30, 1e-6));
  CHECK_THAT(properties.CentreOfMass().Y(), WithinAbs(-4, 1e-6));
  // Every pole's curve against the roller's centre seen from the disc: the edge lies a roller's radius inside that
  // path.
  double worst = 0;
  int splines = 0;
  for (const TextSpline& s : splines_in(text)) {
    ++splines;
    for (int i = 0; i <= 20; ++i) {
      const Vec3 at = evaluate(s, s.knots.front() + (s.knots.back() - s.knots.front()) * i / 20.0);
      const Vec2 p = turned(Vec2(at.x() - 30, at.y() + 4), -0.2);
      const auto distance = [&](double t) { return (from_polar(40, t) - from_polar(1.2, 24 * t) - p).norm(); };
      // The nearest place of that path: a coarse search, then ever smaller steps.
      double t = std::atan2(p.y(), p.x());
      const double middle = t;
      for (int k = -200; k <= 200; ++k)
        t = distance(middle + 0.0005 * k) < distance(t) ? middle + 0.0005 * k : t;
      for (double h = 0.0005; h > 1e-12; h *= 0.7) {
        for (const double to : {t - h, t + h})
          t = distance(to) < distance(t) ? to : t;
      }
      worst = std::max(worst, std::abs(distance(t) - 2.5));
    }
  }
  CHECK(splines == 4 * 23);
  CHECK(worst <= 1.5e-7);
}

TEST_CASE("solids are valid, with the exact volume to 1e-9 after writing and reading back, cylinders as cylinders") {
  struct Case {
    const char* name;
    gear::CylindricalGear gear;
  };
  const Case cases[] = {{"pinion with bore", vent_gear(17, 0.18, 4.5)},
                        {"no bore", vent_gear(20, 0, 0)},
                        {"undercut", vent_gear(9, 0, 3)},
                        {"fillet", vent_gear(17, 0.25, 4, 0.78)},
                        {"fillet with a radial line", vent_gear(17, 0, 4, 0.5)},
                        {"pointed", vent_gear(12, 0.95, 4)}};
  for (const Case& c : cases) {
    CAPTURE(c.name);
    const body::Body body = gear::body(c.gear);
    write::StepMade made{};
    const std::string path = written({{"part", body, {}}}, made);
    const TopoDS_Shape shape = read(path);
    CHECK(BRepCheck_Analyzer(shape).IsValid());
    const double exact = body::mass_properties(body).volume;
    CHECK_THAT(made.volume / exact, WithinAbs(1, 1e-9));
    CHECK_THAT(kernel_volume(shape) / exact, WithinAbs(1, 1e-9));
    CHECK(made.deviation <= 1e-7);
    auto kinds = surfaces(shape);
    const int z = c.gear.spec().teeth;
    int splines = 0, arcs = c.gear.spec().bore_diameter > 0 ? 2 : 0, lines = 0;
    for (const auto& s : c.gear.outline().period) {
      if (std::holds_alternative<curve::Arc>(s.curve))
        arcs += z;
      else if (std::holds_alternative<curve::Line>(s.curve))
        lines += z;
      else
        splines += z;
    }
    CHECK(kinds[GeomAbs_Cylinder] == arcs);
    CHECK(kinds[GeomAbs_Plane] == 2 + lines);
    CHECK(kinds[GeomAbs_SurfaceOfExtrusion] == splines);  // each flank and root one face
    int solids = 0;
    for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next())
      ++solids;
    CHECK(solids == 1);
    std::filesystem::remove(path);
  }
}

TEST_CASE("the poles in the text, evaluated by our own reader, lie within 1e-7 mm of the exact involute") {
  const gear::CylindricalGear g = vent_gear(17, 0.18, 4.5);
  write::StepMade made{};
  const std::string path = written({{"part", gear::body(g), {}}}, made);
  const std::string text = write::read_file(path);
  std::filesystem::remove(path);
  const double r_b = g.sizes().base_diameter / 2, pitch = 2 * kPi / 17;
  int flanks = 0;
  double worst = 0;
  for (const TextSpline& s : splines_in(text)) {
    if (s.degree != 7) continue;
    ++flanks;
    for (int i = 0; i <= 50; ++i) {
      const Vec3 p = evaluate(s, s.knots.front() + (s.knots.back() - s.knots.front()) * i / 50.0);
      const double R = std::hypot(p.x(), p.y());
      const double angle = std::remainder(std::atan2(p.y(), p.x()), pitch);
      worst = std::max(worst, std::abs(std::abs(angle) - g.half_tooth_angle(R).radians()) * r_b);  // along the normal
    }
  }
  CHECK(flanks == 2 * 17 * 3);  // each flank: bottom edge, top edge, the curve that its surface extrudes
  CHECK(worst <= 1e-7);
  CHECK(worst <= 1.5 * made.deviation + 1e-12);
}

TEST_CASE("an assembly holds one solid per gear in place, and the header carries title, version and deviation") {
  const gear::CylindricalGear g1 = vent_gear(17, 0.18, 4.5), g2 = vent_gear(43, 0.09, 8);
  write::StepMade made{};
  const std::string path = written({{"a", gear::body(g1), {{0, 0, -6}, 0.1, Eigen::Matrix3d::Identity()}},
                                    {"b", gear::body(g2), {{45.5, 0, -6}, 0.2, Eigen::Matrix3d::Identity()}}},
                                   made);
  const TopoDS_Shape shape = read(path);
  CHECK(BRepCheck_Analyzer(shape).IsValid());
  std::vector<double> places;
  for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next()) {
    GProp_GProps properties;
    BRepGProp::VolumeProperties(e.Current(), properties);
    places.push_back(properties.CentreOfMass().X());
    CHECK_THAT(properties.CentreOfMass().Z(), WithinAbs(0, 1e-9));
  }
  REQUIRE(places.size() == 2);
  CHECK_THAT(places[0], WithinAbs(0, 1e-9));
  CHECK_THAT(places[1], WithinAbs(45.5, 1e-9));
  const std::string text = write::read_file(path);
  CHECK_THAT(text, Contains("Roof vent, first stage") && Contains("0.0-test") && Contains("mm of the exact curves") &&
                       Contains("U+00E9"));
  CHECK_THAT(text, Contains("SI_UNIT(.MILLI.,.METRE.)"));
  std::filesystem::remove(path);
}

TEST_CASE("what belongs together is an assembly within the assembly; every solid keeps its name and its place") {
  // Rods of sizes that tell them apart, in an order that mixes their assemblies.
  const std::vector<std::pair<std::string, std::string>> rods{
      {"a", "drum"}, {"b", ""}, {"c", "quiet"}, {"d", "drum"}, {"e", "quiet"}};
  std::vector<write::StepPart> parts;
  std::map<std::string, double> volumes;
  for (std::size_t i = 0; i < rods.size(); ++i) {
    const double diameter = 2.0 + static_cast<double>(i);
    write::StepPart part{rods[i].first, body::rod(diameter, 0, 10), {{20.0 * static_cast<double>(i), 0, 0}}};
    part.assembly = rods[i].second;
    volumes[rods[i].first] = kPi / 4 * diameter * diameter * 10;
    parts.push_back(std::move(part));
  }
  write::StepMade made{};
  const std::string path = written(parts, made);
  STEPControl_Reader reader;
  REQUIRE(reader.ReadFile(path.c_str()) == IFSelect_RetDone);
  const Handle(Interface_InterfaceModel) model = reader.Model();
  std::size_t named = 0;
  std::vector<std::string> products;
  for (int i = 1; i <= model->NbEntities(); ++i) {
    const auto brep = Handle(StepShape_ManifoldSolidBrep)::DownCast(model->Value(i));
    if (!brep.IsNull() && reader.TransferEntity(brep)) {
      ++named;
      CHECK_THAT(kernel_volume(reader.Shape(reader.NbShapes())),
                 WithinAbs(volumes.at(brep->Name()->ToCString()), 1e-9));
    }
    const auto product = Handle(StepBasic_Product)::DownCast(model->Value(i));
    if (!product.IsNull()) products.emplace_back(product->Name()->ToCString());
  }
  CHECK(named == rods.size());
  for (const char* name : {"drum", "quiet", "a", "b", "c", "d", "e"})
    CHECK(std::count(products.begin(), products.end(), name) == 1);
  std::map<int, int> places;  // of all in the whole, by x
  const TopoDS_Shape whole = read(path);
  for (TopExp_Explorer e(whole, TopAbs_SOLID); e.More(); e.Next()) {
    GProp_GProps properties;
    BRepGProp::VolumeProperties(e.Current(), properties);
    const auto at = static_cast<std::size_t>(std::lround(properties.CentreOfMass().X() / 20));
    REQUIRE(at < rods.size());
    CHECK_THAT(properties.Mass(), WithinAbs(volumes.at(rods[at].first), 1e-9));
    ++places[static_cast<int>(at)];
  }
  CHECK(places.size() == rods.size());
  std::filesystem::remove(path);
}

TEST_CASE("what is alike is one product that stands in several places, under assemblies of its own or none") {
  // The second of two alike stands in an assembly that comes first in the file: its solid is told there.
  std::vector<write::StepPart> parts;
  for (const auto& [name, diameter, assembly, alike] :
       std::vector<std::tuple<const char*, double, const char*, const char*>>{{"hub", 9, "arm", ""},
                                                                              {"planet", 4, "", ""},
                                                                              {"planet_2", 4, "arm", "planet"},
                                                                              {"planet_3", 4, "", "planet"}}) {
    write::StepPart part{name, body::rod(diameter, 0, 10), {{20.0 * static_cast<double>(parts.size()), 0, 0}}};
    part.assembly = assembly, part.alike = alike;
    parts.push_back(std::move(part));
  }
  parts[0].volume = 1000;  // taken as it is said
  write::StepMade made{};
  const std::string path = written(parts, made);
  CHECK_THAT(made.volume, WithinAbs(1000 + 3 * kPi / 4 * 16 * 10, 1e-9));
  STEPControl_Reader reader;
  REQUIRE(reader.ReadFile(path.c_str()) == IFSelect_RetDone);
  const Handle(Interface_InterfaceModel) model = reader.Model();
  std::map<std::string, double> solids;
  for (int i = 1; i <= model->NbEntities(); ++i) {
    const auto brep = Handle(StepShape_ManifoldSolidBrep)::DownCast(model->Value(i));
    if (!brep.IsNull() && reader.TransferEntity(brep))
      solids[brep->Name()->ToCString()] = kernel_volume(reader.Shape(reader.NbShapes()));
  }
  REQUIRE(solids.size() == 2);
  CHECK_THAT(solids.at("hub"), WithinAbs(kPi / 4 * 81 * 10, 1e-9));
  CHECK_THAT(solids.at("planet"), WithinAbs(kPi / 4 * 16 * 10, 1e-9));
  std::vector<long> places;
  const TopoDS_Shape whole = read(path);
  for (TopExp_Explorer e(whole, TopAbs_SOLID); e.More(); e.Next()) {
    GProp_GProps properties;
    BRepGProp::VolumeProperties(e.Current(), properties);
    places.push_back(std::lround(properties.CentreOfMass().X()));
    CHECK_THAT(properties.Mass(), WithinAbs(places.back() == 0 ? kPi / 4 * 81 * 10 : kPi / 4 * 16 * 10, 1e-9));
  }
  std::sort(places.begin(), places.end());
  CHECK(places == std::vector<long>{0, 20, 40, 60});
  std::filesystem::remove(path);
}
