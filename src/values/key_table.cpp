// Every key of the job file, a row each: what it may hold, what holds without it, the kinds it means something for,
// what it pushes out of layers below, and what practice also calls it.
#include <algorithm>

#include "palio/values/bearings.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/motors.hpp"
#include "palio/values/settings.hpp"
#include "palio/values/threads.hpp"

namespace palio::job {
namespace {

constexpr double kPerPi = 0.31830988618379067154;

constexpr Kinds kAll = Kinds::all(), kBevel = Kind::bevel, kCycloidal = Kind::cycloidal, kLantern = Kind::lantern,
                kInternal = Kind::internal, kRack = Kind::rack, kDoubleHelical = Kind::double_helical,
                kExternal = Kinds(Kind::spur) | Kind::helical | Kind::double_helical, kRound = kExternal | kInternal,
                kCylindrical = kRound | kRack, kInvolute = kCylindrical | kBevel, kInclined = kCylindrical - Kind::spur,
                kHanded = kInclined - kDoubleHelical, kWheels = kExternal | kCycloidal,
                kOnShafts = kWheels | kBevel | kLantern;

constexpr std::string_view kAsked = "asked for", kNone = "none";

Bounds of(Type type, std::optional<double> least = {}, std::optional<double> greatest = {}) {
  return {type, least, greatest, false, {}};
}
Bounds above(Bounds range) { return range.above_least = true, range; }
Bounds listed(Type type, std::string_view choices) { return {type, {}, {}, false, choices}; }

Bounds text() { return of(Type::text); }
Bounds names() { return of(Type::names); }
Bounds table() { return of(Type::table); }
Bounds flag() { return of(Type::flag); }
Bounds angles() { return of(Type::angles); }
Bounds lengths() { return of(Type::lengths); }
Bounds length_by_diameter() { return of(Type::length_by_diameter); }
Bounds length() { return of(Type::length); }
Bounds length_from(double least) { return of(Type::length, least); }
/// A length above 0.
Bounds size() { return above(of(Type::length, 0)); }
Bounds length_or_share_from(double least) { return of(Type::length_or_share, least); }
Bounds whole(double least, double greatest) { return of(Type::whole, least, greatest); }
Bounds plain(double least, double greatest) { return of(Type::plain, least, greatest); }
Bounds plain_from(double least) { return of(Type::plain, least); }
Bounds plain_above(double least, double greatest) { return above(plain(least, greatest)); }
Bounds fraction(double least, double greatest) { return of(Type::fraction, least, greatest); }
Bounds millimetres(double least, double greatest) { return of(Type::millimetres, least, greatest); }
Bounds per_inch(double least, double greatest) { return of(Type::per_inch, least, greatest); }
Bounds angle() { return of(Type::angle); }
Bounds angle(double least, double greatest) { return of(Type::angle, least, greatest); }
Bounds angle_above(double least, double greatest) { return above(angle(least, greatest)); }
Bounds choice(std::string_view words) { return listed(Type::choice, words); }
Bounds choices(std::string_view words) { return listed(Type::choices, words); }
Bounds share(std::string_view words) { return {Type::share, 0, 1, false, words}; }

/// The names of what a table of bought things has, separated by blanks.
template <class Thing, class Name>
std::string names_of(const std::vector<Thing>& table, Name name) {
  std::string all;
  for (const Thing& thing : table)
    all += (all.empty() ? "" : " ") + std::string(name(thing));
  return all;
}

std::string_view bearings() {
  static const std::string kAllBearings = names_of(ball_bearings(), [](const Bearing& b) { return b.designation; });
  return kAllBearings;
}

std::string_view flanges() {
  static const std::string kAllFlanges = names_of(motor_faces(), [](const MotorFace& f) { return f.size; });
  return kAllFlanges;
}

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

template <Section section>
Key row(std::string_view path, const Bounds& range, Absent absent, std::string_view meaning) {
  return {section, path, range, std::move(absent), meaning};
}
constexpr auto top = row<Section::top>, gear = row<Section::gear>, pair = row<Section::pair>,
               process = row<Section::process>, frame = row<Section::frame>, reducer = row<Section::reducer>,
               material = row<Section::material>, shaft = row<Section::shaft>, carrier = row<Section::carrier>,
               train = row<Section::train>, planetary = row<Section::planetary>;

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

std::vector<Key> make_keys() {
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
      gear("span_teeth", whole(1, 5000), "recommended", "teeth to measure the span over").of(kRound).own(),
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
      gear("tip_round", length_from(0), 0.0, "radius of a round between flank and tip, tangent to both")
          .of(kCylindrical)
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
           "a ball bearing to be set in: a seat of its outside and width, with a shoulder behind it")
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
            {"a tenth of the thickness", [](const Settings& v) { return v.number("thickness") / 10; }},
            "air between a post and its gear"),
      frame("post_height", length_from(0), {0, "0, no posts"},
            "of the lowest post; the others reach as near to their gears"),
      frame("post_diameter", size(), "bore and the thickness", "of the posts"),
      frame("bore.diameter", size(), "that of each gear", "for the shafts or bearings"),
      frame("bore.allowance", length(), 0.0, "play of the shaft in the bore, on diameter"),
      frame("bore.grip", choice("press slide free"), kNone, "the play that the process keeps for this fit"),
      frame("bore.bearing", choice(bearings()), kNone,
            "a ball bearing to be set in at every axis but a motor's: a seat of its outside and width, behind it the "
            "bore "
            "half way between its rings"),
      frame("bore.face", choice("top bottom"), "top", "end of the bore at which it sits; top: towards the gears"),
      frame("holes.x", length(), kNone,
            "of a mounting hole, from the first axis; in place of gear, distance and angle"),
      frame("holes.y", length(), kNone, "beside x"),
      frame("holes.gear", text(), kAsked, "from whose axis a mounting hole is placed; holes is a list of tables"),
      frame("holes.distance", length_from(0), kAsked, "from that axis"),
      frame("holes.angle", angle(), 0.0, "about that axis, from +x"),
      frame("holes.diameter", size(), kAsked, "of a mounting hole"),
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
      shaft("ends", lengths(), "flush: 0, 0", "how far the axle stands out below and above"),
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
  static const std::vector<Key> all = make_keys();
  return all;
}

}  // namespace palio::job
