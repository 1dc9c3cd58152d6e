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
       "the driver's module is {value}, the driven gear's is {limit}; teeth of different size cannot mesh", "give both the same module, best once in [shared]",
       Quantity::module_size},
      {FindingId::pressure_angle_differs, "pressure-angle-differs", Severity::error,
       "the driver's pressure angle is {value}, the driven gear's is {limit}; such flanks have different base pitches",
       "give both the same pressure_angle, best once in [shared]", Quantity::angle},
      {FindingId::helix_differs, "helix-differs", Severity::error,
       "the driver's helix angle is {value}, the driven gear's is {limit}; on parallel axes they must be equal",
       "give both the same helix_angle, with opposite hands (a ring and its pinion: the same hand)", Quantity::angle},
      {FindingId::hands_clash, "hands-clash", Severity::error,
       "the driver's teeth and the driven gear's are both {value}-handed; external gears (and racks) on parallel axes need opposite hands",
       "write hand = \"{limit}\" in the driven gear (or flip the driver's instead)", Quantity::hand},
      {FindingId::hands_differ, "hands-differ", Severity::error,
       "the driver's teeth are {value}-handed and the driven gear's are not; a ring and its pinion need the same hand",
       "write hand = \"{limit}\" in the driven gear (or flip the driver's instead)", Quantity::hand},
      {FindingId::kinds_cannot_pair, "kinds-cannot-pair", Severity::error,
       "these two sorts of gears never mesh: a ring meshes with an external gear only, and so does a rack", "pair each of them with a spur or helical gear",
       Quantity::number},
      {FindingId::halves_differ, "halves-differ", Severity::error,
       "one of the gears is double helical and the other is not, or their gaps or axial places differ: the halves must face each other",
       "make both double_helical, with the same gap and no axial_offset", Quantity::number},
      {FindingId::kinds_cannot_cross, "kinds-cannot-cross", Severity::error, "on crossed axes only spur and helical gears mesh with each other",
       "take helical gears whose helix angles add up to the shaft angle, or leave shaft_angle out", Quantity::number},
      {FindingId::shaft_angle_differs, "shaft-angle-differs", Severity::error,
       "the helix angles add up to {value} (right hand positive), but the shaft angle is {limit}",
       "change a helix_angle or a hand so that they add up to it (same hands add), or set shaft_angle to the sum", Quantity::angle},
      {FindingId::no_mesh_at_distance, "no-mesh-at-distance", Severity::error,
       "the center distance is {value}; these teeth have a mesh without play only where it is {limit} or more",
       "raise the center distance or the sum of the profile shifts", Quantity::length},
      {FindingId::negative_play, "negative-play", Severity::error, "the circumferential backlash at the mounted distance is {value}: the teeth overlap and jam",
       "mount the gears further apart, or thin the teeth (backlash, thickness_allowance)", Quantity::length},
      {FindingId::tip_bottoms, "tip-bottoms", Severity::error, "the tip clearance is {value}: the tip runs into the mate's root",
       "shorten that tip (addendum, tip_diameter), deepen the mate's root (dedendum) or mount further apart", Quantity::length},
      {FindingId::tip_in_fillet, "tip-in-fillet", Severity::error,
       "the mate's tip reaches down to diameter {value}, but this gear's flank ends at its root form diameter {limit}: "
       "the tip edge digs into the root fillet",
       "shorten the mate's tip, raise this gear's profile_shift, or deepen its root", Quantity::circle},
      {FindingId::tip_digs_root, "tip-digs-root", Severity::error,
       "with the flanks in contact, the edge of the mate's tip runs {value} into this gear's root curve",
       "shorten the mate's tip, deepen this gear's root (dedendum), or give the tool a smaller tool_tip_radius", Quantity::length},
      {FindingId::contact_below_base, "contact-below-base", Severity::error,
       "the mate's tip reaches {value} past the point where the line of action leaves this gear's base circle (its root "
       "form circle cannot lie lower): there is no involute there to touch",
       "shorten the mate's tip or raise this gear's profile_shift", Quantity::length},
      {FindingId::tip_below_base, "tip-below-base", Severity::error,
       "this ring's tip circle (diameter {value}) lies inside its base circle (diameter {limit}): the tips are no involute there",
       "shorten its teeth (addendum, tip_diameter) or give it more teeth", Quantity::circle},
      {FindingId::tip_fouling, "tip-fouling", Severity::error,
       "away from the mesh the tips of pinion and ring foul each other by {value} at the ring's tip circle; play does not help",
       "widen the difference of the tooth counts, shorten the addenda, or raise the working pressure angle by the shifts", Quantity::length},
      {FindingId::contact_ratio_below_one, "contact-ratio-below-one", Severity::error,
       "the contact ratio is {value}; below {limit} one pair of teeth parts before the next one meets",
       "bring the axes closer, give more teeth, longer addenda or a smaller pressure angle", Quantity::ratio},
      {FindingId::contact_ratio_low, "contact-ratio-low", Severity::warning,
       "the contact ratio is {value}, under the {limit} that leaves room for making and mounting errors",
       "bring the axes closer, give more teeth, longer addenda or a smaller pressure angle", Quantity::ratio},
      {FindingId::undercut, "undercut", Severity::warning,
       "the tool undercuts the flank: the generating profile shift is {value}, and {limit} is the least without undercut",
       "raise profile_shift to the limit, give more teeth, a larger pressure_angle or a smaller dedendum", Quantity::number},
      {FindingId::pointed_tip, "pointed-tip", Severity::warning, "the flanks meet in a point at diameter {value}, before the tip diameter {limit} asked for",
       "lower profile_shift or addendum, or set tip_diameter", Quantity::circle},
      {FindingId::thin_tip, "thin-tip", Severity::warning, "the tooth is only {value} thick at the tip, under {limit} (0.2 modules): it chips or prints badly",
       "lower profile_shift or addendum, or set tip_diameter", Quantity::length},
      {FindingId::small_tip_clearance, "small-tip-clearance", Severity::warning,
       "the clearance between tip and the mate's root is {value}, under {limit} (0.1 modules)",
       "shorten that tip (addendum, tip_diameter) or deepen the mate's root (dedendum)", Quantity::length},
      {FindingId::thin_rim, "thin-rim", Severity::warning, "behind the roots of the teeth only {value} of material is left, under {limit} (1.2 tooth depths)",
       "make the bore smaller (a ring: outer_diameter larger; a rack: base_height larger) or the gear larger", Quantity::length},
      {FindingId::cutter_cuts_tip, "cutter-cuts-tip", Severity::warning,
       "the pinion cutter cuts into the tips of this ring (diameter {value}): it clears only tip circles of diameter {limit} and more",
       "give cutter = { teeth } with more teeth, a shorter addendum, or a larger tip_diameter", Quantity::circle},
      {FindingId::axial_assembly_only, "axial-assembly-only", Severity::warning,
       "pushed in radially the pinion's teeth are stopped by the ring's tips, by {value} at the ring's tip circle",
       "put the pair together along the axis, or shorten the addenda", Quantity::length},
      {FindingId::span_off_involute, "span-off-involute", Severity::warning,
       "the span touches at diameter {value}, off the usable flank (which ends at {limit})", "measure over another number of teeth (span_teeth), or over balls",
       Quantity::circle},
      {FindingId::span_needs_face, "span-needs-face", Severity::warning,
       "the face width of {value} is too narrow to measure the span: it needs more than {limit}", "measure over fewer teeth (span_teeth), or over balls",
       Quantity::length},
      {FindingId::tip_shortening, "tip-shortening", Severity::note,
       "with these shifts the tip circle (diameter {value}) leaves less than the standard clearance; diameter {limit} would keep it",
       "set tip_diameter to that; it is never shortened silently", Quantity::circle},
      {FindingId::crossed_face_narrow, "crossed-face-narrow", Severity::warning,
       "the contact point travels over {limit} of this gear's face, which is only {value} wide: contact is cut short",
       "make the face wider, or move the gear along its axis", Quantity::length},
      {FindingId::not_back_drivable, "not-back-drivable", Severity::note,
       "with the given friction the driven gear cannot drive the driver: the efficiency backwards would be {value}",
       "take smaller helix angle of the driver or less friction where it must be driven back", Quantity::number},
      {FindingId::radial_root_line, "radial-root-line", Severity::note,
       "the base circle (diameter {value}) lies above the root circle (diameter {limit}), so below it the flank goes on "
       "as a radial line to the root fillet; no rolling tool makes that",
       "leave root out for the root that the rack generates", Quantity::circle},
      {FindingId::tool_tip_radius_reduced, "tool-tip-radius-reduced", Severity::note,
       "the usual tool tip radius of 0.38 modules does not fit this tool; the largest that fits, {value}, is used",
       "set tool_tip_radius to choose another one up to {limit}", Quantity::number},
      {FindingId::common_factor, "common-factor", Severity::note,
       "the tooth counts share the factor {value}: the same teeth meet again and again, and wear shows as a pattern",
       "change one count by one where even wear matters", Quantity::count},
  };
  return kinds;
}

}  // namespace palio
