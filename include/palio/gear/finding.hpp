// What is doubtful about a gear or a pair that can nevertheless be computed. Each kind of finding is declared once,
// in src/gear/finding.cpp: its id, severity, cause and remedy. Table, JSON and docs come from there.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/quantity.hpp"

namespace palio {

enum class Severity { error, warning, note };  ///< error: it cannot work
std::string_view name(Severity severity) noexcept;

enum class FindingId {
  module_differs,
  pressure_angle_differs,
  helix_differs,
  hands_clash,
  hands_differ,
  kinds_cannot_pair,
  halves_differ,
  kinds_cannot_cross,
  shaft_angle_differs,
  no_mesh_at_distance,
  negative_play,
  eccentric_jam,
  eccentric_reach,
  tip_bottoms,
  tip_in_fillet,
  tip_digs_root,
  contact_below_base,
  tip_below_base,
  tip_fouling,
  contact_ratio_below_one,
  contact_ratio_low,
  undercut,
  pointed_tip,
  thin_tip,
  small_tip_clearance,
  thin_rim,
  cutter_cuts_tip,
  axial_assembly_only,
  span_off_involute,
  span_needs_face,
  tip_shortening,
  crossed_face_narrow,
  not_back_drivable,
  radial_root_line,
  tool_tip_radius_reduced,
  common_factor,
  thin_wall,
  uneven_walls,
  no_draft,
  tight_root,
  tight_tip,
  tight_gap,
  sharp_corner,
  face_too_wide,
  bevel_pointed,
  bevel_shifts_add_up,
  cones_miss_shaft_angle,
  bevel_drawn_plain,
  rolling_circles_differ,
  rolling_circles_meet,
  cycloidal_off_distance,
  clock_not_conjugate,
  leaf_table_unchecked,
  clock_depthing,
  lantern_pins_differ,
  lantern_plates_in_the_way,
  flank_stops_early,
  reducer_jams,
  reducer_thin_wall,
  reducer_near_limit,
  reducer_discs_differ,
  reducer_play_varies,
  reducer_shaft_in_the_way,
  reducer_self_locking,
  loop_turns,
  loop_phase,
  loop_off_middle,
  no_play,
  reducer_no_clearance,
  differs_from_drawing,
  agrees_with_drawing,
  train_locked,
  train_loose,
  output_stands,
  train_self_locking,
  power_circulates,
  planet_off,
  planet_off_middle,
  planets_collide,
  planets_close,
  no_assembly_order,
  bodies_collide,
  way_blocked,
  axle_too_thick,
  axle_loose,
  axle_round,
};

struct FindingKind {
  FindingId id;
  std::string_view text_id;  ///< stable, kebab-case
  Severity severity;
  std::string_view cause;   ///< what is so, and why it matters; {value} and {limit} stand for the numbers
  std::string_view remedy;  ///< what to do
  Quantity quantity;        ///< of value and limit
};

/// All kinds, in the order of FindingId.
const std::vector<FindingKind>& finding_kinds();

struct Finding {
  FindingId id;
  std::string subject;          ///< "gear.NAME", "pair.NAME" …; of a drawing the path of the reading
  std::optional<double> value;  ///< what was found [mm, rad or plain]
  std::optional<double> limit;  ///< what it is held against
  std::string detail{};         ///< what {detail} in the words stands for

  const FindingKind& kind() const { return finding_kinds()[static_cast<std::size_t>(id)]; }
};

}  // namespace palio
