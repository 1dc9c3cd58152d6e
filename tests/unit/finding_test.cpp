// Every finding: some job has it, its words are whole, and its number is what another way of finding it says.
#include <catch2/catch.hpp>
#include <map>
#include <set>

#include "palio/error.hpp"
#include "palio/math/roots.hpp"
#include "palio/readings/explain.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/keys.hpp"
#include "random_job.hpp"
#include "readings/finding_examples.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

const std::string kGear = "[gear.a]\nkind='spur'\nteeth=20\nmodule=2\n";

std::string pair_of(const std::string& first, const std::string& second, const std::string& pair) {
  return "[gear.a]\n" + first + "\n[gear.b]\n" + second + "\n[pair.p]\ndriver='a'\ndriven='b'\n" + pair + "\n";
}

std::string spurs(int z1, int z2, const std::string& more1 = "", const std::string& more2 = "",
                  const std::string& pair = "backlash=0.15") {
  return pair_of("kind='spur'\nmodule=2\nteeth=" + std::to_string(z1) + "\n" + more1,
                 "kind='spur'\nmodule=2\nteeth=" + std::to_string(z2) + "\n" + more2, pair);
}

/// The finding of a kind in a job, whose words must have no gap left.
Finding only(const std::string& job, FindingId id) {
  const Design design = resolve(job, "v");
  for (const Finding& f : findings(design)) {
    if (f.id != id) continue;
    const std::string words = message(f, design.units);
    CHECK(words.find('{') == words.find("{ teeth }"));
    CHECK(words.size() > 40);
    return f;
  }
  FAIL("no finding " << finding_kinds()[static_cast<std::size_t>(id)].text_id);
  return {};
}

/// The thinnest of a tooth at a radius, on the outline's own points: the polar angle of the flank there [rad].
double flank_angle(const gear::CylindricalGear& g, double radius) {
  double near = 1e9, angle = 0;
  for (const curve::Segment& s : g.outline().period) {
    if (s.role != curve::Role::flank) continue;
    for (int i = 0; i <= 20000; ++i) {
      const Vec2 p = s.point(s.from + (s.to - s.from) * i / 20000);
      if (std::abs(p.norm() - radius) < near)
        near = std::abs(p.norm() - radius), angle = std::abs(std::atan2(p.y(), p.x()));
    }
  }
  return angle;
}

}  // namespace

TEST_CASE("all kinds of findings stand in their order, with words, an id of their own, and a remedy") {
  std::set<std::string_view> ids;
  int place = 0;
  for (const FindingKind& k : finding_kinds()) {
    CAPTURE(k.text_id);
    CHECK(static_cast<int>(k.id) == place++);
    CHECK(ids.insert(k.text_id).second);
    CHECK(k.text_id.find_first_not_of("abcdefghijklmnopqrstuvwxyz-") == std::string_view::npos);
    CHECK(k.cause.size() > 20);
    CHECK(k.remedy.size() > 5);
  }
}

TEST_CASE("every finding has an example that has it, and words that show it") {
  std::set<std::string_view> without;
  for (const FindingKind& k : finding_kinds()) {
    const FindingExample* example = example_of(k.id);
    CAPTURE(k.text_id);
    if (!example) {
      without.insert(k.text_id);
      continue;
    }
    const std::string text =
        example->starter.empty() ? std::string(example->text) : starter(example->starter, Units::mm);
    const Design design = resolve(Values::read(text, "example.toml", example->changes()));
    bool has = false;
    for (const Finding& f : findings(design))
      has = has || f.id == k.id;
    CHECK(has);
    // Without what the example changes there is none of it: the change is what does it.
    if (!example->starter.empty() && !example->text.empty()) {
      for (const Finding& f : findings(resolve(text, "v")))
        CHECK(f.id != k.id);
    }
    CHECK(explain(std::string(k.text_id)).find("An example") != std::string::npos);
    CHECK(findings_page().find(shown(*example)) != std::string::npos);
  }
  CHECK(without == std::set<std::string_view>{"cones-miss-shaft-angle"});
}

TEST_CASE("keys that findings name are keys of the job") {
  // Words with an underscore are keys; what else stands there is prose.
  for (const FindingKind& k : finding_kinds()) {
    for (const std::string_view text : {k.cause, k.remedy}) {
      std::string word;
      for (const char c : std::string(text) + " ") {
        if ((c >= 'a' && c <= 'z') || c == '_') {
          word += c;
          continue;
        }
        const bool is_key = word.find('_') != std::string::npos;
        bool known = !is_key;
        for (const Key& key : keys())
          known = known || key.path == word || key.path.substr(key.path.rfind('.') + 1) == word;
        for (const Key& key : keys())
          known = known || key.choices.find(word) != std::string_view::npos;
        CAPTURE(k.text_id, word);
        CHECK(known);
        word.clear();
      }
    }
  }
}

TEST_CASE("mismatches say both numbers, each of its gear") {
  const Finding module = only(pair_of("kind='spur'\nteeth=20\nmodule=2", "kind='spur'\nteeth=30\nmodule=2.5", ""),
                              FindingId::module_differs);
  CHECK(*module.value == 2);
  CHECK(*module.limit == 2.5);
  const Finding angle = only(pair_of("kind='spur'\nteeth=20\nmodule=2\npressure_angle=20",
                                     "kind='spur'\nteeth=30\nmodule=2\npressure_angle=25", ""),
                             FindingId::pressure_angle_differs);
  CHECK_THAT(*angle.value, WithinAbs(20 * kPi / 180, 1e-15));
  CHECK_THAT(*angle.limit, WithinAbs(25 * kPi / 180, 1e-15));
  const std::string left = "kind='helical'\nteeth=20\nmodule=2\nhelix_angle=18\nhand='left'",
                    right = "kind='helical'\nteeth=30\nmodule=2\nhelix_angle=18\nhand='right'";
  only(pair_of(left, left, ""), FindingId::hands_clash);
  CHECK_NOTHROW(resolve(pair_of(left, right, ""), "v"));
  only(pair_of("kind='helical'\nteeth=20\nmodule=2\nhelix_angle=15\nhand='left'", right, ""), FindingId::helix_differs);
  only(pair_of("kind='helical'\nteeth=20\nmodule=2\nhelix_angle=18\nhand='left'",
               "kind='internal'\nteeth=60\nmodule=2\nhelix_angle=18\nhand='right'", ""),
       FindingId::hands_differ);
  only(pair_of("kind='internal'\nteeth=40\nmodule=2", "kind='internal'\nteeth=60\nmodule=2", ""),
       FindingId::kinds_cannot_pair);
  only(pair_of("kind='double_helical'\nteeth=20\nmodule=2\nhelix_angle=18\napex='clockwise'", right, ""),
       FindingId::halves_differ);
  const Finding shafts = only(pair_of(right, right, "shaft_angle=40"), FindingId::shaft_angle_differs);
  CHECK_THAT(*shafts.value, WithinAbs(36 * kPi / 180, 1e-12));
  CHECK_THAT(*shafts.limit, WithinAbs(40 * kPi / 180, 1e-12));
}

TEST_CASE("distances: where there is no mesh, and by how much teeth overlap, by circles and by the roll") {
  const Finding none = only(spurs(20, 30, "", "", "center_distance=45"), FindingId::no_mesh_at_distance);
  // The sum of the base radii.
  CHECK_THAT(*none.limit, WithinRel(50 * std::cos(20 * kPi / 180), 1e-12));
  const std::string close = spurs(20, 30, "", "", "center_distance=50\nbacklash=0.1\nmounted_center_distance=49.8");
  const Finding overlap = only(close, FindingId::negative_play);
  const Design d = resolve(close, "v");
  const roll::Result r = rolled(d.pairs[0], 48);
  REQUIRE(r.play);
  CHECK_THAT(*overlap.value, WithinAbs(r.play->min * d.pairs[0].working_pitch_diameters()[1] / 2, 1e-9));
}

TEST_CASE("tips: bottoming and clearance are what the roll measures between them and the roots") {
  for (const auto& [mounted, id] : {std::pair{49.2, FindingId::tip_bottoms}, {49.4, FindingId::small_tip_clearance}}) {
    const std::string job = spurs(24, 26, "dedendum=1.15", "dedendum=1.15",
                                  fmt::format("center_distance=50\nbacklash=0.6\nmounted_center_distance={}", mounted));
    const Design d = resolve(job, "v");
    const roll::Result r = rolled(d.pairs[0], 48);
    CAPTURE(mounted);
    double least = *only(job, id).value;
    for (const Finding& f : findings(d)) {
      if (f.id == id) least = std::min(least, *f.value);
    }
    CHECK_THAT(least, WithinAbs(r.min_tip_root_clearance, 2e-3));
  }
}

TEST_CASE("undercut: at the limit that the finding names it begins, on the outline itself") {
  for (const int z : {8, 12, 16}) {
    const Finding f = only(fmt::format("[gear.a]\nkind='spur'\nteeth={}\nmodule=2\n", z), FindingId::undercut);
    CAPTURE(z);
    const double limit = *f.limit;
    const auto cut = [&](double shift) {
      return resolve(fmt::format("[gear.a]\nkind='spur'\nteeth={}\nmodule=2\nprofile_shift={}\n", z, shift), "v")
          .gears[0]
          .teeth.gear()
          .sizes()
          .undercut;
    };
    CHECK(cut(limit - 1e-3));
    CHECK_FALSE(cut(limit + 1e-3));
  }
}

TEST_CASE("tips of teeth: pointed where both flanks meet, thin by the width that the outline has there") {
  const Finding pointed = only("[gear.a]\nkind='spur'\nteeth=12\nmodule=2\nprofile_shift=1\n", FindingId::pointed_tip);
  const gear::CylindricalGear g =
      resolve("[gear.a]\nkind='spur'\nteeth=12\nmodule=2\nprofile_shift=1\n", "v").gears[0].teeth.gear();
  CHECK_THAT(flank_angle(g, *pointed.value / 2), WithinAbs(0, 1e-4));
  CHECK_THAT(*pointed.limit, WithinAbs(2 * 2 * (6 + 1 + 1), 1e-12));
  const std::string thin = "[gear.a]\nkind='spur'\nteeth=17\nmodule=2\nprofile_shift=0.85\n";
  const Finding f = only(thin, FindingId::thin_tip);
  const gear::CylindricalGear t = resolve(thin, "v").gears[0].teeth.gear();
  CHECK_THAT(*f.value, WithinAbs(2 * t.sizes().tip_diameter / 2 * flank_angle(t, t.sizes().tip_diameter / 2), 1e-4));
  CHECK(*f.limit == 0.4);
}

TEST_CASE("rims and walls are what circles leave") {
  CHECK_THAT(*only(kGear + "bore.diameter=33\n", FindingId::thin_rim).value, WithinAbs((40 - 5 - 33) / 2.0, 1e-12));
  CHECK_THAT(*only("[gear.a]\nkind='internal'\nteeth=40\nmodule=2\nrim_thickness=2\n", FindingId::thin_rim).value,
             WithinAbs(2, 1e-9));
  const Finding rack = only("[gear.a]\nkind='rack'\nteeth=10\nmodule=2\nbase_height=4\n", FindingId::thin_rim);
  CHECK_THAT(*rack.value, WithinAbs(4 - 2.5, 1e-12));
  const Finding wall = only(
      "[gear.a]\nkind='spur'\nteeth=40\nmodule=2\nbore.diameter=10\nholes={count=6,circle_diameter=20,diameter=9.5}\n",
      FindingId::thin_wall);
  CHECK_THAT(*wall.value, WithinAbs(std::min(2 * 10 * std::sin(kPi / 6) - 9.5, 10 - 4.75 - 5.0), 2e-3));
}

TEST_CASE(
    "rings: fouling and radial assembly are found by pushing and turning, their tips against their base circles") {
  // A difference of few teeth: away from the mesh tips run into each other, and the roll jams there.
  const std::string near =
      pair_of("kind='spur'\nteeth=30\nmodule=1", "kind='internal'\nteeth=35\nmodule=1", "backlash=0.05");
  only(near, FindingId::tip_fouling);
  const Design d = resolve(near, "v");
  CHECK(rolled(d.pairs[0], 96).verdict == roll::Verdict::jams);
  // With more teeth between them it passes, but for a while only along the axis.
  int axial = 0;
  for (int z = 29; z <= 45; ++z) {
    const std::string job =
        pair_of("kind='spur'\nteeth=20\nmodule=1\naddendum=0.9",
                fmt::format("kind='internal'\nteeth={}\nmodule=1\naddendum=0.8", z), "backlash=0.05");
    for (const Finding& one : findings(resolve(job, "v"))) {
      if (one.id != FindingId::axial_assembly_only) continue;
      ++axial;
      CHECK(*one.value > 0);
      CHECK(*one.value < 1);
    }
  }
  CHECK(axial >= 1);
  const Finding below = only(
      "[gear.a]\nkind='internal'\nteeth=24\nmodule=1\nprofile_shift=-0.2\n[gear.b]\nkind='spur'\nteeth=10\nmodule=1\n["
      "pair.p]\ndriver='b'\ndriven='a'\n",
      FindingId::tip_below_base);
  CHECK_THAT(*below.limit, WithinRel(24 * std::cos(20 * kPi / 180), 1e-12));
  CHECK(*below.value < *below.limit);
  // The cutter that is too large for the ring's tips.
  const Finding cut =
      only("[gear.a]\nkind='internal'\nteeth=30\nmodule=1\ncutter.teeth=12\naddendum=1.2\nprofile_shift=-0.4\n",
           FindingId::cutter_cuts_tip);
  CHECK(*cut.value < *cut.limit);
}

TEST_CASE("contact ratios are the mean number of pairs that the roll counts") {
  const auto with = [](double addendum) {
    return spurs(20, 24, fmt::format("addendum={}", addendum), fmt::format("addendum={}", addendum), "backlash=0.15");
  };
  const auto ratio = [&](double addendum) {
    return resolve(with(addendum), "v").pairs[0].parallel()->transverse_contact_ratio();
  };
  double addendum = 0.95;
  while (ratio(addendum) >= 1.2)
    addendum -= 0.02;
  const std::string low = with(addendum);
  const Finding f = only(low, FindingId::contact_ratio_low);
  const Design d = resolve(low, "v");
  CHECK_THAT(rolled(d.pairs[0], 96).pairs_mean, WithinAbs(*f.value, 1e-5));
  while (ratio(addendum) >= 1)
    addendum -= 0.02;
  const std::string gone = with(addendum);
  const Finding none = only(gone, FindingId::contact_ratio_below_one);
  const Design e = resolve(gone, "v");
  const roll::Result r = rolled(e.pairs[0], 96);
  CHECK(r.verdict == roll::Verdict::loses_contact);
  CHECK_THAT(r.lost_share, WithinAbs(1 - *none.value, 1e-5));
}

TEST_CASE("a span is off the flank, or too long for its face, where its line touches") {
  const std::string off = "[gear.a]\nkind='spur'\nteeth=12\nmodule=2\nspan_teeth=5\n";
  const Finding f = only(off, FindingId::span_off_involute);
  const gear::CylindricalGear g = resolve(off, "v").gears[0].teeth.gear();
  // A line over k teeth touches where half of it is the length of the tangent.
  CHECK_THAT(*f.value, WithinRel(2 * std::hypot(g.sizes().base_diameter / 2, g.span(5).length / 2), 1e-12));
  const std::string narrow =
      "[gear.a]\nkind='helical'\nteeth=40\nmodule=2\nhelix_angle=30\nhand='left'\nface_width=5\n";
  const Finding face = only(narrow, FindingId::span_needs_face);
  CHECK(*face.value == 5);
  const gear::CylindricalGear h = resolve(narrow, "v").gears[0].teeth.gear();
  CHECK_THAT(*face.limit, WithinRel(h.span().length * std::abs(std::sin(h.sizes().base_helix_angle.radians())), 1e-12));
}

TEST_CASE("notes on teeth: shortened tips, radial lines, reduced tools, common factors") {
  const Finding tip = only(spurs(20, 30, "profile_shift=0.4", "profile_shift=0.4"), FindingId::tip_shortening);
  const Design d = resolve(spurs(20, 30, "profile_shift=0.4", "profile_shift=0.4"), "v");
  // With that tip circle the clearance over the mate's root, as the shifts place it, is a quarter of the module.
  const double a = d.pairs[0].center_distance, root = 30 + 2 * 0.4 - 2 * 1.25;
  CHECK_THAT(a - *tip.limit / 2 - root, WithinAbs(0.25 * 2, 1e-9));
  const Finding line =
      only("[gear.a]\nkind='spur'\nteeth=20\nmodule=2\nroot={fillet_radius=0.5}\n", FindingId::radial_root_line);
  CHECK_THAT(*line.value, WithinRel(40 * std::cos(20 * kPi / 180), 1e-12));
  CHECK_THAT(*line.limit, WithinAbs(35, 1e-12));
  const Finding tool =
      only("[gear.a]\nkind='spur'\nteeth=40\nmodule=2\npressure_angle=25\n", FindingId::tool_tip_radius_reduced);
  CHECK_THAT(*tool.value, WithinAbs((kPi / 4 - 1.25 * std::tan(25 * kPi / 180)) * std::cos(25 * kPi / 180) /
                                        (1 - std::sin(25 * kPi / 180)),
                                    1e-9));
  CHECK(*only(spurs(20, 30), FindingId::common_factor).value == 10);
}

TEST_CASE("crossed shafts: faces, sliding locks") {
  const std::string crossed = pair_of("kind='helical'\nteeth=12\nmodule=2\nhelix_angle=70\nhand='right'\nface_width=30",
                                      "kind='helical'\nteeth=30\nmodule=2\nhelix_angle=20\nhand='right'",
                                      "shaft_angle=90\nfriction=0.2\nbacklash=0.1");
  CHECK_THROWS_WITH(resolve(crossed, "v"), Catch::Contains("helix_angle"));  // up to 60 degrees
  const std::string sliding = pair_of("kind='helical'\nteeth=12\nmodule=2\nhelix_angle=60\nhand='right'\nface_width=4",
                                      "kind='helical'\nteeth=30\nmodule=2\nhelix_angle=30\nhand='right'",
                                      "shaft_angle=90\nfriction=0.7\nbacklash=0.1");
  const Finding lock = only(sliding, FindingId::not_back_drivable);
  // tan(β₂ − ρ)/tan(β₂)-like: with friction above the lead's tangent nothing goes back.
  CHECK(*lock.value <= 0);
  const Finding face = only(sliding, FindingId::crossed_face_narrow);
  CHECK(*face.value == 4);
  CHECK(*face.limit > 4);
}

TEST_CASE("bevel gears: faces, shifts, cones, points") {
  const std::string bevel = "kind='bevel'\nmodule=2\n";
  const Finding wide =
      only(pair_of(bevel + "teeth=20\nface_width=14", bevel + "teeth=20\nface_width=14", "backlash=0.1"),
           FindingId::face_too_wide);
  CHECK_THAT(*wide.limit, WithinRel(2 * 20 / (2 * std::sin(kPi / 4)) / 3, 1e-12));
  CHECK_THAT(*only(pair_of(bevel + "teeth=20\nface_width=8\nprofile_shift=0.2",
                           bevel + "teeth=30\nface_width=8\nprofile_shift=0.1", "backlash=0.1"),
                   FindingId::bevel_shifts_add_up)
                  .value,
             WithinAbs(0.3, 1e-12));
  const Finding pointed =
      only(pair_of(bevel + "teeth=10\nface_width=5\nprofile_shift=1.0\naddendum=1.2",
                   bevel + "teeth=40\nface_width=5\nprofile_shift=-1.0\naddendum=1.2", "backlash=0.1"),
           FindingId::bevel_pointed);
  CHECK(*pointed.value < *pointed.limit);
  CHECK_THAT(*pointed.limit, WithinAbs(2 * 2.2, 1e-12));
}

TEST_CASE("cycloidal gears: distances, circles, depths, pins, plates") {
  const std::string wheel = "kind='cycloidal'\nmodule=1\n";
  const Finding off =
      only(pair_of(wheel + "teeth=12", wheel + "teeth=36", "backlash=0.1\nmounted_center_distance=24.1"),
           FindingId::cycloidal_off_distance);
  CHECK_THAT(*off.value, WithinAbs(24.1, 1e-12));
  CHECK_THAT(*off.limit, WithinAbs(24, 1e-12));
  const Finding circles =
      only(pair_of(wheel + "teeth=12\nface_rolling_radius=3\nflank_rolling_radius=3",
                   wheel + "teeth=36\nface_rolling_radius=3\nflank_rolling_radius=3.5", "backlash=0.1"),
           FindingId::rolling_circles_differ);
  CHECK(((*circles.value == 3 && *circles.limit == 3.5) || (*circles.value == 3.5 && *circles.limit == 3)));
  const Finding meet = only(pair_of(wheel + "teeth=12\nrolling_radius=3.5",
                                    wheel + "teeth=24\ninternal=true\nrolling_radius=3.5", "backlash=0.1"),
                            FindingId::rolling_circles_meet);
  CHECK_THAT(*meet.value, WithinAbs(7, 1e-12));
  CHECK_THAT(*meet.limit, WithinAbs(6, 1e-12));
  const std::string clock = wheel + "form='clock'\n";
  only(pair_of(clock + "teeth=60", clock + "teeth=8", ""), FindingId::clock_not_conjugate);
  CHECK(*only(pair_of(clock + "teeth=60", clock + "teeth=8", ""), FindingId::leaf_table_unchecked).value == 8);
  const Finding wide =
      only(pair_of(clock + "teeth=60\ntooth_width=2.2", clock + "teeth=8", ""), FindingId::clock_depthing);
  CHECK_THAT(*wide.value, WithinAbs(2.2 + 1.05 - kPi, 1e-9));
  const std::string lantern = "kind='lantern'\nmodule=1\nteeth=9\npin_diameter=1.4\n",
                    mate = wheel + "form='lantern_wheel'\nteeth=40\n";
  const Finding pins =
      only(pair_of(lantern, mate + "pin_diameter=1.2", "backlash=0.1"), FindingId::lantern_pins_differ);
  CHECK(*pins.value == 1.4);
  CHECK(*pins.limit == 1.2);
  const Finding plates = only(pair_of(lantern + "face_width=6", mate + "face_width=7", "backlash=0.1"),
                              FindingId::lantern_plates_in_the_way);
  CHECK(*plates.value == 7);
  CHECK(*plates.limit == 6);
}

TEST_CASE("processes: what they cannot reach, and what they leave uneven") {
  const std::string wheel = "[gear.a]\nkind='spur'\nteeth=30\nmodule=0.5\n";
  const Finding root = only(wheel + "[process]\nsmallest_radius=0.4\n", FindingId::tight_root);
  CHECK(*root.limit == 0.4);
  const gear::CylindricalGear g = resolve(wheel, "v").gears[0].teeth.gear();
  double tightest = 1e9;
  for (const curve::Segment& s : g.outline().period) {
    if (s.role != curve::Role::root) continue;
    for (int i = 0; i <= 2000; ++i) {
      const double bend = s.curvature(s.from + (s.to - s.from) * i / 2000);
      if (bend < 0) tightest = std::min(tightest, -1 / bend);
    }
  }
  CHECK_THAT(*root.value, WithinRel(tightest, 1e-3));
  CHECK_THAT(*only(wheel + "[process]\nsmallest_radius=0.4\n", FindingId::tight_tip).value,
             WithinAbs(g.sizes().tip_thickness, 1e-12));
  only(wheel + "[process]\nsmallest_radius=0.4\n", FindingId::tight_gap);
  CHECK_THAT(*only(kGear + "[process]\npreset='mould'\n", FindingId::no_draft).limit,
             WithinAbs(0.5 * kPi / 180, 1e-12));
}

TEST_CASE("reducers: walls between their holes, limits nearly reached, parts that differ") {
  const std::string r = "[reducer.r]\nrollers=24\nroller_circle_diameter=80\nroller_diameter=5\n";
  const Finding near = only(
      "[reducer.r]\nrollers=12\nroller_circle_diameter=80\nroller_diameter=7.6\neccentricity=3.2\ndisc_offset=0.01\n",
      FindingId::reducer_near_limit);
  CHECK_THAT(*near.limit, WithinRel(40.0 / 12, 1e-12));
  const Finding wall = only(r + "eccentricity=1.2\noutput_pins=6\noutput_pin_circle_diameter=46\noutput_pin_diameter="
                                "9\nbore.diameter=33\ndisc_offset=0.02\n",
                            FindingId::reducer_thin_wall);
  const double hole = 9 + 2.4;
  CHECK_THAT(*wall.value, WithinAbs(std::min(23 - hole / 2 - 16.5, 40 - 1.2 - 2.52 - 23 - hole / 2), 1e-9));
  CHECK(*only(r + "eccentricity=1.2\ndiscs=3\ndisc_offset=0.02\n", FindingId::reducer_shaft_in_the_way).value == 3);
  const std::string uneven =
      "[reducer.r]\nrollers=4\nroller_circle_diameter=80\nroller_diameter=12\neccentricity=0.5\ndisc_offset=0.02\n";
  const Finding wavers = only(uneven, FindingId::reducer_play_varies);
  const reducer::Rolled rolled = job::rolled(resolve(uneven, "v").reducers[0], 360);
  CHECK_THAT(*wavers.value, WithinRel(rolled.play->min, 0.02));
  CHECK_THAT(*wavers.limit, WithinRel(rolled.play->max, 0.02));
}
