// STEP files read back: by the kernel (validity, volume, kinds of surfaces), and by a small reader of our own that
// evaluates the written poles against the exact involute.
#include "palio/write/step.hpp"
#include "palio/body/features.hpp"

#include <BRepAdaptor_Surface.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <STEPControl_Reader.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <catch2/catch.hpp>
#include <filesystem>
#include <map>
#include <sstream>

#include "palio/job/design.hpp"
#include "palio/math/roots.hpp"
#include "palio/write/file.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

gear::CylindricalGear vent_gear(int teeth, double shift, double bore, std::optional<double> fillet = {}) {
  gear::CylindricalSpec s;
  s.teeth = teeth, s.module = 1.5, s.profile_shift = shift, s.face_width = 12, s.bore_diameter = bore, s.fillet_radius = fillet;
  return gear::CylindricalGear(s);
}

std::string written(const std::vector<write::StepPart>& parts, write::StepMade& made) {
  const std::string path = (std::filesystem::temp_directory_path() / ("palio-step-" + std::to_string(::getpid()) + ".step")).string();
  made = write::write_step(parts, {"Roof vent, first stage – é", "part", "0.0-test", false}, 1e-7, path);
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
  for (TopExp_Explorer e(shape, TopAbs_FACE); e.More(); e.Next()) ++kinds[BRepAdaptor_Surface(TopoDS::Face(e.Current())).GetType()];
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
    for (std::string item; std::getline(in, item, ',');) all.push_back(std::stod(item));
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
    for (char& c : poles) c = c == '#' ? ' ' : c;
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
    for (std::size_t i = 0; i < knots.size(); ++i) s.knots.insert(s.knots.end(), static_cast<std::size_t>(times[i]), knots[i]);
    found.push_back(std::move(s));
  }
  return found;
}

/// De Boor's algorithm.
Vec3 evaluate(const TextSpline& s, double t) {
  const auto p = static_cast<std::size_t>(s.degree);
  std::size_t k = p;
  while (k + 1 < s.knots.size() - p - 1 && t >= s.knots[k + 1]) ++k;
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
    const body::Body body = body::body(teeth);
    write::StepMade made{};
    const TopoDS_Shape shape = read(written({{"part", body, {}}}, made));
    CHECK(BRepCheck_Analyzer(shape).IsValid());
    const double exact = body::mass_properties(body).volume;
    CHECK_THAT(made.volume / exact, WithinAbs(1, 1e-9));
    CHECK_THAT(kernel_volume(shape) / exact, WithinAbs(1, 1e-9));
    CHECK(made.deviation <= 1e-7);
  }
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
    const body::Body body = body::body(c.gear);
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
      if (std::holds_alternative<curve::Arc>(s.curve)) arcs += z;
      else if (std::holds_alternative<curve::Line>(s.curve)) lines += z;
      else splines += z;
    }
    CHECK(kinds[GeomAbs_Cylinder] == arcs);
    CHECK(kinds[GeomAbs_Plane] == 2 + lines);
    CHECK(kinds[GeomAbs_SurfaceOfExtrusion] == splines);  // each flank and root one face
    int solids = 0;
    for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next()) ++solids;
    CHECK(solids == 1);
    std::filesystem::remove(path);
  }
}

TEST_CASE("the poles in the text, evaluated by our own reader, lie within 1e-7 mm of the exact involute") {
  const gear::CylindricalGear g = vent_gear(17, 0.18, 4.5);
  write::StepMade made{};
  const std::string path = written({{"part", body::body(g), {}}}, made);
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
      worst = std::max(worst, std::abs(std::abs(angle) - g.half_tooth_angle(R)) * r_b);  // along the normal
    }
  }
  CHECK(flanks == 2 * 17 * 3);  // each flank: bottom edge, top edge, the curve that its surface extrudes
  CHECK(worst <= 1e-7);
  CHECK(worst <= 1.5 * made.deviation + 1e-12);
}

TEST_CASE("an assembly holds one solid per gear in place, and the header carries title, version and deviation") {
  const gear::CylindricalGear g1 = vent_gear(17, 0.18, 4.5), g2 = vent_gear(43, 0.09, 8);
  write::StepMade made{};
  const std::string path = written(
      {{"a", body::body(g1), {{0, 0, -6}, 0.1, Eigen::Matrix3d::Identity()}}, {"b", body::body(g2), {{45.5, 0, -6}, 0.2, Eigen::Matrix3d::Identity()}}}, made);
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
  CHECK_THAT(text, Contains("Roof vent, first stage") && Contains("0.0-test") && Contains("mm of the exact curves") && Contains("U+00E9"));
  CHECK_THAT(text, Contains("SI_UNIT(.MILLI.,.METRE.)"));
  std::filesystem::remove(path);
}
