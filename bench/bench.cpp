// What palio takes for its work beside what one would use instead, in one run. Shown, never a test: machines differ;
// read the ratios. Build with -DPALIO_BENCH=ON and run bin/palio_bench.
#include <fcl/fcl.h>
#include <fmt/format.h>
#include <sys/wait.h>
#include <tbb/global_control.h>

#include <array>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>

#include "kernel_cut.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"
#include "palio/design/design.hpp"
#include "palio/desk/session.hpp"
#include "palio/gear/core.hpp"
#include "palio/make/make.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "palio/solve/find.hpp"
#include "palio/solve/recover.hpp"
#include "palio/solve/variants.hpp"
#include "palio/view/placement.hpp"
#include "palio/write/formats.hpp"
#include "palio/write/step.hpp"

namespace {

using namespace palio;

write::Stamp stamp() {
  write::Stamp s;
  s.title = "bench";
  s.part = "gear";
  return s;
}

using Clock = std::chrono::steady_clock;

/// Best of several runs [ms]; short work goes on for a fifth of a second, until processor and caches are warm.
template <class Work>
double best(int runs, Work work) {
  constexpr double kWarm = 200;
  double least = 1e300, spent = 0;
  for (int i = 0; i < runs || (spent < kWarm && i < 40 * runs); ++i) {
    const auto from = Clock::now();
    work();
    const double took = std::chrono::duration<double, std::milli>(Clock::now() - from).count();
    least = std::min(least, took), spent += took;
  }
  return least;
}

void row(const std::string& work, double ours, const std::string& other, double theirs, const std::string& remark) {
  fmt::print("| {} | {:.3g} ms | {} | {} | {} | {} |\n", work, ours, other,
             theirs > 0 ? fmt::format("{:.4g} ms", theirs) : "",
             theirs > 0 ? fmt::format("{:.3g}×", theirs / ours) : "", remark);
  std::fflush(stdout);
}

gear::CylindricalGear gear_of(int teeth, double bore = 8) {
  gear::CylindricalSpec s;
  s.teeth = teeth, s.module = 1.5, s.face_width = 12, s.bore_diameter = bore;
  return gear::CylindricalGear(s);
}

using Tree = fcl::BVHModel<fcl::OBBRSSd>;

std::shared_ptr<Tree> tree(const body::TriangleMesh& mesh) {
  auto model = std::make_shared<Tree>();
  std::vector<fcl::Vector3d> points(mesh.vertices.begin(), mesh.vertices.end());
  std::vector<fcl::Triangle> triangles;
  for (const auto& t : mesh.triangles)
    triangles.emplace_back(t[0], t[1], t[2]);
  model->beginModel();
  model->addSubModel(points, triangles);
  model->endModel();
  return model;
}

void roll_against_meshes() {
  const job::Design d = job::resolve(job::starter("spur", job::Units::mm), "bench");
  const job::Pair& pair = d.pairs[0];
  const roll::Member driver = pair::member(d.gears[0]), driven = pair::member(d.gears[1]);
  roll::Result result{};
  const double ours = best(5, [&] { result = roll::roll(driver, driven, pair.law()); });
  const double exact = pair.parallel()->normal_backlash() / 2;

  const auto m1 = tree(body::mesh(gear::body(d.gears[0].teeth), 0.001)),
             m2 = tree(body::mesh(gear::body(d.gears[1].teeth), 0.001));
  double worst = 0;
  const double theirs = best(1, [&] {
    for (int i = 0; i < 360; ++i) {
      // One distance a position, the driven held in the middle of the play: both flanks would need two, and a search.
      const double phi = 2 * kPi / 17 * i / 360;
      fcl::Transform3d a = fcl::Transform3d::Identity(), b = a;
      a.rotate(Eigen::AngleAxisd(phi, Eigen::Vector3d::UnitZ()));
      b.translation() = Eigen::Vector3d(d.gears[1].axis.x(), d.gears[1].axis.y(), 1);
      b.rotate(Eigen::AngleAxisd(d.gears[1].phase - phi * 17 / 43, Eigen::Vector3d::UnitZ()));
      fcl::DistanceRequestd request;
      fcl::DistanceResultd distance;
      fcl::distance(m1.get(), a, m2.get(), b, request, distance);
      worst = std::max(worst, std::abs(distance.min_distance - exact));
    }
  });
  const double error = std::max(std::abs(result.play->min - pair.parallel()->angular_backlash()[1].radians()),
                                std::abs(result.play->max - pair.parallel()->angular_backlash()[1].radians())) *
                       d.gears[1].teeth.gear().sizes().base_diameter / 2;
  row("roll 17/43 through 360 positions, both flanks", ours,
      "mesh collision library (fcl), 0.001 mm, one gap a position", theirs,
      fmt::format("play within {:.1e} mm; gap of the meshes wrong by {:.1e} mm", error, worst));
}

void roll_of(const job::Design& d, const job::Pair& p) {
  roll::Result result{};
  const double ours = best(3, [&] { result = job::rolled(p); });
  const double formula = p.law().theoretical_play, per = p.circumferential_backlash() / formula;
  const bool wavers = p.cycloidal() && !p.cycloidal()->conjugate();
  row(fmt::format("roll {} ({}) through 360 positions", p.name,
                  std::string(name(d.gears[p.driven].kind)) + (p.crossed() ? ", crossed in space" : "")),
      ours, "", 0,
      wavers ? fmt::format("clock teeth: play wavers by {:.1e} mm", (result.play->max - result.play->min) * per)
             : fmt::format("play within {:.1e} mm",
                           std::max(std::abs(result.play->min - formula), std::abs(result.play->max - formula)) * per));
}

/// Every sort of pair of the greenhouse through 360 positions, and the true form of cycloids.
void roll_the_family() {
  const job::Design d = job::resolve(job::starter("greenhouse", job::Units::mm), "bench"),
                    shade = job::resolve(job::starter("cycloidal", job::Units::mm), "bench");
  for (const job::Pair& p : d.pairs) {
    if (p.name != "first_stage") roll_of(d, p);
  }
  roll_of(shade, shade.pairs[0]);
  for (const job::Reducer& r : d.reducers) {
    reducer::Rolled result{};
    const double ours = best(3, [&] { result = job::rolled(r); });
    row(fmt::format("roll {} ({} rollers, {} discs, {} pins) through 360 positions", r.name, r.made.spec().rollers,
                    r.made.spec().discs, r.made.spec().output_pins),
        ours, "", 0,
        fmt::format("play {:.4f} to {:.4f} degrees", result.play->min * 180 / kPi, result.play->max * 180 / kPi));
  }
}

void helical_solids() {
  gear::CylindricalSpec s;
  s.teeth = 31, s.module = 1.5, s.face_width = 14, s.helix_angle = Angle::degrees(18);
  const gear::CylindricalGear g(s);
  const double exact = body::mass_properties(gear::body(g)).volume;
  const double ours = best(5, [&] { bench::direct_solid(g); });
  double lofted = 0;
  const double theirs = best(1, [&] { lofted = bench::loft(g, 9); });
  row("helical B-rep solid, z = 31, 18°", ours, "loft through 9 turned sections (OCCT)", theirs,
      fmt::format("volume of the loft off by {:.1e}", std::abs(lofted / exact - 1)));
  body::TriangleMesh mesh;
  const double meshed = best(5, [&] { mesh = body::mesh(gear::body(g), 0.001); });
  int kernel = 0;
  const double mesher = best(1, [&] { kernel = bench::kernel_mesh(g, 0.01); });
  row("helical triangles at 0.001 mm, z = 31", meshed, "general B-rep mesher (OCCT), at 0.01 mm", mesher,
      fmt::format("{} against {} triangles; ours ten times finer", mesh.triangles.size(), kernel));
}

void stl_against_write() {
  const body::TriangleMesh mesh = body::mesh(gear::body(gear_of(100)), 0.0001);
  const std::string folder = std::filesystem::temp_directory_path() / "palio-bench";
  std::filesystem::create_directories(folder);
  const std::string bytes = write::stl(mesh, stamp()).bytes;
  // Each to a new name: replacing a file by renaming makes this file system flush the new one first.
  int number = 0;
  const double ours =
      best(7, [&] { write::write_file(fmt::format("{}/a{}.stl", folder, ++number), write::stl(mesh, stamp()).bytes); });
  const double theirs = best(7, [&] {
    std::FILE* f = std::fopen(fmt::format("{}/b{}.stl", folder, ++number).c_str(), "wb");
    std::fwrite(bytes.data(), 1, bytes.size(), f);
    std::fclose(f);
  });
  row(fmt::format("binary STL of {} triangles", mesh.triangles.size()), ours, "plain write of the same bytes", theirs,
      fmt::format("{:.2f} times as long", ours / theirs));
  std::filesystem::remove_all(folder);
}

void tool_start() {
  const std::string folder = std::filesystem::temp_directory_path() / "palio-bench";
  std::filesystem::create_directories(folder);
  write::write_file(folder + "/vent.toml", job::starter("spur", job::Units::mm));
  const auto start = [&](const std::string& arguments) {
    return best(20, [&] {
      if (std::system((PALIO_TOOL " " + arguments + " >/dev/null").c_str()) != 0) fmt::print("failed: {}\n", arguments);
    });
  };
  const double empty = best(20, [&] {
    if (std::system("true >/dev/null") != 0) fmt::print("failed\n");
  });
  row("palio --version, process and shell", start("--version"), "", 0,
      fmt::format("an empty command takes {:.2g} ms", empty));
  row("palio report, process and shell", start("report " + folder + "/vent.toml"), "", 0, "");
  std::filesystem::remove_all(folder);
}

/// How a cost grows: the same work on four sizes, each twice the one before. Linear work takes twice as long each time.
template <class Work>
void growth(const std::string& what, std::array<int, 4> sizes, Work work) {
  std::array<double, 4> times{};
  for (std::size_t i = 0; i < 4; ++i)
    times[i] = best(2, [&] { work(sizes[i]); });
  fmt::print("| {} |", what);
  for (std::size_t i = 0; i < 4; ++i)
    fmt::print(" {}: {:.3g} ms |", sizes[i], times[i]);
  fmt::print(" {:.2f} |\n", std::pow(times[3] / times[0], 1.0 / 3));
  std::fflush(stdout);
}

/// 21 values of one number with all limits between them, against as many whole reports.
void vary_against_reports() {
  for (const auto& [kind, range] : {std::pair{"spur", "gear.motor_pinion.profile_shift=-0.4:0.8:21"},
                                    {"bevel", "gear.corner_pinion.profile_shift=0:0.4:21"},
                                    {"cycloidal", "gear.shade_pinion.rolling_radius=2:4:21"},
                                    {"reducer", "reducer.motor_reducer.eccentricity=0.9:1.3:21"}}) {
    const job::Values values = job::Values::read(job::starter(kind, job::Units::mm), "bench");
    job::VaryRequest request;
    request.keys = {job::parse_vary_key(range)};
    std::size_t limits = 0;
    const double ours = best(3, [&] { limits = job::vary(values, request).limits.size(); });
    const double report = best(3, [&] { (void)job::report_json(job::resolve(values)); });
    row(fmt::format("vary {} through 21 values, with limits", kind), ours, "21 whole reports", 21 * report,
        fmt::format("{} limits found besides", limits));
  }
}

/// What each stage of a job costs, and a number changed in it, for each starter with one mechanism.
/// Values from wants, gears from measurements, a table of ten thousand rows.
void the_way_back() {
  const std::string stage =
      "[shared]\nmodule = {}\n[gear.a]\nkind = \"spur\"\nteeth = {}\nprofile_shift = {}\n[gear.b]\nkind = \"spur\"\n"
      "teeth = {}\n[pair.p]\ndriver = \"a\"\ndriven = \"b\"\n";
  const auto job = [&](const char* module, const char* a, const char* x, const char* b, const char* want) {
    return job::Values::read(fmt::format(fmt::runtime(stage), module, a, x, b) + want, "bench");
  };
  const auto found = [&](const char* what, const job::Values& values) {
    solve::Found f;
    const double ms = best(3, [&] { f = solve::find(values); });
    row(fmt::format("find {}", what), ms, "", 0,
        fmt::format("{} solutions of {} choices, {:.0f} solutions a second", f.count, f.choices,
                    1000 * static_cast<double>(f.count) / ms));
  };
  found("a shift from a center distance", job("2", "17", "\"find\"", "40", "[want]\npair.p.center_distance = 57.5\n"));
  found("teeth of 12 to 60 for a ratio",
        job("2", "\"find 12..60\"", "0", "\"find 12..60\"", "[want]\npair.p.gear_ratio = [2.49, 2.51]\n"));
  found("module, teeth and shift together",
        job("\"find standard\"", "\"find 12..20\"", "\"find\"", "\"find 30..60\"",
            "[want]\npair.p.gear_ratio = [2.5, 2.55]\npair.p.center_distance = 45.5\n"));
  const job::Values worn = job::Values::read(job::starter("measurements", job::Units::mm), "bench");
  row("recover the old winch, its wrong reading named", best(3, [&] { solve::recover(worn); }), "", 0,
      "9 measurements, 5 unknowns");
  solve::Table table;
  table.heads = {"gear.a.teeth", "gear.a.profile_shift", "report:pair.p.total_contact_ratio"};
  constexpr int kRows = 10000;
  for (int i = 0; i < kRows; ++i) {
    table.rows.push_back({std::to_string(15 + i % 20), fmt::format("{:.3f}", 0.0005 * (i % 1000)), ""});
    table.lines.push_back(i + 2);
  }
  const job::Values plain = job("2", "17", "0", "40", "");
  const double all = best(2, [&] { solve::run(table, plain); });
  double one = 0;
  {
    const tbb::global_control single(tbb::global_control::max_allowed_parallelism, 1);
    one = best(2, [&] { solve::run(table, plain); });
  }
  row("variants, 10000 rows", all, "the same on one core", one,
      fmt::format("{:.0f} rows a second", kRows * 1000 / all));
}

void stages() {
  fmt::print(
      "\n| job | text → values | a number changed | values → Design | one reading | all findings | without text, of "
      "the whole |\n|---|---|---|---|---|---|---|\n");
  struct Change {
    const char *kind, *path;
    double number;
  };
  for (const Change& change : {Change{"spur", "gear.motor_pinion.profile_shift", 0.2},
                               {"helical", "gear.quiet_pinion.profile_shift", 0.2},
                               {"internal", "gear.crank_pinion.profile_shift", 0.35},
                               {"rack", "gear.push_pinion.profile_shift", 0.3},
                               {"crossed", "gear.counter_driver.profile_shift", 0.2},
                               {"bevel", "gear.corner_pinion.addendum", 0.95},
                               {"cycloidal", "gear.shade_pinion.addendum", 0.95},
                               {"clock", "gear.season_wheel.teeth", 61.0},
                               {"lantern", "gear.lantern_wheel.addendum", 1.2},
                               {"reducer", "reducer.motor_reducer.eccentricity", 1.1}}) {
    const std::string text = job::starter(change.kind, job::Units::mm);
    const job::Values values = job::Values::read(text, "bench");
    const job::Design design = job::resolve(values);
    const std::string reading = design.pairs.empty() ? "reducer." + design.reducers[0].name + ".ratio"
                                                     : "pair." + design.pairs[0].name + ".circumferential_backlash";
    const double read = best(20, [&] { (void)job::Values::read(text, "bench"); }),
                 with = best(20, [&] { (void)values.with(change.path, change.number); }),
                 build = best(20, [&] { job::resolve(values); }),
                 one = best(20, [&] { job::reading_number(design, reading); }),
                 found = best(3, [&] { job::findings(design); }),
                 whole =
                     best(20, [&] { job::resolve(text, "bench", {fmt::format("{}={}", change.path, change.number)}); });
    fmt::print("| {} | {:.3g} ms | {:.3g} ms | {:.3g} ms | {:.3g} ms | {:.3g} ms | {:.2f} |\n", change.kind, read, with,
               build, one, found, (with + build) / whole);
  }
}

/// From a value said to all that the page is told: the text changed, the job read and built, teeth rolled, readings.
void desk_changes() {
  fmt::print(
      "\n| at the desk | a value changed, all told | of that the teeth (in the plane rolled) | readings and values | "
      "bytes | what is shown in space, rolled |\n"
      "|---|---|---|---|---|---|\n");
  struct Change {
    const char *kind, *path, *values[2];
  };
  for (const Change& change : {Change{"spur", "gear.motor_pinion.profile_shift", {"0.2", "0.18"}},
                               {"helical", "gear.quiet_pinion.profile_shift", {"0.2", "0.25"}},
                               {"internal", "gear.crank_pinion.profile_shift", {"0.35", "0.3"}},
                               {"rack", "gear.push_pinion.profile_shift", {"0.3", "0.25"}},
                               {"bevel", "gear.corner_pinion.addendum", {"0.95", "0.96"}},
                               {"crossed", "gear.counter_driver.profile_shift", {"0.2", "0.1"}},
                               {"clock", "gear.season_wheel.teeth", {"61", "60"}},
                               {"reducer", "reducer.motor_reducer.eccentricity", {"1.1", "1.05"}},
                               {"greenhouse", "gear.motor_pinion.profile_shift", {"0.2", "0.18"}}}) {
    desk::Session session(job::starter(change.kind, job::Units::mm), "bench");
    const desk::Turning turning = session.turning().front();
    const std::string shown = turning.path;
    constexpr int kPositions = 90;  // as the page asks for
    int turn = 0;
    std::size_t bytes = 0;
    const double all = best(10, [&] {
      session.set(change.path, change.values[turn++ % 2]);
      bytes = session.state().size() + session.picture(shown, kPositions).size();
    });
    const double picture = best(10, [&] { (void)session.picture(shown, kPositions); }),
                 state = best(10, [&] { (void)session.state(); });
    const std::string space =
        turning.plane ? "" : fmt::format("{:.3g} ms", best(10, [&] { (void)session.space_picture(shown); }));
    fmt::print("| {} | {:.3g} ms | {:.3g} ms | {:.3g} ms | {} | {} |\n", change.kind, all, picture, state, bytes,
               space);
  }
}

void costs() {
  fmt::print("\n| cost against size | | | | | each time twice the size, times |\n|---|---|---|---|---|---|\n");
  const auto rack = [](int teeth) {
    gear::CylindricalSpec s;
    s.teeth = teeth, s.module = 1, s.face_width = 8;
    return gear::Rack(s);
  };
  const auto ring = [](int teeth) {
    gear::CylindricalSpec s;
    s.teeth = teeth, s.module = 1, s.face_width = 8, s.internal = true;
    return gear::CylindricalGear(s);
  };
  growth("triangles of a gear, teeth", {250, 500, 1000, 2000},
         [](int z) { body::mesh(gear::body(gear_of(z)), 0.005); });
  growth("triangles of a ring, teeth", {250, 500, 1000, 2000}, [&](int z) { body::mesh(gear::body(ring(z)), 0.005); });
  growth("triangles of a rack, teeth", {250, 500, 1000, 2000}, [&](int z) { body::mesh(gear::body(rack(z)), 0.005); });
  const job::Design spur = job::resolve(job::starter("spur", job::Units::mm), "bench"),
                    helical = job::resolve(job::starter("helical", job::Units::mm), "bench");
  const job::Design reducer = job::resolve(job::starter("reducer", job::Units::mm), "bench");
  growth("roll of a spur pair, positions", {180, 360, 720, 1440}, [&](int n) { job::rolled(spur.pairs[0], n); });
  growth("roll of a helical pair, positions (each looks at all sections)", {180, 360, 720, 1440},
         [&](int n) { job::rolled(helical.pairs[0], n); });
  growth("roll of a reducer, positions", {90, 180, 360, 720}, [&](int n) { job::rolled(reducer.reducers[0], n); });
  const auto chain = [](int gears) {
    std::string text = "[gear.g0]\nkind='spur'\nteeth=20\nmodule=1\n";
    for (int i = 1; i < gears; ++i)
      text +=
          fmt::format("[gear.g{0}]\nlike='g{1}'\n[pair.p{0}]\ndriver='g{1}'\ndriven='g{0}'\nbacklash=0.1\n", i, i - 1);
    return text;
  };
  growth("reading a chain of gears, each like the one before", {50, 100, 200, 400},
         [&](int n) { job::resolve(chain(n), "bench"); });
  const auto train = [](int gears) {
    std::string text = "[shared]\nmodule=1\n", rest;
    for (int i = 0; i < gears / 2; ++i) {
      text += fmt::format("[gear.a{0}]\nkind='spur'\nteeth={1}\n[gear.b{0}]\nkind='spur'\nteeth={2}\n", i, 17 + i % 13,
                          31 + i % 17);
      rest += fmt::format("[pair.p{0}]\ndriver='a{0}'\ndriven='b{0}'\nbacklash=0.1\ndirection={1}\n", i, i * 37 % 360);
      if (i > 0) rest += fmt::format("[shaft.s{0}]\ngears=['b{1}','a{0}']\ngap=2\n", i, i - 1);
    }
    return text + rest + fmt::format("[train.t]\ninput='a0'\noutput='b{}'\nspeed=1000\ntorque=1\n", gears / 2 - 1);
  };
  growth("a train over shafts, from text to its ratio, gears", {50, 100, 200, 400},
         [&](int n) { job::resolve(train(n), "bench"); });
  const auto holes = [](int count) {
    return fmt::format(
        "[gear.a]\nkind='spur'\nteeth=400\nmodule=2\nholes={{count={},circle_diameter=700,diameter=1.5}}\n", count);
  };
  growth("triangles of a wheel with holes, holes", {125, 250, 500, 1000}, [&](int n) {
    const job::Design d = job::resolve(holes(n), "bench");
    body::mesh(job::body(d.gears[0]), 0.02);
  });
}

/// The whole assemblies of examples/parts: from text to all solids, and to STEP and STL of every part and of the whole.
void assemblies() {
  const std::string folder = std::filesystem::temp_directory_path() / "palio-bench-parts";
  for (const char* name : {"box", "idler", "servo", "clock", "moulded_pair"}) {
    const std::string text = write::read_file(fmt::format("{}/examples/parts/{}.toml", PALIO_SOURCE, name));
    const job::Design design = job::resolve(text, name);
    const double solids = best(3, [&] { view::parts(job::resolve(text, name)); });
    make::Request request;
    request.formats = {"step", "stl"};
    std::vector<make::File> made;
    const double files = best(1, [&] { made = make::make(design, request, make::into(folder, write::write_step)); });
    std::size_t bytes = 0;
    for (const make::File& f : made)
      bytes += f.bytes;
    row(fmt::format("{}: from text to {} solids", name, view::parts(design).size()), solids, "", 0,
        fmt::format("{} STEP and STL files, {:.1f} MB, in {:.2f} s", made.size(), static_cast<double>(bytes) / 1e6,
                    files / 1000));
    std::filesystem::remove_all(folder);
  }
}

}  // namespace

int main() {
  fmt::print("| work | palio | instead | takes | ratio | remark |\n|---|---|---|---|---|---|\n");
  const gear::CylindricalGear g24 = gear_of(24), g100 = gear_of(100);
  row("profile, z = 24, undercut-free", best(50, [] { gear_of(24); }), "", 0, "all dimensions and the exact outline");
  roll_against_meshes();
  roll_the_family();
  helical_solids();

  std::size_t triangles = 0;
  const double mesh24 = best(9, [&] { triangles = body::mesh(gear::body(g24), 0.001).triangles.size(); });
  int kernel_triangles = 0;
  const double kernel24 = best(1, [&] { kernel_triangles = bench::kernel_mesh(g24, 0.001); });
  row("triangles at 0.001 mm, z = 24", mesh24, "general B-rep mesher (OCCT)", kernel24,
      fmt::format("{} against {} triangles ({:.0f} times fewer)", triangles, kernel_triangles,
                  static_cast<double>(kernel_triangles) / static_cast<double>(triangles)));
  stl_against_write();

  const gear::CylindricalGear g12 = gear_of(12, 0);
  double cut_volume = 0;
  const double solid12 = best(9, [&] { bench::direct_solid(g12); });
  const double cut12 = best(1, [&] { cut_volume = bench::cut_tooth_spaces(g12); });
  row("B-rep solid, z = 12", solid12, "blank less 12 tooth spaces by booleans (OCCT)", cut12,
      fmt::format("volumes agree to {:.1e}", std::abs(cut_volume / body::mass_properties(gear::body(g12)).volume - 1)));
  row("B-rep solid, z = 100", best(5, [&] { bench::direct_solid(g100); }), "", 0, "");
  double direct = 0, by_booleans = 0;
  const double features100 = best(5, [&] { direct = bench::direct_features(g100); });
  const double booleans100 = best(1, [&] { by_booleans = bench::boolean_features(g100); });
  row("hub, recess, keyway, 5 holes, z = 100", features100, "the same by booleans (OCCT)", booleans100,
      fmt::format("volumes agree to {:.1e}", std::abs(by_booleans / direct - 1)));
  const double screw100 = best(5, [&] { direct = bench::direct_screw(g100); });
  const double cut100 = best(1, [&] { by_booleans = bench::boolean_screw(g100); });
  row("a set screw through its hub, z = 100", screw100, "the same hole by a boolean (OCCT)", cut100,
      fmt::format("volumes agree to {:.1e}", std::abs(by_booleans / direct - 1)));
  assemblies();
  const std::string path = std::filesystem::temp_directory_path() / "palio-bench.step";
  const double step100 = best(2, [&] { write::write_step({{"gear", gear::body(g100), {}}}, stamp(), 1e-7, path); });
  row("STEP file, z = 100", step100, "", 0,
      fmt::format("{:.2f} MB", static_cast<double>(std::filesystem::file_size(path)) / 1e6));
  std::filesystem::remove(path);
  tool_start();
  vary_against_reports();
  the_way_back();
  stages();
  desk_changes();
  costs();
}
