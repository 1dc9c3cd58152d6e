// Every key of the job file, a row each: what it may hold, what holds without it, the kinds it means something for,
// what it pushes out of layers below, and what practice also calls it. Those of a gear stand in gear_keys.cpp.
#include "key_rows.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/motors.hpp"
#include "palio/values/settings.hpp"

namespace palio::job {
namespace {

constexpr auto top = row<Section::top>, pair = row<Section::pair>, process = row<Section::process>,
               frame = row<Section::frame>, reducer = row<Section::reducer>, material = row<Section::material>,
               shaft = row<Section::shaft>, carrier = row<Section::carrier>, train = row<Section::train>,
               planetary = row<Section::planetary>;

std::string_view flanges() {
  static const std::string kAllFlanges = names_of(motor_faces(), [](const MotorFace& f) { return f.size; });
  return kAllFlanges;
}

std::vector<Key> top_keys() {
  return {
      top("title", text(), "empty", "what this job is; stands in every file made from it"),
      top("units", choice("mm in"), "mm", "lengths in this file and in what is printed"),
      top("values", table(), kNone, "named numbers for use in strings: \"shaft + 0.1\""),
      top("shared", table(), kNone, "what mating gears share; any gear may say otherwise"),
      top("gear", table(), kNone, "one table for each gear, [gear.NAME]"),
      top("pair", table(), kNone, "one table for each pair, [pair.NAME]"),
      top("process", table(), kNone, "what the making does to size"),
      top("material", table(), kNone, "one table for each material of one's own, [material.NAME]"),
      top("frame", table(), kNone, "one table for each plate that carries axes, [frame.NAME]"),
      top("reducer", table(), kNone, "one table for each cycloidal speed reducer, [reducer.NAME]"),
      top("expect", table(), kNone,
          "what a drawing says of readings: a path and \"11.598 ± 0.01\", a number, [least, greatest], \"at least …\"; "
          "agreement and difference are findings"),
      top("shaft", table(), kNone, "what turns together, by name"),
      top("carrier", table(), kNone, "what axes ride on, by name"),
      top("train", table(), kNone, "a way through the machine from an input to an output, by name"),
      top("planetary", table(), kNone, "planetary sets by name: shafts, a carrier and pairs in short"),
      top("want", table(), kNone,
          "what palio find aims at: a path and a number, [least, greatest], \"at least …\", \"greatest\" or \"least\""),
      top("measured", table(), kNone,
          "a list, [[measured]]: what palio recover starts from; each has of (a path), is, and by or uncertainty, of a "
          "span also teeth, over pins also pin_diameter"),
  };
}

std::vector<Key> other_keys() {
  return {
      pair("driver", text(), kAsked, "name of the gear that drives").also("pinion"),
      pair("driven", text(), kAsked, "name of the gear that is driven").also("gear wheel"),
      pair("center_distance", size(), "the distance without play for the given shifts",
           "as designed; thinning is worked out for it")
          .also("distance centre_distance axle_distance"),
      pair("mounted_center_distance", size(), "as designed", "as built; report and roll use it, thinning does not"),
      pair("backlash", length_or_share_from(0), "what distance and allowances give",
           "whole circumferential play at the working pitch circle (crossed: in the normal section; bevel: at the "
           "outer cone); 0 means exactly none")
          .also("play clearance"),
      pair("normal_backlash", length_or_share_from(0), "what distance and allowances give",
           "the same play along the normal, as a feeler gauge finds it, in place of backlash; not of cycloidal teeth"),
      pair("backlash_share", share("teeth even"), "teeth",
           "how the thinning is divided: by tooth count, evenly, or the driver's fraction"),
      pair("direction", angle(), 0.0, "about the driver's axis, where the pitch point lies; 0 is +x"),
      pair("start_angle", angle(), 0.0, "of the driver; 0 has a tooth on +x"),
      pair("shaft_angle", angle(-175, 175), "0, parallel axes; bevel: 90",
           "of crossed helical gears: the sum of their helix angles, right hand positive; of bevel gears between the "
           "axes from the apex to the teeth"),
      pair("rolling", choice("radial_flanks equal_circles"), "radial_flanks; with a ring equal_circles",
           "rule for rolling circles that no gear gives: each flank radial, or one circle (half the smaller pitch "
           "radius, at most half the distance) for all"),
      pair("mounting_error.driver", length(), 0.0,
           "of a bevel pair: the driver stands so far along its axis, away from the apex"),
      pair("mounting_error.driven", length(), 0.0, "the same of the driven"),
      pair("mounting_error.shaft_angle", angle(-10, 10), 0.0, "by which the shaft angle is too large"),
      pair("mounting_error.offset", length(), 0.0, "by which the axes miss each other"),
      pair("axial_offset", length(), 0.0, "of the driven's mid-face along its axis"),
      pair("along", length(), "where its pinion stands; of the first gear on the rack: 0",
           "of a rack's pair: how far along the rack from its middle tooth, towards +x of the rack, the gear stands at "
           "the start"),
      pair("efficiency", {Type::fraction, 0, 1, true, {}}, "that of the friction given, else 1",
           "of the mesh in a train: what the driven side gets of the power that rolls through it"),
      pair("friction", plain(0, 1), kNone,
           "coefficient between the flanks of crossed helical gears; with it efficiency and self-locking are reported"),
      pair("speed", plain_from(0), kNone,
           "r/min of the driver (of a rack's mate where the rack drives); with it speeds, tooth frequency and sliding "
           "are reported")
          .also("rpm"),

      process("preset", choice("print mill wire laser mould"), kNone,
              "sets the numbers below to those of the table of presets; any may be overridden"),
      process("hole_allowance", length_by_diameter(), 0.0,
              "by how much holes come out smaller, on diameter: one number, or by diameter as { \"3\" = 0.3, \"10\" = "
              "0.2 }"),
      process("press", length(), 0.0, "play on diameter that bore.grip = \"press\" leaves; negative: interference"),
      process("slide", length(), 0.0, "the same for \"slide\""),
      process("free", length(), 0.0, "the same for \"free\""),
      process("surface_offset", length(), 0.0,
              "how far flanks, roots and tips come out beyond what was drawn, along the normal; negative: short of it"),
      process("first_layer_inset.amount", length_from(0), 0.0,
              "how far the first layers spread; they are drawn in by it"),
      process("first_layer_inset.up_to", size(), "asked for beside amount", "height up to which they spread"),
      process("shrinkage", fraction(0, 0.2), 0.0, "of all lengths, as 0.006 or \"0.6 %\"; or { radial, axial }"),
      process("shrinkage.radial", fraction(0, 0.2), 0.0, "across the axis"),
      process("shrinkage.axial", fraction(0, 0.2), 0.0, "along the axis"),
      process("kerf", length_from(0), 0.0, "width that the beam or wire takes away; half of it on either side"),
      process("draft", angle(0, 20), {0, "0, none needed"}, "taper that walls need to leave the mould"),
      process("smallest_radius", length_from(0), 0.0, "that cutter, beam or nozzle can reach into"),
      process("least_wall", length_from(0), 0.0, "thinnest wall that can be made"),
      process("center_distance_tolerance", length_from(0), "0.01 mm, or the preset's",
              "how far to either side axes may come to stand from where they should: what play is asked to allow for"),
      process("corrected", choices("holes first_layer kerf shrinkage surface"),
              "[\"holes\", \"first_layer\", \"kerf\", \"shrinkage\"]",
              "which of these effects the files make up for; the others are left to come out"),

      frame("pairs", names(), "all pairs on parallel axes",
            "whose axes the plate carries; [] for a plate of holes alone"),
      frame("carrier", text(), kNone,
            "a carrier that the plate turns with, in place of pairs: it holds the axes of all its planets")
          .drops("pairs"),
      frame("middle_bore", length_from(0), {0, "0, none"},
            "of a carrier's plate: the hole about the carrier's own axis, on diameter"),
      frame("side", choice("below above"), "below", "of the gears on which the plate lies"),
      frame("thickness", size(), kAsked, "of the plate"),
      frame("margin", size(), {"twice the thickness", [](const Settings& v) { return 2 * v.number("thickness"); }},
            "from bores and holes to the outline"),
      frame("axial_gap", length_from(0),
            {"a tenth of the thickness, beside a flange", [](const Settings& v) { return v.number("thickness") / 10; }},
            "air between a post and its gear, the flange of a bearing there within it"),
      frame("post_height", length_from(0), {0, "0, no posts"},
            "of the lowest post; the others reach as near to their gears"),
      frame("post_diameter", size(), "bore and the thickness", "of the posts"),
      frame("bore.diameter", size(), "that of each gear", "for the shafts or bearings"),
      frame("bore.allowance", length(), 0.0, "play of the shaft in the bore, on diameter"),
      frame("bore.grip", choice("press slide free"), kNone, "the play that the process keeps for this fit"),
      frame("bore.bearing", choice(bearings()), kNone,
            "a ball bearing to be set in at every axis but a motor's: a seat of its outside and width, behind it the "
            "bore half way between its rings; the flange of one with an F lies on the plate or post"),
      frame("bore.face", choice("top bottom"), "top", "end of the bore at which it sits; top: towards the gears"),
      frame("holes.x", length(), kNone,
            "of a mounting hole, from the first axis; in place of gear, distance and angle"),
      frame("holes.y", length(), kNone, "beside x"),
      frame("holes.gear", text(), kAsked, "from whose axis a mounting hole is placed; holes is a list of tables"),
      frame("holes.distance", length_from(0), kAsked, "from that axis"),
      frame("holes.angle", angle(), 0.0, "about that axis, from +x"),
      frame("holes.diameter", size(), kAsked, "of a mounting hole"),
      frame("outline.drawing", text(), kAsked,
            "a DXF or SVG beside the job with the plate's outline, and what is cut out within it, in place of margin"),
      frame("outline.path", text(), kNone, "the same as the letters of SVG path data, as for cutouts of gears"),
      frame("outline.unit", choice("mm in"), "asked for where a drawing does not say it; of a path mm",
            "of the numbers of drawing or path"),
      frame("outline.x", length(), 0.0, "where the drawing's origin stands, from the first axis"),
      frame("outline.y", length(), 0.0, "beside x"),
      frame("outline.angle", angle(), 0.0, "by which it all is turned about the first axis"),
      frame("cutouts.drawing", text(), kAsked,
            "a DXF or SVG beside the job, whose closed outlines are cut out; cutouts is a table or a list of tables"),
      frame("cutouts.path", text(), kNone, "the same as the letters of SVG path data, as for cutouts of gears"),
      frame("cutouts.unit", choice("mm in"), "asked for where a drawing does not say it; of a path mm",
            "of the numbers of drawing or path"),
      frame("cutouts.x", length(), 0.0, "where the drawing's origin stands, from the first axis"),
      frame("cutouts.y", length(), 0.0, "beside x"),
      frame("cutouts.angle", angle(), 0.0, "by which it all is turned about the first axis"),
      frame("cutouts.count", whole(1, 360), 1, "of them, evenly about the first axis"),
      frame("cutouts.depth", size(), "right through", "of a pocket"),
      frame("cutouts.face", choice("top bottom"), "top", "from which a pocket goes; top: towards the gears"),
      frame("motors.gear", text(), kAsked,
            "about whose axis a motor is bolted on: its boss in a hole in place of the bore, its screws around it; "
            "motors is a list of tables"),
      frame("motors.flange", choice(flanges()), kNone, "size of its face (see below); or the sizes by themselves"),
      frame("motors.pilot_diameter", size(), "that of the flange", "of the boss about its shaft"),
      frame("motors.circle_diameter", size(), "that of the flange", "of the circle of its screws"),
      frame("motors.hole_diameter", size(), "that of the flange", "of the holes for its screws"),
      frame("motors.count", whole(2, 12), {"4"}, "of its screws"),
      frame("motors.angle", angle(), 45.0, "of the first screw about the axis, from +x"),
      frame("material", text(), kNone, "as for gears"),
      frame("part_name", text(), "the frame's name", "for title block and files"),
      frame("part_number", text(), kNone, "for the title block"),

      reducer("rollers", whole(4, 500), "one more than lobes", "rollers in the ring").also("pins"),
      reducer("lobes", whole(3, 499), "one fewer than rollers",
              "of a disc; the ratio is as many to one, the output turning against the input"),
      reducer("roller_circle_diameter", size(), kAsked, "of the circle that the rollers' middles stand on")
          .also("pin_circle_diameter"),
      reducer("roller_diameter", size(), kAsked, "of a roller").also("pin_diameter"),
      reducer("eccentricity", size(), kAsked,
              "of the journals; below the roller circle's radius over the number of rollers")
          .also("offset"),
      reducer("disc_offset", length(), 0.0, "the disc's edge is made smaller by so much along its normal: clearance"),
      reducer("cut_roller_diameter", size(),
              {"roller_diameter", [](const Settings& v) { return v.number("roller_diameter"); }},
              "of the rollers that the edge is made for: larger ones give clearance"),
      reducer("cut_roller_circle_diameter", size(),
              {"roller_circle_diameter", [](const Settings& v) { return v.number("roller_circle_diameter"); }},
              "of the circle that the edge is made for: smaller ones give clearance"),
      reducer("output_pins", whole(3, 100), 6, "pins of the output flange, in holes of the discs"),
      reducer("output_pin_circle_diameter", size(), "half way between bore and roots",
              "of the circle that the output pins stand on"),
      reducer("output_pin_diameter", size(), "what leaves sound walls; chosen and reported", "of an output pin"),
      reducer("output_hole_clearance", length(), 0.0,
              "by which the holes are wider than pin and twice the eccentricity, on diameter"),
      reducer(
          "bore.diameter", size(),
          {"a quarter of the roller circle", [](const Settings& v) { return v.number("roller_circle_diameter") / 4; }},
          "of the discs: seat of the bearing outside"),
      reducer("journal_diameter", size(), "that of the bore", "of the offset journals: seat of the bearing inside"),
      reducer("shaft_diameter", size(), "0.9 of what the journals leave",
              "of the input shaft, within its journals; also of the output's hub"),
      reducer("discs", whole(1, 3), 1, "spread evenly about the shaft"),
      reducer("disc_parts", choice("own one"), "own",
              "own: each disc has its holes where it needs them; one: all are cut to the first one's drawing"),
      reducer("face_width", size(),
              {"one and a half roller diameters", [](const Settings& v) { return 1.5 * v.number("roller_diameter"); }},
              "thickness of a disc"),
      reducer("disc_gap", size(),
              {"a tenth of face_width, half a millimetre at least",
               [](const Settings& v) { return std::max(0.5, 0.1 * v.number("face_width")); }},
              "between discs, and from them to the flange"),
      reducer("ring", choice("seats one_piece"), "seats",
              "round seats for rollers that are parts of their own, or one piece with them"),
      reducer("ring_outer_diameter", size(), "a roller's diameter beyond the rollers", "of the ring"),
      reducer("seat_clearance", length_from(0), 0.0, "by which the seats are wider than the rollers, on diameter"),
      reducer("roller_pin_diameter", size(), "none: the rollers do not turn",
              "of pins that the rollers turn on as sleeves"),
      reducer("friction", plain(0, 1), kNone,
              "coefficient of rollers, output pins and their holes; with it efficiency is reported"),
      reducer("speed", plain_from(0), kNone, "r/min of the input").also("rpm"),
      reducer("torque", plain_from(0), kNone, "N m at the input"),
      reducer("material", text(), kNone, "as for gears"),
      reducer("part_name", text(), "the reducer's name", "for title block and files"),
      reducer("part_number", text(), kNone, "for the title block"),

      shaft("gears", names(), kAsked,
            "that turn together, in this order along +z; carriers and reducers (their output) too"),
      shaft("gap", length_from(0), 0.0, "between neighbouring faces"),
      shaft("places", lengths(), "one beside the other, gap between them", "of the lower face of each along the shaft"),
      shaft("diameter", size(), "no axle", "of an axle that is made too").also("shaft_diameter axle_diameter"),
      shaft("ends", lengths(), "flush, or as far as its retaining rings ask",
            "how far the axle stands out below and above"),
      shaft("fit", choice(shaft_fits()), kNone,
            "of the axle by its symbol, as h6 (see below): it is made to the middle of its limits"),
      shaft("ring.side", choice("above below both"), "both",
            "of what stands on the axle: where a groove for a retaining ring is turned"),
      shaft("ring.play", length_from(0), "what the groove is wider than the ring",
            "by which what stands on the axle can move between the rings, at each"),
      shaft("ring.thickness", size(), "by the axle's diameter (see below)", "of the retaining ring, which is bought"),
      shaft("ring.groove_diameter", size(), "by the axle's diameter (see below)", "of the bottom of the groove"),
      shaft("ring.groove_width", size(), "by the axle's diameter (see below)", "from wall to wall"),
      shaft("one_piece", flag(), "false", "the axle and its gears are made as one part, named as the shaft"),

      carrier("carries", names(), kAsked, "gears or shafts whose axes ride on it: planets"),
      carrier("count", whole(1, 100), 1, "how many of them stand around, as evenly as their teeth allow"),
      carrier("angles", angles(), "as evenly as the teeth allow", "where they stand, from the first one"),

      train("input", text(), kAsked, "a gear, shaft, carrier or reducer that is turned"),
      train("output", text(), kAsked, "a gear, shaft, carrier or reducer that is driven"),
      train("held", names(), "what the planetary sets hold", "gears, shafts or carriers that stand still"),
      train("speed", plain_from(0), kNone, "r/min of the input").also("rpm"),
      train("torque", plain_from(0), kNone, "N m at the input"),
      train("hour", text(), kNone, "of a clock train: the arbor (a shaft or gear) that turns once an hour"),
      train("escape_teeth", whole(2, 1000), kNone,
            "of a clock train: teeth of the escape wheel that turns with the output; each lets the pendulum or balance "
            "beat twice"),
      train("winding_turns", plain_above(0, 1e6), kNone,
            "of a clock train: turns of the input from wound up to run down"),

      planetary("sun", names(), "no sun", "the gear in the middle; several: in the planets' order"),
      planetary("planet", names(), kAsked, "the gear that rides on the carrier; several make a stepped planet"),
      planetary("ring", names(), "no ring", "the internal gear around; several: in the planets' order"),
      planetary("count", whole(1, 100), 1, "how many planets stand around, as evenly as their teeth allow"),
      planetary("angles", angles(), "as evenly as the teeth allow", "where the planets stand, from the first one"),
      planetary("held", names(), kNone, "what stands still: sun, ring or the set's own name (its carrier)"),
      planetary("input", text(), "the first of sun, carrier and ring that is not held", "what is turned"),
      planetary("output", text(), "what is neither held nor turned, the carrier before others", "what is driven"),
      planetary("center_distance", size(), "that of the first mesh", "of all its meshes: all turn about one axis"),
      planetary("backlash", length_or_share_from(0), "what distance and allowances give", "of all its meshes"),
      planetary("gap", length_from(0), 0.0, "between the gears of a stepped planet"),
      planetary("speed", plain_from(0), kNone, "r/min of the input").also("rpm"),
      planetary("torque", plain_from(0), kNone, "N m at the input"),

      material("density", plain_above(0, 30000), kAsked, "kg/m³"),
      material("colour", text(), "grey", "of pictures and GLB, as #rrggbb"),
      material("shine", plain(0, 1), 0.0, "0 dull like a print, 1 bright like metal"),
  };
}

}  // namespace

const std::vector<Key>& keys() {
  static const std::vector<Key> all = [] {
    std::vector<Key> rows = top_keys();
    for (const std::vector<Key>& more : {gear_keys(), other_keys()})
      rows.insert(rows.end(), more.begin(), more.end());
    return rows;
  }();
  return all;
}

}  // namespace palio::job
