// Drives the real tool the way a person or a script does: text in, text and files out, exit status.
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

TEST_CASE("every verb has a help with an example, and the example works as it stands") {
  const Folder top;
  const Ran help = top.run("palio --help");
  CHECK(help.status == 0);
  for (const std::string verb : {"start", "find", "recover", "compare", "report", "draw", "vary", "variants", "roll",
                                 "make", "explain", "desk", "demo"}) {
    CAPTURE(verb);
    CHECK_THAT(help.out, Contains(verb));
    const Folder folder;
    const Ran ran = folder.run("palio " + verb + " --help");
    CHECK(ran.status == 0);
    const auto at = ran.out.find("Example:\n");
    REQUIRE(at != std::string::npos);
    if (verb == "demo" && !PALIO_HAS_STEP) continue;  // writes STEP among the rest
    std::string example = ran.out.substr(at + 9, ran.out.find('\n', at + 9) - at - 9);
    // A desk stays until it is ended.
    if (const auto desk = example.find("palio desk"); desk != std::string::npos)
      example = example.insert(desk, "timeout --preserve-status -s INT 2 ") + " --no-browser";
    CAPTURE(example);
    const Ran shown = folder.run(example);
    CAPTURE(shown.err);
    // The measurements of the example hold a mistake: the verdict is against them.
    CHECK(shown.status == (verb == "recover" ? 3 : 0));
  }
}

TEST_CASE("exit statuses: done, could not, asked wrongly, verdict against") {
  const Folder f;
  REQUIRE(f.run("palio start spur --out vent.toml").status == 0);
  REQUIRE(f.run("palio start spur --units in --out inch.toml").status == 0);
  struct Case {
    const char* line;
    int status;
    const char* err;
  };
  const Case cases[] = {
      {"palio report vent.toml", 0, ""},
      {"palio report inch.toml --json", 0, ""},
      {"palio report vent.toml --set shared.pressure_angle=25 --set pair.first_stage.backlash=0.5", 0, ""},
      {"palio roll vent.toml", 0, ""},
      {"palio roll vent.toml --set pair.first_stage.mounted_center_distance=45.3", 3, ""},
      {"palio roll vent.toml --set pair.first_stage.mounted_center_distance=46.5", 3, ""},
      {"palio roll vent.toml --positions 2", 2, "positions is 2"},
      {"palio roll vent.toml --pair nobody", 2, "first_stage"},
      {"palio roll vent.toml --set gear.drum_wheel.module=2", 2, "cannot be a pair"},
      {"palio make vent.toml --set gear.drum_wheel.module=2 --out x", 2, "2 mm"},
      {"palio draw vent.toml --set gear.drum_wheel.module=2", 2, "1.5 mm"},
      {"palio report vent.toml --set gear.drum_wheel.module=2", 0, ""},
      {"palio report nowhere.toml", 2, "nowhere.toml: cannot read"},
      {"palio report .", 2, "is a folder"},
      {"palio report vent.toml --set gear.motor_pinion.teeth=2", 2, "gear.motor_pinion.teeth is 2"},
      {"palio", 2, "subcommand"},
      {"palio repord vent.toml", 2, ""},
      {"palio report vent.toml --jsom", 2, "--help"},
      {"palio start sprocket", 2, "spur"},
      {"palio make vent.toml --format obj", 2, "obj"},
      {"palio make vent.toml --out part.obj", 2, ".step"},
      {"palio make vent.toml --only rack", 2, "motor_pinion, drum_wheel"},
      {"palio make vent.toml --chord-error 0", 2, "chord-error"},
      {"palio draw vent.toml --of nobody --out x.png", 2, "first_stage:contact"},
      {"palio draw vent.toml --size 3x3 --out x.png", 2, "--size"},
      {"palio explain nothing", 2, "explain alone lists all"},
      {"palio report vent.toml > /dev/full", 1, "standard output"},
      {"palio start spur --out /proc/nowhere/x.toml", 1, "/proc/nowhere"},
      {"printf '[gear.a]\\nkind=\"spur\"\\nteeth=20\\nmodule=1\\n' | palio roll -", 2, "no pair"},
      {"printf '[gear.a]\\nkind=\"spur\"\\nteeth=20\\nmodule=1\\n' | palio make - --out one --format stl,csv", 0, ""},
  };
  for (const Case& c : cases) {
    CAPTURE(c.line);
    const Ran ran = f.run(c.line);
    CAPTURE(ran.err);
    CHECK(ran.status == c.status);
    CHECK_THAT(ran.err, Contains(c.err));
    if (c.status == 0 || c.status == 3) CHECK(ran.err.empty());  // silent in a pipe
  }
}

TEST_CASE("report and roll speak JSON on standard output, and write files only when asked") {
  const Folder f;
  f.run("palio start spur --out vent.toml");
  const Ran report = f.run("palio report vent.toml --json");
  CHECK(Json::parse(report.out)["title"] == "Roof vent, first stage");
  CHECK_THAT(f.run("palio report vent.toml").out, !Contains("\033["));
  CHECK(Json::parse(f.run("palio roll vent.toml --json --positions 24").out)["pairs"]["first_stage"]["verdict"] ==
        "meshes");
  CHECK(f.files() == 1);
  f.run("palio report vent.toml --out r");
  CHECK(fs::exists(f / "r/report.json"));
  CHECK(fs::exists(f / "r/report.txt"));
  CHECK(Json::parse(palio::write::read_file(f / "r/report.json")) == Json::parse(report.out));
  f.run("palio roll vent.toml --positions 24 --out turning.html");
  CHECK_THAT(palio::write::read_file(f / "turning.html"), StartsWith("<!doctype html>"));
  CHECK(palio::write::read_file(f / "turning.html").find("http") == std::string::npos);  // needs no network
  // Full precision: what is printed reads back as the same double.
  CHECK(Json::parse(report.out)["gears"]["motor_pinion"]["reference_diameter"].get<double>() == 25.5);
}

TEST_CASE("same job, same bytes") {
  const Folder f;
  f.run("palio start spur --out vent.toml");
  const std::string formats = PALIO_HAS_STEP ? "step,stl,3mf,glb,dxf,svg,csv,pdf" : "stl,3mf,glb,dxf,svg,csv,pdf";
  for (const char* folder : {"one", "two"}) {
    REQUIRE(
        f.run("SOURCE_DATE_EPOCH=1700000000 palio make vent.toml --out " + std::string(folder) + " --format " + formats)
            .status == 0);
    f.run("palio roll vent.toml --positions 24 --out " + std::string(folder) + "/page.html");
    f.run("palio draw vent.toml --out " + std::string(folder));
  }
  int compared = 0;
  for (const auto& entry : fs::directory_iterator(f / "one")) {
    const std::string name = entry.path().filename().string();
    CAPTURE(name);
    CHECK(palio::write::read_file(f / ("one/" + name)) == palio::write::read_file(f / ("two/" + name)));
    ++compared;
  }
  CHECK(compared >= (PALIO_HAS_STEP ? 15 : 12));
}

TEST_CASE("a file is written whole or not at all") {
  const Folder f;
  f.run("palio start spur --out vent.toml");
  fs::create_directories(f / "parts/motor_pinion.stl");  // a folder stands where the file should go
  const Ran ran = f.run("palio make vent.toml --format stl --out parts");
  CHECK(ran.status == 2);
  CHECK_THAT(ran.err, Contains("motor_pinion.stl"));
  for (const auto& entry : fs::directory_iterator(f / "parts"))
    CHECK(entry.path().string().find(".part-") == std::string::npos);
  const Ran full = f.run("ulimit -f 8; palio make vent.toml --format stl --only drum_wheel --out small; true");
  CHECK_FALSE(fs::exists(f / "small/drum_wheel.stl"));
}

TEST_CASE("make tells what it wrote, to people and to scripts") {
  const Folder f;
  f.run("palio start spur --out vent.toml");
  const Json made = Json::parse(f.run("palio make vent.toml --format stl,dxf --json --out parts").out)["files"];
  CHECK(made.size() == 6);
  for (const Json& file : made) {
    CHECK(fs::exists(f / file["path"].get<std::string>()));
    CHECK(file["deviation"].get<double>() > 0);
    CHECK(file["deviation"].get<double>() <= 0.005);
    if (file["format"] == "stl") CHECK(file["triangles"].get<int>() > 1000);
  }
  CHECK(f.run("palio make vent.toml --only drum_wheel --format stl --out parts/w.stl").status == 0);
  CHECK(fs::exists(f / "parts/w.stl"));
  // The chord error asked for is the one kept.
  const Json fine = Json::parse(
      f.run("palio make vent.toml --format stl --only drum_wheel --chord-error 0.0005 --json --out fine").out)["files"];
  CHECK(fine[0]["deviation"].get<double>() <= 0.00051);
}

TEST_CASE("every starter, in both units, is a job that all verbs take") {
  const Folder f;
  for (const char* kind :
       {"spur", "helical", "double_helical", "internal", "rack", "crossed", "bevel", "cycloidal", "clock", "lantern",
        "reducer", "greenhouse", "coupon", "planetary", "train", "clock_train"}) {
    for (const char* units : {"mm", "in"}) {
      const std::string job = std::string(kind) + "-" + units + ".toml";
      CAPTURE(job);
      CHECK(f.run("palio start " + std::string(kind) + " --units " + units + " --out " + job).status == 0);
      const Json report = Json::parse(f.run("palio report " + job + " --json").out);
      for (const Json& finding : report["findings"])
        CHECK(finding["severity"] != "error");
      const Ran rolled = f.run("palio roll " + job + " --positions 24 --json");
      CHECK(rolled.status == 0);
      Json told = Json::parse(rolled.out);
      for (const auto& [name, pair] : told["pairs"].items()) {
        CAPTURE(name);
        CHECK(pair["verdict"] == "meshes");
        if (report["pairs"][name].value("conjugate", true) == false) continue;  // clock teeth: the play wavers
        CHECK(std::abs(pair["circumferential_backlash"]["max"].get<double>() -
                       report["pairs"][name]["circumferential_backlash"].get<double>()) < 1e-9);
        for (const char* key : {"total_contact_ratio", "contact_ratio"}) {
          if (report["pairs"][name].contains(key))
            CHECK(std::abs(pair["pairs_in_contact"]["mean"].get<double>() - report["pairs"][name][key].get<double>()) <
                  1e-5);
        }
      }
      for (const auto& [name, reducer] : told["reducers"].items())
        CHECK(reducer["verdict"] == "meshes");
    }
  }
}

TEST_CASE("a reducer is rolled, drawn, filmed on a page and made; a jam leaves with status 3 and names the input") {
  const Folder f;
  f.run("palio start reducer --out r.toml");
  const Ran jam = f.run(
      "palio roll r.toml --set reducer.motor_reducer.cut_roller_diameter=4.9 --set reducer.motor_reducer.disc_offset=0 "
      "--json");
  CHECK(jam.status == 3);
  const Json r = Json::parse(jam.out)["reducers"]["motor_reducer"];
  CHECK(r["verdict"] == "jams");
  CHECK(r["at_fault"]["key"] == "cut_roller_diameter");
  CHECK(std::abs(r["max_overlap"].get<double>() - 0.05) < 1e-4);
  CHECK(r["worst"].contains("position_deg"));
  CHECK(f.run("palio roll r.toml --out rolled").status == 0);
  // Without any clearance all 24 rollers touch at every angle.
  const Json exact = Json::parse(
      f.run("palio roll r.toml --set reducer.motor_reducer.disc_offset=0 --json").out)["reducers"]["motor_reducer"];
  CHECK(exact["pairs_in_contact"]["min"] == 24);
  CHECK(exact["lost_share"] == 0.0);
  CHECK(exact["min_tip_root_clearance"].get<double>() > 0);
  CHECK(fs::exists(f / "rolled/motor_reducer.html"));
  // Every roller at every angle, for both discs at either end of their room; none overlaps.
  const std::string gaps = palio::write::read_file(f / "rolled/motor_reducer-gaps.csv");
  CHECK(std::count(gaps.begin(), gaps.end(), '\n') == 1 + 360 * 2 * 2);
  CHECK_THAT(gaps, Contains("input_deg,disc,at,turn_deg,output_deg,gap_0,gap_1"));
  CHECK(f.run("palio draw r.toml --out p").status == 0);
  CHECK(fs::exists(f / "p/motor_reducer-reducer.png"));
  const Json made = Json::parse(f.run("palio make r.toml --format stl,glb --json --out parts").out)["files"];
  CHECK(made.size() == 12);  // ring, roller, shaft, disc, flange, assembly
  const std::string formula = f.run("palio make r.toml --formula").out;
  CHECK_THAT(formula, Contains("motor_reducer_disc"));
  const Ran varied = f.run("palio vary r.toml reducer.motor_reducer.disc_offset=0.02:0.06:3 --json");
  CHECK(varied.status == 0);
  CHECK_THAT(f.run("palio vary r.toml rollers=1:2").err, Contains("reducer.NAME.KEY"));
}

TEST_CASE("written cycloidal teeth, read back and rolled as files, keep the exact play") {
  const Folder f;
  f.run("palio start cycloidal --out c.toml");
  f.run(PALIO_HAS_STEP ? "palio make c.toml --format stl,step --chord-error 0.001 --out parts"
                       : "palio make c.toml --format stl --chord-error 0.001 --out parts");
  const Json written = Json::parse(f.run("palio roll c.toml --written parts --json").out)["pairs"]["shade"]["written"];
  CHECK(std::abs(written["stl"]["circumferential_backlash"]["min"].get<double>() - 0.08) < 3e-3);
  if (!PALIO_HAS_STEP) return;
  CHECK(std::abs(written["step"]["circumferential_backlash"]["min"].get<double>() - 0.08) < 1e-6);
  CHECK(std::abs(written["step"]["transmission_error_arcsec"]["max"].get<double>()) < 0.02);
}

TEST_CASE("--region makes profiles and what is to be removed, placed and turned as asked") {
  const Folder f;
  f.run("palio start clock --out c.toml");
  const Json made = Json::parse(
      f.run("palio make c.toml --region --format dxf,svg --at 30,-4 --turned 10 --json --out cut").out)["files"];
  CHECK(made.size() == 8);
  for (const char* name : {"season_wheel_profile.dxf", "season_wheel_region.svg", "season_pinion_region.dxf"})
    CHECK(fs::exists(f / ("cut/" + std::string(name))));
  CHECK_THAT(f.run("palio make c.toml --region --only season_wheel --blank 10 --out cut").err,
             Contains("--blank") && Contains("10") && Contains("give a larger one"));
  CHECK_THAT(f.run("palio make c.toml --region --format stl --out cut").err,
             Contains("stl") && Contains("dxf, svg and step"));
  CHECK_THAT(f.run("palio make c.toml --region --only dial --out cut").err, Contains("season_pinion, season_wheel"));
  f.run("palio start rack --out r.toml");
  CHECK_THAT(f.run("palio make r.toml --only vent_rack --region --out cut").err, Contains("racks"));
}

TEST_CASE("the parts of every process in the examples are sound, drawn as their process wants, and made") {
  const Folder f;
  for (const char* process : {"print", "mill", "wire", "laser", "mould"}) {
    CAPTURE(process);
    const std::string job = std::string(PALIO_SOURCE) + "/examples/parts/" + process + ".toml";
    const Json report = Json::parse(f.run("palio report " + job + " --json").out);
    CHECK(report["process"]["preset"] == process);
    for (const Json& finding : report["findings"])
      CHECK(finding["severity"] == "note");
    const Ran made = f.run("palio make " + job + " --format stl,svg,3mf,glb --out " + process);
    CHECK(made.status == 0);
    CHECK_THAT(made.out, Contains("drawn for process " + std::string(process)));
  }
}

TEST_CASE("rolled as made, a pair shows the play that the making leaves; without a process it is asked for one") {
  const Folder f;
  f.run("palio start spur --out vent.toml");
  CHECK(f.run("palio roll vent.toml --as made").status == 2);
  f.run("printf '\n[process]\nsurface_offset = 0.02\n' >> vent.toml");
  const auto play = [&](const std::string& as) {
    return Json::parse(f.run("palio roll vent.toml --positions 24 --json --as " + as)
                           .out)["pairs"]["first_stage"]["circumferential_backlash"]["min"]
        .get<double>();
  };
  CHECK(play("made") < play("nominal") - 0.08);
  // So far that nothing is left: then the verdict is against it.
  CHECK(f.run("palio roll vent.toml --as made --set process.surface_offset=0.05").status == 3);
}

TEST_CASE("hands: copying a helical gear is told which to flip, and report says so too") {
  const Folder f;
  f.run("palio start helical --out vent.toml");
  const Ran ran = f.run("palio roll vent.toml --set gear.quiet_wheel.hand=right");
  CHECK(ran.status == 2);
  CHECK(ran.err.find("hand = \"left\"") != std::string::npos);
  const Ran told = f.run("palio report vent.toml --set gear.quiet_wheel.hand=right --json");
  CHECK(told.status == 0);
  CHECK(Json::parse(told.out)["findings"][0]["id"] == "hands-clash");
  f.run("palio start crossed --out cross.toml");
  CHECK(f.run("palio roll cross.toml --set pair.counter.shaft_angle=75").err.find("80.0000°") != std::string::npos);
}

TEST_CASE(
    "a bevel pair's errors of mounting are rolled in space; what a shift does stands in the report; no plane file "
    "pretends to show its teeth") {
  const Folder f;
  f.run("palio start bevel --out corner.toml");
  const Json report = Json::parse(f.run("palio report corner.toml --json").out);
  const Json& pair = report["pairs"]["corner"];
  for (const char* gear : {"driver", "driven"}) {
    const Json rows = pair["shift_of_" + std::string(gear)];
    REQUIRE(rows.size() == 2);
    // The same by the roll itself.
    for (const Json& row : rows) {
      const Ran ran =
          f.run("palio roll corner.toml --pair corner --positions 8 --json --set pair.corner.mounting_error." +
                std::string(gear) + "=" + row[0].dump());
      const Json found = Json::parse(ran.out)["pairs"]["corner"];
      CHECK(std::abs(found["circumferential_backlash"]["min"].get<double>() - row[1].get<double>()) < 1e-6);
      CHECK(found["verdict"] == "loses_contact");
      CHECK(ran.status == 3);
      CHECK((row[0].get<double>() > 0) == (row[1].get<double>() > pair["circumferential_backlash"].get<double>()));
    }
  }
  CHECK(f.run("palio roll corner.toml --pair corner --positions 8 --set pair.corner.mounting_error.driven=-0.3")
            .out.find("jams") != std::string::npos);
  CHECK(report["gears"]["corner_wheel"]["min_profile_shift_no_undercut"].is_null());
  // Files.
  const Ran plane = f.run("palio make corner.toml --format dxf --only corner_pinion --out parts");
  CHECK(plane.status == 2);
  CHECK(plane.err.find("no plane shows the teeth of corner_pinion") != std::string::npos);
  const Json made = Json::parse(f.run("palio make corner.toml --format stl,dxf,csv --json --out parts").out)["files"];
  CHECK(made.size() == 9);
  CHECK(f.run("head -1 parts/corner_wheel.csv").out == "loop,segment,role,x,y,z\n");
  for (const char* picture : {"corner", "corner:section", "corner:developed", "hip_wheel"}) {
    CHECK(f.run("palio draw corner.toml --of " + std::string(picture) + " --size 320x200 --out p.png").status == 0);
  }
  CHECK(f.run("palio sheet corner.toml --of hip_pinion --out s.pdf").status == 0);
  // The formulas of several bevel gears run as they are.
  CHECK(f.run("palio make corner.toml --formula --language python > f.py && /usr/bin/python3 f.py").status == 0);
  CHECK(f.run("palio make corner.toml --formula --language c > f.c && cc -std=c99 -c f.c -o f.o").status == 0);
  // Parallel depth: this pinion's undercut begins along the face. It rolls and is printed; of its STEP the reason is
  // told.
  const std::string parallel = "corner.toml --set 'shared.depth=\"parallel\"'";
  const Ran even = f.run("palio roll " + parallel + " --pair corner --positions 24 --json");
  CHECK(even.status == 0);
  CHECK(f.run("palio make " + parallel + " --only corner_pinion --format stl --out even").status == 0);
  if (PALIO_HAS_STEP) {
    const Ran step = f.run("palio make " + parallel + " --only corner_pinion --format step --out even");
    CHECK(step.status == 1);
    CHECK(step.err.find("undercut begins between heel and toe") != std::string::npos);
  }
  CHECK(f.run("palio vary corner.toml gear.corner_pinion.face_width=4:10:3 --out v.csv").status == 0);
  CHECK(f.run("head -1 v.csv").out.find("contact_ratio_toe") != std::string::npos);
  const Ran tool = f.run("palio draw corner.toml --of corner_pinion:tool --out t.html");
  CHECK(tool.status != 0);
  CHECK(tool.err.find("crown gear") != std::string::npos);
}

TEST_CASE("vary writes what its file's ending says; a film is a film, and without ffmpeg nothing is half written") {
  const Folder f;
  f.run("palio start rack --out vent.toml");
  for (const char* ending : {"csv", "json", "png", "svg", "pdf", "html"}) {
    CAPTURE(ending);
    CHECK(f.run("palio vary vent.toml gear.push_pinion.profile_shift=0:0.4:5 --out v." + std::string(ending)).status ==
          0);
    CHECK(fs::file_size(f / ("v." + std::string(ending))) > 300);
  }
  const std::string three =
      "palio vary vent.toml gear.push_pinion.teeth=17:19 shared.pressure_angle=20:22:2 shared.module=1:2:3 --out ";
  CHECK(f.run(three + "three.html").status == 0);
  CHECK(f.run(three + "three.csv").status == 0);
  const Ran picture = f.run(three + "three.png");
  CHECK(picture.status == 2);
  CHECK_THAT(picture.err, Contains("sliders.html"));
  CHECK_FALSE(fs::exists(f / "three.png"));
  const Ran too_many = f.run(
      "palio vary vent.toml gear.push_pinion.teeth=17:19 shared.pressure_angle=20:22:40 "
      "shared.module=1:2:40 --out many.html");
  CHECK(too_many.status != 0);
  CHECK_THAT(too_many.err, Contains("3 × 40 × 40 = 4800") && Contains("2500"));
  CHECK(Json::parse(f.run("palio vary vent.toml gear.push_pinion.teeth=17:19 --json").out)["rows"].size() == 3);
  for (const char* film : {"mp4", "webm", "gif"}) {
    CAPTURE(film);
    const std::string name = std::string("turning.") + film;
    CHECK(
        f.run("palio roll vent.toml --out " + name + " --fps 5 --size 320x200 --duration 2 --direction back").status ==
        0);
    const Ran probe = f.run(
        "ffprobe -v error -count_frames -show_entries stream=codec_name,width,height,nb_read_frames -of csv=p=0 " +
        name);
    const std::string codec = film == std::string("mp4") ? "h264" : film == std::string("webm") ? "vp9" : "gif";
    CHECK(probe.out.find(codec + ",320,200,10") != std::string::npos);
  }
  const Ran without = f.run("PATH=/nowhere '" PALIO_BIN "/palio' roll vent.toml --out none.mp4");
  CHECK(without.status == 1);
  CHECK(without.err.find("install the package ffmpeg") != std::string::npos);
  CHECK_FALSE(fs::exists(f / "none.mp4"));
}

TEST_CASE("the demo leaves what it lists") {
  const Folder f;
  const Ran ran = f.run(std::string("palio demo") + (PALIO_HAS_STEP ? "" : " --help"));
  CHECK(ran.status == 0);
  if (!PALIO_HAS_STEP) return;
  for (const char* name :
       {"index.html", "vent.toml", "report.txt", "report.json", "roll.txt", "first_stage.html", "parts/assembly.step",
        "parts/motor_pinion.stl", "parts/drum_wheel.dxf", "pictures/first_stage-contact.png", "crank.html",
        "counter.html", "vary.html", "tool.html", "old_winch.txt", "old_winch.toml", "as_drawn/compare.html"}) {
    CAPTURE(name);
    CHECK(fs::file_size(f / ("demo-out/" + std::string(name))) > 300);
  }
}

TEST_CASE("generated pages of the docs are what the tool writes") {
  const Folder f;
  CHECK(f.run("palio explain keys").out == palio::write::read_file(PALIO_SOURCE "/docs/job-reference.md"));
  CHECK(f.run("palio explain findings").out == palio::write::read_file(PALIO_SOURCE "/docs/findings.md"));
  CHECK(f.run("palio explain readings").out == palio::write::read_file(PALIO_SOURCE "/docs/readings.md"));
}
