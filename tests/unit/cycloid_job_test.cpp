// Jobs with cycloidal gears, lanterns and reducers: what they take from each other, what is refused, what is reported.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/body/mesh.hpp"
#include "palio/design/design.hpp"
#include "palio/readings/report.hpp"
#include "palio/reducer/load.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;
using Json = nlohmann::json;

namespace {

std::string refusal(const std::string& text, const std::vector<std::string>& set = {}) {
  try {
    resolve(text, "dial.toml", set);
  } catch (const JobError& e) {
    return e.what();
  }
  return "(accepted)";
}

Json report(const std::string& text, const std::vector<std::string>& set = {}) {
  return Json::parse(report_json(resolve(text, "dial.toml", set)));
}

std::vector<std::string> ids(const Design& d) {
  std::vector<std::string> all;
  for (const Finding& f : findings(d))
    all.emplace_back(f.kind().text_id);
  return all;
}

bool holds(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}

const std::string kPair = "[pair.p]\ndriver='a'\ndriven='b'\n";
const std::string kTrue =
    "[shared]\nkind='cycloidal'\nmodule=1\nface_width=6\n[gear.a]\nteeth=12\n[gear.b]\nteeth=40\n";
const std::string kClock =
    "[shared]\nkind='cycloidal'\nform='clock'\nmodule=0.8\n[gear.a]\nteeth=60\n[gear.b]\nleaves=8\n" + kPair;
const std::string kLantern =
    "[shared]\nmodule=2\n[gear.a]\nkind='cycloidal'\nform='lantern_wheel'\nteeth=40\naddendum=1.3\n[gear.b]\nkind='"
    "lantern'\nteeth=9\npin_diameter=1.6\n" +
    kPair;

}  // namespace

TEST_CASE("rolling circles come from keys, from the mate or by rule, and make conjugate pairs") {
  const auto circles = [](const std::string& text) {
    const Design d = resolve(text, "v");
    const auto &a = d.gear("a").teeth.cycloidal().true_form().spec(),
               &b = d.gear("b").teeth.cycloidal().true_form().spec();
    return std::array<double, 4>{a.face_rolling_radius, a.flank_rolling_radius, b.face_rolling_radius,
                                 b.flank_rolling_radius};
  };
  // 12 and 40 teeth of module 1: pitch radii 6 and 20.
  CHECK(circles(kTrue + kPair) == std::array<double, 4>{10, 3, 3, 10});
  CHECK(circles(kTrue + kPair + "rolling='equal_circles'\n") == std::array<double, 4>{3, 3, 3, 3});
  CHECK(circles(kTrue + "flank_rolling_radius=4\n" + kPair) == std::array<double, 4>{4, 3, 3, 4});
  CHECK(circles("[shared]\nkind='cycloidal'\nmodule=1\nrolling_radius=2.5\n[gear.a]\nteeth=12\n[gear.b]\nteeth=40\n" +
                kPair) == std::array<double, 4>{2.5, 2.5, 2.5, 2.5});
  CHECK(circles(kTrue + "internal=true\n" + kPair) == std::array<double, 4>{3, 3, 3, 3});
  // An interchangeable set: any two of it run.
  const std::string set =
      "[shared]\nkind='cycloidal'\nmodule=1\nrolling_radius=3\nface_width=5\n[gear.a]\nteeth=12\n[gear.b]\nteeth=25\n["
      "gear.c]\nteeth=40\n";
  for (const char* pair : {"driver='a'\ndriven='b'\n", "driver='a'\ndriven='c'\n", "driver='b'\ndriven='c'\n"}) {
    const Design d = resolve(set + "[pair.p]\nbacklash=0.04\n" + pair, "v");
    const roll::Result r = rolled(d.pairs[0], 24);
    CHECK(r.verdict == roll::Verdict::meshes);
    CHECK(std::max(r.transmission_error->max, -r.transmission_error->min) * 180 / kPi * 3600 < 1e-4);
    CHECK_THAT(r.play->min * d.pairs[0].cycloidal()->driven().sizes().pitch_diameter / 2, WithinAbs(0.04, 1e-10));
  }
  CHECK_THAT(refusal(kTrue), Contains("gear.a.face_rolling_radius") && Contains("no pair gives it by rule"));
  CHECK_THAT(refusal(kTrue + "internal=true\n" + kPair + "rolling='radial_flanks'\n"), Contains("cannot be radial"));
  CHECK_THAT(refusal(kTrue + kPair, {"gear.a.rolling_radius=2", "gear.a.face_rolling_radius=3"}),
             Contains("drop one of the two"));
  // Circles that do not agree: an error finding, and no pair.
  const Design odd = resolve(kTrue + "flank_rolling_radius=4\n" + kPair, "v", {"gear.a.face_rolling_radius=5"});
  CHECK(holds(ids(odd), "rolling-circles-differ"));
  CHECK_FALSE(odd.pairs[0].meshes());
  // A ring whose circles meet, a tip in the fillet, another distance, a pointed tip.
  CHECK(holds(ids(resolve("[shared]\nkind='cycloidal'\nmodule=1\nrolling_radius=5\n[gear.a]\nteeth=24\n[gear.b]\nteeth="
                          "40\ninternal=true\n" +
                              kPair,
                          "v")),
              "rolling-circles-meet"));
  CHECK(holds(ids(resolve(kTrue + kPair, "v",
                          {"gear.a.root.fillet_radius=0.6", "gear.a.dedendum=1.05", "gear.b.addendum=1.2"})),
              "flank-stops-early"));
  CHECK(holds(ids(resolve(kTrue + kPair + "mounted_center_distance=26.1\n", "v")), "cycloidal-off-distance"));
  CHECK(holds(ids(resolve(kTrue + kPair + "rolling='equal_circles'\n", "v", {"gear.a.addendum=2.2"})), "pointed-tip"));
}

TEST_CASE(
    "clock teeth: roles and mates from the pair, leaves for teeth, the table overridden, the error told from the "
    "roll") {
  const Json r = report(kClock);
  CHECK(r["gears"]["a"]["role"] == "wheel");
  CHECK(r["gears"]["b"]["role"] == "pinion");
  CHECK(r["gears"]["b"]["teeth"] == 8);
  const double f = r["gears"]["a"]["theoretical_addendum"];
  CHECK_THAT(r["gears"]["a"]["addendum"].get<double>(), WithinRel(0.95 * f * 0.8, 1e-12));
  CHECK_THAT(r["gears"]["a"]["addendum_arc_radius"].get<double>(), WithinRel(1.40 * f * 0.8, 1e-12));
  CHECK_THAT(r["gears"]["a"]["tooth_width"].get<double>(), WithinRel(kPi / 2 * 0.8, 1e-12));
  CHECK_THAT(r["gears"]["b"]["addendum"].get<double>(), WithinRel(0.67 * 0.8, 1e-12));
  CHECK(r["pairs"]["p"]["conjugate"] == false);
  const double error = r["pairs"]["p"]["angle_error_deg"];
  CHECK(error > 0.2);
  CHECK(error < 0.6);
  CHECK(holds(ids(resolve(kClock, "v")), "leaf-table-unchecked"));
  // Overridden: modules and lengths as given; wider than the pitch is an error finding.
  const Json o = report(kClock, {"gear.b.addendum=0.8", "gear.b.addendum_arc_radius=0.75", "gear.b.tooth_width=0.9"});
  CHECK(o["gears"]["b"]["addendum"].get<double>() == 0.8 * 0.8);
  CHECK(o["gears"]["b"]["addendum_arc_radius"] == 0.75);
  CHECK(o["gears"]["b"]["tooth_width"] == 0.9);
  CHECK(holds(ids(resolve(kClock, "v", {"gear.b.tooth_width=1.3"})), "clock-depthing"));
  // Leaves everywhere; said twice is a mistake.
  CHECK(resolve(kClock, "v", {"gear.b.leaves=10"}).gear("b").teeth.count() == 10);
  CHECK_THAT(refusal(kClock + "[gear.c]\nteeth=8\nleaves=8\n"), Contains("stands beside teeth"));
  CHECK_THAT(refusal("[gear.a]\nkind='cycloidal'\nform='clock'\nmodule=1\nteeth=30\n"),
             Contains("gear.a.mate_teeth") && Contains("follow from the ratio"));
  CHECK_THAT(refusal("[gear.a]\nkind='cycloidal'\nform='clock'\nmodule=1\nteeth=30\nmate_leaves=8\n"),
             Contains("gear.a.role"));
  CHECK_THAT(refusal(kClock + "backlash=0.1\n"), Contains("tooth_width"));
  CHECK_THAT(refusal(kClock, {"gear.a.rolling_radius=3"}), Contains("has no meaning for the form clock"));
  CHECK_THAT(refusal(kClock, {"gear.a.helix_angle=10"}), Contains("has no meaning for kind = \"cycloidal\""));
  // One wheel, two pinions: it is made for the one that is named.
  const std::string two = kClock + "[gear.c]\nleaves=10\n[pair.q]\ndriver='a'\ndriven='c'\ndirection=90\n";
  CHECK_THAT(refusal(two), Contains("gear.a.mate_teeth") && Contains("mates of 8 and 10"));
  CHECK(resolve(two, "v", {"gear.a.mate_teeth=8"}).gear("a").teeth.cycloidal().clock().spec().mate_teeth == 8);
  CHECK_THAT(refusal(kClock, {"gear.a.mate_teeth=9"}), Contains("pair.p gives it a mate of 8"));
  // The distance is known, the module looked for.
  CHECK_THAT(refusal("[shared]\nkind='cycloidal'\nform='clock'\n[gear.a]\nteeth=60\n[gear.b]\nleaves=8\n" + kPair +
                     "center_distance=25\n"),
             Contains("has no module") && Contains("module = 0.735294"));
  // Two wheels are no pair; a clock wheel and a spur gear neither.
  const Design wheels = resolve(kClock, "v", {"gear.a.role=\"wheel\"", "gear.b.role=\"wheel\""});
  CHECK(holds(ids(wheels), "kinds-cannot-pair"));
  const Design mixed = resolve(kClock, "v", {"gear.b.kind=\"spur\"", "gear.a.mate_teeth=8", "gear.a.role=\"wheel\""});
  CHECK(holds(ids(mixed), "kinds-cannot-pair"));
}

TEST_CASE("a lantern: pins from the pinion, play in the wheel, a body of two plates and pins") {
  const Design d = resolve(kLantern + "backlash='3 %'\n", "v");
  CHECK(d.gear("a").teeth.cycloidal().lantern_wheel().spec().pins == 9);
  CHECK_THAT(d.pairs[0].circumferential_backlash(), WithinAbs(0.06, 1e-12));
  for (const bool wheel_drives : {true, false}) {
    const Design way = resolve(kLantern + "backlash=0.06\n", "v",
                               wheel_drives ? std::vector<std::string>{}
                                            : std::vector<std::string>{"pair.p.driver=\"b\"", "pair.p.driven=\"a\""});
    const roll::Result r = rolled(way.pairs[0], 24);
    CHECK(r.verdict == roll::Verdict::meshes);
    CHECK(std::max(r.transmission_error->max, -r.transmission_error->min) * 180 / kPi * 3600 < 1e-4);
  }
  const body::Body body = job::body(d.gear("b")).layers();
  // Face 24, pins ⌀1.6 nine of them; plates 1.6 thick, ⌀21.2.
  const double plates = 2 * 1.6 * kPi * 10.6 * 10.6, pins = 24 * 9 * kPi * 0.8 * 0.8;
  CHECK_THAT(body::mass_properties(body).volume, WithinRel(plates + pins, 1e-12));
  CHECK_THAT(body::volume(body::mesh(body, 0.002)), WithinRel(plates + pins, 2e-3));
  CHECK(body.bottom() == -1.6);
  CHECK(body.top() == 25.6);
  // The wheel stands between the plates.
  CHECK_FALSE(holds(ids(d), "lantern-plates-in-the-way"));
  CHECK(holds(ids(resolve(kLantern, "v", {"gear.a.face_width=24"})), "lantern-plates-in-the-way"));
  CHECK(holds(ids(resolve(kLantern + "axial_offset=2.1\n", "v")), "lantern-plates-in-the-way"));
  CHECK_THAT(refusal(kLantern, {"gear.b.pin_diameter=7"}), Contains("gear.b.pin_diameter") && Contains("overlap"));
  CHECK_THAT(refusal(kLantern, {"gear.b.plate_diameter=19"}),
             Contains("gear.b.plate_diameter") && Contains("reach out"));
  CHECK_THAT(refusal("[gear.a]\nkind='lantern'\nmodule=2\nteeth=9\n"), Contains("gear.a.pin_diameter"));
  CHECK(holds(ids(resolve(kLantern, "v", {"gear.a.mate_teeth=10"})), "lantern-pins-differ"));
}

TEST_CASE("a reducer in a job: limits and keys told, states of the process, and what is reported of it") {
  const std::string job = starter("reducer", Units::mm), name = "reducer.motor_reducer.";
  CHECK_THAT(refusal(job, {name + "roller_radius=2.5"}),
             Contains("diameters are given here: write roller_diameter = 5"));
  CHECK_THAT(refusal(job, {name + "roller_circle_radius=\"40 mm\""}),
             Contains("write roller_circle_diameter = \"80 mm\""));
  CHECK_THAT(refusal(job, {name + "eccentricity=1.7"}), Contains("R/N = 1.66667 mm"));
  CHECK_THAT(refusal(job, {name + "lobes=25"}), Contains("lobes in the outer ring"));
  CHECK_THAT(refusal(job, {name + "lobes=20"}), Contains("24 rollers go with 23 lobes"));
  CHECK_THAT(refusal(job, {name + "output_pin_circle_diameter=66"}), Contains("break out") && Contains("at most 64"));
  CHECK_THAT(refusal("[reducer.r]\nrollers=12\n"), Contains("reducer.r.eccentricity is missing"));
  // Four numbers are enough: the rest is chosen, soundly.
  const Design few =
      resolve("[reducer.r]\nrollers=24\nroller_circle_diameter=80\nroller_diameter=5\neccentricity=1.2\n", "v");
  for (const Finding& found : findings(few)) {
    // Without clearance, which nobody asked for, it is exact and hardly turns: that is said.
    CHECK((found.kind().severity == Severity::note || found.id == FindingId::reducer_no_clearance));
  }
  CHECK(few.reducers[0].made.sizes().lobes == 23);
  const Json r = report(job)["reducers"]["motor_reducer"];
  CHECK(r["ratio"] == -23);
  CHECK_THAT(r["max_eccentricity"].get<double>(), WithinRel(40.0 / 24, 1e-15));
  CHECK_THAT(r["web_between_holes"].get<double>(), WithinRel(46 * 0.5 - 8.45, 1e-12));
  CHECK_THAT(r["wall_hole_to_lobe"].get<double>(), WithinRel(40 - 1.2 - 2.53 - 23 - 8.45 / 2, 1e-12));
  CHECK_THAT(r["wall_hole_to_bore"].get<double>(), WithinRel(23 - 8.45 / 2 - 9.5, 1e-12));
  CHECK(r["same_disc_part"] == true);
  CHECK_THAT(r["output_speed"].get<double>(), WithinRel(-1200.0 / 23, 1e-12));
  CHECK_THAT(r["output_torque"].get<double>(), WithinRel(0.12 * 23 * r["efficiency"].get<double>(), 1e-12));
  CHECK(r["angular_backlash_deg"]["min"].get<double>() > 0);
  CHECK(r["angular_backlash_deg"]["max"].get<double>() > r["angular_backlash_deg"]["min"].get<double>());
  CHECK(r["unbalance"].size() == 3);
  const Design d = resolve(job, "v");
  const reducer::Rolled rolled = job::rolled(d.reducers[0], 120);
  CHECK_THAT(r["angular_backlash_deg"]["max"].get<double>(), WithinAbs(rolled.play->max * 180 / kPi, 1e-12));
  // In inches the same job says the same of the same part.
  CHECK_THAT(
      report(in_units(job, "v", Units::inch))["reducers"]["motor_reducer"]["disc_root_diameter"].get<double>() * 25.4,
      WithinRel(r["disc_root_diameter"].get<double>(), 1e-10));
  // A jam is an error finding that names the key.
  const Design jam = resolve(job, "v", {name + "disc_offset=-0.02"});
  CHECK(findings(jam).front().kind().text_id == "reducer-jams");
  CHECK_THAT(message(findings(jam).front(), Units::mm), Contains("disc_offset is -0.02 mm"));
  // Holes print too small: drawn wider by the allowance, journals as they were.
  const Design printed = resolve(job + "[process]\npreset='print'\n", "v");
  const Design drawn = as(printed, As::drawn);
  const reducer::Sizes &nominal = printed.reducers[0].made.sizes(), &wide = drawn.reducers[0].made.sizes();
  CHECK_THAT(wide.output_hole_diameter - nominal.output_hole_diameter,
             WithinRel(printed.process.hole_smaller_by(nominal.output_hole_diameter), 1e-12));
  CHECK(drawn.reducers[0].made.spec().bore_diameter > printed.reducers[0].made.spec().bore_diameter);
  CHECK(wide.journal_diameter == nominal.journal_diameter);
}
