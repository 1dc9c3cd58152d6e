#include "palio/readings/report.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

using namespace palio;
using namespace palio::job;
using Json = nlohmann::json;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Design stage(const std::string& more = "", Units units = Units::mm) {
  return resolve(starter("spur", units) + more, "start");
}

}  // namespace

TEST_CASE("the report has every key of a spur gear and of a pair, and what does not exist is absent or null") {
  const Json j = Json::parse(report_json(stage()));
  for (const char* key : {"palio", "title", "units", "gears", "pairs", "reducers", "planetaries", "trains", "findings"})
    CHECK(j.contains(key));
  const Json& g = j["gears"]["motor_pinion"];
  for (const char* key : {"kind",
                          "teeth",
                          "normal_module",
                          "transverse_module",
                          "diametral_pitch",
                          "normal_pressure_angle_deg",
                          "transverse_pressure_angle_deg",
                          "helix_angle_deg",
                          "base_helix_angle_deg",
                          "profile_shift",
                          "generating_profile_shift",
                          "thickness_allowance",
                          "reference_diameter",
                          "base_diameter",
                          "tip_diameter",
                          "root_diameter",
                          "root_form_diameter",
                          "tip_form_diameter",
                          "addendum",
                          "dedendum",
                          "transverse_pitch",
                          "angular_pitch_deg",
                          "transverse_base_pitch",
                          "normal_base_pitch",
                          "normal_tooth_thickness",
                          "transverse_tooth_thickness",
                          "tip_thickness",
                          "tooth_depth",
                          "undercut",
                          "min_profile_shift_no_undercut",
                          "span",
                          "over_balls",
                          "over_pins",
                          "chordal_thickness",
                          "chordal_height",
                          "volume",
                          "center_of_mass"}) {
    CAPTURE(key);
    CHECK(g.contains(key));
  }
  CHECK(g["lead"].is_null());
  CHECK(g["teeth"].is_number_integer());
  CHECK(g["normal_pressure_angle_deg"] == 20);
  CHECK(g["undercut"] == false);
  CHECK(g["span"]["teeth"] == 3);
  const Json& p = j["pairs"]["first_stage"];
  for (const char* key :
       {"driver", "driven", "gear_ratio", "sense", "reference_center_distance", "center_distance", "shaft_angle_deg",
        "phase_deg", "working_transverse_pressure_angle_deg", "working_pitch_diameters", "transverse_contact_ratio",
        "overlap_ratio", "total_contact_ratio", "contact_path_length", "circumferential_backlash", "normal_backlash",
        "angular_backlash_deg", "tip_clearance", "specific_sliding"}) {
    CAPTURE(key);
    CHECK(p.contains(key));
  }
  CHECK(p["sense"] == "opposite");
  CHECK(p["specific_sliding"].size() == 2);
  CHECK(p["specific_sliding"][0].size() == 2);
  CHECK(p["center_distance"] == 45.5);
  CHECK_THAT(p["circumferential_backlash"].get<double>(), WithinAbs(0.14, 1e-12));
}

TEST_CASE("an inch job's report is the mm report divided by 25.4, modules aside") {
  const Json j = Json::parse(report_json(stage("", Units::inch)));
  const Design d = stage("", Units::inch);
  const Json& g = j["gears"]["motor_pinion"];
  CHECK_THAT(g["tip_diameter"].get<double>(), WithinAbs(d.gears[0].teeth.gear().sizes().tip_diameter / 25.4, 1e-14));
  CHECK(g["normal_module"] == 25.4 / 16);
  CHECK_THAT(j["pairs"]["first_stage"]["center_distance"].get<double>(), WithinAbs(1.9, 1e-15));
  CHECK_THAT(report_text(d, false), Contains(" in  (r ") && !Contains("mm  (r "));
}

TEST_CASE("for people: a unit beside every number, circles as diameter and radius") {
  const std::string text = report_text(stage(), false);
  CHECK_THAT(text, Contains("⌀ 25.5000 mm  (r 12.7500 mm)"));
  CHECK_THAT(text, Contains("findings\n  none"));
  CHECK(text.find('\033') == std::string::npos);
  CHECK(report_text(stage(), true).find('\033') != std::string::npos);
}

TEST_CASE("findings in the report name subject, numbers with units, and a remedy") {
  const Design d = resolve(
      "[gear.a]\nkind='spur'\nteeth=12\nmodule=1\n[gear.b]\nkind='spur'\nteeth=24\nmodule=1.25\npressure_angle=25\n["
      "pair.p]\ndriver='a'\ndriven='b'\n",
      "v");
  const Json j = Json::parse(report_json(d));
  std::string ids;
  for (const Json& f : j["findings"])
    ids += f["id"].get<std::string>() + " ";
  CHECK_THAT(ids, Contains("module-differs") && Contains("pressure-angle-differs") && Contains("undercut") &&
                      Contains("tool-tip-radius-reduced"));
  CHECK(j["findings"][0]["severity"] == "error");
  CHECK(j["findings"][0]["subject"] == "pair.p");
  CHECK_THAT(j["findings"][0]["message"].get<std::string>(), Contains("1 mm") && Contains("1.25 mm"));
  CHECK_FALSE(j["pairs"]["p"].contains("transverse_contact_ratio"));
  CHECK_THAT(report_text(d, false), Contains("error pair.p (module-differs)"));
  // One gear without a pair is a whole job.
  CHECK(Json::parse(report_json(resolve("[gear.a]\nkind='spur'\nteeth=17\nmodule=1.5\n", "v")))["pairs"].empty());
}

TEST_CASE("the roll's report agrees with the report, and says where a jam is") {
  const auto roll_of = [](const Design& d) {
    const Pair& p = d.pairs[0];
    return Json::parse(roll_json(d, {{&p, rolled(p, 60)}}))["pairs"]["first_stage"];
  };
  const Json ok = roll_of(stage());
  CHECK(ok["verdict"] == "meshes");
  CHECK(ok["positions"] == 60);
  CHECK_THAT(ok["circumferential_backlash"]["min"].get<double>(), WithinAbs(0.14, 1e-9));
  CHECK_FALSE(ok.contains("worst"));
  const Json jam = roll_of(stage("mounted_center_distance = 45.3\n"));
  CHECK(jam["verdict"] == "jams");
  CHECK(jam["max_overlap"].get<double>() > 0.005);
  CHECK(jam["worst"]["where"].get<std::string>().find("motor_pinion") != std::string::npos);
  const Json lost = roll_of(stage("mounted_center_distance = 46.5\n"));
  CHECK(lost["verdict"] == "loses_contact");
  CHECK_THAT(lost["lost_share"].get<double>(), WithinAbs(0.0923537694740667, 1e-9));
  // Far apart nothing touches: no play can be told.
  CHECK(roll_of(stage("mounted_center_distance = 49.5\n"))["circumferential_backlash"]["min"].is_null());
}
