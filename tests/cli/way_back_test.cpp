// The real tool, the other way round: found values, recovered gears, tables of variants, outlines of others.
#include <fmt/format.h>
#include <algorithm>
#include <catch2/catch.hpp>
#include <fstream>
#include <nlohmann/json.hpp>

#include "folder.hpp"

namespace fs = std::filesystem;
using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;
using palio::test::Folder;
using palio::test::Ran;
using Json = nlohmann::json;

TEST_CASE("find writes the job with the picked solution in its place, and leaves with 3 where there is none") {
  const Folder folder;
  palio::write::write_file(folder / "vent.toml",
                           "[shared]\nkind = \"spur\"\nmodule = 1.5\n[gear.motor_pinion]\nteeth = \"find 15..19\"\n"
                           "[gear.drum_wheel]\nteeth = 43\n[pair.first_stage]\ndriver = \"motor_pinion\"\n"
                           "driven = \"drum_wheel\"\n");
  const std::string open = "palio find vent.toml";
  const Ran three = folder.run(open + " --set want.pair.first_stage.gear_ratio='[2.4, 2.7]' --json");
  CHECK(three.status == 0);
  const Json told = Json::parse(three.out);
  REQUIRE(told["solutions"].size() >= 2);
  CHECK(folder.files() == 1);
  const Ran second = folder.run(open + " --set want.pair.first_stage.gear_ratio='[2.4, 2.7]' --pick 2 --out new.toml");
  CHECK(second.status == 0);
  const Ran teeth = folder.run("palio report new.toml --only gear.motor_pinion.teeth");
  CHECK(std::stoi(teeth.out) == told["solutions"][1]["values"]["gear.motor_pinion.teeth"].get<int>());
  const Ran none = folder.run(open + " --set want.pair.first_stage.gear_ratio=9 --json");
  CHECK(none.status == 3);
  CHECK(Json::parse(none.out)["contradiction"] == Json{"pair.first_stage.gear_ratio"});
  CHECK(folder.run("palio find vent.toml").status == 2);
  // Other verbs refuse what is left open, and say who fills it in.
  const Ran report = folder.run("palio report vent.toml");
  CHECK(report.status == 2);
  CHECK_THAT(report.err, Contains("palio find"));
}

TEST_CASE(
    "recover names the wrong reading and writes the job; variants go on where they were; compare tells differences") {
  const Folder folder;
  folder.run("palio start measurements --out worn.toml");
  const Ran worn = folder.run("palio recover worn.toml --json --out winch.toml");
  CHECK(worn.status == 3);
  const Json suspect = Json::parse(worn.out)["suspect"];
  CHECK(suspect["index"] == 4);
  CHECK(suspect["explained_as"] == "span_miscounted");
  CHECK(folder.run("palio report winch.toml --brief").status == 0);

  folder.run("palio start spur --out vent.toml");
  folder.run(
      "printf 'name;gear.drum_wheel.profile_shift;report:gear.drum_wheel.tip_diameter\\na;0,1;\\nb;9;\\nc;0,12;\\n' > "
      "t.csv");
  const Ran rows = folder.run("palio variants t.csv vent.toml --make stl --name name --out made");
  CHECK(rows.status == 1);
  CHECK_THAT(rows.err, Contains("row 2") && Contains("2 rows made, 0 were made before"));
  CHECK(fs::exists(folder / "made/c/drum_wheel.stl"));
  CHECK(!fs::exists(folder / "made/b"));
  CHECK_THAT(folder.run("palio variants t.csv vent.toml --make stl --name name --out made").err,
             Contains("0 rows made, 2 were made before"));
  const Ran third = folder.run("palio variants t.csv vent.toml --rows 3:3");
  CHECK(third.status == 0);
  CHECK_THAT(third.out, Contains("c;0,12;67,86") && !Contains("a;0,1"));

  const Ran alike = folder.run("palio compare vent.toml vent.toml");
  CHECK_THAT(alike.out, Contains("alike"));
  const Ran other =
      folder.run("palio compare vent.toml vent.toml --set-b gear.drum_wheel.face_width=11 --json --out o.png");
  CHECK(other.status == 0);
  CHECK(Json::parse(other.out)["values"][0]["path"] == "gear.drum_wheel.face_width");
  CHECK(fs::exists(folder / "o.png"));
}

TEST_CASE("an outline is laid on the job it came from, on another outline, and is a gear again by itself") {
  const Folder folder;
  folder.run("palio start spur --out vent.toml");
  folder.run("palio make vent.toml --format dxf,svg,stl --chord-error 0.0005 --out parts");
  for (const char* format : {"dxf", "svg", "stl"}) {
    CAPTURE(format);
    const std::string file = std::string("parts/motor_pinion.") + format;
    const Ran laid = folder.run("palio compare vent.toml " + file + " --json");
    CHECK(laid.status == 0);
    const Json told = Json::parse(laid.out);
    CHECK(told["teeth"] == 17);
    CHECK(told["scale"] == 1);
    CHECK(told["deviation_um"]["greatest"].get<double>() < 0.6);
    CHECK(told["deviation_um"]["rms"] < told["deviation_um"]["greatest"]);
    CHECK(told["flanks"]["form"] == "involute");
    const Ran found = folder.run("palio recover " + file + " --json");
    CHECK(found.status == 0);
    const Json values = Json::parse(found.out)["values"];
    CHECK(values["gear.recovered.teeth"]["value"] == 17);
    CHECK(values["gear.recovered.module"]["value"] == 1.5);
    CHECK(values["gear.recovered.pressure_angle"]["value"] == Approx(20));
    const double x =
        std::stod(folder.run("palio report vent.toml --only gear.motor_pinion.generating_profile_shift").out);
    CHECK(values["gear.recovered.profile_shift"]["value"] == Approx(x).margin(1e-3));
  }
  // Another job says by how much it differs: a thinner tooth, along the normal.
  const Ran thin =
      folder.run("palio compare vent.toml parts/motor_pinion.dxf --set-a pair.first_stage.backlash=0.3 --json");
  CHECK(Json::parse(thin.out)["deviation_um"]["rms"].get<double>() > 5);
  CHECK(folder.run("palio compare parts/drum_wheel.dxf parts/drum_wheel.stl --out both").status == 0);
  for (const char* file : {"compare.html", "compare.png", "compare.svg", "compare.txt", "compare.json"})
    CHECK(fs::file_size(folder / (std::string("both/") + file)) > 300);
  CHECK(folder.run("palio recover parts/drum_wheel.svg --out wheel.toml").status == 0);
  CHECK(folder.run("palio report wheel.toml --only gear.recovered.teeth").out == "43\n");
  // Of a file with several gears the one that is asked for.
  folder.run("palio make vent.toml --format dxf --assembly --out all");
  for (const auto& [gear, teeth] : {std::pair{"motor_pinion", 17}, {"drum_wheel", 43}}) {
    const Ran one = folder.run(std::string("palio compare vent.toml all/assembly.dxf --json --of ") + gear);
    CHECK(Json::parse(one.out)["teeth"] == teeth);
    CHECK(Json::parse(one.out)["deviation_um"]["greatest"].get<double>() < 5);
  }
  // What is asked wrongly is told with what there is.
  CHECK_THAT(folder.run("palio compare vent.toml parts/motor_pinion.dxf --of drum_wheel").err, Contains("43"));
  CHECK_THAT(folder.run("palio compare parts/drum_wheel.dxf parts/motor_pinion.dxf").err,
             Contains("43 teeth") || Contains("has 43"));
  CHECK(folder.run("palio compare vent.toml none.dxf").status == 1);
  const Ran no_values = folder.run("palio compare vent.toml parts/motor_pinion.dxf --set-b gear.a.teeth=3");
  CHECK(no_values.status == 2);
  CHECK_THAT(no_values.err, Contains("--set-b") && Contains("no values"));
  CHECK(folder.run("palio recover parts/motor_pinion.dxf --as new").status == 2);
  folder.run(
      "printf '0\\nSECTION\\n2\\nENTITIES\\n0\\nCIRCLE\\n10\\n0\\n20\\n0\\n40\\n5\\n0\\nENDSEC\\n0\\nEOF\\n' > "
      "disc.dxf");
  const Ran disc = folder.run("palio recover disc.dxf");
  CHECK(disc.status == 1);
  CHECK_THAT(disc.err, Contains("disc.dxf") && Contains("teeth"));
}

TEST_CASE("a coupon that was measured gives the table of the machine, and leaves with 3 where it contradicts itself") {
  const Folder folder;
  folder.run("palio start coupon --out coupon.toml");
  CHECK(folder.run("palio recover coupon.toml").status == 2);  // nothing was measured yet
  const std::string coupon = palio::write::read_file(folder / "coupon.toml");
  const auto hole = [](const char* is) {
    return std::string("\n[[measured]]\nof = \"frame.hole_strip.hole\"\ndiameter = 4\nis = ") + is +
           "\nby = \"pins\"\n";
  };
  std::string turning;
  for (const auto& [pair, turned] : {std::pair{"m15_play05_pair", 0}, {"m15_play15_pair", 2}, {"m15_play25_pair", 3}})
    turning += fmt::format("[[measured]]\nof = \"pair.{}.turns\"\nis = {}\nprints = 3\n", pair, turned);
  palio::write::write_file(folder / "read.toml", coupon + hole("3.82") + turning);
  const Ran read = folder.run("palio recover read.toml --json --out process.toml");
  CHECK(read.status == 0);
  const Json told = Json::parse(read.out);
  CHECK(told["hole_allowance"][0]["value"] == Approx(0.18));
  CHECK(told["play_for"].size() == 4);
  CHECK(told["turned"][0]["share"] < told["turned"][2]["share"]);
  // The table stands in a job, and changes what is drawn.
  folder.run("palio start spur --out vent.toml");
  const std::string vent = palio::write::read_file(folder / "vent.toml");
  palio::write::write_file(folder / "made.toml", vent + palio::write::read_file(folder / "process.toml"));
  CHECK(folder.run("palio report made.toml --brief").status == 0);
  palio::write::write_file(folder / "wrong.toml", coupon + hole("3.82") + hole("3.4"));
  CHECK(folder.run("palio recover wrong.toml").status == 3);
  // The worked example in the starter becomes readings when its marks are taken away.
  CHECK(folder.run("sed '/^# Printed/,$ s/^# //' coupon.toml | sed 's/^Printed.*//' | palio recover - --json").status ==
        0);
}
