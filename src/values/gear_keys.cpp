// Keys of a gear, a row each.
#include "key_rows.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/settings.hpp"
#include "palio/values/threads.hpp"

namespace palio::job {
namespace {

constexpr auto gear = row<Section::gear>;

constexpr double kPerPi = 0.31830988618379067154;

constexpr Kinds kAll = Kinds::all(), kBevel = Kind::bevel, kCycloidal = Kind::cycloidal, kLantern = Kind::lantern,
                kInternal = Kind::internal, kRack = Kind::rack, kDoubleHelical = Kind::double_helical,
                kExternal = Kinds(Kind::spur) | Kind::helical | Kind::double_helical, kRound = kExternal | kInternal,
                kCylindrical = kRound | kRack, kInvolute = kCylindrical | kBevel, kInclined = kCylindrical - Kind::spur,
                kHanded = kInclined - kDoubleHelical, kWheels = kExternal | kCycloidal,
                kOnShafts = kWheels | kBevel | kLantern;

std::string_view screws() {
  static const std::string kAllThreads = names_of(threads(), [](const Thread& t) { return t.name; });
  return kAllThreads;
}

/// What cannot stand beside a bore of another shape.
constexpr std::string_view kBesideHex = "bore. keyway keyway. flat. square. serration. spline.",
                           kBesideSquare = "bore. keyway keyway. flat. hex. serration. spline.",
                           kBesideSerration = "bore. keyway keyway. flat. hex. square. spline.",
                           kBesideSpline = "bore. keyway keyway. flat. hex. square. serration.";

/// Half way between a bearing's bore and outside: clear of its inner ring, with a shoulder for the outer one.
double behind_bearing(const Settings& v) {
  const Bearing* b = ball_bearing(v.text("bore.bearing"));
  return b ? (b->bore + b->outside) / 2 : 0;
}

std::string_view kind_list() {
  static const std::string list = [] {
    std::string all;
    for (const std::string_view kind : kKindNames)
      all += (all.empty() ? "" : " ") + std::string(kind);
    return all;
  }();
  return list;
}

double face_width(const Settings& v) {
  const double modules = v.kind() == Kind::bevel ? 6 : v.kind() == Kind::lantern ? 12 : 10;
  return modules * v.module();
}

}  // namespace

std::vector<Key> gear_keys() {
  return {
      gear("like", text(), kNone, "takes over everything of another gear, except what follows").own(),
      gear("kind", choice(kind_list()), kAsked, "what sort of gear"),
      gear("teeth", whole(1, 5000), kAsked,
           "number of teeth (of a pinion its leaves, of a lantern its pins); \"leaves\" is understood too")
          .own()
          .also("pins", 1, "of a lantern")
          .also("z n tooth_count number_of_teeth"),
      gear("module", millimetres(0.01, 200), kAsked,
           "normal module (bevel: outer transverse), in mm whatever the units")
          .drops("diametral_pitch")
          .also("pitch", kPerPi, "the circular pitch divided by π, in mm")
          .also("circular_pitch", kPerPi, "the circular pitch divided by π, in mm")
          .also("mod m"),
      gear("diametral_pitch", per_inch(0.1, 2540), kNone,
           "teeth per inch of reference diameter, in place of module (25.4 mm divided by it)")
          .drops("module")
          .also("dp"),
      gear("reference_diameter", size(), "teeth times module",
           "two of teeth, module and reference_diameter give the third")
          .of(kAll - kRack)
          .own()
          .also("pitch_diameter", 1, "of cycloidal and bevel gears: teeth times module")
          .also("pitch_circle_diameter pcd"),
      gear("pressure_angle", angle(5, 45), 20, "pressure angle in the normal section").of(kInvolute).also("angle"),
      gear("reference_profile",
           choice("iso53-a iso53-b iso53-c iso53-d full-depth-14.5 full-depth-20 stub-20 fine-pitch-20"), kNone,
           "sets addendum, dedendum, tool_tip_radius and pressure_angle together")
          .of(kCylindrical),
      gear("profile_shift", plain(-5, 5), 0.0, "in modules; positive thickens the tooth")
          .of(kInvolute)
          .also("addendum_modification shift x"),
      gear("addendum", plain(0.05, 5), {1, "1; of cycloidal gears what their form asks for"},
           "of the reference profile, in modules")
          .of(kAll - kLantern)
          .drops("tip_diameter"),
      gear("dedendum", plain(0.05, 5), {1.25, "1.25; of cycloidal gears what their form asks for"},
           "of the reference profile, in modules")
          .of(kAll - kLantern)
          .drops("root_diameter"),
      gear("tool_tip_radius", plain(0, 5), "0.38, or the largest that the tool allows",
           "round of the rack tool's corner, in modules")
          .of(kInvolute),
      gear("root", choice("generated"), "generated", "\"generated\" as the rack cuts it, or { fillet_radius = … }")
          .of(kAll - kLantern)
          .drops("root.fillet_radius"),
      gear("root.fillet_radius", size(), kNone, "a plain tangent arc as the root, in place of the generated one")
          .of(kAll - kLantern)
          .drops("root")
          .also("fillet_radius root_fillet"),
      gear("tip_diameter", size(), "from addendum and profile_shift", "in place of the addendum")
          .of(kRound)
          .also("outside_diameter", 1, "a ring's body: outer_diameter")
          .also("od addendum_diameter"),
      gear("root_diameter", size(), "from dedendum, profile_shift and allowance",
           "of the tooth as made, in place of the dedendum")
          .of(kRound)
          .also("dedendum_diameter"),
      gear("thickness_allowance", length(), {0, "0, or what a pair's backlash asks for"},
           "change of tooth thickness, normal section, reference cylinder; negative thins")
          .of(kAll - kLantern),
      gear("thickness_tolerance", length_from(0), 0.0,
           "by which a tooth may come out thinner, measured as thickness_allowance: limits of span and pins, and the "
           "greatest backlash, follow")
          .of(kCylindrical),
      gear("tip_tolerance", length_from(0), 0.0,
           "by which the tip circle may come out smaller, a ring's larger, on diameter")
          .of(kCylindrical - kRack),
      gear("thinning", choice("infeed flanks"), "infeed",
           "how an allowance is taken off, that of a pair's backlash too: by infeed of the tool, and the root goes "
           "along; or off the flanks alone, and the root stays")
          .of(kCylindrical),
      gear(
          "eccentricity", length_from(0), {0, "0"},
          "by which the teeth stand off the axis they turn about, as the making leaves it; half of their runout. Play, "
          "error of motion and findings of pairs and trains count with it; the part is drawn true")
          .of(kRound | kCycloidal | kLantern),
      gear("face_width", size(), {"ten modules; bevel six, lantern twelve", face_width},
           "length of the teeth along the axis; of a lantern between its plates")
          .also("width thickness height"),
      gear("bore.diameter", length_from(0), {"0, no bore; behind a bearing midway of its rings", behind_bearing},
           "plain round bore")
          .of(kOnShafts)
          .drops("hex. square. serration. spline.")
          .also("shaft_diameter shaft hole_diameter bore_diameter"),
      gear("span_teeth", whole(1, 5000), "recommended", "teeth to measure the span over").of(kExternal).own(),
      gear("pin_diameter", size(), "a sensible one is chosen; of a lantern asked for",
           "of the pins or balls to measure over; of a lantern pinion (and its wheel) the pins themselves")
          .of(kRound | kCycloidal | kLantern),
      gear("helix_angle", angle(0, 60), {0, "0 (spur); asked for where the kind is helical"},
           "angle of the teeth to the axis at the reference cylinder")
          .of(kInclined)
          .drops("lead")
          .also("helix spiral_angle"),
      gear("lead", size(), "from helix_angle", "height of one turn of the teeth, in place of helix_angle")
          .of(kInclined)
          .own()
          .drops("helix_angle"),
      gear("hand", choice("left right"), "asked for where there is a helix angle",
           "right: the teeth rise to the right, the axis upright")
          .of(kHanded)
          .own(),
      gear("system", choice("normal transverse"), "normal",
           "section in which module, pressure angle and coefficients are given")
          .of(kCylindrical),
      gear("gap", length_from(0), 0.0, "groove between the halves of a double helical gear, part of face_width")
          .of(kDoubleHelical),
      gear("apex", choice("clockwise counter-clockwise"), "asked for where the kind is double_helical",
           "which way the V of a double helical gear points, seen from +z")
          .of(kDoubleHelical)
          .own(),
      gear("tip_chamfer", length_from(0), 0.0,
           "flat break of the tip edge: so much off the height of the flank and off the width of the tip")
          .of(kCylindrical)
          .drops("tip_round"),
      gear("tip_round", length_from(0), 0.0,
           "radius of a round between flank and tip, tangent to both; of clock teeth of the ridge in which their arcs "
           "meet")
          .of(kCylindrical | kCycloidal)
          .drops("tip_chamfer"),
      gear("cutter.teeth", whole(6, 5000), "chosen and reported",
           "of the pinion cutter that makes the root of an internal gear")
          .of(kInternal),
      gear("cutter.profile_shift", plain(-5, 5), 0.0, "of the pinion cutter, in modules").of(kInternal),
      gear("cutter.tip_diameter", size(), "what reaches the root", "of the pinion cutter; it makes the root circle")
          .of(kInternal),
      gear("cutter.tip_corner_radius", length_from(0), "tool_tip_radius, or the largest with a land",
           "round of the cutter's corner, transverse section")
          .of(kInternal),
      gear("outer_diameter", size(), "2.5 modules beyond the root circle", "of the body of an internal gear")
          .of(kInternal | kCycloidal)
          .own()
          .drops("rim_thickness"),
      gear("rim_thickness", size(), "from outer_diameter; bevel: 1.2 tooth depths, less where bore or axis are near",
           "beyond the roots: of an internal gear in place of outer_diameter; of a bevel gear behind the heel's roots, "
           "along the back cone")
          .of(kInternal | kBevel)
          .drops("outer_diameter"),
      gear("pitch_cone_angle", angle_above(0, 90), "from the pair's teeth and shaft_angle",
           "of a bevel gear that is in no pair; 90 is a crown gear")
          .of(kBevel)
          .own(),
      gear("thickness_shift", plain(-1, 1), 0.0,
           "of a bevel gear, in modules: the tooth is thicker by twice that, cones stay; the mate takes the opposite")
          .of(kBevel)
          .own(),
      gear("tooth_thickness", size(), "half the pitch, shifts and allowance",
           "outer transverse arc of a bevel gear, in place of thickness_shift and thickness_allowance")
          .of(kBevel)
          .own(),
      gear("depth", choice("constant_clearance tapered parallel"), "constant_clearance",
           "how the depth of bevel teeth runs: face cone parallel to the mate's root cone; both to the apex; both "
           "parallel to the pitch cone")
          .of(kBevel),
      gear("ends", choice("cones spheres"), "cones", "what closes bevel teeth at heel and toe").of(kBevel),
      gear("form", choice("true clock lantern_wheel"), "true",
           "of cycloidal teeth: epicycloids and hypocycloids; circular arcs of clock practice; the wheel of a lantern "
           "pinion")
          .of(kCycloidal),
      gear("internal", flag(), "false", "a ring, of the true form").of(kCycloidal).own(),
      gear("face_rolling_radius", size(), "that of the mate's flanks, or by the pair's rolling",
           "radius of the circle that makes this gear's faces (beyond the pitch circle; a ring's: within it)")
          .of(kCycloidal)
          .own(),
      gear("flank_rolling_radius", size(), "that of the mate's faces, or by the pair's rolling",
           "radius of the circle that makes this gear's flanks; half its pitch radius makes them radial")
          .of(kCycloidal)
          .own(),
      gear("rolling_radius", size(), kNone,
           "one circle for faces and flanks: gears that share it make an interchangeable set")
          .of(kCycloidal),
      gear("role", choice("wheel pinion"), "by the teeth of the pair", "of clock teeth").of(kCycloidal).own(),
      gear("mate_teeth", whole(3, 5000), "from the pair",
           "teeth, leaves or pins that clock teeth or a lantern wheel are made for")
          .of(kCycloidal)
          .own(),
      gear("addendum_arc_radius", size(), "from the table of practice",
           "of clock teeth: radius of the arc from pitch circle to tip")
          .of(kCycloidal)
          .own(),
      gear("tooth_width", size(), "from the table of practice", "of clock teeth, arc along the pitch circle")
          .of(kCycloidal)
          .own(),
      gear("plate_thickness", size(), "the pin diameter",
           "of each end plate of a lantern pinion, outside its face width")
          .of(kLantern)
          .own(),
      gear("plate_diameter", size(), "half a pin diameter beyond the pins", "of the end plates of a lantern pinion")
          .of(kLantern)
          .own(),
      gear("length", size(), "teeth times pitch", "of a rack").of(kRack).own(),
      gear("base_height", size(), "three modules", "of a rack, from its reference line to its back").of(kRack),
      gear("bore.allowance", length(), 0.0,
           "play of the shaft in the bore (of a bearing in its seat), on diameter; negative for a press fit")
          .of(kOnShafts)
          .drops("bore.grip bore.fit"),
      gear("bore.grip", choice("press slide free"), kNone,
           "the play that the process keeps for this fit, in place of bore.allowance")
          .of(kOnShafts)
          .drops("bore.allowance bore.fit"),
      gear("bore.fit", choice(hole_fits()), kNone,
           "limits of the bore (of a bearing's seat) by symbol, in place of allowance and grip; bore = \"8 H7\" says "
           "both; drawn in the middle of the limits")
          .of(kOnShafts)
          .drops("bore.allowance bore.grip"),
      gear("bore.chamfer", length_from(0), 0.0, "at 45°, at both ends of a plain round bore").of(kOnShafts - kBevel),
      gear("bore.steps.face", choice("top bottom"), "top", "end of the body, hubs with it, at which the step begins")
          .of(kWheels)
          .drops("bore.steps."),
      gear("bore.steps.diameter", size(), kAsked,
           "of a wider piece at an end of the bore: a counterbore, a seat; bore.steps is a list of tables")
          .of(kWheels)
          .also("counterbore")
          .drops("bore.steps."),
      gear("bore.steps.depth", size(), kAsked, "of the step, from that end").of(kWheels).drops("bore.steps."),
      gear("bore.bearing", choice(bearings()), kNone,
           "a ball bearing to be set in: a seat of its outside and width, with a shoulder behind it; the flange of one "
           "with an F lies on the end of the body")
          .of(kWheels)
          .also("bore.seat"),
      gear("bore.face", choice("top bottom both"), "top",
           "end of the body at which the bearing sits; both: two of them")
          .of(kWheels),
      gear("keyway", choice("standard"), kNone, "\"standard\" for the bore (see below), or { width, height, angles }")
          .of(kOnShafts)
          .drops("keyway."),
      gear("keyway.width", size(), kAsked, "of the keyway").of(kOnShafts).drops("keyway"),
      gear("keyway.height", size(), kAsked,
           "from the opposite wall of the bore to the keyway's bottom, as drawings give it")
          .of(kOnShafts)
          .drops("keyway"),
      gear("keyway.angles", angles(), "[0]", "of each keyway's middle, from the middle of a tooth")
          .of(kOnShafts)
          .drops("keyway"),
      gear("flat.height", size(), kAsked, "of a D-shaft's bore: from the opposite wall to the flat")
          .of(kOnShafts)
          .drops("flat.across_flats"),
      gear("flat.across_flats", size(), kNone, "of a double D: from flat to flat, in place of flat.height")
          .of(kOnShafts)
          .drops("flat.height"),
      gear("flat.angle", angle(), 0.0, "of the flat's middle, from the middle of a tooth").of(kOnShafts),
      gear("hex.across_flats", size(), kAsked, "of a hexagonal bore, in place of bore.diameter")
          .of(kOnShafts)
          .drops(kBesideHex),
      gear("hex.angle", angle(), 0.0, "of the middle of a flat, from the middle of a tooth")
          .of(kOnShafts)
          .drops(kBesideHex),
      gear("square.across_flats", size(), kAsked, "of a square bore, in place of bore.diameter")
          .of(kOnShafts)
          .drops(kBesideSquare),
      gear("square.angle", angle(), 0.0, "of the middle of a flat, from the middle of a tooth")
          .of(kOnShafts)
          .drops(kBesideSquare),
      gear("serration.teeth", whole(3, 200), kAsked,
           "of a bore with straight-sided serrations, as shafts of small drives carry them; in place of bore.diameter")
          .of(kOnShafts)
          .drops(kBesideSerration),
      gear("serration.inner_diameter", size(), kAsked, "over the tips of the bore's serrations: the shaft's bottoms")
          .of(kOnShafts)
          .drops(kBesideSerration),
      gear("serration.outer_diameter", size(), kAsked, "over their bottoms: the shaft's tips")
          .of(kOnShafts)
          .drops(kBesideSerration),
      gear("serration.angle", angle(), 0.0, "of the middle of a bottom, from the middle of a tooth")
          .of(kOnShafts)
          .drops(kBesideSerration),
      gear("spline.teeth", whole(8, 200), kAsked,
           "of a bore with an involute spline, in the manner of ISO 4156 (not compared with the printed standard); in "
           "place of bore.diameter")
          .of(kWheels)
          .drops(kBesideSpline),
      gear("spline.module", size(), kAsked, "of the spline").of(kWheels).drops(kBesideSpline),
      gear("spline.pressure_angle", angle(30, 45), 30.0, "of the spline: 30, 37.5 or 45")
          .of(kWheels)
          .drops(kBesideSpline),
      gear("spline.allowance", length_from(0), 0.0,
           "by which its spaces are wider than half the pitch, on its reference circle")
          .of(kWheels)
          .drops(kBesideSpline),
      gear("spline.angle", angle(), 0.0, "of the middle of a space, from the middle of a tooth")
          .of(kWheels)
          .drops(kBesideSpline),
      gear("hubs.face", choice("top bottom both"), "top",
           "top: the hub stands out towards +z; both: one to either side")
          .of(kOnShafts)
          .drops("hubs."),
      gear("hubs.diameter", size(), kAsked, "of a hub; hubs is a list of tables").of(kOnShafts).drops("hubs."),
      gear("hubs.length", size(), "what overall_length leaves", "how far the hub stands out beyond the teeth's face")
          .of(kOnShafts)
          .drops("hubs."),
      gear("overall_length", size(), "what hubs and teeth take",
           "from end to end of the body: of the hub without a length, in equal parts of those on both sides")
          .of(kWheels),
      gear("web.thickness", size(), kAsked, "of the plate left between rim and hub").of(kWheels),
      gear("web.inner_diameter", size(), "that of the largest hub", "where the recess begins").of(kWheels),
      gear("web.outer_diameter", size(), "from wall", "where the recess ends").of(kWheels).drops("web.wall"),
      gear("web.wall", size(), kNone,
           "rim left below the teeth, radially from the root circle, in place of outer_diameter")
          .of(kWheels)
          .drops("web.outer_diameter"),
      gear("web.face", choice("both top bottom"), "both", "which face is recessed").of(kWheels),
      gear("spokes.count", whole(2, 100), kAsked, "number of arms; the first lies on +x").of(kWheels),
      gear("spokes.width", size(), kAsked, "of an arm").of(kWheels),
      gear("spokes.inner_diameter", size(), "just outside the web's", "where the windows begin").of(kWheels),
      gear("spokes.outer_diameter", size(), "just inside the web's", "where the windows end").of(kWheels),
      gear("spokes.fillet_radius", length_from(0), "a tenth of the windows' radial length", "in the windows' corners")
          .of(kWheels),
      gear("holes.count", whole(1, 1000), 1,
           "holes on a circle, of a rack in a row; holes is a table or a list of tables")
          .of(kRound | kCycloidal | kRack)
          .drops("holes."),
      gear("holes.circle_diameter", size(), kAsked, "of the circle that the holes' middles lie on")
          .of(kRound | kCycloidal)
          .drops("holes."),
      gear("holes.diameter", size(), kAsked, "of a hole").of(kRound | kCycloidal | kRack).drops("holes."),
      gear("holes.spacing", size(), "asked for, of several", "between the middles of neighbouring holes of a rack")
          .of(kRack)
          .drops("holes."),
      gear("holes.height", length(), "midway between back and root line", "of a rack's holes above its back")
          .of(kRack)
          .drops("holes."),
      gear("holes.along", length(), 0.0, "of the middle of a rack's row of holes, from the middle of the rack")
          .of(kRack)
          .drops("holes."),
      gear("holes.angle", angle(), 0.0, "of the first hole, from the middle of a tooth")
          .of(kRound | kCycloidal)
          .drops("holes."),
      gear("cutouts.drawing", text(), kAsked,
           "a DXF or SVG beside the job, whose closed outlines are cut out; cutouts is a table or a list of tables")
          .of(kRound | kCycloidal | kRack)
          .drops("cutouts."),
      gear("cutouts.path", text(), kNone, "the same as the letters of SVG path data, y upwards, in place of a drawing")
          .of(kRound | kCycloidal | kRack)
          .drops("cutouts."),
      gear("cutouts.unit", choice("mm in"), "asked for where a drawing does not say it; of a path mm",
           "of the numbers of drawing or path")
          .of(kRound | kCycloidal | kRack)
          .drops("cutouts."),
      gear("cutouts.x", length(), 0.0, "where the drawing's origin stands, from the gear's own")
          .of(kRound | kCycloidal | kRack)
          .drops("cutouts."),
      gear("cutouts.y", length(), 0.0, "beside x").of(kRound | kCycloidal | kRack).drops("cutouts."),
      gear("cutouts.angle", angle(), 0.0, "by which it all is turned about the axis, from the middle of a tooth")
          .of(kRound | kCycloidal)
          .drops("cutouts."),
      gear("cutouts.count", whole(1, 360), 1, "of them, evenly about the axis")
          .of(kRound | kCycloidal)
          .drops("cutouts."),
      gear("cutouts.depth", size(), "right through", "of a pocket, from the face of the teeth")
          .of(kRound | kCycloidal | kRack)
          .drops("cutouts."),
      gear("cutouts.face", choice("top bottom"), "top", "of the teeth, from which a pocket goes")
          .of(kRound | kCycloidal | kRack)
          .drops("cutouts."),
      gear("set_screw.thread", choice(screws()), kNone,
           "of a screw through a hub's wall onto the shaft (see below); set_screw is a table or a list of tables")
          .of(kWheels)
          .also("grub_screw")
          .drops("set_screw."),
      gear("set_screw.diameter", size(), "the thread's tapping hole; with a nut the hole it goes through",
           "of the screw's hole")
          .of(kWheels)
          .drops("set_screw."),
      gear("set_screw.angle", angle(), "that of the bore's flat; 0", "of the screw, from the middle of a tooth")
          .of(kWheels)
          .drops("set_screw."),
      gear("set_screw.height", length(), "in the middle of the hub",
           "of the screw's middle above the lower face of the teeth")
          .of(kWheels)
          .drops("set_screw."),
      gear("set_screw.nut", flag(), "false", "a pocket for the thread's nut, open at the end of the hub")
          .of(kWheels)
          .drops("set_screw."),
      gear("cross_pin.diameter", size(), kAsked,
           "of a pin through hub and shaft; cross_pin is a table or a list of tables")
          .of(kWheels)
          .drops("cross_pin."),
      gear("cross_pin.angle", angle(), 0.0, "of the pin, from the middle of a tooth").of(kWheels).drops("cross_pin."),
      gear("cross_pin.height", length(), "in the middle of the hub",
           "of the pin's middle above the lower face of the teeth")
          .of(kWheels)
          .drops("cross_pin."),
      gear("sector_teeth", whole(1, 5000), "all teeth", "only so many teeth, the rest of the rim left away")
          .of(kExternal)
          .own(),
      gear("sector_back_diameter", size(), "of hub or bore, and two modules", "round back of a sector gear")
          .of(kExternal),
      gear("material", text(), kNone, "one of the table below, or of [material.NAME]; gives mass and inertia"),
      gear("part_name", text(), "the gear's name", "for title block and files").own(),
      gear("part_number", text(), kNone, "for the title block").own(),
      gear("mark.depth", size(), "no mark",
           "engraves a dot on the face of the meshing tooth (driver) or beside the space (driven)")
          .of(kRound | kCycloidal),
      gear("mark.text", flag(), "false", "engraves module and tooth count too").of(kRound | kCycloidal),
  };
}

}  // namespace palio::job
