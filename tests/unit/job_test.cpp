#include <catch2/catch.hpp>
#include <regex>

#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/readings/explain.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/spelling.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

const std::string kGear = "[gear.a]\nkind='spur'\nteeth=17\nmodule=1.5\n";
const std::string kTwo = kGear + "[gear.b]\nlike='a'\nteeth=43\n";
const std::string kPair = kTwo + "[pair.p]\ndriver='a'\ndriven='b'\n";

std::string refusal(const std::string& text, const std::vector<std::string>& set = {},
                    const std::string& source = "vent.toml") {
  try {
    resolve(text, source, set);
  } catch (const JobError& e) {
    return e.what();
  }
  return "(accepted)";
}

}  // namespace

TEST_CASE("broken jobs get a message that says where, which key, what was given and what to do") {
  struct Broken {
    const char* name;
    std::string text;
    std::vector<std::string> says;
  };
  const std::string g = "[gear.a]\nkind='spur'\nteeth=17\nmodule=1.5\n";
  const std::vector<Broken> table{
      {"empty file", "", {"vent.toml:1:1", "empty", "palio start"}},
      {"only blanks", " \n\t\n", {"empty"}},
      {"binary junk",
       std::string("\x7f"
                   "ELF\x02\x01\x00\x00junk",
                   12),
       {"not a text file"}},
      {"not TOML", "[gear.a\nkind=", {"vent.toml:1:", "not TOML"}},
      {"a key twice", g + "teeth=18\n", {"vent.toml:5:", "not TOML"}},
      {"a table twice", g + g, {"vent.toml:5:", "not TOML"}},
      {"no gear", "title='x'\n", {"gear the job has no gear", "[gear.NAME]"}},
      {"gear is a number", "gear=3\n", {"vent.toml:1:", "no gear"}},
      {"gear entry is a number", "[gear]\na=3\n", {"vent.toml:2:", "gear.a", "is 3", "a table is allowed"}},
      {"unknown top key", "gaer=1\n" + g, {"vent.toml:1:", "gaer", "did you mean \"gear\"?"}},
      {"misspelt key",
       g + "profil_shift=0.1\n",
       {"vent.toml:5:", "gear.a.profil_shift", "did you mean \"profile_shift\"?"}},
      {"misspelt nested key",
       g + "bore.diametre=4\n",
       {"vent.toml:5:", "bore.diametre", "did you mean \"bore.diameter\"?"}},
      {"key of a pair in a gear", g + "backlash=0.1\n", {"gear.a.backlash", "is no key of a gear"}},
      {"teeth in shared", "[shared]\nteeth=17\n" + g, {"vent.toml:2:", "shared.teeth", "belongs to a single gear"}},
      {"no kind", "[gear.a]\nteeth=17\nmodule=1\n", {"gear.a.kind", "kind = \"spur\""}},
      {"kind unknown",
       "[gear.a]\nkind='spurr'\nteeth=17\nmodule=1\n",
       {"vent.toml:2:6", "gear.a.kind", "\"spurr\"", "\"spur\""}},
      {"a key that a train has not", g + "[train.a]\npairs=['p']\n", {"train.a.pairs", "is no key of a train"}},
      {"no room for an arc between the flanks of a space",
       "[gear.a]\nkind='internal'\nteeth=10\nmodule=1\npressure_angle=45\naddendum=0.5\ndedendum=0.75\n"
       "root.fillet_radius=0.2\nrim_thickness=3\n",
       {"gear.a.root.fillet_radius", "meet before", "dedendum"}},
      {"set screw without a hub", g + "set_screw={diameter=3}\n", {"gear.a.set_screw", "hubs = [{"}},
      {"material unknown",
       g + "material='bras'\n",
       {"vent.toml:5:", "gear.a.material", "did you mean \"brass\"?", "[material.bras]"}},
      {"material without density", g + "[material.oak]\ncolour='#c8a878'\n", {"material.oak.density", "kg/m³"}},
      {"hub without length", g + "hubs=[{diameter=12}]\n", {"hubs.0.length", "is missing"}},
      {"hubs of numbers", g + "hubs=[3]\n", {"gear.a.hubs", "holds 3", "hubs = [{"}},
      {"misspelt key in a list",
       g + "hubs=[{diametre=12, length=3}]\n",
       {"hubs.0.diametre", "did you mean \"hubs.diameter\"?"}},
      {"keyway without a bore", g + "keyway={width=2,height=9}\n", {"gear.a.keyway", "round bore"}},
      {"keyway standard for a tiny bore", g + "bore.diameter=5\nkeyway='standard'\n", {"gear.a.keyway", "above 6 mm"}},
      {"keyway measured as a depth",
       g + "bore.diameter=8\nkeyway={width=2,height=1.2}\n",
       {"gear.a.keyway", "from the opposite wall", "7.87"}},
      {"web into the teeth",
       g + "hubs=[{diameter=10,length=2}]\nweb={thickness=3,outer_diameter=23}\n",
       {"vent.toml:6:", "gear.a.web", "runs into the teeth"}},
      {"holes over the hub's edge",
       g + "hubs=[{diameter=14,length=2}]\nholes={count=3,circle_diameter=14,diameter=2}\n",
       {"gear.a.holes", "runs into the hubs by 1 mm"}},
      {"two ways to a ring",
       "[gear.a]\nkind='internal'\nteeth=40\nmodule=1\nrim_thickness=4\nouter_diameter=60\n",
       {"rim_thickness", "drop one"}},
      {"two ways to a rim",
       g + "web={thickness=3,inner_diameter=8,outer_diameter=16,wall=2}\n",
       {"web.wall", "drop one"}},
      {"chamfer on a keyed bore",
       g + "bore={diameter=8,chamfer=0.5}\nkeyway={width=2,height=9}\n",
       {"bore.chamfer", "plain round bores"}},
      {"sector of more teeth than there are", g + "sector_teeth=17\n", {"sector_teeth", "below the 17 teeth"}},
      {"body of a rack",
       "[gear.a]\nkind='rack'\nteeth=9\nmodule=1\nhubs=[{diameter=3,length=2}]\n",
       {"gear.a.hubs", "no meaning for kind = \"rack\""}},
      {"process preset", g + "[process]\npreset='cast'\n", {"process.preset", "print", "mould"}},
      {"process key", g + "[process]\nkerv=0.2\n", {"process.kerv", "no key of a process", "did you mean \"kerf\"?"}},
      {"first layer without height", g + "[process]\nfirst_layer_inset={amount=0.2}\n", {"first_layer_inset.up_to"}},
      {"effect to be corrected", g + "[process]\ncorrected=['hole']\n", {"process.corrected", "holes"}},
      {"frame without pairs", g + "[frame.plate]\nthickness=4\n", {"frame.plate.pairs", "no pair"}},
      {"frame of a pair that is not there",
       kPair + "[frame.plate]\nthickness=4\npairs=['q']\n",
       {"frame.plate.pairs", "\"q\""}},
      {"frame named like a gear", kPair + "[frame.a]\nthickness=4\n", {"frame.a", "gear.a has this name too"}},
      {"frame whose holes meet the bores",
       kPair + "[shared]\nbore.diameter=8\n[frame.plate]\nthickness=4\nholes=[{gear='a',distance=5,diameter=4}]\n",
       {"frame.plate.holes", "run into each other by 1 mm"}},
      {"a rack for two pairs",
       "[gear.r]\nkind='rack'\nteeth=30\nmodule=1.5\n" + kTwo +
           "[pair.p]\ndriver='a'\ndriven='r'\n[pair.q]\ndriver='b'\ndriven='r'\n",
       {"pair.q", "rack r", "pair.q.along"}},
      {"key of another kind", g + "helix_angle=18\n", {"gear.a.helix_angle", "no meaning for kind = \"spur\""}},
      {"helical without a helix",
       "[gear.a]\nkind='helical'\nhand='left'\nteeth=17\nmodule=1\n",
       {"gear.a.helix_angle", "write helix_angle"}},
      {"helical without a hand",
       "[gear.a]\nkind='helical'\nhelix_angle=18\nteeth=17\nmodule=1\n",
       {"gear.a.hand", "hand = \"right\" or \"left\""}},
      {"lead too short",
       "[gear.a]\nkind='helical'\nlead=30\nhand='left'\nteeth=17\nmodule=1\n",
       {"gear.a.lead", "too short", "53.4"}},
      {"double helical without apex",
       "[gear.a]\nkind='double_helical'\nhelix_angle=28\nteeth=17\nmodule=1\n",
       {"gear.a.apex", "where its V points"}},
      {"gap too wide",
       "[gear.a]\nkind='double_helical'\napex='clockwise'\nhelix_angle=28\ngap=11\nteeth=17\nmodule=1\n",
       {"gear.a.gap", "10 mm wide"}},
      {"cutter too large",
       "[gear.a]\nkind='internal'\nteeth=30\nmodule=1\ncutter.teeth=30\n",
       {"gear.a.cutter.teeth", "6 to 28"}},
      {"ring too thin",
       "[gear.a]\nkind='internal'\nteeth=40\nmodule=1\nouter_diameter=41\n",
       {"gear.a.outer_diameter", "root circle"}},
      {"rack of no length", "[gear.a]\nkind='rack'\nlength=2\nmodule=1\n", {"gear.a.length", "one pitch is 3.14"}},
      {"round too large", g + "tip_round=2\n", {"gear.a.tip_round", "not wide enough"}},
      {"no teeth",
       "[gear.a]\nkind='spur'\nmodule=1\n",
       {"vent.toml:1:", "gear.a.teeth", "no teeth", "two of teeth, module"}},
      {"no module", "[gear.a]\nkind='spur'\nteeth=17\n", {"gear.a.module", "no module"}},
      {"teeth as text",
       "[gear.a]\nkind='spur'\nteeth='many'\nmodule=1\n",
       {"vent.toml:3:7", "gear.a.teeth", "\"many\"", "a whole number from 1 to 5000"}},
      {"teeth broken", "[gear.a]\nkind='spur'\nteeth=17.5\nmodule=1\n", {"gear.a.teeth", "is 17.5", "whole number"}},
      {"teeth too few", "[gear.a]\nkind='spur'\nteeth=2\nmodule=1\n", {"gear.a.teeth", "is 2", "from 3"}},
      {"teeth negative", "[gear.a]\nkind='spur'\nteeth=-17\nmodule=1\n", {"is -17"}},
      {"teeth huge", "[gear.a]\nkind='spur'\nteeth=9000000000000000000\nmodule=1\n", {"to 5000"}},
      {"teeth a list", "[gear.a]\nkind='spur'\nteeth=[17]\nmodule=1\n", {"is a list"}},
      {"teeth a yes", "[gear.a]\nkind='spur'\nteeth=true\nmodule=1\n", {"is true"}},
      {"teeth a date", "[gear.a]\nkind='spur'\nteeth=2026-01-01\nmodule=1\n", {"a date"}},
      {"module NaN",
       "[gear.a]\nkind='spur'\nteeth=17\nmodule=nan\n",
       {"vent.toml:4:8", "gear.a.module", "nan", "finite"}},
      {"module infinite", "[gear.a]\nkind='spur'\nteeth=17\nmodule=inf\n", {"gear.a.module", "inf"}},
      {"module zero", "[gear.a]\nkind='spur'\nteeth=17\nmodule=0\n", {"from 0.01 mm to 200 mm"}},
      {"module in degrees", "[gear.a]\nkind='spur'\nteeth=17\nmodule='1.5 deg'\n", {"no unit of length"}},
      {"module and pitch", g + "diametral_pitch=16\n", {"vent.toml:5:", "say the same thing twice"}},
      {"three that disagree",
       g + "reference_diameter=30\n",
       {"gear.a.reference_diameter", "is 30 mm", "25.5 mm", "drop one"}},
      {"broken teeth from diameter",
       "[gear.a]\nkind='spur'\nmodule=1.5\nreference_diameter=26\n",
       {"17.3333 teeth", "17 teeth with 25.5 mm", "18 teeth with 27 mm"}},
      {"huge number", g + "face_width=1e300\n", {"gear.a.face_width", "mistake"}},
      {"negative width", g + "face_width=-3\n", {"gear.a.face_width", "above 0 mm"}},
      {"arithmetic that fails",
       g + "face_width='12 +'\n",
       {"vent.toml:5:", "gear.a.face_width", "cannot be worked out"}},
      {"division by zero", g + "face_width='1/0'\n", {"gear.a.face_width", "finite"}},
      {"unknown name", g + "face_width='shaft*2'\n", {"cannot be worked out", "[values] has nothing"}},
      {"unit behind names", "[values]\nshaft=8\n" + g + "face_width='shaft*2 in'\n", {"unit after an expression"}},
      {"bad name in values", "[values]\n'2x'=8\n" + g, {"values.2x", "begins with a letter"}},
      {"values no table", "values=3\n" + g, {"values is 3", "a table of named numbers"}},
      {"units unknown", "units='cm'\n" + g, {"vent.toml:1:7", "units is \"cm\"", "\"mm\" or \"in\""}},
      {"title a number", "title=4\n" + g, {"title is 4", "a text is allowed"}},
      {"like nobody", g + "[gear.b]\nlike='aa'\nteeth=20\n", {"vent.toml:6:6", "gear.b.like", "did you mean \"a\"?"}},
      {"like itself", "[gear.a]\nlike='a'\nkind='spur'\nteeth=9\nmodule=1\n", {"gear.a.like", "in a circle"}},
      {"like in a circle",
       "[gear.a]\nlike='b'\nteeth=9\n[gear.b]\nlike='a'\nkind='spur'\nmodule=1\nteeth=8\n",
       {"in a circle"}},
      {"find", "[gear.a]\nkind='spur'\nteeth='find'\nmodule=1\n", {"palio find"}},
      {"reference profile", g + "reference_profile='iso53-z'\n", {"gear.a.reference_profile", "iso53-a"}},
      {"tool tip radius", g + "tool_tip_radius=0.6\n", {"vent.toml:5:", "gear.a.tool_tip_radius", "0.4719"}},
      {"fillet", g + "profile_shift=0.25\nroot={fillet_radius=0.9}\n", {"root.fillet_radius", "radii above 0", "0.80"}},
      {"root word", g + "root='sharp'\n", {"gear.a.root", "\"sharp\""}},
      {"bore too big", g + "bore.diameter=30\n", {"gear.a.bore.diameter", "root circle"}},
      {"gear name with a slash", "[gear.'a/b']\nkind='spur'\nteeth=9\nmodule=1\n", {"becomes a file name"}},
      {"pair without driver", kTwo + "[pair.p]\ndriven='b'\n", {"pair.p.driver", "no driver"}},
      {"missing partner",
       kTwo + "[pair.p]\ndriver='a'\ndriven='c'\n",
       {"vent.toml:10:8", "pair.p.driven", "is \"c\"", "a, b"}},
      {"driver a number", kTwo + "[pair.p]\ndriver=3\ndriven='b'\n", {"pair.p.driver", "is 3", "a text"}},
      {"a pair of one", kTwo + "[pair.p]\ndriver='a'\ndriven='a'\n", {"cannot drive itself"}},
      {"pair entry a number", kTwo + "[pair]\np=3\n", {"pair.p", "is 3"}},
      {"center distance below the base circles",
       kPair + "center_distance=40\nbacklash=0.1\n",
       {"center_distance", "42.28"}},
      {"play already wider",
       kPair + "center_distance=46\nbacklash=0.1\n",
       {"vent.toml:12:", "pair.p.backlash", "already have"}},
      {"backlash beside allowance",
       kPair + "backlash=0.1\n[shared]\nthickness_allowance=-0.02\n",
       {"thickness_allowance", "drop one"}},
      {"backlash negative", kPair + "backlash=-0.1\n", {"pair.p.backlash", "of 0 mm or more"}},
      {"backlash share", kPair + "backlash_share=1.5\n", {"pair.p.backlash_share", "fraction from 0 to 1"}},
      {"backlash that eats the tooth", kPair + "backlash=9\n", {"thickness_allowance", "thick"}},
      {"job is a list", "[1, 2]", {"not TOML"}},
  };
  CHECK(table.size() >= 40);
  for (const Broken& b : table) {
    CAPTURE(b.name, b.text);
    const std::string message = refusal(b.text);
    for (const std::string& part : b.says)
      CHECK_THAT(message, Contains(part));
  }
}

TEST_CASE("several mistakes of meaning are told at once, each with its own place") {
  const std::string message =
      refusal("units='ft'\n[gear.a]\nkind='spur'\nteeth=1\nmodule=1\nbor=3\n[pair.p]\ndriver='x'\ndriven='a'\n");
  for (const char* part : {"vent.toml:1:7", "vent.toml:4:7", "vent.toml:6:5", "vent.toml:8:8"})
    CHECK_THAT(message, Contains(part));
}

TEST_CASE("JSON of the same shape resolves to the same design, and its mistakes name the path") {
  const std::string toml =
      "units='in'\n[shared]\ndiametral_pitch=16\n[gear.a]\nkind='spur'\nteeth=17\nbore={diameter='3/16'}\n";
  const std::string json =
      R"({"units":"in","shared":{"diametral_pitch":16},"gear":{"a":{"kind":"spur","teeth":17,"bore":{"diameter":"3/16"}}}})";
  const Design a = resolve(toml, "vent.toml"), b = resolve(json, "vent.json");
  CHECK(a.gears[0].teeth.gear().sizes().tip_diameter == b.gears[0].teeth.gear().sizes().tip_diameter);
  CHECK(b.gears[0].teeth.spec().bore_diameter == 25.4 * 3 / 16);
  CHECK_THAT(refusal(R"({"gear":{"a":{"kind":"spur","teeth":"x","module":1}}})", {}, "vent.json"),
             Contains("vent.json: gear.a.teeth is \"x\""));
  CHECK_THAT(refusal("{\"gear\":\n {,}}", {}, "vent.json"), Contains("vent.json:2:") && Contains("not JSON"));
  CHECK_THAT(refusal(R"({"gear":{"a":{"kind":"spur","teeth":17,"teeth":18,"module":1}}})", {}, "vent.json"),
             Contains("teeth stands twice"));
  CHECK_THAT(refusal("{\"gear\": null}", {}, "<standard input>"), Contains("no gear"));
}

TEST_CASE("values: units, arithmetic, names, shares") {
  const auto width = [](const std::string& value, const std::string& head = "") {
    return resolve(head + kGear + "face_width=" + value + "\n", "v").gears[0].teeth.spec().face_width;
  };
  CHECK(width("14") == 14);
  CHECK(width("'14'") == 14);
  CHECK_THAT(width("'1/8 in'"), WithinAbs(3.175, 1e-14));
  CHECK_THAT(width("'36/2 + 0.2'"), WithinAbs(18.2, 1e-14));
  CHECK_THAT(width("'shaft + 0.1'", "[values]\nshaft=8\n"), WithinAbs(8.1, 1e-14));
  CHECK_THAT(width("'min + 0.1'", "[values]\nmin=8\n"), WithinAbs(8.1, 1e-14));
  CHECK_THAT(width("'b*2'", "[values]\na='1/2 in'\nb='a+1'\n"), WithinAbs(27.4, 1e-13));
  CHECK_THAT(width("'1.2 cm'"), WithinAbs(12, 1e-14));
  CHECK_THAT(width("0.5", "units='in'\n"), WithinAbs(12.7, 1e-14));
  CHECK_THAT(width("'12.7 mm'", "units='in'\n"), WithinAbs(12.7, 1e-14));
  // A module is in mm whatever the units, and left-out widths follow it.
  CHECK(resolve("units='in'\n" + kGear, "v").gears[0].teeth.spec().module == 1.5);
  CHECK(resolve(kGear, "v").gears[0].teeth.spec().face_width == 15);
  const Design d = resolve(kPair + "backlash='4 %'\n", "v");
  CHECK_THAT(d.pairs[0].parallel()->circumferential_backlash(), WithinAbs(0.06, 1e-12));
}

TEST_CASE("two of teeth, module and reference diameter give the third, at the most special place that says them") {
  CHECK(resolve("[gear.a]\nkind='spur'\nteeth=20\nreference_diameter=30\n", "v").gears[0].teeth.spec().module == 1.5);
  CHECK(resolve("[gear.a]\nkind='spur'\nmodule=1.5\nreference_diameter=30\n", "v").gears[0].teeth.spec().teeth == 20);
  CHECK(resolve("[gear.a]\nkind='spur'\ndiametral_pitch=16\nteeth=20\n", "v").gears[0].teeth.spec().module ==
        25.4 / 16);
  CHECK(resolve("[shared]\nmodule=2\n[gear.a]\nkind='spur'\nteeth=20\nreference_diameter=30\n", "v")
            .gears[0]
            .teeth.spec()
            .module == 1.5);
  CHECK(resolve("[shared]\nmodule=2\n[gear.a]\nkind='spur'\nteeth=20\ndiametral_pitch=16\n", "v")
            .gears[0]
            .teeth.spec()
            .module == 25.4 / 16);
}

TEST_CASE("like takes over everything but what follows; reference profiles set their four and can be overridden") {
  const Design d = resolve(
      "[shared]\nmodule=2\nreference_profile='stub-20'\n[gear.a]\nkind='spur'\nteeth=30\nbore.diameter=6\nprofile_"
      "shift=0.1\n"
      "[gear.b]\nlike='a'\nteeth=40\naddendum=0.9\n[gear.c]\nlike='b'\nreference_profile='iso53-c'\nprofile_shift=0\n",
      "v");
  const auto &a = d.gears[0].teeth.spec(), &b = d.gears[1].teeth.spec(), &c = d.gears[2].teeth.spec();
  CHECK((a.addendum == 0.8 && a.dedendum == 1.0));
  CHECK((b.addendum == 0.9 && b.dedendum == 1.0 && b.bore_diameter == 6 && b.profile_shift == 0.1 && b.teeth == 40));
  CHECK((c.addendum == 1.0 && c.tool_tip_radius == 0.25 && c.profile_shift == 0 && c.teeth == 40));
}

TEST_CASE("pairs: the job's distances, shares and places") {
  const Design d = resolve(kPair +
                               "center_distance=45.2\nbacklash=0.5\nmounted_center_distance=45.3\nbacklash_share='even'"
                               "\ndirection=90\nstart_angle=5\n",
                           "v");
  const Pair& p = d.pairs[0];
  CHECK_THAT(d.gears[0].teeth.spec().thickness_allowance,
             WithinAbs(d.gears[1].teeth.spec().thickness_allowance, 1e-15));
  CHECK(p.parallel()->center_distance() == 45.3);
  CHECK_THAT((d.gears[1].axis - Vec2(0, 45.3)).norm(), WithinAbs(0, 1e-12));
  CHECK_THAT(d.gears[0].phase, WithinAbs(5 * kPi / 180, 1e-15));
  // Backlash 0 means exactly none.
  CHECK_THAT(resolve(kPair + "backlash=0\n", "v").pairs[0].parallel()->circumferential_backlash(), WithinAbs(0, 1e-13));
  // A chain: the idler keeps one allowance, both pairs get what they asked for, and the third gear is placed and
  // phased.
  const Design chain = resolve(kTwo +
                                   "[gear.c]\nlike='a'\nteeth=21\n[pair.p]\ndriver='a'\ndriven='b'\nbacklash=0.1\n"
                                   "[pair.q]\ndriver='b'\ndriven='c'\nbacklash=0.06\ndirection=60\n",
                               "v");
  CHECK_THAT(chain.pairs[0].parallel()->circumferential_backlash(), WithinAbs(0.1, 1e-12));
  CHECK_THAT(chain.pairs[1].parallel()->circumferential_backlash(), WithinAbs(0.06, 1e-12));
  for (const Pair& pair : chain.pairs) {
    CHECK(rolled(pair, 24).verdict == roll::Verdict::meshes);
  }
}

TEST_CASE("--set overrides one value, keeps types and strings, and names what is not there") {
  CHECK(resolve(kGear, "v", {"gear.a.teeth=19"}).gears[0].teeth.spec().teeth == 19);
  CHECK(resolve(kGear, "v", {"gear.a.bore.diameter=1/4 in"}).gears[0].teeth.spec().bore_diameter == 6.35);
  CHECK(resolve(kTwo, "v", {"shared.addendum=0.8", "gear.a.teeth=19"}).gears[1].teeth.spec().addendum == 0.8);
  CHECK_THAT(refusal(kGear, {"gear.x.teeth=19"}), Contains("--set gear.x.teeth=19") && Contains("no gear named \"x\""));
  CHECK_THAT(refusal(kGear, {"gear.a.teth=19"}), Contains("--set") && Contains("did you mean \"teeth\"?"));
  CHECK_THAT(refusal(kGear, {"teeth"}), Contains("KEY=VALUE"));
}

TEST_CASE("starter jobs are sound in both units, and made of round numbers") {
  for (const Units units : {Units::mm, Units::inch}) {
    const std::string text = starter("spur", units);
    const Design d = resolve(text, "start");
    CHECK(d.units == units);
    for (const Finding& f : findings(d))
      CHECK(f.kind().severity == Severity::note);
    CHECK(rolled(d.pairs[0], 24).verdict == roll::Verdict::meshes);
    CHECK_THAT(text, Contains("#"));
  }
  CHECK_THROWS_AS(starter("sprocket", Units::mm), InvalidParameter);
}

TEST_CASE("the job reference names every key there is") {
  const std::string page = reference();
  for (const Key& key : keys())
    CHECK_THAT(page, Contains("`" + std::string(key.path) + "`"));
  CHECK(spelling_distance("module", "modul") == 1);
  CHECK(nearest(Section::gear, "zzzzzzzzzz").empty());
}

TEST_CASE("bevel jobs that cannot be are told so, with the shaft angle that could") {
  const std::string a = "[gear.a]\nkind='bevel'\nteeth=16\nmodule=2\n", b = a + "[gear.b]\nlike='a'\nteeth=29\n",
                    p = b + "[pair.p]\ndriver='a'\ndriven='b'\n";
  CHECK_THAT(refusal(a), Contains("gear.a.pitch_cone_angle") && Contains("90 for a crown gear"));
  CHECK(refusal(a + "pitch_cone_angle=90\n") == "(accepted)");
  CHECK(refusal(p) == "(accepted)");
  CHECK_THAT(refusal(p + "shaft_angle=130\n"), Contains("pair.p.shaft_angle") && Contains("pitch cone of b") &&
                                                   Contains("internal bevel gears are not made") && Contains("123.4"));
  CHECK_THAT(refusal(p + "shaft_angle=2\n"), Contains("5° to 175°"));
  CHECK_THAT(refusal(p + "center_distance=40\n"), Contains("pair.p.center_distance") && Contains("apex"));
  CHECK_THAT(refusal(p, {"gear.b.pitch_cone_angle=50"}),
             Contains("gear.b.pitch_cone_angle") && Contains("pair.p gives 61.11"));
  CHECK_THAT(refusal(p, {"gear.b.kind=\"spur\""}), Contains("meshes with a bevel gear only"));
  CHECK_THAT(refusal(p, {"gear.a.helix_angle=20"}), Contains("has no meaning for kind = \"bevel\""));
  CHECK_THAT(refusal(p, {"gear.a.bore.diameter=30"}), Contains("gear.a.bore") && Contains("make the bore smaller"));
  CHECK_THAT(refusal(p, {"gear.a.face_width=40"}), Contains("gear.a.face_width") && Contains("cone distance"));
  CHECK_THAT(refusal(p + "backlash=0.1\n", {"gear.a.profile_shift=-0.3"}),
             Contains("pair.p.backlash") && Contains("already have"));
  CHECK_THAT(refusal(kPair + "mounting_error.driver=0.1\n"), Contains("for bevel pairs"));
  // Three gears on one apex: the middle one has one cone.
  CHECK(refusal(p + "[gear.c]\nlike='b'\n[pair.q]\ndriver='a'\ndriven='c'\ndirection=180\n") == "(accepted)");
  CHECK_THAT(refusal(p + "[gear.c]\nlike='b'\nteeth=20\n[pair.q]\ndriver='a'\ndriven='c'\n"),
             Contains("one gear has one cone"));
}

TEST_CASE("a normal backlash is kept along the normal, at the distance's own working angle, by every sort of pair") {
  for (const std::string starter : {"spur", "helical", "double_helical", "internal", "rack", "crossed", "bevel"}) {
    CAPTURE(starter);
    std::string text = job::starter(starter, Units::mm);
    const Design along_circle = resolve(text, "v");
    for (std::size_t at = 0; (at = text.find("\nbacklash = ", at)) != std::string::npos; at += 5)
      text.insert(at + 1, "normal_");
    const Design d = resolve(text, "v");
    for (std::size_t i = 0; i < d.pairs.size(); ++i) {
      const std::string path = "pair." + d.pairs[i].name;
      const auto number = [&](const Design& of, const char* word) { return *reading_number(of, path + word); };
      const double asked = number(along_circle, ".circumferential_backlash");
      CHECK_THAT(number(d, ".normal_backlash"), WithinAbs(asked, 1e-12));
      CHECK(number(d, ".circumferential_backlash") > asked);
    }
  }
  CHECK_THAT(refusal(kPair + "backlash=0.1\nnormal_backlash=0.1\n"),
             Contains("pair.p.normal_backlash") && Contains("drop one"));
  CHECK_THAT(refusal(kPair + "center_distance=46\nnormal_backlash=0.1\n"),
             Contains("pair.p.normal_backlash") && Contains("along the pitch circle") && Contains("already have"));
  CHECK_THAT(
      refusal(std::regex_replace(job::starter("cycloidal", Units::mm), std::regex("\nbacklash"), "\nnormal_backlash")),
      Contains("cycloidal teeth"));
  CHECK_THAT(resolve(kPair + "normal_backlash='4 %'\n", "v").pairs[0].parallel()->normal_backlash(),
             WithinAbs(0.06, 1e-12));
}

TEST_CASE(
    "bevel gears stand about one apex and in phase, whichever gear of the pair is placed first, and keep their "
    "backlash") {
  const std::string job = R"(
shared = { kind = "bevel", module = 2, face_width = 9 }
[gear.side]
teeth = 16
[gear.first]
teeth = 29
[gear.second]
teeth = 29
[pair.one]
driver = "first"
driven = "side"
direction = 25
start_angle = 3
backlash = 0.08
shaft_angle = 80
[pair.two]
driver = "second"
driven = "side"
direction = -40
backlash = 0.08
shaft_angle = 80
)";
  const Design d = resolve(job, "v");
  std::vector<Vec3> apices;
  for (const Gear& g : d.gears)
    apices.push_back(d.groups[g.group].origin +
                     d.groups[g.group].axes * Vec3(g.axis.x(), g.axis.y(), g.height - pair::mid_face(g.teeth)));
  for (const Vec3& a : apices)
    CHECK((a - apices[0]).norm() < 1e-12);
  for (const Pair& p : d.pairs) {
    CHECK_THAT(p.bevel()->circumferential_backlash(), WithinAbs(0.08, 1e-12));
    const Vec3 z1 = d.groups[d.gears[p.driver].group].axes.col(2), z2 = d.groups[d.gears[p.driven].group].axes.col(2);
    CHECK_THAT(std::acos(z1.dot(z2)), WithinAbs(80 * kPi / 180, 1e-12));
    // In the middle of its play at the start, in the frames in which it is rolled.
    const roll::Result r = rolled(p, 12);
    CHECK(r.verdict == roll::Verdict::meshes);
    CHECK_THAT(r.positions[0].upper->driven + r.positions[0].lower->driven,
               WithinAbs(2 * d.gears[p.driven].phase, 1e-9));
  }
  CHECK_THAT(*d.gear("second").speed_ratio, WithinAbs(1, 1e-12));
  CHECK_THAT(*d.gear("side").speed_ratio, WithinAbs(-29.0 / 16, 1e-12));
}

TEST_CASE(
    "chains, idlers, a ring around its planet and crossed shafts stand in phase by themselves, wherever they lie") {
  const std::string job = R"(
shared.module = 1.5
[gear.sun]
kind = "helical"
teeth = 18
helix_angle = 20
hand = "right"
[gear.planet]
like = "sun"
teeth = 21
hand = "left"
[gear.ring]
kind = "internal"
teeth = 60
helix_angle = 20
hand = "left"
addendum = 0.9
[gear.idler]
like = "planet"
teeth = 25
[gear.last]
like = "sun"
teeth = 31
[gear.side]
kind = "helical"
helix_angle = 45
hand = "right"
teeth = 15
[gear.slide]
kind = "rack"
helix_angle = 20
hand = "left"
teeth = 20
[pair.inner]
driver = "sun"
driven = "planet"
direction = 30
start_angle = 7
backlash = 0.08
[pair.outer]
driver = "planet"
driven = "ring"
direction = 30
backlash = 0.1
[pair.first]
driver = "idler"
driven = "sun"
direction = 200
axial_offset = 4
[pair.second]
driver = "idler"
driven = "last"
direction = 120
axial_offset = -3
[pair.cross]
driver = "last"
driven = "side"
shaft_angle = 65
direction = 40
axial_offset = 0.5
[pair.push]
driver = "last"
driven = "slide"
direction = 250
)";
  const job::Design d = job::resolve(job, "vent.toml");
  CHECK((d.gear("ring").axis - d.gear("sun").axis).norm() < 1e-9);
  for (const job::Pair& p : d.pairs) {
    const roll::Result r = job::rolled(p, 16);
    CAPTURE(p.name);
    CHECK(name(r.verdict) == "meshes");
    CHECK(std::max(-r.transmission_error->min, r.transmission_error->max) < 5e-9);
  }
  // What the table of motions says of ratios is what the pairs make of each other, one after the other.
  CHECK_THAT(*d.gear("ring").speed_ratio, Catch::Matchers::WithinAbs(-18.0 / 60, 1e-15));
  CHECK_THAT(*d.gear("last").speed_ratio, Catch::Matchers::WithinAbs(18.0 / 31, 1e-15));
  CHECK_THAT(*d.gear("side").speed_ratio, Catch::Matchers::WithinAbs(-18.0 / 15, 1e-15));
}
