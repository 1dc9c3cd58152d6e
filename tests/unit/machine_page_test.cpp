// The tables that the page of a machine is moved by, held against the exact speeds of its trains, which come another
// way: coordinates of gears in their rolls on one side, whole numbers of teeth eliminated as fractions on the other.
#include <algorithm>
#include <random>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "page_data.hpp"
#include "palio/design/train.hpp"
#include "palio/error.hpp"
#include "palio/readings/reading.hpp"
#include "palio/view/page.hpp"
#include "palio/view/parts_list.hpp"
#include "palio/view/placement.hpp"
#include "random_job.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;
using Json = nlohmann::json;

namespace {

constexpr int kPositions = 24;

Json page_of(const job::Design& design) {
  std::vector<job::RolledPair> pairs;
  for (const job::Pair& p : design.pairs) {
    if (p.meshes()) pairs.push_back({&p, job::rolled(p, kPositions)});
  }
  std::vector<job::RolledReducer> reducers;
  for (const job::Reducer& r : design.reducers)
    reducers.push_back({&r, job::rolled(r, kPositions)});
  return test::data_of(view::machine_page(design, pairs, reducers));
}

double sum(const Json& terms, const std::vector<double>& coordinates) {
  double total = 0;
  for (const Json& term : terms)
    total += term[1].get<double>() * coordinates[term[0].get<std::size_t>()];
  return total;
}

/// With all members turned as a train turns them, no mesh's driven leaves the even ratio.
void check_trains(const job::Design& design, const Json& page) {
  for (const job::Train& train : design.machine.trains) {
    const job::TrainMotion motion = job::moved(design.machine, train);
    if (motion.locked) continue;
    std::vector<double> coordinates;
    for (std::size_t m = 0; m < motion.turns.size(); ++m)
      coordinates.push_back(motion.turns[m] ? motion.turns[m]->value * page["members"][m]["unit"].get<double>() : 0);
    for (const Json& mesh : page["meshes"]) {
      const auto moves = [&](const Json& term) { return motion.turns[term[0].get<std::size_t>()].has_value(); };
      const bool known = std::all_of(mesh["driver"].begin(), mesh["driver"].end(), moves) &&
                         std::all_of(mesh["driven"].begin(), mesh["driven"].end(), moves);
      if (!known) continue;
      INFO(train.name << " " << mesh["name"]);
      const double size = std::abs(sum(mesh["driven"], coordinates)) + 1;
      CHECK_THAT(sum(mesh["driven"], coordinates) - mesh["ratio"].get<double>() * sum(mesh["driver"], coordinates),
                 WithinAbs(0, 1e-12 * size));
    }
  }
}

/// What stands at the start is within the limits there, and the play between them is the pair's.
void check_limits(const job::Design& design, const Json& page) {
  for (const Json& mesh : page["meshes"]) {
    const auto at_start = [&](const char* key) { return mesh[key][0]; };
    if (at_start("upper").is_null() || at_start("lower").is_null() || mesh["verdict"] != "meshes") continue;
    INFO(mesh["name"]);
    const double upper = at_start("upper"), lower = at_start("lower");
    CHECK(lower <= 1e-9);
    CHECK(upper >= -1e-9);
    for (const job::Pair& p : design.pairs) {
      if (p.name == mesh["name"] && p.parallel()) CHECK_THAT(upper - lower, WithinAbs(p.driven_play(), 1e-9));
    }
  }
}

}  // namespace

TEST_CASE("The page of a machine moves as its trains do, through shafts, carriers, reducers and racks") {
  for (const char* kind : {"greenhouse", "train", "planetary", "clock_train"}) {
    INFO(kind);
    const job::Design design = job::resolve(job::starter(kind, job::Units::mm), "job.toml");
    const Json page = page_of(design);
    REQUIRE_FALSE(page["meshes"].empty());
    check_trains(design, page), check_limits(design, page);
    for (const Json& part : page["parts"])
      CHECK(part["shape"].get<std::size_t>() < page["shapes"].size());
    for (const Json& end : page["ends"]) {
      CHECK(end[1].get<double>() < 0);
      CHECK(end[2].get<double>() > 0);
    }
  }
}

TEST_CASE("Random planetary sets and differentials move so too") {
  std::mt19937 random(41);
  const auto any = [&](int from, int to) { return std::uniform_int_distribution<>(from, to)(random); };
  for (int n = test::share(24); n > 0; --n) {
    const int sun = any(14, 30), planet = 2 * any(8, 15), ring = sun + 2 * planet;
    const char* const held[] = {"sun", "ring", "set"};
    const std::string job = fmt::format(
        "[shared]\nmodule=1\nface_width=6\n[gear.sun]\nkind='spur'\nteeth={}\n[gear.planet]\nkind='spur'\nteeth={}\n"
        "[gear.ring]\nkind='internal'\nteeth={}\nrim_thickness=4\n[planetary.set]\nsun='sun'\nplanet='planet'\nring='"
        "ring'\n"
        "count=1\nbacklash=0.1\nheld='{}'\n",
        sun, planet, ring, held[any(0, 2)]);
    INFO(job);
    try {
      const job::Design design = job::resolve(job, "job.toml");
      const Json page = page_of(design);
      check_trains(design, page), check_limits(design, page);
      // A planet is turned against its carrier, and stands where the roll put it.
      CHECK(page["parts"][1]["carrier"] == 0);
    } catch (const job::JobError&) {
      continue;  // teeth that interfere
    }
  }
}

TEST_CASE("Parts of a reducer move with their own one, whatever the reducers are called") {
  const std::string reducer =
      "rollers=12\nroller_circle_diameter=50\nroller_diameter=5\neccentricity=1.2\noutput_pins=6\n"
      "output_pin_circle_diameter=26\noutput_pin_diameter=4\nbore.diameter=10\ndisc_offset=0.02\n"
      "output_hole_clearance=0.05\n";
  const job::Design design = job::resolve("[reducer.drive]\n" + reducer + "[reducer.drive_2]\n" + reducer, "job.toml");
  const Json page = page_of(design);
  REQUIRE(page["reducers"].size() == 2);
  const auto& ends = design.machine.of_reducer;
  std::size_t moving = 0;
  for (const Json& part : page["parts"]) {
    const std::string name = part["name"];
    const bool second = name.compare(0, 8, "drive_2_") == 0;
    INFO(name);
    if (!part.contains("moves")) {
      CHECK_FALSE(part.contains("member"));
      continue;
    }
    ++moving;
    CHECK(part["reducer"] == (second ? 1 : 0));
    const job::ReducerEnds& own = ends[second ? 1 : 0];
    CHECK(part["member"] == (part["moves"] == "output" ? own.output : own.input));
    CHECK((part["moves"] == "disc") == part.contains("disc"));
  }
  CHECK(moving == 6);  // shaft, disc and flange of each
}

TEST_CASE("The list of parts counts what is alike, and weighs what has a material") {
  const job::Design design = job::resolve(job::starter("greenhouse", job::Units::mm), "job.toml");
  const std::vector<view::ListedPart> list = view::parts_list(design);
  std::size_t pieces = 0;
  for (const view::ListedPart& p : list)
    pieces += p.quantity;
  CHECK(pieces == view::parts(design).size());
  const auto of = [&](const std::string& name) {
    return *std::find_if(list.begin(), list.end(), [&](const view::ListedPart& p) { return p.name == name; });
  };
  CHECK(of("planet_gear").quantity == 3);
  CHECK(of("motor_reducer_roller").quantity == 24);
  const double volume = job::reading_number(design, "gear.drum_wheel.volume").value();
  CHECK_THAT(of("drum_wheel").volume, WithinAbs(volume, 1e-6));
  CHECK_THAT(*of("drum_wheel").mass, WithinAbs(1000 * *job::reading_number(design, "gear.drum_wheel.mass_kg"), 1e-9));
  CHECK_FALSE(of("motor_pinion").mass);
  // A name for the title block that a spreadsheet would take apart.
  const job::Design named = job::resolve(
      "[gear.a]\nkind='spur'\nmodule=1\nteeth=20\nface_width=5\npart_name='wheel, \"big\"'\npart_number='R-7'\n",
      "job.toml");
  const std::string csv = view::parts_csv(named);
  CHECK(csv.find("1,\"wheel, \"\"big\"\"\",R-7,\"spur gear, 20 teeth, module 1\",,1,") != std::string::npos);
  CHECK(std::count(csv.begin(), csv.end(), '\n') == 2);
}

TEST_CASE("A list longer than a page says how many are left, and every format is drawn") {
  std::string text = "[shared]\nkind='spur'\nmodule=1\nface_width=5\n";
  for (int i = 0; i < 80; ++i)
    text += fmt::format("[gear.g{}]\nteeth={}\n", i, 20 + i);
  const job::Design design = job::resolve(text, "job.toml");
  CHECK(view::parts_list(design).size() == 80);
  CHECK(view::draw_parts_list(design, "pdf").compare(0, 5, "%PDF-") == 0);
  CHECK(view::draw_parts_list(design, "png").compare(1, 3, "PNG") == 0);
  CHECK(view::draw_parts_list(design, "svg").find("<svg") != std::string::npos);
}

TEST_CASE("Where nothing meshes there is no machine to show") {
  const job::Design design = job::resolve("[gear.a]\nkind='spur'\nmodule=1\nteeth=20\nface_width=5\n", "job.toml");
  CHECK_THROWS_AS(view::machine_page(design, {}, {}), InvalidParameter);
}

TEST_CASE("Titles and names cannot leave the page's data") {
  const std::string hostile = "</script><script>alert(1)</script>";
  const job::Design design =
      job::resolve("title='" + hostile +
                       "'\n[shared]\nmodule=1\nface_width=5\n[gear.a]\nkind='spur'\nteeth=20\n[gear.b]\nlike='a'\n"
                       "[pair.p]\ndriver='a'\ndriven='b'\n",
                   "job.toml");
  const job::Pair& pair = design.pairs.front();
  const std::string page = view::machine_page(design, {{&pair, job::rolled(pair, kPositions)}}, {});
  CHECK(page.find(hostile) == std::string::npos);
  CHECK(test::data_of(page)["title"] == hostile);
}
