// Making from the library: what is made of which job, what each file holds, and that nothing else is done.
#include <algorithm>
#include <filesystem>
#include <map>
#include <set>
#include <string>

#include <fmt/format.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/body/solid.hpp"
#include "palio/error.hpp"
#include "palio/foreign/drawing.hpp"
#include "palio/make/make.hpp"
#include "palio/readings/report.hpp"
#include "palio/write/embed.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Json = nlohmann::json;

namespace {

const std::vector<std::string> kKinds{"spur",    "helical",   "double_helical", "internal",   "rack",
                                      "crossed", "bevel",     "cycloidal",      "clock",      "lantern",
                                      "reducer", "planetary", "train",          "clock_train"};

/// What would have been written, by path; modules answer with what they were given.
struct Kept {
  std::map<std::string, std::string> bytes;
  std::map<std::string, std::vector<write::PackedPart>> packed;
  std::map<std::string, std::vector<write::StepPart>> steps;
  std::map<std::string, double> seconds;
  std::vector<std::string> remarks, begun;
  std::string last;

  make::Means means() {
    make::Means m;
    m.path = [](const std::string& name) { return name; };
    m.save = [this](const std::string& path, std::string_view b) {
      REQUIRE(bytes.emplace(path, b).second);  // nothing is written twice
    };
    m.about_to = [this](const std::string& path) { begun.push_back(path), last = path; };
    m.remark = [this](const std::string& r) { remarks.push_back(r); };
    m.pack = [this](const std::string& format, const std::vector<write::PackedPart>& parts, const write::Stamp& stamp,
                    double loop) {
      packed[last] = parts, seconds[last] = loop;
      return format + stamp.title;
    };
    m.step = [this](const std::vector<write::StepPart>& parts, const write::Stamp&, double tolerance,
                    const std::string& path) {
      CHECK(tolerance > 0);
      steps[path] = parts;
      double volume = 0;
      for (const write::StepPart& p : parts)
        volume += body::mass_properties(p.body).volume;
      return write::StepMade{0, volume};
    };
    return m;
  }
};

job::Design job_of(const std::string& kind, const std::vector<std::string>& set = {}) {
  return job::resolve(job::starter(kind, job::Units::mm), "vent.toml", set);
}

std::vector<make::File> made(const job::Design& design, const make::Request& request, Kept& kept) {
  return make::make(design, request, kept.means());
}

make::Request coarse(std::vector<std::string> formats = {}) {
  make::Request r;
  r.chord_error = 0.05, r.formats = std::move(formats);
  return r;
}

std::string ending(const std::string& path) { return path.substr(path.rfind('.') + 1); }

}  // namespace

TEST_CASE("each part has a file of each format that it can have, and the whole has its own") {
  for (const std::string& kind : kKinds) {
    const job::Design design = job_of(kind);
    Kept kept;
    const std::vector<make::File> files = made(design, coarse(), kept);
    const std::vector<view::Part> parts = view::parts(design);
    std::set<std::pair<std::string, std::string>> wanted, got;
    for (const make::Format& f : make::formats()) {
      const std::string name(f.name);
      if (f.on_request) continue;
      bool any_plane = false;
      for (const view::Part& p : parts) {
        any_plane |= !p.body.is_conical();
        if (!f.alone || !p.alike.empty() || (f.plane && p.body.is_conical())) continue;
        wanted.insert({p.name, name});
      }
      if (f.whole && parts.size() > 1 && (any_plane || !f.plane)) wanted.insert({"assembly", name});
    }
    for (const make::File& f : files) {
      CAPTURE(kind, f.path);
      const auto format = std::find_if(make::formats().begin(), make::formats().end(),
                                       [&](const make::Format& known) { return known.name == f.format; });
      CHECK(f.path == f.part + (format->ending.empty() ? "." + f.format : std::string(format->ending)));
      CHECK(got.insert({f.part, f.format}).second);
      CHECK(kept.bytes.count(f.path) + kept.steps.count(f.path) == 1);
    }
    CAPTURE(kind);
    CHECK(got == wanted);
    CHECK(kept.begun.size() == files.size());
    CHECK(kept.bytes.size() + kept.steps.size() == files.size());
  }
}

TEST_CASE("files that say they carry the job do, and it makes the same design") {
  for (const std::string& kind : kKinds) {
    const job::Design design = job_of(kind);
    Kept kept;
    made(design, coarse({"dxf", "svg", "pdf", "csv", "stl"}), kept);
    for (const auto& [path, bytes] : kept.bytes) {
      CAPTURE(kind, path);
      const auto format = std::find_if(make::formats().begin(), make::formats().end(),
                                       [e = ending(path)](const make::Format& f) { return f.name == e; });
      const auto carried = write::job_in(bytes);
      CHECK(carried.has_value() == format->carries_job);
      if (carried) CHECK(job::report_json(job::resolve(*carried, "carried"), false) == job::report_json(design, false));
    }
  }
}

TEST_CASE("a volume told is that of the body, and chords come as near as asked") {
  for (const std::string& kind : kKinds) {
    const job::Design design = job_of(kind);
    const std::vector<view::Part> parts = view::parts(design);
    for (const double error : {0.1, 0.01}) {
      Kept kept;
      make::Request request = coarse({"stl", "3mf", "step"});
      request.chord_error = error;
      for (const make::File& f : made(design, request, kept)) {
        double exact = 0, surface = 0;
        for (const view::Part& p : parts) {
          if (f.part != p.name && f.part != "assembly") continue;
          const body::MassProperties m = body::mass_properties(p.body);
          exact += m.volume, surface += 6 * std::pow(m.volume, 2.0 / 3) + 40 * error;
        }
        CAPTURE(kind, error, f.path, exact);
        REQUIRE(f.volume);
        if (f.format == "step") {
          CHECK(*f.volume == Approx(exact).epsilon(1e-12));
          continue;
        }
        REQUIRE(f.deviation);
        CHECK(*f.deviation <= error * (1 + 1e-9) + 1e-6);
        CHECK(*f.deviation > 0);
        // A layer as thick as the chords' error over a surface several times that of a cube.
        CHECK(std::abs(*f.volume - exact) < 8 * error * surface);
        CHECK(f.triangles > 20);
      }
    }
  }
}

TEST_CASE("what is alike has one file, and stands in the whole as often as it is there") {
  const job::Design design = job_of("reducer");
  Kept kept;
  const std::vector<make::File> files = made(design, coarse({"3mf"}), kept);
  const std::vector<view::Part> parts = view::parts(design);
  const auto alike = std::count_if(parts.begin(), parts.end(), [](const view::Part& p) { return !p.alike.empty(); });
  REQUIRE(alike > 0);
  CHECK(files.size() == parts.size() - static_cast<std::size_t>(alike) + 1);
  const std::vector<write::PackedPart>& whole = kept.packed.at("assembly.3mf");
  REQUIRE(whole.size() == parts.size());
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (parts[i].alike.empty()) continue;
    const auto first =
        std::find_if(parts.begin(), parts.end(), [&](const view::Part& p) { return p.name == parts[i].alike; });
    const write::PackedPart& other = whole[static_cast<std::size_t>(first - parts.begin())];
    CHECK(whole[i].mesh.triangles.size() == other.mesh.triangles.size());
    CHECK((whole[i].placement.at - other.placement.at).norm() +
              std::abs(whole[i].placement.turn - other.placement.turn) >
          0);
  }
}

TEST_CASE("the motion of the whole ends as it began, each part at the ratio of the report") {
  for (const std::string& kind : kKinds) {
    const job::Design design = job_of(kind);
    Kept kept;
    made(design, coarse({"glb"}), kept);
    const std::vector<write::PackedPart>& whole = kept.packed.at("assembly.glb");
    CAPTURE(kind);
    CHECK(kept.seconds.at("assembly.glb") > 0);
    std::map<std::string, const write::PackedPart*> by_name;
    for (const write::PackedPart& p : whole)
      by_name[p.name] = &p;
    // Of one piece with its shaft a gear is no part of its own.
    const auto part_of = [&](std::size_t gear) {
      for (const job::Axle& axle : design.axles) {
        if (std::find(axle.gears.begin(), axle.gears.end(), gear) != axle.gears.end()) return axle.name;
      }
      return design.gears[gear].name;
    };
    for (const job::Pair& pair : design.pairs) {
      const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
      const write::PackedPart &a = *by_name.at(part_of(pair.driver)), &b = *by_name.at(part_of(pair.driven));
      REQUIRE((a.turns != 0 || a.slides != 0));
      if (kind == "planetary") REQUIRE((a.orbit != 0) != (b.orbit != 0));
      if (g2.teeth.is_rack()) {
        // It goes as far as the pitch circle unrolls.
        CHECK(std::abs(b.slides) ==
              Approx(std::abs(a.turns) * kPi * g1.teeth.module() * g1.teeth.count()).epsilon(1e-9));
        CHECK(b.swings);
        CHECK(a.swings);
        continue;
      }
      // Against the carrier, where one of them goes round with it.
      const double carrier = a.orbit != 0 ? a.orbit : b.orbit;
      CHECK((b.turns - carrier) * g2.teeth.count() ==
            Approx((a.turns - carrier) * g1.teeth.count() * (pair.motion_ratio() < 0 ? -1 : 1)).epsilon(1e-9));
      for (const write::PackedPart* p : {&a, &b})
        CHECK((p->swings || std::abs(std::remainder(p->turns, 1.0)) < 1e-6));
    }
    for (const job::Reducer& r : design.reducers) {
      for (const write::PackedPart& p : whole) {
        CHECK(std::abs(std::remainder(p.turns, 1.0)) < 1e-6);
        if (p.orbit != 0) CHECK(p.turns * r.made.sizes().lobes == Approx(-p.orbit).epsilon(1e-9));
      }
    }
  }
}

TEST_CASE("names follow the pattern, never leave the folder, and never meet") {
  const job::Design design =
      job_of("spur", {"gear.motor_pinion.part_name=\"Motor pinion, left\"", "gear.motor_pinion.part_number=\"RV 17/4\"",
                      "gear.motor_pinion.material=\"brass\"", "gear.drum_wheel.part_name=\"\"",
                      "gear.drum_wheel.part_number=\"\"", "gear.drum_wheel.material=\"steel\""});
  const auto names = [&](const std::string& pattern) {
    Kept kept;
    make::Request request = coarse({"csv"});
    request.pattern = pattern;
    std::vector<std::string> all;
    for (const make::File& f : made(design, request, kept))
      all.push_back(f.path);
    return all;
  };
  using Names = std::vector<std::string>;
  CHECK(names("{gear}") == Names{"motor_pinion.csv", "drum_wheel.csv"});
  CHECK(names("m{module}_z{teeth}") == Names{"m1.5_z17.csv", "m1.5_z43.csv"});
  CHECK(names("{kind}-{gear}") == Names{"spur-motor_pinion.csv", "spur-drum_wheel.csv"});
  CHECK(names("{part}") == Names{"Motor_pinion_left.csv", "drum_wheel.csv"});
  // What is empty takes its separator with it.
  CHECK(names("{gear}_{number}") == Names{"motor_pinion_RV_17_4.csv", "drum_wheel.csv"});
  CHECK(names("{gear}_{material}") == Names{"motor_pinion_brass.csv", "drum_wheel_steel.csv"});
  CHECK(names("{job}/{gear}") ==
        Names{"Roof_vent_first_stage/motor_pinion.csv", "Roof_vent_first_stage/drum_wheel.csv"});
  for (const char* pattern : {"../{gear}", "/{gear}", "{gear}/../../x", "", "{gears}", "{gear", "{kind}", "x"}) {
    CAPTURE(pattern);
    CHECK_THROWS_AS(names(pattern), InvalidParameter);
  }
}

TEST_CASE("what cannot be made is refused before anything is written") {
  const auto refusal = [](const std::string& kind, const make::Request& request) -> std::string {
    Kept kept;
    try {
      made(job_of(kind), request, kept);
    } catch (const InvalidParameter& e) {
      CHECK(kept.bytes.empty());
      CHECK(kept.steps.empty());
      return e.what();
    }
    return "(made)";
  };
  make::Request request = coarse({"stl"});
  request.only = {"drum"};
  CHECK_THAT(refusal("spur", request), Contains("drum") && Contains("motor_pinion, drum_wheel, assembly"));
  CHECK_THAT(refusal("spur", coarse({"obj"})), Contains("obj") && Contains("step, stl, 3mf"));
  CHECK_THAT(refusal("bevel", coarse({"dxf"})), Contains("corner_pinion") && Contains("palio draw"));
  CHECK(refusal("reducer", coarse({"pdf"})) == "(made)");  // every part has its drawing
  request = coarse({"csv"});
  request.only = {"assembly"};
  CHECK_THAT(refusal("spur", request), Contains("there is no such file"));
  request = coarse({"3mf"});
  request.only = {"assembly"}, request.bed = std::array<double, 2>{20, 20};
  CHECK_THAT(refusal("spur", request), Contains("bed"));
  // Formats of modules that are not there.
  Kept kept;
  make::Means means = kept.means();
  means.step = {}, means.pack = {};
  for (const char* format : {"step", "3mf", "glb"})
    CHECK_THROWS_WITH(make::make(job_of("spur"), coarse({format}), means), Contains("module"));
}

TEST_CASE("one file asked for is the whole, or the one part chosen") {
  make::Request request = coarse({"stl"});
  request.one_file = true;
  for (const std::string& kind : kKinds) {
    Kept kept;
    CAPTURE(kind);
    const std::vector<make::File> files = made(job_of(kind), request, kept);
    REQUIRE(files.size() == 1);
    CHECK(files[0].part == "assembly");
  }
  request.only = {"drum_wheel"};
  Kept kept;
  const std::vector<make::File> files = made(job_of("spur"), request, kept);
  REQUIRE(files.size() == 1);
  CHECK(files[0].part == "drum_wheel");
}

TEST_CASE("parts lie side by side on the bed, none over another") {
  for (const char* kind : {"spur", "bevel", "reducer", "rack"}) {
    Kept kept;
    make::Request request = coarse({"3mf"});
    request.only = {"assembly"}, request.bed = std::array<double, 2>{400, 400};
    made(job_of(kind), request, kept);
    struct Box {
      Vec3 least, greatest;
    };
    std::vector<Box> boxes;
    for (const write::PackedPart& p : kept.packed.at("assembly.3mf")) {
      const Eigen::Matrix3d turn =
          p.placement.axes * Eigen::AngleAxisd(p.placement.turn, Vec3::UnitZ()).toRotationMatrix();
      Box box{Vec3::Constant(1e9), Vec3::Constant(-1e9)};
      for (const Vec3& v : p.mesh.vertices) {
        const Vec3 at = p.placement.at + turn * v;
        box.least = box.least.cwiseMin(at), box.greatest = box.greatest.cwiseMax(at);
      }
      CAPTURE(kind, p.name);
      CHECK(std::abs(box.least.z()) < 1e-9);
      CHECK(box.least.x() > -1e-9);
      CHECK(box.least.y() > -1e-9);
      CHECK(box.greatest.x() < 400);
      CHECK(box.greatest.y() < 400);
      for (const Box& other : boxes) {
        const bool apart = box.least.x() > other.greatest.x() || box.greatest.x() < other.least.x() ||
                           box.least.y() > other.greatest.y() || box.greatest.y() < other.least.y();
        CHECK(apart);
      }
      boxes.push_back(box);
    }
  }
}

TEST_CASE("files of a job with a process say what was done, and have drawn sizes") {
  const std::string text = job::starter("spur", job::Units::mm) + "\n[process]\nhole_allowance = 0.3\n";
  const job::Design design = job::resolve(text, "v");
  const auto bore = [](const job::Design& d) {
    Kept kept;
    make::Request request = coarse({"dxf"});
    request.chord_error = 1e-4, request.only = {"drum_wheel"};
    const std::vector<make::File> files = made(d, request, kept);
    const std::string& dxf = kept.bytes.at(files.at(0).path);
    double least = 1e9;
    for (const foreign::Loop& loop : foreign::read_dxf(dxf, 1e-4).loops) {
      for (const Vec2& p : loop.points)
        least = std::min(least, p.norm());
    }
    return std::pair{2 * least, dxf.find("drawn for process") != std::string::npos};
  };
  const auto [plain, said_plain] = bore(job_of("spur"));
  const auto [drawn, said] = bore(design);
  CHECK(plain == Approx(8).margin(1e-3));
  CHECK(drawn == Approx(8.3).margin(1e-3));
  CHECK(said);
  CHECK_FALSE(said_plain);
}

TEST_CASE("in a folder each file stands whole") {
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / fmt::format("palio-make-{}", ::getpid());
  std::filesystem::remove_all(folder);
  make::Request request = coarse({"stl", "svg"});
  request.pattern = "{kind}/{gear}";
  const std::vector<make::File> files = make::make(job_of("spur"), request, make::into(folder.string()));
  std::set<std::string> told, there;
  for (const make::File& f : files)
    told.insert(f.path);
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder)) {
    if (entry.is_regular_file()) there.insert(entry.path().string());
  }
  CHECK(told == there);
  CHECK(told.count((folder / "spur" / "drum_wheel.stl").string()) == 1);
  std::filesystem::remove_all(folder);
}

TEST_CASE(
    "a plane file of gears in one piece has the teeth of all, a description of the machine a mesh of every part") {
  const job::Design design = job_of("train", {"shaft.middle.diameter=8", "shaft.middle.one_piece=true"});
  Kept kept;
  make::Request request = coarse({"svg", "urdf"});
  request.only = {"middle", "assembly"};
  made(design, request, kept);
  const std::string& svg = kept.bytes.at("middle.svg");
  std::size_t teeth = 0;
  for (std::size_t at = svg.find("middle_teeth"); at != std::string::npos; at = svg.find("middle_teeth", at + 1))
    ++teeth;
  CHECK(teeth >= 2);
  CHECK(kept.bytes.count("assembly.urdf") == 1);
  for (const char* mesh : {"middle", "last_axle", "motor_pinion", "vent_rack"})
    CHECK(kept.bytes.count("assembly_meshes/" + std::string(mesh) + ".stl") == 1);
}

TEST_CASE("3MF files stand on the bed, and the whole stays as it stands together") {
  for (const std::string& kind : kKinds) {
    const job::Design design = job_of(kind);
    Kept kept;
    made(design, coarse({"3mf"}), kept);
    std::map<std::string, write::Placement> placed;
    for (const view::Part& p : view::parts(design))
      placed[p.name] = p.placement;
    for (const auto& [path, parts] : kept.packed) {
      CAPTURE(kind, path);
      double least = 1e9;
      for (const write::PackedPart& p : parts) {
        for (const Vec3& v : p.placement.of(p.mesh.vertices))
          least = std::min(least, v.z());
      }
      CHECK(std::abs(least) < 1e-9);
      if (path != "assembly.3mf") continue;
      const Vec3 lift = parts[0].placement.at - placed[parts[0].name].at;
      CHECK(lift.head<2>().norm() == 0);
      for (const write::PackedPart& p : parts)
        CHECK((p.placement.at - placed[p.name].at - lift).norm() < 1e-12);
    }
  }
}

TEST_CASE("every file tells what it is: its size, what stands in it, the box that it lies in") {
  for (const std::string& kind : kKinds) {
    const job::Design design = job_of(kind);
    const std::size_t count = view::parts(design).size();
    Kept kept;
    for (const make::File& f : made(design, coarse(), kept)) {
      CAPTURE(kind, f.path);
      CHECK_FALSE(f.meaning.empty());
      if (kept.bytes.count(f.path)) CHECK(f.bytes == kept.bytes[f.path].size());
      CHECK(f.parts == (f.part == "assembly" ? count : 1));
      const bool plane = f.format == "dxf" || f.format == "svg";
      CHECK((f.loops > 0) == plane);
      CHECK(f.extent.has_value() == (f.triangles > 0 || plane));
      if (f.format != "svg" || f.part == "assembly") continue;
      // The sheet of an SVG is that box and a margin.
      const foreign::Drawing read = foreign::read_svg(kept.bytes[f.path], 0.001);
      Vec2 low = Vec2::Constant(1e9), high = -low;
      for (const foreign::Loop& l : read.loops) {
        for (const Vec2& p : l.points)
          low = low.cwiseMin(p), high = high.cwiseMax(p);
      }
      CHECK((high - low - f.extent->head<2>()).norm() < 0.01);
      CHECK(f.extent->z() == 0);
    }
  }
}

TEST_CASE("an SVG names its parts, each around its own loops") {
  Kept kept;
  made(job_of("spur"), coarse({"svg"}), kept);
  const std::string& whole = kept.bytes["assembly.svg"];
  const auto pinion = whole.find("<title>motor_pinion</title>"), wheel = whole.find("<title>drum_wheel</title>");
  REQUIRE(pinion != std::string::npos);
  REQUIRE(wheel != std::string::npos);
  CHECK(whole.find("id=\"motor_pinion_teeth") > pinion);
  CHECK(whole.find("id=\"motor_pinion_teeth") < wheel);
  CHECK(whole.find("id=\"drum_wheel_teeth") > wheel);
}

TEST_CASE(
    "every sort of cycloidal teeth is drawn and made by every ordinary process, or the number that can be is told") {
  for (const char* kind : {"cycloidal", "clock", "lantern", "clock_train"}) {
    const job::Design plain = job_of(kind);
    for (const char* preset : {"print", "mill", "wire", "laser", "mould"}) {
      const job::Design design = job_of(kind, {std::string("process.preset=") + preset}),
                        drawn = job::as(design, job::As::drawn);
      for (std::size_t i = 0; i < plain.gears.size(); ++i) {
        const job::Gear &is = drawn.gears[i], &was = plain.gears[i];
        CAPTURE(kind, preset, is.name);
        const double by = design.process.kerf / 2;
        // Tips and roots move out by it, of all that is an outline of teeth.
        CHECK(is.teeth.tip_diameter() >= was.teeth.tip_diameter() + 2 * by - 1e-9);
        if (by == 0) CHECK(is.teeth.tip_diameter() == was.teeth.tip_diameter());
        const double more = curve::signed_area(is.teeth.outline()) - curve::signed_area(was.teeth.outline());
        CHECK((by > 0 ? more > 0 : more == 0));
        CHECK(body::mass_properties(job::body(is)).volume > 0);
      }
    }
  }
  // Too much of it: the gear, and what it takes.
  const auto told = [](const std::string& kerf) {
    try {
      (void)job::as(job_of("clock", {"process.kerf=" + kerf}), job::As::drawn);
      return std::string();
    } catch (const InvalidParameter& e) {
      return std::string(e.what());
    }
  };
  const std::string refused = told("1.5");
  CHECK_THAT(refused, Contains("gear.season_") && Contains("can be moved by"));
  const std::string number = refused.substr(refused.find("can be moved by ") + 16);
  CHECK(told(fmt::format("{}", 2 * std::stod(number))).empty());
  CHECK_FALSE(told(fmt::format("{}", 2 * std::stod(number) + 0.01)).empty());
}

TEST_CASE("a mould leaves the room of the part as drawn, and an electrode a gap all round") {
  const job::Design design = job::resolve(
      "[gear.a]\nkind='spur'\nmodule=2\nteeth=24\nface_width=8\nbore=6\nhubs=[{diameter=20,length=4}]\n"
      "[gear.b]\nlike='a'\nteeth=30\nhelix_angle=15\nhand='left'\nkind='helical'\n[process]\npreset='mould'\n",
      "moulded");
  make::Tools tools;
  tools.chord_error = 0.01, tools.sizes = {6, 5, 1e-9};
  Kept kept;
  const std::vector<make::File> files = make::moulds(design, tools, kept.means());
  REQUIRE(files.size() == 8);
  CHECK(files[0].path == "a_mould_lower.step");
  CHECK(files[7].path == "b_mould_upper.stl");
  const job::Design drawn = job::as(design, job::As::drawn);
  for (std::size_t g = 0; g < 2; ++g) {
    const body::Body part = job::body(drawn.gears[g]).layers();
    const body::Body& lower = kept.steps[files[4 * g].path][0].body.layers();
    double radius = 0;
    for (const body::Loop& l : lower.loops) {
      if (l.feature == "block") radius = std::get<curve::Arc>(l.outline.period[0].curve).radius;
    }
    const double block = kPi * radius * radius * (part.top() - part.bottom() + 10),
                 room = block - *files[4 * g].volume - *files[4 * g + 2].volume;
    CHECK(room == Approx(body::mass_properties(part).volume).epsilon(1e-6));
    // What comes out of it shrinks to the part.
    CHECK(room > 1.02 * body::mass_properties(job::body(design.gears[g])).volume);
    CHECK(files[4 * g + 1].triangles > 500);
  }
  tools.only = {"b"};
  Kept again;
  CHECK(make::moulds(design, tools, again.means()).size() == 4);
  // An electrode: smaller by the gap times its surface, to the first order.
  tools.only = {"a"}, tools.formats = {"step"};
  const auto volume = [&](double gap) {
    tools.spark_gap = gap;
    Kept one;
    const std::vector<make::File> made = make::electrodes(design, tools, one.means());
    REQUIRE(made.size() == 1);
    CHECK(made[0].path == "a_electrode.step");
    return *made[0].volume;
  };
  const double none = volume(1e-6), small = volume(0.02), large = volume(0.04);
  CHECK((none - large) / (none - small) == Approx(2).epsilon(0.01));
  const job::Gear& a = drawn.gears[0];
  double around = 0;
  const curve::Outline teeth = a.teeth.outline();
  for (const curve::Segment& s : teeth.period) {
    for (int i = 0; i < 200; ++i)
      around +=
          (s.point(s.from + (s.to - s.from) * (i + 1) / 200) - s.point(s.from + (s.to - s.from) * i / 200)).norm();
  }
  around *= teeth.count * a.radial;
  const double length = a.teeth.face_width() * a.axial, hub = 4 * a.axial * kPi * 20 * a.radial;
  CHECK((none - small) / 0.02 == Approx(around * length + hub).epsilon(0.02));
  // One that cannot be drawn out is left out, told of, and refused when it is named.
  Kept some;
  tools.only.clear();
  const job::Design lanterns = job_of("lantern");
  CHECK(make::moulds(lanterns, tools, some.means()).size() == 2);
  REQUIRE(some.remarks.size() == 1);
  CHECK_THAT(some.remarks[0], Contains("lantern_pinion") && Contains("undercut"));
  tools.only = {"lantern_pinion"};
  CHECK_THROWS_WITH(make::moulds(lanterns, tools, some.means()), Contains("undercut"));
  tools.only = {"c"};
  CHECK_THROWS_WITH(make::moulds(design, tools, kept.means()), Contains("a, b"));
  tools.only.clear(), tools.formats = {"dxf"};
  CHECK_THROWS_WITH(make::moulds(design, tools, kept.means()), Contains("step and stl"));
  CHECK_THROWS_AS(make::moulds(job_of("bevel"), {}, kept.means()), InvalidParameter);
  CHECK_THROWS_AS(make::electrodes(job_of("bevel"), {}, kept.means()), InvalidParameter);
  // Cycloidal teeth as well; what the process adds to all outlines is not lost on the way.
  const auto whole = [](const std::vector<std::string>& set, double gap) {
    Kept one;
    const job::Design clock = job_of("clock", set);
    make::Tools t;
    t.formats = {"step"}, t.only = {clock.gears[0].name}, t.spark_gap = gap;
    return make::electrodes(clock, t, one.means()).at(0).volume.value_or(0);
  };
  CHECK(whole({}, 0.05) < 0.99 * whole({}, 0.01));
  CHECK(whole({"process.kerf=0.08"}, 0.05) == Approx(whole({}, 0.01)).epsilon(1e-9));
}
