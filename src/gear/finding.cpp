#include "palio/gear/finding.hpp"

namespace palio {

std::string_view name(Severity severity) noexcept {
  switch (severity) {
    case Severity::error: return "error";
    case Severity::warning: return "warning";
    case Severity::note: return "note";
  }
  return "";
}

const std::vector<FindingKind>& finding_kinds() {
  static const std::vector<FindingKind> kinds{
      {FindingId::module_differs, "module-differs", Severity::error,
       "the driver's module is {value}, the driven gear's is {limit}; teeth of different size cannot mesh",
       "give both the same module, best once in [shared]", Quantity::module_size},
      {FindingId::pressure_angle_differs, "pressure-angle-differs", Severity::error,
       "the driver's pressure angle is {value}, the driven gear's is {limit}; such flanks have different base pitches",
       "give both the same pressure_angle, best once in [shared]", Quantity::angle},
      {FindingId::helix_differs, "helix-differs", Severity::error,
       "the driver's helix angle is {value}, the driven gear's is {limit}; on parallel axes they must be equal",
       "give both the same helix_angle, with opposite hands (a ring and its pinion: the same hand)", Quantity::angle},
      {FindingId::hands_clash, "hands-clash", Severity::error,
       "the driver's teeth and the driven gear's are both {value}-handed; external gears (and racks) on parallel axes "
       "need opposite hands",
       "write hand = \"{limit}\" in the driven gear (or flip the driver's instead)", Quantity::hand},
      {FindingId::hands_differ, "hands-differ", Severity::error,
       "the driver's teeth are {value}-handed and the driven gear's are not; a ring and its pinion need the same hand",
       "write hand = \"{limit}\" in the driven gear (or flip the driver's instead)", Quantity::hand},
      {FindingId::kinds_cannot_pair, "kinds-cannot-pair", Severity::error,
       "these two sorts of gears never mesh: a ring meshes with an external gear only, and so does a rack",
       "pair each of them with a spur or helical gear", Quantity::number},
      {FindingId::halves_differ, "halves-differ", Severity::error,
       "one of the gears is double helical and the other is not, or their gaps or axial places differ: the halves must "
       "face each other",
       "make both double_helical, with the same gap and no axial_offset", Quantity::number},
      {FindingId::kinds_cannot_cross, "kinds-cannot-cross", Severity::error,
       "on crossed axes only spur and helical gears mesh with each other",
       "take helical gears whose helix angles add up to the shaft angle, or leave shaft_angle out", Quantity::number},
      {FindingId::shaft_angle_differs, "shaft-angle-differs", Severity::error,
       "the helix angles add up to {value} (right hand positive), but the shaft angle is {limit}",
       "change a helix_angle or a hand so that they add up to it (same hands add), or set shaft_angle to the sum",
       Quantity::angle},
      {FindingId::no_mesh_at_distance, "no-mesh-at-distance", Severity::error,
       "the center distance is {value}; these teeth have a mesh without play only where it is {limit} or more",
       "raise the center distance or the sum of the profile shifts", Quantity::length},
      {FindingId::negative_play, "negative-play", Severity::error,
       "the circumferential backlash at the mounted distance is {value}: the teeth overlap and jam",
       "mount the gears further apart, or thin the teeth (backlash, thickness_allowance)", Quantity::length},
      {FindingId::tip_bottoms, "tip-bottoms", Severity::error,
       "the tip clearance is {value}: the tip runs into the mate's root",
       "shorten that tip (addendum, tip_diameter), deepen the mate's root (dedendum) or mount further apart",
       Quantity::length},
      {FindingId::tip_in_fillet, "tip-in-fillet", Severity::error,
       "the mate's tip reaches down to diameter {value}, but this gear's flank ends at its root form diameter {limit}: "
       "the tip edge digs into the root fillet",
       "shorten the mate's tip, raise this gear's profile_shift, or deepen its root", Quantity::circle},
      {FindingId::tip_digs_root, "tip-digs-root", Severity::error,
       "with the flanks in contact, the edge of the mate's tip runs {value} into this gear's root curve",
       "shorten the mate's tip, deepen this gear's root (dedendum), or give the tool a smaller tool_tip_radius",
       Quantity::length},
      {FindingId::contact_below_base, "contact-below-base", Severity::error,
       "the mate's tip reaches {value} past the point where the line of action leaves this gear's base circle (its "
       "root "
       "form circle cannot lie lower): there is no involute there to touch",
       "shorten the mate's tip or raise this gear's profile_shift", Quantity::length},
      {FindingId::tip_below_base, "tip-below-base", Severity::error,
       "this ring's tip circle (diameter {value}) lies inside its base circle (diameter {limit}): the tips are no "
       "involute there",
       "shorten its teeth (addendum, tip_diameter) or give it more teeth", Quantity::circle},
      {FindingId::tip_fouling, "tip-fouling", Severity::error,
       "away from the mesh the tips of pinion and ring foul each other by {value} at the ring's tip circle; play does "
       "not help",
       "widen the difference of the tooth counts, shorten the addenda, or raise the working pressure angle by the "
       "shifts",
       Quantity::length},
      {FindingId::contact_ratio_below_one, "contact-ratio-below-one", Severity::error,
       "the contact ratio is {value}; below {limit} one pair of teeth parts before the next one meets",
       "bring the axes closer, give more teeth, longer addenda or a smaller pressure angle", Quantity::ratio},
      {FindingId::contact_ratio_low, "contact-ratio-low", Severity::warning,
       "the contact ratio is {value}, under the {limit} that leaves room for making and mounting errors",
       "bring the axes closer, give more teeth, longer addenda or a smaller pressure angle", Quantity::ratio},
      {FindingId::undercut, "undercut", Severity::warning,
       "the tool undercuts the flank: the generating profile shift is {value}, and {limit} is the least without "
       "undercut",
       "raise profile_shift to the limit, give more teeth, a larger pressure_angle or a smaller dedendum",
       Quantity::number},
      {FindingId::pointed_tip, "pointed-tip", Severity::warning,
       "the flanks meet in a point at diameter {value}, before the tip diameter {limit} asked for",
       "lower profile_shift or addendum, or set tip_diameter", Quantity::circle},
      {FindingId::thin_tip, "thin-tip", Severity::warning,
       "the tooth is only {value} thick at the tip, under {limit} (0.2 modules): it chips or prints badly",
       "lower profile_shift or addendum, or set tip_diameter", Quantity::length},
      {FindingId::small_tip_clearance, "small-tip-clearance", Severity::warning,
       "the clearance between tip and the mate's root is {value}, under {limit} (0.1 modules)",
       "shorten that tip (addendum, tip_diameter) or deepen the mate's root (dedendum)", Quantity::length},
      {FindingId::thin_rim, "thin-rim", Severity::warning,
       "behind the roots of the teeth only {value} of material is left, under {limit} (1.2 tooth depths)",
       "make the bore smaller (a ring: outer_diameter larger; a rack: base_height larger) or the gear larger",
       Quantity::length},
      {FindingId::cutter_cuts_tip, "cutter-cuts-tip", Severity::warning,
       "the pinion cutter cuts into the tips of this ring (diameter {value}): it clears only tip circles of diameter "
       "{limit} and more",
       "give cutter = { teeth } with more teeth, a shorter addendum, or a larger tip_diameter", Quantity::circle},
      {FindingId::axial_assembly_only, "axial-assembly-only", Severity::warning,
       "pushed in radially the pinion's teeth are stopped by the ring's tips, by {value} at the ring's tip circle",
       "put the pair together along the axis, or shorten the addenda", Quantity::length},
      {FindingId::span_off_involute, "span-off-involute", Severity::warning,
       "the span touches at diameter {value}, off the usable flank (which ends at {limit})",
       "measure over another number of teeth (span_teeth), or over balls", Quantity::circle},
      {FindingId::span_needs_face, "span-needs-face", Severity::warning,
       "the face width of {value} is too narrow to measure the span: it needs more than {limit}",
       "measure over fewer teeth (span_teeth), or over balls", Quantity::length},
      {FindingId::tip_shortening, "tip-shortening", Severity::note,
       "with these shifts the tip circle (diameter {value}) leaves less than the standard clearance; diameter {limit} "
       "would keep it",
       "set tip_diameter to that; it is never shortened silently", Quantity::circle},
      {FindingId::crossed_face_narrow, "crossed-face-narrow", Severity::warning,
       "the contact point travels over {limit} of this gear's face, which is only {value} wide: contact is cut short",
       "make the face wider, or move the gear along its axis", Quantity::length},
      {FindingId::not_back_drivable, "not-back-drivable", Severity::note,
       "with the given friction the driven gear cannot drive the driver: the efficiency backwards would be {value}",
       "take smaller helix angle of the driver or less friction where it must be driven back", Quantity::number},
      {FindingId::radial_root_line, "radial-root-line", Severity::note,
       "the base circle (diameter {value}) lies above the root circle (diameter {limit}), so below it the flank goes "
       "on "
       "as a radial line to the root fillet; no rolling tool makes that",
       "leave root out for the root that the rack generates", Quantity::circle},
      {FindingId::tool_tip_radius_reduced, "tool-tip-radius-reduced", Severity::note,
       "the usual tool tip radius of 0.38 modules does not fit this tool; the largest that fits, {value}, is used",
       "set tool_tip_radius to choose another one up to {limit}", Quantity::number},
      {FindingId::common_factor, "common-factor", Severity::note,
       "the tooth counts share the factor {value}: the same teeth meet again and again, and wear shows as a pattern",
       "change one count by one where even wear matters", Quantity::count},
      {FindingId::thin_wall, "thin-wall", Severity::warning,
       "the material between {detail} is {value} thick at its thinnest; {limit} is the least that the process makes, "
       "or half a module",
       "move or shrink one of them, or give a larger blank", Quantity::length},
      {FindingId::uneven_walls, "uneven-walls", Severity::warning,
       "the thickest wall ({detail}) is {value} times as thick as the thinnest; moulded parts warp and sink above "
       "about {limit}",
       "recess the thick places (web) or thicken the thin ones", Quantity::ratio},
      {FindingId::no_draft, "no-draft", Severity::note,
       "the walls stand upright, and the process asks for a draft of {limit}",
       "let the mould maker add the draft outside the teeth, or eject along the axis through the tooth form",
       Quantity::angle},
      {FindingId::tight_root, "tight-root", Severity::warning,
       "the tightest round of the root has a radius of {value}, and the process reaches into {limit} at least",
       "give a larger tool_tip_radius or fillet_radius, a larger module, or a finer tool", Quantity::length},
      {FindingId::tight_tip, "tight-tip", Severity::warning,
       "the tip land is {value} wide; a nozzle or beam that reaches into a radius of {limit} makes nothing narrower "
       "than twice that",
       "lower profile_shift, shorten the tooth, or take a larger module", Quantity::length},
      {FindingId::tight_gap, "tight-gap", Severity::warning,
       "the tooth space is {value} wide at the bottom of the flanks; a tool that reaches into a radius of {limit} "
       "needs twice that",
       "take a larger module, or a finer tool", Quantity::length},
      {FindingId::sharp_corner, "sharp-corner", Severity::note,
       "inner corners of the {detail} are sharp, and the process leaves a radius of {limit} in them",
       "leave room on the shaft or key, or file the corners", Quantity::length},
      {FindingId::face_too_wide, "face-too-wide", Severity::warning,
       "the face width is {value}, over {limit} (a third of the outer cone distance, and ten modules at most): the toe "
       "is too slender to carry and hard to "
       "cut",
       "make the face narrower, or the gears larger", Quantity::length},
      {FindingId::bevel_pointed, "bevel-pointed", Severity::warning,
       "the flanks meet in a point below the outer addendum {limit} asked for; it is shortened to {value}",
       "lower profile_shift or addendum", Quantity::length},
      {FindingId::bevel_shifts_add_up, "bevel-shifts-add-up", Severity::warning,
       "the profile shifts add up to {value}; the pitch cones of a bevel pair stay where they are, so the shifts must "
       "cancel out",
       "give the gears profile shifts x and -x; change thickness alone with thickness_shift or backlash",
       Quantity::number},
      {FindingId::cones_miss_shaft_angle, "cones-miss-shaft-angle", Severity::error,
       "the pitch cone angles add up to {value}, but the shaft angle is {limit}",
       "leave pitch_cone_angle out: the pair gives it", Quantity::angle},
      {FindingId::bevel_drawn_plain, "bevel-drawn-plain", Severity::note,
       "the process moves surfaces by {value}, but the teeth of bevel gears are drawn and reported without that: a "
       "parallel of such a flank no longer runs to "
       "the apex",
       "let the machine offset them, or thin the teeth with backlash", Quantity::length},
      {FindingId::rolling_circles_differ, "rolling-circles-differ", Severity::error,
       "the {detail} is {value}, but the mate that touches it was made with {limit}; such flanks are not conjugate",
       "give both gears the same rolling rule, or face_rolling_radius and flank_rolling_radius crosswise alike",
       Quantity::length},
      {FindingId::rolling_circles_meet, "rolling-circles-meet", Severity::error,
       "the rolling circles of both faces together reach {value}, more than the {limit} between the axes: away from "
       "the pitch point the teeth of ring and "
       "pinion foul each other",
       "take smaller rolling circles, or a larger difference of the tooth counts", Quantity::length},
      {FindingId::cycloidal_off_distance, "cycloidal-off-distance", Severity::warning,
       "the axes are mounted {value} apart, but cycloidal teeth run without error at {limit} only; roll shows the "
       "error",
       "mount them at that distance, or take involute teeth where it cannot be kept", Quantity::length},
      {FindingId::cycloidal_drawn_plain, "cycloidal-drawn-plain", Severity::note,
       "the process moves surfaces by {value}, but cycloidal teeth are drawn and reported without that",
       "let the machine offset them, or give backlash", Quantity::length},
      {FindingId::clock_not_conjugate, "clock-not-conjugate", Severity::note,
       "clock teeth have circular arcs as addenda and radial flanks: they are not conjugate, and the ratio wavers "
       "within each tooth; roll says by how much",
       "take form = \"true\" where the motion must be even", Quantity::number},
      {FindingId::leaf_table_unchecked, "leaf-table-unchecked", Severity::note,
       "the tip of a pinion of {value} leaves is what we believe of BS 978-2; it could not be compared with the "
       "printed standard",
       "compare it before cutting to that standard; addendum, addendum_arc_radius and tooth_width override it",
       Quantity::count},
      {FindingId::clock_depthing, "clock-depthing", Severity::error,
       "the leaf and the wheel's tooth together are wider than the pitch by {value}: they jam",
       "give a smaller tooth_width", Quantity::length},
      {FindingId::lantern_pins_differ, "lantern-pins-differ", Severity::error,
       "the wheel's flanks are made for {detail} {limit}, but the pinion has {value}",
       "let the pair give the wheel its pins, or make them alike", Quantity::number},
      {FindingId::lantern_plates_in_the_way, "lantern-plates-in-the-way", Severity::error,
       "the wheel reaches between the end plates of the lantern, but needs {value} there, and they stand {limit} apart",
       "make the wheel's face_width smaller or the lantern's larger", Quantity::length},
      {FindingId::flank_stops_early, "flank-stops-early", Severity::warning,
       "the mate reaches down to diameter {value}, but the cycloidal flank ends at diameter {limit}: fillet or root is "
       "touched",
       "make fillet_radius smaller or the dedendum larger", Quantity::circle},
      {FindingId::reducer_jams, "reducer-jams", Severity::error,
       "it cannot be put together or jams: parts overlap by {value}; {detail}", "change that and roll again",
       Quantity::length},
      {FindingId::reducer_thin_wall, "reducer-thin-wall", Severity::warning,
       "the material between {detail} is {value}, under {limit} (a tenth of the holes)",
       "make the holes smaller, take fewer output pins or move their circle", Quantity::length},
      {FindingId::reducer_near_limit, "reducer-near-limit", Severity::warning,
       "{detail} is {value}, and {limit} is the limit: less than a twentieth is left", "keep away from the limit",
       Quantity::length},
      {FindingId::reducer_discs_differ, "reducer-discs-differ", Severity::note,
       "the output holes of one disc do not serve for the others: {value} discs need parts of their own (they are made "
       "as such)",
       "one part serves with {detail} output pins", Quantity::count},
      {FindingId::reducer_play_varies, "reducer-play-varies", Severity::note,
       "the play at the output wavers between {value} and {limit} over a turn of the input",
       "more rollers give evener play", Quantity::angle},
      {FindingId::reducer_shaft_in_the_way, "reducer-shaft-in-the-way", Severity::note,
       "the discs in the middle do not pass over the journals beside them: a shaft of one piece cannot take {value} "
       "discs",
       "build the shaft of parts, or split the middle bearings", Quantity::count},
      {FindingId::reducer_self_locking, "reducer-self-locking", Severity::note,
       "with the given friction the output cannot drive the input: the efficiency backwards would be {value}",
       "let the rollers turn on pins, or lower the ratio", Quantity::number},
      {FindingId::loop_turns, "loop-turns", Severity::error, "the pair closes a loop that cannot turn: {detail}",
       "leave one pair of the loop out, or choose kinds and tooth counts with which both ways round give the same "
       "ratio",
       Quantity::ratio},
      {FindingId::loop_phase, "loop-phase", Severity::error,
       "the pair closes a loop whose teeth do not meet: the other pairs hold the driven {value} off the middle of its "
       "play, which gives way by {limit}",
       "{detail}", Quantity::angle},
      {FindingId::loop_off_middle, "loop-off-middle", Severity::warning,
       "the pair closes a loop that only its play lets close: the other pairs hold the driven {value} off the middle "
       "of its play, which gives way by {limit}",
       "{detail}", Quantity::angle},
      {FindingId::no_play, "no-play", Severity::warning,
       "the circumferential backlash as made is {value}, under the least of {limit}: the teeth bind with the slightest "
       "error",
       "allow for {detail}", Quantity::length},
      {FindingId::reducer_no_clearance, "reducer-no-clearance", Severity::warning,
       "the clearance between discs and rollers as made is {value}, under the least of {limit}: it will hardly turn",
       "allow for {detail}", Quantity::length},
      {FindingId::differs_from_drawing, "differs-from-drawing", Severity::warning, "not as drawn, {detail}",
       "change the design, or what [expect] says of the drawing", Quantity::number},
      {FindingId::agrees_with_drawing, "agrees-with-drawing", Severity::note, "as the drawing says, {detail}",
       "nothing is to be done", Quantity::number},
  };
  return kinds;
}

}  // namespace palio
