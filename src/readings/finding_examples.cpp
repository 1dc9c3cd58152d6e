// Each was tried: a test resolves them all and looks for the finding.
#include "finding_examples.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "palio/values/keys.hpp"

namespace palio::job {
namespace {

const std::vector<FindingExample>& examples() {
  using F = FindingId;
  static const std::vector<FindingExample> all{
      {F::module_differs, "spur", "gear.drum_wheel.module=1.25"},
      {F::pressure_angle_differs, "spur", "gear.drum_wheel.pressure_angle=25"},
      {F::helix_differs, "helical", "gear.quiet_wheel.helix_angle=20"},
      {F::hands_clash, "helical", "gear.quiet_wheel.hand=right"},
      {F::hands_differ, "internal",
       "gear.crank_pinion.kind=helical gear.crank_ring.helix_angle=15 gear.crank_pinion.helix_angle=15 "
       "gear.crank_pinion.hand=right gear.crank_ring.hand=left"},
      {F::kinds_cannot_pair, "", R"([shared]
module = 1
[gear.a]
kind = "internal"
teeth = 60
[gear.b]
kind = "rack"
teeth = 30
[pair.p]
driver = "a"
driven = "b"
)"},
      {F::halves_differ, "", R"([shared]
kind = "double_helical"
module = 1
helix_angle = 20
[gear.a]
teeth = 20
apex = "clockwise"
[gear.b]
teeth = 40
apex = "counter-clockwise"
gap = 3
[pair.p]
driver = "a"
driven = "b"
)"},
      {F::kinds_cannot_cross, "internal", "pair.crank.shaft_angle=30"},
      {F::shaft_angle_differs, "crossed", "pair.counter.shaft_angle=75"},
      {F::no_mesh_at_distance, "spur", "pair.first_stage.mounted_center_distance=41"},
      {F::negative_play, "spur", "pair.first_stage.mounted_center_distance=45.2"},
      {F::eccentric_jam, "spur", "gear.drum_wheel.eccentricity=0.3"},
      {F::eccentric_reach, "spur",
       "gear.drum_wheel.eccentricity=0.3 gear.drum_wheel.addendum=1.25 pair.first_stage.backlash=0.8"},
      {F::tip_bottoms, "spur", "gear.motor_pinion.addendum=1.4"},
      {F::tip_in_fillet, "spur", "gear.motor_pinion.profile_shift=0.6"},
      {F::tip_digs_root, "", R"([shared]
module = 1
[gear.a]
kind = "spur"
teeth = 12
[gear.b]
kind = "spur"
teeth = 80
addendum = 1.1
[pair.p]
driver = "a"
driven = "b"
)"},
      {F::contact_below_base, "", R"([shared]
module = 1
[gear.a]
kind = "spur"
teeth = 20
[gear.b]
kind = "internal"
teeth = 60
[pair.p]
driver = "a"
driven = "b"
)"},
      {F::tip_below_base, "internal",
       "gear.crank_ring.teeth=33 gear.crank_pinion.teeth=12 gear.crank_ring.profile_shift=0 "
       "gear.crank_ring.addendum=1.1"},
      {F::tip_fouling, "internal", "gear.crank_ring.teeth=25"},
      {F::contact_ratio_below_one, "spur", "pair.first_stage.mounted_center_distance=47"},
      {F::contact_ratio_low, "spur", "pair.first_stage.mounted_center_distance=46.2"},
      {F::undercut, "spur", "gear.motor_pinion.profile_shift=-0.1 gear.drum_wheel.profile_shift=0.37"},
      {F::pointed_tip, "spur", "gear.motor_pinion.profile_shift=0.9"},
      {F::thin_tip, "spur", "gear.motor_pinion.profile_shift=0.7"},
      {F::small_tip_clearance, "spur", "gear.motor_pinion.addendum=1.25"},
      {F::thin_rim, "spur", "gear.motor_pinion.bore=17"},
      {F::cutter_cuts_tip, "internal", "gear.crank_ring.cutter.teeth=15 gear.crank_ring.addendum=1.05"},
      {F::axial_assembly_only, "internal", "gear.crank_ring.teeth=34"},
      {F::span_off_involute, "spur", "gear.motor_pinion.span_teeth=5"},
      {F::span_needs_face, "helical", "gear.quiet_pinion.face_width=3"},
      {F::tip_shortening, "spur",
       "gear.motor_pinion.profile_shift=0.5 gear.drum_wheel.profile_shift=0.5 pair.first_stage.center_distance=46.35"},
      {F::crossed_face_narrow, "crossed", "gear.counter_driver.face_width=3"},
      {F::not_back_drivable, "", R"([shared]
kind = "helical"
module = 1
[gear.screw]
teeth = 6
hand = "right"
helix_angle = 60
profile_shift = 0.3
[gear.wheel]
teeth = 40
hand = "right"
helix_angle = 30
[pair.p]
driver = "screw"
driven = "wheel"
shaft_angle = 90
friction = 0.7
)"},
      {F::radial_root_line, "spur", "gear.motor_pinion.root.fillet_radius=0.4"},
      {F::tool_tip_radius_reduced, "spur", "gear.motor_pinion.pressure_angle=28 gear.drum_wheel.pressure_angle=28"},
      {F::common_factor, "spur", "gear.motor_pinion.teeth=16 gear.drum_wheel.teeth=44"},
      {F::thin_wall, "spur", "gear.drum_wheel.holes={count=6,circle_diameter=14,diameter=5}"},
      {F::uneven_walls, "spur", "process.preset=mould gear.drum_wheel.web={thickness=2,inner_diameter=20,wall=3}"},
      {F::no_draft, "spur", "process.preset=mould"},
      {F::tight_root, "spur", "process.preset=print process.smallest_radius=0.8"},
      {F::tight_tip, "spur", "process.smallest_radius=0.6"},
      {F::tight_gap, "spur", "process.smallest_radius=1.2"},
      {F::sharp_corner, "spur", "process.smallest_radius=0.2 gear.drum_wheel.flat.height=7"},
      {F::face_too_wide, "bevel", "gear.corner_pinion.face_width=11"},
      {F::bevel_pointed, "bevel", "gear.corner_pinion.profile_shift=0.75"},
      {F::bevel_shifts_add_up, "bevel", "gear.corner_wheel.profile_shift=0.1"},
      {F::bevel_drawn_plain, "bevel", "process.preset=print"},
      {F::rolling_circles_differ, "cycloidal",
       "gear.shade_pinion.face_rolling_radius=4 gear.shade_pinion.flank_rolling_radius=4 "
       "gear.shade_wheel.face_rolling_radius=5 gear.shade_wheel.flank_rolling_radius=5"},
      {F::rolling_circles_meet, "", R"([shared]
kind = "cycloidal"
module = 1
rolling_radius = 5
[gear.a]
teeth = 24
[gear.b]
teeth = 40
internal = true
[pair.p]
driver = "a"
driven = "b"
)"},
      {F::cycloidal_off_distance, "cycloidal", "pair.shade.mounted_center_distance=36.4"},
      {F::clock_not_conjugate, "clock", ""},
      {F::leaf_table_unchecked, "clock", ""},
      {F::clock_depthing, "clock", "gear.season_wheel.tooth_width=1.8"},
      {F::lantern_pins_differ, "lantern", "gear.lantern_wheel.pin_diameter=2"},
      {F::lantern_plates_in_the_way, "lantern", "gear.lantern_wheel.face_width=11"},
      {F::flank_stops_early, "", R"([shared]
kind = "cycloidal"
module = 1
rolling_radius = 4
[gear.a]
teeth = 20
root.fillet_radius = 0.6
dedendum = 1.05
[gear.b]
teeth = 40
addendum = 1.2
[pair.p]
driver = "a"
driven = "b"
)"},
      {F::reducer_jams, "reducer", "reducer.motor_reducer.disc_offset=-0.02"},
      {F::reducer_thin_wall, "reducer", "reducer.motor_reducer.output_pins=16"},
      {F::reducer_near_limit, "reducer",
       "reducer.motor_reducer.eccentricity=1.45 reducer.motor_reducer.roller_diameter=7.5"},
      {F::reducer_discs_differ, "reducer", "reducer.motor_reducer.discs=3 reducer.motor_reducer.output_pins=5"},
      {F::reducer_play_varies, "", R"([reducer.r]
rollers = 4
roller_circle_diameter = 80
roller_diameter = 12
eccentricity = 0.5
disc_offset = 0.02
)"},
      {F::reducer_shaft_in_the_way, "reducer", "reducer.motor_reducer.discs=3"},
      {F::reducer_self_locking, "reducer",
       "reducer.motor_reducer.rollers=60 reducer.motor_reducer.eccentricity=0.4 "
       "reducer.motor_reducer.roller_diameter=2.5 reducer.motor_reducer.friction=0.5"},
      {F::loop_turns, "", R"([shared]
module = 1
[gear.a]
kind = "spur"
teeth = 20
[gear.b]
kind = "spur"
teeth = 20
[gear.c]
kind = "spur"
teeth = 20
[pair.ab]
driver = "a"
driven = "b"
[pair.ac]
driver = "a"
driven = "c"
direction = 60
[pair.bc]
driver = "b"
driven = "c"
direction = 120
)"},
      {F::loop_phase, "", R"([shared]
module = 1
[gear.a]
kind = "spur"
teeth = 20
[gear.b]
kind = "spur"
teeth = 20
[gear.c]
kind = "spur"
teeth = 20
[pair.ab]
driver = "a"
driven = "b"
[pair.ac]
driver = "a"
driven = "c"
direction = 60
[pair.bc]
driver = "b"
driven = "c"
direction = 120
)"},
      {F::loop_off_middle, "", R"([shared]
module = 1
[gear.sun]
kind = "spur"
teeth = 20
[gear.p1]
kind = "spur"
teeth = 22
[gear.p2]
kind = "spur"
teeth = 22
[gear.ring]
kind = "internal"
teeth = 64
addendum = 0.8
[pair.s1]
driver = "sun"
driven = "p1"
backlash = 0.1
[pair.s2]
driver = "sun"
driven = "p2"
direction = 120.05
backlash = 0.1
[pair.r1]
driver = "p1"
driven = "ring"
backlash = 0.1
[pair.r2]
driver = "p2"
driven = "ring"
direction = 120.05
backlash = 0.1
)"},
      {F::no_play, "internal", "pair.crank.backlash=0.01"},
      {F::reducer_no_clearance, "reducer", "reducer.motor_reducer.disc_offset=0.002"},
      {F::differs_from_drawing, "spur", "expect.gear.drum_wheel.tip_diameter=68"},
      {F::agrees_with_drawing, "spur", "expect.gear.drum_wheel.teeth=43"},
      {F::train_locked, "train", "train.drive.held=[\"drum_wheel\"]"},
      {F::train_loose, "planetary", "planetary.step_down.held=[]"},
      {F::output_stands, "", R"([shared]
module = 1
[gear.sun]
kind = "spur"
teeth = 20
[gear.p]
kind = "spur"
teeth = 20
[gear.q]
kind = "spur"
teeth = 21
[gear.r]
kind = "internal"
teeth = 60
[gear.s]
kind = "internal"
teeth = 63
[planetary.k]
sun = "sun"
planet = ["p", "q"]
ring = ["r", "s"]
held = "r"
output = "s"
)"},
      {F::train_self_locking, "", R"([shared]
kind = "helical"
module = 1
[gear.screw]
teeth = 6
hand = "right"
helix_angle = 60
profile_shift = 0.3
[gear.wheel]
teeth = 40
hand = "right"
helix_angle = 30
[pair.p]
driver = "screw"
driven = "wheel"
shaft_angle = 90
friction = 0.7
[train.t]
input = "screw"
output = "wheel"
)"},
      {F::power_circulates, "", R"([shared]
module = 1
[gear.p]
kind = "spur"
teeth = 20
[gear.q]
kind = "spur"
teeth = 20
[gear.r]
kind = "internal"
teeth = 60
[gear.s]
kind = "internal"
teeth = 61
[planetary.k]
planet = ["p", "q"]
ring = ["r", "s"]
held = "r"
input = "k"
output = "s"
)"},
      {F::planet_off, "planetary", "planetary.step_down.angles=[0,121,240]"},
      {F::planet_off_middle, "planetary", "planetary.step_down.angles=[0,120.05,240]"},
      {F::planets_collide, "planetary", "planetary.step_down.count=6"},
      {F::planets_close, "", R"([shared]
module = 1
[gear.sun]
kind = "spur"
teeth = 22
[gear.planet]
kind = "spur"
teeth = 46
[gear.ring]
kind = "internal"
teeth = 114
[planetary.k]
sun = "sun"
planet = "planet"
ring = "ring"
held = "ring"
count = 4
)"},
      {F::no_assembly_order, "", R"([shared]
module = 1
face_width = 6
[gear.s1]
kind = "spur"
teeth = 20
[gear.s2]
kind = "spur"
teeth = 18
[gear.a]
kind = "spur"
teeth = 24
[gear.b]
kind = "spur"
teeth = 17
[gear.c]
kind = "spur"
teeth = 26
[gear.r]
kind = "internal"
teeth = 61
[shaft.planet]
gears = ["a", "b", "c"]
gap = 1
[carrier.k]
carries = ["planet"]
count = 2
[pair.m1]
driver = "s1"
driven = "a"
[pair.m2]
driver = "s2"
driven = "c"
[pair.m3]
driver = "b"
driven = "r"
[train.t]
input = "s1"
output = "k"
held = ["r"]
)"},
      {F::bodies_collide, "", R"([shared]
module = 1
[gear.a]
kind = "spur"
teeth = 20
[gear.b]
kind = "spur"
teeth = 20
[gear.c]
kind = "spur"
teeth = 30
[pair.ab]
driver = "a"
driven = "b"
[pair.bc]
driver = "b"
driven = "c"
direction = 150
)"},
      {F::way_blocked, "", R"([shared]
module = 1.5
face_width = 8
[gear.push]
kind = "spur"
teeth = 20
[gear.bar]
kind = "rack"
teeth = 24
base_height = 8
[pair.p]
driver = "push"
driven = "bar"
[gear.on]
kind = "spur"
teeth = 100
[gear.far]
kind = "spur"
teeth = 100
[shaft.s]
gears = ["push", "on"]
places = [0, 40]
[pair.q]
driver = "on"
driven = "far"
direction = 90
axial_offset = -40
)"},
      {F::axle_too_thick, "train", "shaft.last.diameter=11"},
      {F::axle_loose, "train", "shaft.last.diameter=9"},
      {F::axle_round, "train", "gear.quiet_wheel.flat.height=9"},
  };
  return all;
}

}  // namespace

std::vector<std::string> FindingExample::changes() const {
  return starter.empty() ? std::vector<std::string>() : words_of(text);
}

const FindingExample* example_of(FindingId id) {
  const auto it =
      std::find_if(examples().begin(), examples().end(), [&](const FindingExample& e) { return e.id == id; });
  return it == examples().end() ? nullptr : &*it;
}

std::string shown(const FindingExample& example) {
  if (example.starter.empty()) return std::string(example.text);
  std::string report = "palio report example.toml --brief";
  for (const std::string& change : example.changes()) {
    const bool plain = change.find_first_of("{}[]\"") == std::string::npos;
    report += fmt::format(plain ? " --set {}" : " --set '{}'", change);
  }
  return fmt::format("palio start {} --out example.toml\n{}\n", example.starter, report);
}

}  // namespace palio::job
