#include "keys.hpp"

#include "palio/job/design.hpp"

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

namespace palio::job {
namespace {

constexpr std::nullopt_t kNone = std::nullopt;

Key later(Section section, std::string_view path, Type type, std::string_view meaning) {
  return {section, path, type, kNone, kNone, false, "", "", meaning, Readiness::later};
}

std::vector<Key> make_keys() {
  using S = Section;
  using T = Type;
  std::vector<Key> all{
      {S::top, "title", T::text, kNone, kNone, false, "", "empty",
       "what this job is; stands in every file made from it"},
      {S::top, "units", T::choice, kNone, kNone, false, "mm in", "mm", "lengths in this file and in what is printed"},
      {S::top, "values", T::table, kNone, kNone, false, "", "none",
       "named numbers for use in strings: \"shaft + 0.1\""},
      {S::top, "shared", T::table, kNone, kNone, false, "", "none",
       "what mating gears share; any gear may say otherwise"},
      {S::top, "gear", T::table, kNone, kNone, false, "", "none", "one table for each gear, [gear.NAME]"},
      {S::top, "pair", T::table, kNone, kNone, false, "", "none", "one table for each pair, [pair.NAME]"},
      {S::top, "process", T::table, kNone, kNone, false, "", "none", "what the making does to size"},
      {S::top, "material", T::table, kNone, kNone, false, "", "none",
       "one table for each material of one's own, [material.NAME]"},
      {S::top, "frame", T::table, kNone, kNone, false, "", "none",
       "one table for each plate that carries axes, [frame.NAME]"},
      {S::top, "reducer", T::table, kNone, kNone, false, "", "none",
       "one table for each cycloidal speed reducer, [reducer.NAME]"},
      later(S::top, "planetary", T::table, "planetary sets"),
      later(S::top, "train", T::table, "pairs in a row"),
      later(S::top, "want", T::table, "what palio find aims at"),

      {S::gear, "like", T::text, kNone, kNone, false, "", "none",
       "takes over everything of another gear, except what follows", Readiness::ready, true},
      {S::gear, "kind", T::choice, kNone, kNone, false,
       "spur helical double_helical internal rack bevel cycloidal lantern", "asked for", "what sort of gear"},
      {S::gear, "teeth", T::whole, 1, 5000, false, "", "asked for",
       "number of teeth (of a pinion its leaves, of a lantern its pins); \"leaves\" is understood too",
       Readiness::ready, true},
      {S::gear, "module", T::millimetres, 0.01, 200, false, "", "asked for",
       "normal module (bevel: outer transverse), in mm whatever the units"},
      {S::gear, "diametral_pitch", T::per_inch, 0.1, 2540, false, "", "none",
       "teeth per inch of reference diameter, in place of module (25.4 mm divided by it)"},
      {S::gear, "reference_diameter", T::length, 0.0, kNone, true, "", "teeth times module",
       "two of teeth, module and reference_diameter give the third", Readiness::ready, true},
      {S::gear, "pressure_angle", T::angle, 5, 45, false, "", "20", "pressure angle in the normal section"},
      {S::gear, "reference_profile", T::choice, kNone, kNone, false,
       "iso53-a iso53-b iso53-c iso53-d full-depth-14.5 full-depth-20 stub-20 fine-pitch-20", "none",
       "sets addendum, dedendum, tool_tip_radius and pressure_angle together"},
      {S::gear, "profile_shift", T::plain, -5, 5, false, "", "0", "in modules; positive thickens the tooth"},
      {S::gear, "addendum", T::plain, 0.05, 5, false, "", "1", "of the reference profile, in modules"},
      {S::gear, "dedendum", T::plain, 0.05, 5, false, "", "1.25", "of the reference profile, in modules"},
      {S::gear, "tool_tip_radius", T::plain, 0.0, 5, false, "", "0.38, or the largest that the tool allows",
       "round of the rack tool's corner, in modules"},
      {S::gear, "root", T::choice, kNone, kNone, false, "generated", "generated",
       "\"generated\" as the rack cuts it, or { fillet_radius = … }"},
      {S::gear, "root.fillet_radius", T::length, 0.0, kNone, true, "", "none",
       "a plain tangent arc as the root, in place of the generated one"},
      {S::gear, "tip_diameter", T::length, 0.0, kNone, true, "", "from addendum and profile_shift",
       "in place of the addendum"},
      {S::gear, "root_diameter", T::length, 0.0, kNone, true, "", "from dedendum, profile_shift and allowance",
       "of the tooth as made, in place of the dedendum"},
      {S::gear, "thickness_allowance", T::length, kNone, kNone, false, "", "0, or what a pair's backlash asks for",
       "change of tooth thickness, normal section, reference cylinder; negative thins"},
      {S::gear, "face_width", T::length, 0.0, kNone, true, "", "ten modules; bevel six, lantern twelve",
       "length of the teeth along the axis; of a lantern between its plates"},
      {S::gear, "bore.diameter", T::length, 0.0, kNone, false, "", "0, no bore", "plain round bore"},
      {S::gear, "span_teeth", T::whole, 1, 5000, false, "", "recommended", "teeth to measure the span over",
       Readiness::ready, true},
      {S::gear, "pin_diameter", T::length, 0.0, kNone, true, "", "a sensible one is chosen; of a lantern asked for",
       "of the pins or balls to measure over; of a lantern pinion (and its wheel) the pins themselves"},
      {S::gear, "helix_angle", T::angle, 0, 60, false, "", "0 (spur); asked for where the kind is helical",
       "angle of the teeth to the axis at the reference cylinder"},
      {S::gear, "lead", T::length, 0.0, kNone, true, "", "from helix_angle",
       "height of one turn of the teeth, in place of helix_angle", Readiness::ready, true},
      {S::gear, "hand", T::choice, kNone, kNone, false, "left right", "asked for where there is a helix angle",
       "right: the teeth rise to the right, the axis upright", Readiness::ready, true},
      {S::gear, "system", T::choice, kNone, kNone, false, "normal transverse", "normal",
       "section in which module, pressure angle and coefficients are given"},
      {S::gear, "gap", T::length, 0.0, kNone, false, "", "0",
       "groove between the halves of a double helical gear, part of face_width"},
      {S::gear, "apex", T::choice, kNone, kNone, false, "clockwise counter-clockwise",
       "asked for where the kind is double_helical", "which way the V of a double helical gear points, seen from +z",
       Readiness::ready, true},
      {S::gear, "tip_chamfer", T::length, 0.0, kNone, false, "", "0",
       "flat break of the tip edge: so much off the height of the flank and off the width of the tip"},
      {S::gear, "tip_round", T::length, 0.0, kNone, false, "", "0",
       "radius of a round between flank and tip, tangent to both"},
      {S::gear, "cutter.teeth", T::whole, 6, 5000, false, "", "chosen and reported",
       "of the pinion cutter that makes the root of an internal gear"},
      {S::gear, "cutter.profile_shift", T::plain, -5, 5, false, "", "0", "of the pinion cutter, in modules"},
      {S::gear, "cutter.tip_diameter", T::length, 0.0, kNone, true, "", "what reaches the root",
       "of the pinion cutter; it makes the root circle"},
      {S::gear, "cutter.tip_corner_radius", T::length, 0.0, kNone, false, "",
       "tool_tip_radius, or the largest with a land", "round of the cutter's corner, transverse section"},
      {S::gear, "outer_diameter", T::length, 0.0, kNone, true, "", "2.5 modules beyond the root circle",
       "of the body of an internal gear", Readiness::ready, true},
      {S::gear, "rim_thickness", T::length, 0.0, kNone, true, "",
       "from outer_diameter; bevel: 1.2 tooth depths, less where bore or axis are near",
       "beyond the roots: of an internal gear in place of outer_diameter; of a bevel gear behind the heel's roots, "
       "along the back cone"},
      {S::gear, "pitch_cone_angle", T::angle, 0.0, 90, true, "", "from the pair's teeth and shaft_angle",
       "of a bevel gear that is in no pair; 90 is a crown gear", Readiness::ready, true},
      {S::gear, "thickness_shift", T::plain, -1, 1, false, "", "0",
       "of a bevel gear, in modules: the tooth is thicker by twice that, cones stay; the mate takes the opposite",
       Readiness::ready, true},
      {S::gear, "tooth_thickness", T::length, 0.0, kNone, true, "", "half the pitch, shifts and allowance",
       "outer transverse arc of a bevel gear, in place of thickness_shift and thickness_allowance", Readiness::ready,
       true},
      {S::gear, "depth", T::choice, kNone, kNone, false, "constant_clearance tapered parallel", "constant_clearance",
       "how the depth of bevel teeth runs: face cone parallel to the mate's root cone; both to the apex; both parallel "
       "to the pitch cone"},
      {S::gear, "ends", T::choice, kNone, kNone, false, "cones spheres", "cones",
       "what closes bevel teeth at heel and toe"},
      {S::gear, "form", T::choice, kNone, kNone, false, "true clock lantern_wheel", "true",
       "of cycloidal teeth: epicycloids and hypocycloids; circular arcs of clock practice; the wheel of a lantern "
       "pinion"},
      {S::gear, "internal", T::flag, kNone, kNone, false, "", "false", "a ring, of the true form", Readiness::ready,
       true},
      {S::gear, "face_rolling_radius", T::length, 0.0, kNone, true, "",
       "that of the mate's flanks, or by the pair's rolling",
       "radius of the circle that makes this gear's faces (beyond the pitch circle; a ring's: within it)",
       Readiness::ready, true},
      {S::gear, "flank_rolling_radius", T::length, 0.0, kNone, true, "",
       "that of the mate's faces, or by the pair's rolling",
       "radius of the circle that makes this gear's flanks; half its pitch radius makes them radial", Readiness::ready,
       true},
      {S::gear, "rolling_radius", T::length, 0.0, kNone, true, "", "none",
       "one circle for faces and flanks: gears that share it make an interchangeable set"},
      {S::gear, "role", T::choice, kNone, kNone, false, "wheel pinion", "by the teeth of the pair", "of clock teeth",
       Readiness::ready, true},
      {S::gear, "mate_teeth", T::whole, 3, 5000, false, "", "from the pair",
       "teeth, leaves or pins that clock teeth or a lantern wheel are made for", Readiness::ready, true},
      {S::gear, "addendum_arc_radius", T::length, 0.0, kNone, true, "", "from the table of practice",
       "of clock teeth: radius of the arc from pitch circle to tip", Readiness::ready, true},
      {S::gear, "tooth_width", T::length, 0.0, kNone, true, "", "from the table of practice",
       "of clock teeth, arc along the pitch circle", Readiness::ready, true},
      {S::gear, "plate_thickness", T::length, 0.0, kNone, true, "", "the pin diameter",
       "of each end plate of a lantern pinion, outside its face width", Readiness::ready, true},
      {S::gear, "plate_diameter", T::length, 0.0, kNone, true, "", "half a pin diameter beyond the pins",
       "of the end plates of a lantern pinion", Readiness::ready, true},
      {S::gear, "length", T::length, 0.0, kNone, true, "", "teeth times pitch", "of a rack", Readiness::ready, true},
      {S::gear, "base_height", T::length, 0.0, kNone, true, "", "three modules",
       "of a rack, from its reference line to its back"},
      {S::gear, "bore.allowance", T::length, kNone, kNone, false, "", "0",
       "play of the shaft in the bore, on diameter; negative for a press fit"},
      {S::gear, "bore.grip", T::choice, kNone, kNone, false, "press slide free", "none",
       "the play that the process keeps for this fit, in place of bore.allowance"},
      {S::gear, "bore.chamfer", T::length, 0.0, kNone, false, "", "0", "at 45°, at both ends of a plain round bore"},
      {S::gear, "keyway", T::choice, kNone, kNone, false, "standard", "none",
       "\"standard\" for the bore (see below), or { width, height, angles }"},
      {S::gear, "keyway.width", T::length, 0.0, kNone, true, "", "asked for", "of the keyway"},
      {S::gear, "keyway.height", T::length, 0.0, kNone, true, "", "asked for",
       "from the opposite wall of the bore to the keyway's bottom, as drawings give it"},
      {S::gear, "keyway.angles", T::angles, kNone, kNone, false, "", "[0]",
       "of each keyway's middle, from the middle of a tooth"},
      {S::gear, "flat.height", T::length, 0.0, kNone, true, "", "asked for",
       "of a D-shaft's bore: from the opposite wall to the flat"},
      {S::gear, "flat.angle", T::angle, kNone, kNone, false, "", "0",
       "of the flat's middle, from the middle of a tooth"},
      {S::gear, "hex.across_flats", T::length, 0.0, kNone, true, "", "asked for",
       "of a hexagonal bore, in place of bore.diameter"},
      {S::gear, "hex.angle", T::angle, kNone, kNone, false, "", "0",
       "of the middle of a flat, from the middle of a tooth"},
      {S::gear, "hubs.face", T::choice, kNone, kNone, false, "top bottom", "top", "top: the hub stands out towards +z"},
      {S::gear, "hubs.diameter", T::length, 0.0, kNone, true, "", "asked for", "of a hub; hubs is a list of tables"},
      {S::gear, "hubs.length", T::length, 0.0, kNone, true, "", "asked for",
       "how far the hub stands out beyond the teeth's face"},
      {S::gear, "web.thickness", T::length, 0.0, kNone, true, "", "asked for", "of the plate left between rim and hub"},
      {S::gear, "web.inner_diameter", T::length, 0.0, kNone, true, "", "that of the largest hub",
       "where the recess begins"},
      {S::gear, "web.outer_diameter", T::length, 0.0, kNone, true, "", "from wall", "where the recess ends"},
      {S::gear, "web.wall", T::length, 0.0, kNone, true, "", "none",
       "rim left below the teeth, radially from the root circle, in place of outer_diameter"},
      {S::gear, "web.face", T::choice, kNone, kNone, false, "both top bottom", "both", "which face is recessed"},
      {S::gear, "spokes.count", T::whole, 2, 100, false, "", "asked for", "number of arms; the first lies on +x"},
      {S::gear, "spokes.width", T::length, 0.0, kNone, true, "", "asked for", "of an arm"},
      {S::gear, "spokes.inner_diameter", T::length, 0.0, kNone, true, "", "just outside the web's",
       "where the windows begin"},
      {S::gear, "spokes.outer_diameter", T::length, 0.0, kNone, true, "", "just inside the web's",
       "where the windows end"},
      {S::gear, "spokes.fillet_radius", T::length, 0.0, kNone, false, "", "a tenth of the windows' radial length",
       "in the windows' corners"},
      {S::gear, "holes.count", T::whole, 1, 1000, false, "", "1",
       "holes on a circle; holes is a table or a list of tables"},
      {S::gear, "holes.circle_diameter", T::length, 0.0, kNone, true, "", "asked for",
       "of the circle that the holes' middles lie on"},
      {S::gear, "holes.diameter", T::length, 0.0, kNone, true, "", "asked for", "of a hole"},
      {S::gear, "holes.angle", T::angle, kNone, kNone, false, "", "0", "of the first hole, from the middle of a tooth"},
      later(S::gear, "set_screw", T::table,
            "a radial hole: it has no exact faces in this model, so it is refused; drill it"),
      {S::gear, "sector_teeth", T::whole, 1, 5000, false, "", "all teeth",
       "only so many teeth, the rest of the rim left away", Readiness::ready, true},
      {S::gear, "sector_back_diameter", T::length, 0.0, kNone, true, "", "of hub or bore, and two modules",
       "round back of a sector gear"},
      {S::gear, "material", T::text, kNone, kNone, false, "", "none",
       "one of the table below, or of [material.NAME]; gives mass and inertia"},
      {S::gear, "part_name", T::text, kNone, kNone, false, "", "the gear's name", "for title block and files",
       Readiness::ready, true},
      {S::gear, "part_number", T::text, kNone, kNone, false, "", "none", "for the title block", Readiness::ready, true},
      {S::gear, "mark.depth", T::length, 0.0, kNone, true, "", "no mark",
       "engraves a dot on the face of the meshing tooth (driver) or beside the space (driven)"},
      {S::gear, "mark.text", T::flag, kNone, kNone, false, "", "false", "engraves module and tooth count too"},

      {S::pair, "driver", T::text, kNone, kNone, false, "", "asked for", "name of the gear that drives"},
      {S::pair, "driven", T::text, kNone, kNone, false, "", "asked for", "name of the gear that is driven"},
      {S::pair, "center_distance", T::length, 0.0, kNone, true, "", "the distance without play for the given shifts",
       "as designed; thinning is worked out for it"},
      {S::pair, "mounted_center_distance", T::length, 0.0, kNone, true, "", "as designed",
       "as built; report and roll use it, thinning does not"},
      {S::pair, "backlash", T::length_or_share, 0.0, kNone, false, "", "what distance and allowances give",
       "whole circumferential play at the working pitch circle (crossed: in the normal section; bevel: at the outer "
       "cone); 0 means exactly none"},
      {S::pair, "backlash_share", T::share, 0.0, 1, false, "teeth even", "teeth",
       "how the thinning is divided: by tooth count, evenly, or the driver's fraction"},
      {S::pair, "direction", T::angle, kNone, kNone, false, "", "0",
       "about the driver's axis, where the pitch point lies; 0 is +x"},
      {S::pair, "start_angle", T::angle, kNone, kNone, false, "", "0", "of the driver; 0 has a tooth on +x"},
      {S::pair, "shaft_angle", T::angle, -175, 175, false, "", "0, parallel axes; bevel: 90",
       "of crossed helical gears: the sum of their helix angles, right hand positive; of bevel gears between the axes "
       "from the apex to the teeth"},
      {S::pair, "rolling", T::choice, kNone, kNone, false, "radial_flanks equal_circles",
       "radial_flanks; with a ring equal_circles",
       "rule for rolling circles that no gear gives: each flank radial, or one circle (half the smaller pitch radius, "
       "at most half the distance) for all"},
      {S::pair, "mounting_error.driver", T::length, kNone, kNone, false, "", "0",
       "of a bevel pair: the driver stands so far along its axis, away from the apex"},
      {S::pair, "mounting_error.driven", T::length, kNone, kNone, false, "", "0", "the same of the driven"},
      {S::pair, "mounting_error.shaft_angle", T::angle, -10, 10, false, "", "0",
       "by which the shaft angle is too large"},
      {S::pair, "mounting_error.offset", T::length, kNone, kNone, false, "", "0", "by which the axes miss each other"},
      {S::pair, "axial_offset", T::length, kNone, kNone, false, "", "0", "of the driven's mid-face along its axis"},
      {S::pair, "friction", T::plain, 0.0, 1, false, "", "none",
       "coefficient between the flanks of crossed helical gears; with it efficiency and self-locking are reported"},
      {S::pair, "speed", T::plain, 0.0, kNone, false, "", "none",
       "r/min of the driver (of a rack's mate where the rack drives); with it speeds, tooth frequency and sliding are "
       "reported"},

      {S::process, "preset", T::choice, kNone, kNone, false, "print mill wire laser mould", "none",
       "sets the numbers below to those of the table of presets; any may be overridden"},
      {S::process, "hole_allowance", T::length_by_diameter, kNone, kNone, false, "", "0",
       "by how much holes come out smaller, on diameter: one number, or by diameter as { \"3\" = 0.3, \"10\" = 0.2 }"},
      {S::process, "press", T::length, kNone, kNone, false, "", "0",
       "play on diameter that bore.grip = \"press\" leaves; negative: interference"},
      {S::process, "slide", T::length, kNone, kNone, false, "", "0", "the same for \"slide\""},
      {S::process, "free", T::length, kNone, kNone, false, "", "0", "the same for \"free\""},
      {S::process, "surface_offset", T::length, kNone, kNone, false, "", "0",
       "how far flanks, roots and tips come out beyond what was drawn, along the normal; negative: short of it"},
      {S::process, "first_layer_inset.amount", T::length, 0.0, kNone, false, "", "0",
       "how far the first layers spread; they are drawn in by it"},
      {S::process, "first_layer_inset.up_to", T::length, 0.0, kNone, true, "", "asked for beside amount",
       "height up to which they spread"},
      {S::process, "shrinkage", T::fraction, 0.0, 0.2, false, "", "0",
       "of all lengths, as 0.006 or \"0.6 %\"; or { radial, axial }"},
      {S::process, "shrinkage.radial", T::fraction, 0.0, 0.2, false, "", "0", "across the axis"},
      {S::process, "shrinkage.axial", T::fraction, 0.0, 0.2, false, "", "0", "along the axis"},
      {S::process, "kerf", T::length, 0.0, kNone, false, "", "0",
       "width that the beam or wire takes away; half of it on either side"},
      {S::process, "draft", T::angle, 0.0, 20, false, "", "0, none needed", "taper that walls need to leave the mould"},
      {S::process, "smallest_radius", T::length, 0.0, kNone, false, "", "0",
       "that cutter, beam or nozzle can reach into"},
      {S::process, "least_wall", T::length, 0.0, kNone, false, "", "0", "thinnest wall that can be made"},
      {S::process, "center_distance_tolerance", T::length, 0.0, kNone, false, "", "0.01 mm, or the preset's",
       "how far to either side axes may come to stand from where they should: what play is asked to allow for"},
      {S::process, "corrected", T::choices, kNone, kNone, false, "holes first_layer kerf shrinkage surface",
       "[\"holes\", \"first_layer\", \"kerf\", \"shrinkage\"]",
       "which of these effects the files make up for; the others are left to come out"},

      {S::frame, "pairs", T::names, kNone, kNone, false, "", "all pairs on parallel axes",
       "whose axes the plate carries; [] for a plate of holes alone"},
      {S::frame, "thickness", T::length, 0.0, kNone, true, "", "asked for", "of the plate"},
      {S::frame, "margin", T::length, 0.0, kNone, true, "", "twice the thickness",
       "from bores and holes to the outline"},
      {S::frame, "axial_gap", T::length, 0.0, kNone, false, "", "a tenth of the thickness",
       "air between a post and its gear"},
      {S::frame, "post_height", T::length, 0.0, kNone, false, "", "0, no posts",
       "of the lowest post; the others reach as near to their gears"},
      {S::frame, "post_diameter", T::length, 0.0, kNone, true, "", "bore and the thickness", "of the posts"},
      {S::frame, "bore.diameter", T::length, 0.0, kNone, true, "", "that of each gear", "for the shafts or bearings"},
      {S::frame, "bore.allowance", T::length, kNone, kNone, false, "", "0",
       "play of the shaft in the bore, on diameter"},
      {S::frame, "bore.grip", T::choice, kNone, kNone, false, "press slide free", "none",
       "the play that the process keeps for this fit"},
      {S::frame, "holes.x", T::length, kNone, kNone, false, "", "none",
       "of a mounting hole, from the first axis; in place of gear, distance and angle"},
      {S::frame, "holes.y", T::length, kNone, kNone, false, "", "none", "beside x"},
      {S::frame, "holes.gear", T::text, kNone, kNone, false, "", "asked for",
       "from whose axis a mounting hole is placed; holes is a list of tables"},
      {S::frame, "holes.distance", T::length, 0.0, kNone, false, "", "asked for", "from that axis"},
      {S::frame, "holes.angle", T::angle, kNone, kNone, false, "", "0", "about that axis, from +x"},
      {S::frame, "holes.diameter", T::length, 0.0, kNone, true, "", "asked for", "of a mounting hole"},
      {S::frame, "material", T::text, kNone, kNone, false, "", "none", "as for gears"},
      {S::frame, "part_name", T::text, kNone, kNone, false, "", "the frame's name", "for title block and files"},
      {S::frame, "part_number", T::text, kNone, kNone, false, "", "none", "for the title block"},

      {S::reducer, "rollers", T::whole, 4, 500, false, "", "one more than lobes", "rollers in the ring"},
      {S::reducer, "lobes", T::whole, 3, 499, false, "", "one fewer than rollers",
       "of a disc; the ratio is as many to one, the output turning against the input"},
      {S::reducer, "roller_circle_diameter", T::length, 0.0, kNone, true, "", "asked for",
       "of the circle that the rollers' middles stand on"},
      {S::reducer, "roller_diameter", T::length, 0.0, kNone, true, "", "asked for", "of a roller"},
      {S::reducer, "eccentricity", T::length, 0.0, kNone, true, "", "asked for",
       "of the journals; below the roller circle's radius over the number of rollers"},
      {S::reducer, "disc_offset", T::length, kNone, kNone, false, "", "0",
       "the disc's edge is made smaller by so much along its normal: clearance"},
      {S::reducer, "cut_roller_diameter", T::length, 0.0, kNone, true, "", "roller_diameter",
       "of the rollers that the edge is made for: larger ones give clearance"},
      {S::reducer, "cut_roller_circle_diameter", T::length, 0.0, kNone, true, "", "roller_circle_diameter",
       "of the circle that the edge is made for: smaller ones give clearance"},
      {S::reducer, "output_pins", T::whole, 3, 100, false, "", "6", "pins of the output flange, in holes of the discs"},
      {S::reducer, "output_pin_circle_diameter", T::length, 0.0, kNone, true, "", "half way between bore and roots",
       "of the circle that the output pins stand on"},
      {S::reducer, "output_pin_diameter", T::length, 0.0, kNone, true, "",
       "what leaves sound walls; chosen and reported", "of an output pin"},
      {S::reducer, "output_hole_clearance", T::length, kNone, kNone, false, "", "0",
       "by which the holes are wider than pin and twice the eccentricity, on diameter"},
      {S::reducer, "bore.diameter", T::length, 0.0, kNone, true, "", "a quarter of the roller circle",
       "of the discs: seat of the bearing outside"},
      {S::reducer, "journal_diameter", T::length, 0.0, kNone, true, "", "that of the bore",
       "of the offset journals: seat of the bearing inside"},
      {S::reducer, "shaft_diameter", T::length, 0.0, kNone, true, "", "0.9 of what the journals leave",
       "of the input shaft, within its journals; also of the output's hub"},
      {S::reducer, "discs", T::whole, 1, 3, false, "", "1", "spread evenly about the shaft"},
      {S::reducer, "disc_parts", T::choice, kNone, kNone, false, "own one", "own",
       "own: each disc has its holes where it needs them; one: all are cut to the first one's drawing"},
      {S::reducer, "face_width", T::length, 0.0, kNone, true, "", "one and a half roller diameters",
       "thickness of a disc"},
      {S::reducer, "disc_gap", T::length, 0.0, kNone, true, "", "a tenth of face_width, half a millimetre at least",
       "between discs, and from them to the flange"},
      {S::reducer, "ring", T::choice, kNone, kNone, false, "seats one_piece", "seats",
       "round seats for rollers that are parts of their own, or one piece with them"},
      {S::reducer, "ring_outer_diameter", T::length, 0.0, kNone, true, "", "a roller's diameter beyond the rollers",
       "of the ring"},
      {S::reducer, "seat_clearance", T::length, 0.0, kNone, false, "", "0",
       "by which the seats are wider than the rollers, on diameter"},
      {S::reducer, "roller_pin_diameter", T::length, 0.0, kNone, true, "", "none: the rollers do not turn",
       "of pins that the rollers turn on as sleeves"},
      {S::reducer, "friction", T::plain, 0.0, 1, false, "", "none",
       "coefficient of rollers, output pins and their holes; with it efficiency is reported"},
      {S::reducer, "speed", T::plain, 0.0, kNone, false, "", "none", "r/min of the input"},
      {S::reducer, "torque", T::plain, 0.0, kNone, false, "", "none", "N m at the input"},
      {S::reducer, "material", T::text, kNone, kNone, false, "", "none", "as for gears"},
      {S::reducer, "part_name", T::text, kNone, kNone, false, "", "the reducer's name", "for title block and files"},
      {S::reducer, "part_number", T::text, kNone, kNone, false, "", "none", "for the title block"},

      {S::material, "density", T::plain, 0.0, 30000, true, "", "asked for", "kg/m³"},
      {S::material, "colour", T::text, kNone, kNone, false, "", "grey", "of pictures and GLB, as #rrggbb"},
      {S::material, "shine", T::plain, 0.0, 1, false, "", "0", "0 dull like a print, 1 bright like metal"},
  };
  return all;
}

bool listed(std::string_view choices, std::string_view word) {
  return (" " + std::string(choices) + " ").find(" " + std::string(word) + " ") != std::string::npos;
}

}  // namespace

const std::vector<Key>& keys() {
  static const std::vector<Key> all = make_keys();
  return all;
}

const Key* find_key(Section section, std::string_view path) {
  const Section table = section == Section::shared ? Section::gear : section;
  for (const Key& key : keys()) {
    if (key.section == table && key.path == path && !(section == Section::shared && key.own)) return &key;
  }
  return nullptr;
}

bool is_group(Section section, std::string_view path) {
  const Section table = section == Section::shared ? Section::gear : section;
  const std::string start = std::string(path) + ".";
  return std::any_of(keys().begin(), keys().end(),
                     [&](const Key& key) { return key.section == table && key.path.substr(0, start.size()) == start; });
}

std::size_t spelling_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), 0);
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t corner = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({above + 1, row[j - 1] + 1, corner + (a[i - 1] == b[j - 1] ? 0 : 1)});
      corner = above;
    }
  }
  return row[b.size()];
}

Known known_words(const std::vector<std::string>& all, std::string_view word, std::size_t below) {
  Known known;
  for (const std::string& w : all) {
    known.list += (known.list.empty() ? "" : ", ") + w;
    if (const std::size_t d = spelling_distance(w, word); d < below) below = d, known.nearest = w;
  }
  return known;
}

std::string nearest(Section section, std::string_view path) {
  const Section table = section == Section::shared ? Section::gear : section;
  std::string best;
  std::size_t least = std::max<std::size_t>(2, path.size() / 2) + 1;
  for (const Key& key : keys()) {
    if (key.section != table) continue;
    const std::size_t distance = spelling_distance(path, key.path);
    if (distance < least) least = distance, best = key.path;
  }
  return best;
}

std::string allowed(const Key& key, std::string_view length_unit) {
  std::string unit;
  switch (key.type) {
    case Type::length:
    case Type::length_or_share: unit = fmt::format(" {}", length_unit); break;
    case Type::millimetres: unit = " mm"; break;
    case Type::per_inch: unit = " per inch"; break;
    case Type::angle: unit = "°"; break;
    default: break;
  }
  std::string range;
  if (key.least && key.greatest) {
    range = fmt::format(" {} {}{} to {}{}", key.above_least ? "above" : "from", *key.least, unit, *key.greatest, unit);
  } else if (key.least) {
    range = key.above_least ? fmt::format(" above {}{}", *key.least, unit)
                            : fmt::format(" of {}{} or more", *key.least, unit);
  }
  switch (key.type) {
    case Type::whole: return "a whole number" + range;
    case Type::plain:
    case Type::per_inch: return "a number" + range;
    case Type::length:
    case Type::millimetres: return "a length" + range;
    case Type::angle: return "an angle in degrees" + range;
    case Type::length_or_share: return "a length" + range + ", or a share of the module as \"4 %\"";
    case Type::share: return "\"teeth\", \"even\", or the driver's fraction from 0 to 1";
    case Type::text: return "a text";
    case Type::flag: return "true or false";
    case Type::fraction: return "a fraction" + range + ", or as \"0.6 %\"";
    case Type::angles: return "a list of angles in degrees, as [0, 180]";
    case Type::names: return "a list of names";
    case Type::length_by_diameter:
      return "a length, or a table from diameters to lengths as { \"3\" = 0.3, \"10\" = 0.2 }";
    case Type::choices: return "a list of " + std::string(key.choices);
    case Type::table: return "a table";
    case Type::choice: {
      std::string list;
      for (const char c : key.choices)
        list += c == ' ' ? std::string("\", \"") : std::string(1, c);
      return (listed(key.choices, key.choices) && list.find(',') == std::string::npos ? "\"" : "one of \"") + list +
             "\"";
    }
  }
  return "";
}

const TradeWord* trade_word(Section section, std::string_view word) {
  using S = Section;
  constexpr double kPerPi = 0.31830988618379067154;
  static const std::vector<TradeWord> all{
      {S::gear, "pitch_diameter", "reference_diameter", 1, "of cycloidal and bevel gears: teeth times module"},
      {S::gear, "pitch_circle_diameter", "reference_diameter"},
      {S::gear, "pcd", "reference_diameter"},
      {S::gear, "pitch", "module", kPerPi, "the circular pitch divided by π, in mm"},
      {S::gear, "circular_pitch", "module", kPerPi, "the circular pitch divided by π, in mm"},
      {S::gear, "dp", "diametral_pitch"},
      {S::gear, "mod", "module"},
      {S::gear, "m", "module"},
      {S::gear, "z", "teeth"},
      {S::gear, "n", "teeth"},
      {S::gear, "tooth_count", "teeth"},
      {S::gear, "number_of_teeth", "teeth"},
      {S::gear, "pins", "teeth", 1, "of a lantern"},
      {S::gear, "outside_diameter", "tip_diameter", 1, "a ring's body: outer_diameter"},
      {S::gear, "od", "tip_diameter"},
      {S::gear, "addendum_diameter", "tip_diameter"},
      {S::gear, "dedendum_diameter", "root_diameter"},
      {S::gear, "width", "face_width"},
      {S::gear, "thickness", "face_width"},
      {S::gear, "height", "face_width"},
      {S::gear, "shaft_diameter", "bore.diameter"},
      {S::gear, "shaft", "bore.diameter"},
      {S::gear, "hole_diameter", "bore.diameter"},
      {S::gear, "bore_diameter", "bore.diameter"},
      {S::gear, "addendum_modification", "profile_shift"},
      {S::gear, "shift", "profile_shift"},
      {S::gear, "x", "profile_shift"},
      {S::gear, "helix", "helix_angle"},
      {S::gear, "spiral_angle", "helix_angle"},
      {S::gear, "angle", "pressure_angle"},
      {S::gear, "fillet_radius", "root.fillet_radius"},
      {S::gear, "root_fillet", "root.fillet_radius"},
      {S::pair, "distance", "center_distance"},
      {S::pair, "centre_distance", "center_distance"},
      {S::pair, "axle_distance", "center_distance"},
      {S::pair, "play", "backlash"},
      {S::pair, "clearance", "backlash"},
      {S::pair, "rpm", "speed"},
      {S::pair, "pinion", "driver"},
      {S::pair, "gear", "driven"},
      {S::pair, "wheel", "driven"},
      {S::reducer, "pin_circle_diameter", "roller_circle_diameter"},
      {S::reducer, "pin_diameter", "roller_diameter"},
      {S::reducer, "pins", "rollers"},
      {S::reducer, "offset", "eccentricity"},
      {S::reducer, "rpm", "speed"}};
  const Section table = section == Section::shared ? Section::gear : section;
  for (const TradeWord& t : all) {
    if (t.section == table && t.word == word) return &t;
  }
  return nullptr;
}

const std::vector<ReferenceProfile>& reference_profiles() {
  // iso53-a … d: ISO 53:1998, table 1. full-depth-20: the coarse-pitch 20° full-depth rack in use in inch practice.
  // full-depth-14.5: its 14½° forerunner, 1.157 deep, corner 0.209. stub-20: 0.8 and 1.0. fine-pitch-20: 1.2 deep (the
  // constant 0.002 in that fine-pitch practice adds to the depth is left out: it is no multiple of the module).
  static const std::vector<ReferenceProfile> all{{"iso53-a", 20, 1, 1.25, 0.38},
                                                 {"iso53-b", 20, 1, 1.25, 0.30},
                                                 {"iso53-c", 20, 1, 1.25, 0.25},
                                                 {"iso53-d", 20, 1, 1.40, 0.39},
                                                 {"full-depth-14.5", 14.5, 1, 1.157, 0.209},
                                                 {"full-depth-20", 20, 1, 1.25, 0.30},
                                                 {"stub-20", 20, 0.8, 1.0, 0.20},
                                                 {"fine-pitch-20", 20, 1, 1.20, 0.20}};
  return all;
}

}  // namespace palio::job
