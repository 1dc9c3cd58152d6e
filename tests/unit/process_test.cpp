// Parts as designed, drawn and made; plates that follow; jobs rewritten.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/body/mesh.hpp"
#include "palio/math/roots.hpp"
#include "palio/readings/report.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using Json = nlohmann::json;

namespace {

const std::string kVent =
    "[shared]\nmodule=1.5\n[gear.motor_pinion]\nkind='spur'\nteeth=17\nprofile_shift=0.2\nface_width=10\nbore.diameter="
    "5\n"
    "[gear.drum_wheel]\nlike='motor_pinion'\nteeth=43\nbore.diameter=8\n"
    "[pair.first_stage]\ndriver='motor_pinion'\ndriven='drum_wheel'\nbacklash=0.2\n";

double play(const Design& d) { return d.pairs[0].circumferential_backlash(); }

}  // namespace

TEST_CASE("what is corrected comes out nominal, what is not comes out as the making has it") {
  struct Case {
    const char *name, *process;
    double drawn_bore, made_bore;  // of the 5 mm bore
    double made_normal_play;       // change
  };
  const Case cases[] = {
      {"nothing", "", 5, 5, 0},
      {"holes, corrected", "hole_allowance=0.3\n", 5.3, 5, 0},
      {"holes, left", "hole_allowance=0.3\ncorrected=[]\n", 5, 4.7, 0},
      {"holes by diameter", "hole_allowance={'3'=0.4,'7'=0.2}\n", 5.3, 5, 0},
      {"surface, left by default", "surface_offset=0.02\n", 5, 5, -4 * 0.02},
      {"surface, corrected", "surface_offset=0.02\ncorrected=['surface']\n", 5, 5, 0},
      {"kerf, corrected by half of it on each side", "kerf=0.1\n", 4.9, 5, 0},
      {"kerf, left", "kerf=0.1\ncorrected=[]\n", 5, 5.1, 4 * 0.05},
  };
  for (const Case& c : cases) {
    CAPTURE(c.name);
    const Design design = resolve(kVent + "[process]\n" + c.process, "v");
    const Design drawn = as(design, As::drawn), made = as(design, As::made);
    CHECK_THAT(drawn.gears[0].teeth.spec().bore_diameter, WithinAbs(c.drawn_bore, 1e-12));
    CHECK_THAT(made.gears[0].teeth.spec().bore_diameter, WithinAbs(c.made_bore, 1e-12));
    CHECK_THAT(made.pairs[0].parallel()->normal_backlash() - design.pairs[0].parallel()->normal_backlash(),
               WithinAbs(c.made_normal_play, 1e-10));
    // The nominal report says beforehand what play the making leaves, where it leaves another.
    const Json told = Json::parse(report_json(design))["pairs"]["first_stage"];
    CHECK(told.contains("made_circumferential_backlash") == (c.made_normal_play != 0));
    if (c.made_normal_play != 0)
      CHECK_THAT(told["made_circumferential_backlash"].get<double>(), WithinAbs(play(made), 1e-12));
    // The roll of the made teeth finds the play that the report of the made teeth tells.
    const roll::Result r = rolled(made.pairs[0], 24);
    REQUIRE(r.play);
    CHECK_THAT(r.play->min * made.pairs[0].parallel()->working_pitch_diameters()[1] / 2, WithinAbs(play(made), 1e-9));
  }
}

TEST_CASE("shrinkage: a cavity as much larger as the part shrinks, or a part that is smaller by it") {
  const std::string text = kVent + "[process]\npreset='mould'\nshrinkage={radial=0.02,axial=0.01}\n";
  const Design cavity = as(resolve(text, "v"), As::drawn), part = as(resolve(text + "corrected=[]\n", "v"), As::made),
               design = resolve(text, "v");
  const double nominal = body::mass_properties(job::body(design.gears[0])).volume;
  CHECK_THAT(body::mass_properties(job::body(cavity.gears[0])).volume / nominal,
             WithinAbs(1 / (0.98 * 0.98 * 0.99), 1e-12));
  CHECK_THAT(body::mass_properties(job::body(part.gears[0])).volume / nominal, WithinAbs(0.98 * 0.98 * 0.99, 1e-9));
  CHECK_THAT(part.gears[0].teeth.gear().sizes().base_diameter / design.gears[0].teeth.gear().sizes().base_diameter,
             WithinAbs(0.98, 1e-12));
  CHECK(play(part) > play(design) + 0.5);  // smaller gears at the same distance
  CHECK_THROWS_WITH(as(resolve("[gear.a]\nkind='helical'\nhand='left'\nhelix_angle=20\nteeth=20\nmodule=1\n[process]"
                               "\ncorrected=[]\nshrinkage={radial=0.02,axial=0.01}\n",
                               "v"),
                       As::made),
                    Contains("twisted teeth that shrink unevenly"));
}

TEST_CASE(
    "a grip is the preset's play, a D and a keyway keep their places from the axis, the report tells what to draw") {
  const Design d = resolve(
      "[gear.a]\nkind='spur'\nteeth=30\nmodule=1.5\nbore={diameter=12,grip='slide'}\nkeyway='standard'\nmaterial='"
      "steel'\n[process]\npreset='print'\n",
      "v");
  const Gear& g = d.gears[0];
  CHECK_THAT(g.teeth.spec().bore_diameter, WithinAbs(12.1, 1e-12));
  // ISO 773 for 12 mm: 4 wide, 1.8 deep; its bottom stays 6 + 1.8 from the axis.
  CHECK(g.features.keyway->width == 4);
  CHECK_THAT(g.features.keyway->height - g.teeth.spec().bore_diameter / 2, WithinAbs(7.8, 1e-12));
  const Json j = Json::parse(report_json(d))["gears"]["a"];
  CHECK(j["bore_diameter"] == 12.0);
  CHECK_THAT(j["bore_expected_diameter"].get<double>(), WithinAbs(12.1, 1e-12));
  CHECK_THAT(j["bore_drawn_diameter"].get<double>() - 12.1,
             WithinAbs(0.2 - 0.05 * (12.1 - 10) / 20, 1e-9));  // the preset's table, between 10 and 30
  CHECK_THAT(j["mass_kg"].get<double>(), WithinAbs(j["volume"].get<double>() * 7850e-9, 1e-12));
  CHECK_THAT(j["inertia_about_axis"].get<double>(),
             WithinAbs(body::mass_properties(job::body(g)).polar_moment * 7850e-9, 1e-9));
  CHECK_FALSE(
      Json::parse(report_json(resolve("[gear.a]\nkind='spur'\nteeth=30\nmodule=1.5\n", "v")))["gears"]["a"].contains(
          "mass_kg"));
}

TEST_CASE("the first layers are drawn in by what they spread, all round") {
  const Design d = as(resolve("[gear.a]\nkind='spur'\nteeth=30\nmodule=1.5\nface_width=8\nbore.diameter=10\n[process]"
                              "\nfirst_layer_inset={amount=0.2,up_to=0.3}\n",
                              "v"),
                      As::drawn);
  const body::Body b = job::body(d.gears[0]).layers();
  REQUIRE(b.layers.size() == 2);
  CHECK(b.layers[0].levels.back().z == 0.3);
  const curve::Outline &low = b.loops[b.layers[0].walls[0].below].outline,
                       &rest = b.loops[b.layers[1].walls[0].below].outline;
  // Along a normal of the flank there are 0.2 mm between them.
  const gear::CylindricalGear& g = d.gears[0].teeth.gear();
  const double r_b = g.sizes().base_diameter / 2;
  const auto start = [](const curve::Outline& o) {
    for (const curve::Segment& s : o.period) {
      if (const auto* flank = std::get_if<curve::Involute>(&s.curve)) return flank->start;
    }
    return 0.0;
  };
  CHECK_THAT((start(low) - start(rest)) * r_b, WithinAbs(0.2, 1e-12));
}

TEST_CASE("a plate carries the axes where the pairs want them, and follows when a distance changes") {
  const std::string frame =
      "[frame.bearing_plate]\nthickness=5\nmargin=6\npost_height=2\naxial_gap=0.3\nbore.allowance=0.1\n";
  for (const double distance : {45.5, 47.25}) {
    const Design d = resolve(kVent + "mounted_center_distance=" + std::to_string(distance) + "\n" + frame, "v");
    REQUIRE(d.frames.size() == 1);
    const FramePlan& plan = d.frames[0].plan;
    REQUIRE(plan.axes.size() == 2);
    CHECK_THAT((plan.axes[1].at - plan.axes[0].at).norm(), WithinAbs(distance, 1e-9));
    CHECK_THAT(plan.axes[0].bore, WithinAbs(5.1, 1e-12));
    // Top of the post to the gear's face.
    CHECK_THAT(d.gears[0].height - 5 - (d.frames[0].at.z() + plan.thickness + plan.axes[0].post_height),
               WithinAbs(0.3, 1e-12));
    // By hand: hull of two discs of different size, bores, posts.
    const double r1 = (8 + 5) / 2.0 + 6, r2 = r1, hull = kPi * r1 * r2 + 2 * r1 * distance;
    const auto disc = [](double diameter) { return kPi * diameter * diameter / 4; };
    const double posts = (2 * disc(13) - disc(5.1) - disc(8.1)) * 2,
                 volume = (hull - disc(5.1) - disc(8.1)) * 5 + posts;
    CHECK_THAT(body::mass_properties(job::body(d.frames[0])).volume, WithinAbs(volume, 1e-8 * volume));
    CHECK_THAT(body::volume(body::mesh(job::body(d.frames[0]), 0.002)) / volume, WithinAbs(1, 1e-3));
  }
}

TEST_CASE("the hull of discs of any size and place is convex and touches each that sticks out") {
  FramePlan plan;
  plan.thickness = 3, plan.margin = 4;
  plan.axes = {{{0, 0}, 10, 0}, {{40, 5}, 4, 0}, {{20, 30}, 20, 0}, {{18, 12}, 2, 0}, {{-15, 25}, 3, 0}};
  const body::Body b = job::body(plan);
  const curve::Outline& hull = b.loops[0].outline;
  for (std::size_t i = 0; i < hull.period.size(); ++i) {
    const curve::Segment &s = hull.period[i], &next = hull.period[(i + 1) % hull.period.size()];
    CHECK((s.last() - next.first()).norm() < 1e-9);
    CHECK((s.tangent(s.to) - next.tangent(next.from)).norm() < 1e-9);
    for (const FramePlan::Axis& a : plan.axes) {
      // Every disc with its margin lies on the left of every piece.
      const Vec2 at = s.point((s.from + s.to) / 2), n = s.normal((s.from + s.to) / 2);
      CHECK(n.dot(a.at - at) + a.bore / 2 + 4 < 1e-9);
    }
  }
}

TEST_CASE("findings tell what a process cannot make") {
  const auto ids = [](const std::string& text) {
    std::string all;
    for (const Finding& f : findings(resolve(text, "v")))
      all += std::string(f.kind().text_id) + " ";
    return all;
  };
  const std::string wheel = "[gear.a]\nkind='spur'\nteeth=30\nmodule=1\nface_width=10\nbore.diameter=8\n";
  CHECK_THAT(ids(wheel + "[process]\nsmallest_radius=0.5\n"), Contains("tight-root") && Contains("tight-tip"));
  CHECK_THAT(ids(wheel + "[process]\nsmallest_radius=0.05\n"), !Contains("tight"));
  CHECK_THAT(ids(wheel + "keyway='standard'\n[process]\nsmallest_radius=0.05\n"), Contains("sharp-corner"));
  CHECK_THAT(ids(wheel + "[process]\npreset='mould'\n"), Contains("no-draft") && Contains("uneven-walls"));
  CHECK_THAT(ids(wheel + "web={thickness=1.8,inner_diameter=11.5,wall=1.8}\n[process]\npreset='mould'\n"),
             !Contains("uneven-walls"));
  CHECK_THAT(ids(wheel + "holes={count=1,circle_diameter=12.6,diameter=4}\n"), Contains("thin-wall"));
}

TEST_CASE("a job rewritten in the other units is the same design, and back again the same numbers") {
  const std::string text =
      "units='mm'\n[values]\nshaft=5\n[shared]\nmodule=1.5\n[gear.a]\nkind='spur'\nteeth=30\nbore.diameter='shaft + "
      "0.1'\nface_width='1/2 "
      "in'\nhubs=[{diameter=12.5,length=3}]\n"
      "[gear.b]\nlike='a'\nteeth=40\nprofile_shift=0.1\n[pair.p]\ndriver='a'\ndriven='b'\nbacklash='4 "
      "%'\n[process]\nhole_allowance={'3'=0.3,'10'=0.2}\nshrinkage='1 %'\n"
      "[frame.plate]\nthickness=4\nholes=[{x=20,y=30,diameter=3}]\n";
  const std::string inches = in_units(text, "v", Units::inch), back = in_units(inches, "v", Units::mm);
  const Design d = resolve(text, "v"), e = resolve(inches, "v"), f = resolve(back, "v");
  CHECK(e.units == Units::inch);
  const Json a = Json::parse(report_json(d)), c = Json::parse(report_json(f));
  for (const Design* other : {&e, &f}) {
    CHECK_THAT(other->gears[0].teeth.spec().bore_diameter, WithinAbs(5.1, 1e-10));
    CHECK_THAT(other->gears[0].teeth.spec().face_width, WithinAbs(12.7, 1e-12));
    CHECK_THAT(other->gears[0].features.hubs[0].diameter, WithinAbs(12.5, 1e-10));
    CHECK_THAT(other->pairs[0].parallel()->circumferential_backlash(),
               WithinAbs(d.pairs[0].parallel()->circumferential_backlash(), 1e-10));
    CHECK_THAT(other->process.hole_smaller_by(6.5), WithinAbs(0.25, 1e-10));
    CHECK_THAT(other->frames[0].plan.holes[0].at.y(), WithinAbs(30, 1e-9));
  }
  CHECK(a["gears"]["b"]["teeth"] == c["gears"]["b"]["teeth"]);
  CHECK(in_units(text, "v", Units::mm) == text);
  // Overrides are put into the text that files carry.
  const Design g = resolve(text, "v", {"gear.b.teeth=44", "pair.p.backlash=0.1"});
  const Design again = resolve(g.values.text(), "v");
  CHECK(again.gears[1].teeth.spec().teeth == 44);
  CHECK(report_json(again) == report_json(g));
  CHECK(resolve(text, "v").values.text() == text);
}

TEST_CASE("a plate's outline moves with its walls alone, its holes by their allowance too") {
  const std::string job =
      "[gear.a]\nkind='spur'\nteeth=30\nmodule=1\nbore.diameter=6\n[gear.b]\nlike='a'\n[pair.p]\ndriver='a'\ndriven='b'"
      "\n"
      "[frame.plate]\nthickness=4\nmargin=5\npost_height=2\n[process]\nkerf=0.2\nhole_allowance=0.3\n";
  const Design nominal = resolve(job, "v"), drawn = as(nominal, As::drawn);
  const auto radius = [](const Design& d, const char* feature) {
    const body::Body b = job::body(d.frames[0]);
    for (const body::Loop& l : b.loops) {
      if (l.feature == feature) return std::get<curve::Arc>(l.outline.period.front().curve).radius;
    }
    return 0.0;
  };
  CHECK_THAT(radius(drawn, "bore"), WithinAbs(3 + 0.15 - 0.1, 1e-12));
  CHECK_THAT(radius(drawn, "post_diameter") - radius(nominal, "post_diameter"), WithinAbs(0.1, 1e-12));
  CHECK_THAT(radius(drawn, "margin") - radius(nominal, "margin"), WithinAbs(0.1, 1e-12));
}
