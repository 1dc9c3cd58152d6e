// Starter jobs and the job reference, both from the key table.
#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <vector>

#include <fmt/format.h>

#include "keys.hpp"
#include "palio/error.hpp"
#include "palio/job/design.hpp"
#include "palio/pair/parallel.hpp"

namespace palio::job {
namespace {

/// "key = value   # meaning", the comment aligned, taken from the table.
std::string line(Section section, std::string_view path, const std::string& value, bool active = true) {
  // Of a list the first key of its items speaks.
  const Key* key = find_key(section, path);
  if (!key && path == "hubs") key = find_key(section, "hubs.diameter");
  const std::string setting = fmt::format("{}{} = {}", active ? "" : "# ", path, value);
  std::string remark(key->meaning);
  if (!active && !key->absent.words.empty()) remark += fmt::format(" (left out: {})", key->absent.words);
  return fmt::format("{:<38} # {}\n", setting, remark);
}

std::string section_name(Section section) {
  switch (section) {
    case Section::top: return "Top of the file";
    case Section::shared: return "[shared]";
    case Section::gear: return "[gear.NAME], and [shared] where marked";
    case Section::pair: return "[pair.NAME]";
    case Section::process: return "[process]";
    case Section::frame: return "[frame.NAME]";
    case Section::material: return "[material.NAME]";
    case Section::reducer: return "[reducer.NAME]";
  }
  return "";
}

}  // namespace

namespace {

/// What a starter is made of: lines of a table, "key = value", with lengths in mm; numbers marked @ are lengths;
/// "mm|in" where the numbers differ.
struct Part {
  const char* head;  // "gear.quiet_pinion"
  std::vector<std::pair<const char*, const char*>> lines;
};

struct Starter {
  const char *kind, *title;
  std::vector<Part> parts;
};

const std::vector<Starter>& starters() {
  static const Part quiet_pinion{"gear.quiet_pinion",
                                 {{"kind", "\"helical\""},
                                  {"teeth", "19"},
                                  {"helix_angle", "18"},
                                  {"hand", "\"right\""},
                                  {"profile_shift", "0.12"},
                                  {"face_width", "@16"},
                                  {"bore.diameter", "@6"}}};
  static const Part quiet_wheel{"gear.quiet_wheel",
                                {{"like", "\"quiet_pinion\""},
                                 {"teeth", "52"},
                                 {"hand", "\"left\""},
                                 {"profile_shift", "0"},
                                 {"face_width", "@14"},
                                 {"bore.diameter", "@10"}}};
  static const Part quiet_stage{"pair.quiet_stage",
                                {{"driver", "\"quiet_pinion\""}, {"driven", "\"quiet_wheel\""}, {"backlash", "@0.1"}}};
  static const Part push_pinion{"gear.push_pinion",
                                {{"kind", "\"spur\""},
                                 {"teeth", "18"},
                                 {"profile_shift", "0.2"},
                                 {"face_width", "@14"},
                                 {"bore.diameter", "@8"}}};
  static const Part vent_rack{"gear.vent_rack",
                              {{"kind", "\"rack\""}, {"teeth", "24"}, {"face_width", "@12"}, {"base_height", "@8"}}};
  static const Part push{"pair.push",
                         {{"driver", "\"push_pinion\""}, {"driven", "\"vent_rack\""}, {"backlash", "@0.12"}}};
  static const Part crank_pinion{"gear.crank_pinion",
                                 {{"kind", "\"spur\""},
                                  {"teeth", "21"},
                                  {"profile_shift", "0.4"},
                                  {"face_width", "@12"},
                                  {"bore.diameter", "@8"}}};
  static const Part crank_ring{"gear.crank_ring",
                               {{"kind", "\"internal\""},
                                {"teeth", "61"},
                                {"profile_shift", "-0.4"},
                                {"addendum", "0.9"},
                                {"face_width", "@12"},
                                {"rim_thickness", "@6"}}};
  static const Part crank{"pair.crank",
                          {{"driver", "\"crank_pinion\""}, {"driven", "\"crank_ring\""}, {"backlash", "@0.15"}}};
  static const Part counter_driver{"gear.counter_driver",
                                   {{"kind", "\"helical\""},
                                    {"teeth", "13"},
                                    {"helix_angle", "45"},
                                    {"hand", "\"right\""},
                                    {"profile_shift", "0.1"},
                                    {"face_width", "@16"},
                                    {"bore.diameter", "@5"}}};
  static const Part counter_wheel{"gear.counter_wheel",
                                  {{"like", "\"counter_driver\""},
                                   {"teeth", "26"},
                                   {"helix_angle", "35"},
                                   {"profile_shift", "0"},
                                   {"bore.diameter", "@8"}}};
  static const Part counter{"pair.counter",
                            {{"driver", "\"counter_driver\""},
                             {"driven", "\"counter_wheel\""},
                             {"shaft_angle", "80"},
                             {"backlash", "@0.06"},
                             {"friction", "0.08"},
                             {"speed", "120"}}};
  static const Part herring_pinion{"gear.ridge_pinion",
                                   {{"kind", "\"double_helical\""},
                                    {"teeth", "16"},
                                    {"helix_angle", "28"},
                                    {"apex", "\"counter-clockwise\""},
                                    {"gap", "@2"},
                                    {"profile_shift", "0.1"},
                                    {"face_width", "@26"},
                                    {"bore.diameter", "@8"}}};
  static const Part herring_wheel{"gear.ridge_wheel",
                                  {{"like", "\"ridge_pinion\""},
                                   {"teeth", "45"},
                                   {"apex", "\"clockwise\""},
                                   {"profile_shift", "0"},
                                   {"bore.diameter", "@12"}}};
  static const Part herring{"pair.ridge_stage",
                            {{"driver", "\"ridge_pinion\""}, {"driven", "\"ridge_wheel\""}, {"backlash", "@0.1"}}};
  static const Part corner_pinion{
      "gear.corner_pinion",
      {{"kind", "\"bevel\""},
       {"teeth", "16"},
       {"profile_shift", "0.2"},
       {"face_width", "@8"},
       {"bore.diameter", "@6"},
       {"flat.height", "@5.5"},
       {"hubs", "[{ face = \"top\", diameter = 13, length = 5 }]|[{ face = \"top\", diameter = 0.5, length = 0.2 }]"}}};
  static const Part corner_wheel{
      "gear.corner_wheel",
      {{"like", "\"corner_pinion\""},
       {"teeth", "29"},
       {"profile_shift", "-0.2"},
       {"bore.diameter", "@8"},
       {"flat.height", "@7"},
       {"hubs",
        "[{ face = \"top\", diameter = 18, length = 6 }]|[{ face = \"top\", diameter = 0.7, length = 0.25 }]"}}};
  static const Part corner{
      "pair.corner",
      {{"driver", "\"corner_pinion\""}, {"driven", "\"corner_wheel\""}, {"shaft_angle", "90"}, {"backlash", "@0.1"}}};
  static const Part hip_pinion{"gear.hip_pinion", {{"like", "\"corner_pinion\""}, {"face_width", "@9"}}};
  static const Part hip_wheel{"gear.hip_wheel", {{"like", "\"corner_wheel\""}, {"face_width", "@9"}}};
  static const Part hip{
      "pair.hip",
      {{"driver", "\"hip_pinion\""}, {"driven", "\"hip_wheel\""}, {"shaft_angle", "75"}, {"backlash", "@0.1"}}};
  static const Part season_pinion{"gear.season_pinion",
                                  {{"kind", "\"cycloidal\""},
                                   {"form", "\"clock\""},
                                   {"module", "0.8"},
                                   {"teeth", "8"},
                                   {"face_width", "@5"},
                                   {"bore.diameter", "1.5|0.06"},
                                   {"material", "\"brass\""}}};
  static const Part season_wheel{"gear.season_wheel",
                                 {{"like", "\"season_pinion\""},
                                  {"teeth", "60"},
                                  {"face_width", "@2.5"},
                                  {"bore.diameter", "@6"},
                                  {"spokes.count", "5"},
                                  {"spokes.width", "@3"},
                                  {"spokes.inner_diameter", "14|0.55"},
                                  {"spokes.outer_diameter", "39|1.54"}}};
  static const Part season{"pair.season", {{"driver", "\"season_wheel\""}, {"driven", "\"season_pinion\""}}};
  static const Part lantern_pinion{"gear.lantern_pinion",
                                   {{"kind", "\"lantern\""},
                                    {"module", "2"},
                                    {"teeth", "9"},
                                    {"pin_diameter", "1.6|0.063"},
                                    {"face_width", "@10"},
                                    {"bore.diameter", "@5"}}};
  static const Part lantern_wheel{"gear.lantern_wheel",
                                  {{"kind", "\"cycloidal\""},
                                   {"form", "\"lantern_wheel\""},
                                   {"module", "2"},
                                   {"teeth", "40"},
                                   {"addendum", "1.3"},
                                   {"face_width", "@8"},
                                   {"bore.diameter", "@8"},
                                   {"web.thickness", "@4"},
                                   {"web.inner_diameter", "@18"},
                                   {"web.wall", "@4"}}};
  static const Part lantern{"pair.lantern",
                            {{"driver", "\"lantern_wheel\""}, {"driven", "\"lantern_pinion\""}, {"backlash", "@0.06"}}};
  static const Part shade_pinion{"gear.shade_pinion",
                                 {{"kind", "\"cycloidal\""},
                                  {"form", "\"true\""},
                                  {"teeth", "12"},
                                  {"face_width", "@10"},
                                  {"bore.diameter", "@5"}}};
  static const Part shade_wheel{
      "gear.shade_wheel",
      {{"like", "\"shade_pinion\""}, {"teeth", "36"}, {"face_width", "@8"}, {"bore.diameter", "@8"}}};
  static const Part shade{"pair.shade",
                          {{"driver", "\"shade_pinion\""},
                           {"driven", "\"shade_wheel\""},
                           {"rolling", "\"radial_flanks\""},
                           {"backlash", "@0.08"}}};
  static const Part motor_reducer{"reducer.motor_reducer",
                                  {{"rollers", "24"},
                                   {"roller_circle_diameter", "80|3.1"},
                                   {"roller_diameter", "5|0.2"},
                                   {"eccentricity", "1.2|0.045"},
                                   {"disc_offset", "0.03|0.001"},
                                   {"output_pins", "6"},
                                   {"output_pin_circle_diameter", "46|1.8"},
                                   {"output_pin_diameter", "6|0.24"},
                                   {"output_hole_clearance", "0.05|0.002"},
                                   {"bore.diameter", "19|0.75"},
                                   {"journal_diameter", "17|0.67"},
                                   {"discs", "2"},
                                   {"face_width", "@6"},
                                   {"friction", "0.08"},
                                   {"speed", "1200"},
                                   {"torque", "0.12"},
                                   {"material", "\"petg\""}}};
  static const std::vector<Starter> all{
      {"cycloidal", "Roof vent, shade roller", {shade_pinion, shade_wheel, shade}},
      {"clock", "Season dial", {season_pinion, season_wheel, season}},
      {"lantern", "Roof vent, lantern drive", {lantern_pinion, lantern_wheel, lantern}},
      {"reducer", "Roof vent, motor reducer", {motor_reducer}},
      {"bevel", "Roof vent, corner drive", {corner_pinion, corner_wheel, hip_pinion, hip_wheel, corner, hip}},
      {"helical", "Roof vent, quiet stage", {quiet_pinion, quiet_wheel, quiet_stage}},
      {"double_helical", "Roof vent, ridge shaft", {herring_pinion, herring_wheel, herring}},
      {"internal", "Roof vent, hand crank", {crank_pinion, crank_ring, crank}},
      {"rack", "Roof vent, push rack", {push_pinion, vent_rack, push}},
      {"crossed", "Roof vent, turn counter", {counter_driver, counter_wheel, counter}},
      {"greenhouse",
       "Roof vent opener",
       {{"gear.motor_pinion",
         {{"kind", "\"spur\""},
          {"teeth", "17"},
          {"profile_shift", "0.18|0.25"},
          {"face_width", "@14"},
          {"bore.diameter", "@4.5"}}},
        {"gear.drum_wheel",
         {{"like", "\"motor_pinion\""},
          {"teeth", "43"},
          {"profile_shift", "0.09|0.2"},
          {"face_width", "@12"},
          {"bore.diameter", "@8"},
          {"bore.grip", "\"slide\""},
          {"keyway", "\"standard\""},
          {"hubs",
           "[{ face = \"top\", diameter = 18, length = 6 }]|[{ face = \"top\", diameter = 0.75, length = 0.25 }]"},
          {"web.thickness", "@5"},
          {"web.wall", "@3"},
          {"spokes.count", "5"},
          {"spokes.width", "@5"},
          {"material", "\"petg\""}}},
        quiet_pinion,
        quiet_wheel,
        push_pinion,
        vent_rack,
        crank_pinion,
        crank_ring,
        counter_driver,
        counter_wheel,
        corner_pinion,
        corner_wheel,
        hip_pinion,
        hip_wheel,
        season_pinion,
        season_wheel,
        lantern_pinion,
        lantern_wheel,
        {"pair.first_stage",
         {{"driver", "\"motor_pinion\""},
          {"driven", "\"drum_wheel\""},
          {"center_distance", "@45.5"},
          {"backlash", "@0.14"}}},
        quiet_stage,
        push,
        crank,
        counter,
        corner,
        hip,
        season,
        lantern,
        motor_reducer,
        {"frame.bearing_plate",
         {{"pairs", "[\"first_stage\"]"},
          {"thickness", "@5"},
          {"margin", "@6"},
          {"post_height", "@2"},
          {"bore.grip", "\"free\""},
          {"material", "\"aluminium\""}}},
        {"process", {{"preset", "\"print\""}}}}}};
  return all;
}

std::string first_stage(bool inch);
std::string coupon(bool inch);

std::string opening(const std::string& title, const char* units) {
  std::string text = "# A palio job. Every verb takes this file: palio report, roll, draw, vary, make …\n";
  text +=
      "# A number is in the file's units (angles in degrees); a string may carry a unit and arithmetic: \"1/8 in\",\n";
  text += "# \"36/2 + 0.2\", \"shaft + 0.1\" with [values] shaft = 8. All keys: docs/job-reference.md.\n\n";
  text += line(Section::top, "title", "\"" + title + "\"");
  text += line(Section::top, "units", units);
  return text;
}

}  // namespace

std::string starter_kinds() {
  std::string all = "spur";
  for (const Starter& s : starters())
    all += std::string(", ") + s.kind;
  return all + ", coupon";
}

std::string starter(std::string_view kind, Units units) {
  const bool inch = units == Units::inch;
  if (kind == "spur") return first_stage(inch);
  if (kind == "coupon") return coupon(inch);
  std::string known = "\"spur\", \"coupon\"";
  for (const Starter& s : starters()) {
    known += std::string(", \"") + s.kind + "\"";
    if (kind != s.kind) continue;
    std::string text = opening(s.title, inch ? "\"in\"" : "\"mm\"");
    const bool gears = std::any_of(s.parts.begin(), s.parts.end(),
                                   [](const Part& p) { return std::string_view(p.head).substr(0, 4) == "gear"; });
    const bool cycloidal = kind == "cycloidal" || kind == "clock" || kind == "lantern";
    if (gears) {
      text +=
          "\n[shared]                               # " + std::string(find_key(Section::top, "shared")->meaning) + "\n";
      text += inch ? line(Section::gear, "diametral_pitch", "16") : line(Section::gear, "module", "1.5");
      if (!cycloidal) text += line(Section::gear, "pressure_angle", "20");
    }
    for (const Part& part : s.parts) {
      text += fmt::format("\n[{}]\n", part.head);
      const std::string_view table = std::string_view(part.head).substr(0, 4);
      const Section section = table == "gear"   ? Section::gear
                              : table == "pair" ? Section::pair
                              : table == "fram" ? Section::frame
                              : table == "redu" ? Section::reducer
                                                : Section::process;
      for (const auto& [key, value] : part.lines) {
        // Lengths are round numbers in both units.
        const bool length = value[0] == '@';
        const double mm = length ? std::strtod(value + 1, nullptr) : 0;
        // A round sixteenth of an inch; small plays in thousandths. A distance follows the larger teeth.
        const double in = mm < 1                                       ? std::round(mm / 0.0254) / 1000
                          : std::string_view(key) == "center_distance" ? 1.9
                                                                       : std::round(mm / 25.4 * 16) / 16;
        std::string plain(value);
        if (const auto bar = plain.find('|'); bar != std::string::npos)
          plain = inch ? plain.substr(bar + 1) : plain.substr(0, bar);
        text += line(section, key, !length ? plain : inch ? fmt::format("{:g}", in) : std::string(value + 1));
      }
    }
    return text;
  }
  throw InvalidParameter("kind", fmt::format("\"{}\"", kind), "this version begins jobs of kind " + known,
                         "run palio start spur, say");
}

namespace {

/// Gears in graded modules and plays about one in the middle, a plate that carries them, and a strip of graded holes.
std::string coupon(bool inch) {
  const auto length = [&](double mm) { return fmt::format("{:.4f}", inch ? mm / 25.4 : mm); };
  std::string text = fmt::format(
      "# Coupon: print it, measure it, and write what you find into [process].\n"
      "# For each module one gear stands in the middle and four around it, with more play from each to the next: the "
      "tightest\n"
      "# that still turns freely shows what backlash your machine needs. In the strip, the hole that takes a gauge pin "
      "of its\n"
      "# own drawn size shows nothing to correct; the others show hole_allowance by diameter.\n"
      "# `palio make FILE --format 3mf --nested 220x220` lays all parts side by side.\n\n"
      "title = \"Coupon\"\nunits = \"{}\"\n\n[shared]\nkind = \"spur\"\nprofile_shift = 0.25\nface_width = "
      "{}\nbore.diameter = {}\n\n"
      "[process]\npreset = \"print\"\nhole_allowance = 0        # nothing corrected: that is what is to be "
      "found\nfirst_layer_inset = {{ amount = 0, up_to = "
      "{} }}\n",
      inch ? "in" : "mm", length(6), length(4), length(0.3));
  std::string strip;
  for (const double module : {0.6, 1.0, 1.5}) {
    gear::CylindricalSpec spec;
    spec.teeth = 14, spec.module = module, spec.profile_shift = 0.25, spec.face_width = 6;
    const gear::Teeth teeth{gear::CylindricalGear(spec)};
    const double zero = pair::zero_play_center_distance(teeth, teeth).value();
    const std::string tag = fmt::format("m{}", static_cast<int>(std::lround(10 * module)));
    const std::string pitch = fmt::format("teeth = 14\nmodule = {}\n", module);
    // The bore leaves no rim in the smallest gears: theirs is smaller.
    const std::string bore = module < 0.8 ? fmt::format("bore.diameter = {}\n", length(2)) : "";
    text += fmt::format("\n[gear.{}_middle]\n{}{}", tag, pitch, bore);
    std::string pairs, names;
    for (int i = 0; i < 4; ++i) {
      // Small teeth leave contact sooner.
      const int hundredths = 5 + (module < 0.8 ? 4 : module < 1.2 ? 7 : 10) * i;
      // Play along the pitch circle from moving the axes apart, found on the exact pair.
      const double wanted = hundredths / 100.0;
      double low = zero, high = zero + module;
      for (int k = 0; k < 60; ++k) {
        const double middle = (low + high) / 2;
        (pair::ParallelPair(teeth, teeth, middle).circumferential_backlash() < wanted ? low : high) = middle;
      }
      const std::string name = fmt::format("{}_play{:02}", tag, hundredths);
      text += fmt::format("[gear.{}]\n{}{}", name, pitch, bore);
      pairs += fmt::format(
          "[pair.{0}_pair]                # {3} mm of play\ndriver = \"{1}_middle\"\ndriven = \"{0}\"\ncenter_distance "
          "= {2}\ndirection = {4}\n",
          name, tag, inch ? fmt::format("{:.6f}", low / 25.4) : fmt::format("{:.4f}", low), wanted, 90 * i);
      names += fmt::format("{}\"{}_pair\"", names.empty() ? "" : ", ", name);
    }
    text += "\n" + pairs;
    strip += fmt::format("\n[frame.{}_plate]\npairs = [{}]\nthickness = {}\nmargin = {}\n", tag, names, length(3),
                         length(3));
  }
  text += strip + fmt::format("\n[frame.hole_strip]\npairs = []\nthickness = {}\nmargin = {}\nholes = [\n", length(3),
                              length(3));
  double x = 0, before = 0;
  for (const double d : {2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0}) {
    x += before > 0 ? (before + d) / 2 + 3 : 0;
    before = d;
    text += fmt::format("  {{ x = {}, y = 0, diameter = {} }},\n", length(x), length(d));
  }
  return text + "]\n";
}

std::string first_stage(bool inch) {
  // Round numbers in each: millimetres with a module, inches with a diametral pitch.
  struct Numbers {
    const char *units, *size_key, *size, *width1, *width2, *bore1, *bore2, *distance, *backlash;
  };
  const Numbers n = inch ? Numbers{"\"in\"", "diametral_pitch", "16", "0.625", "0.5", "0.1875", "0.375", "1.9", "0.006"}
                         : Numbers{"\"mm\"", "module", "1.5", "14", "12", "4.5", "8", "45.5", "0.14"};
  const auto S = Section::gear;
  std::string text = opening("Roof vent, first stage", n.units);
  text += "\n[shared]                               # " + std::string(find_key(Section::top, "shared")->meaning) + "\n";
  text += line(S, n.size_key, n.size);
  text += line(S, "pressure_angle", "20");
  text += line(S, "reference_profile", "\"iso53-a\"", false);
  text += "\n[gear.motor_pinion]\n";
  text += line(S, "kind", "\"spur\"");
  text += line(S, "teeth", "17");
  text += line(S, "profile_shift", inch ? "0.25" : "0.18");
  text += line(S, "face_width", n.width1);
  text += line(S, "bore.diameter", n.bore1);
  text += "\n[gear.drum_wheel]\n";
  text += line(S, "like", "\"motor_pinion\"");
  text += line(S, "teeth", "43");
  text += line(S, "profile_shift", inch ? "0.2" : "0.09");
  text += line(S, "face_width", n.width2);
  text += line(S, "bore.diameter", n.bore2);
  text += "\n[pair.first_stage]\n";
  text += line(Section::pair, "driver", "\"motor_pinion\"");
  text += line(Section::pair, "driven", "\"drum_wheel\"");
  text += line(Section::pair, "center_distance", n.distance);
  text += line(Section::pair, "backlash", n.backlash);
  text += line(Section::pair, "backlash_share", "\"teeth\"");
  text += line(Section::pair, "mounted_center_distance", n.distance, false);
  return text;
}

}  // namespace

std::string reference() {
  std::string text =
      "# Job reference\n\nWritten by `palio explain keys` from the table that checks jobs; do not edit by hand.\n\n"
      "A number is in the file's units (angles in degrees). A string may carry a unit (mm, cm, m, µm, in, thou, °, "
      "rad, %)\n"
      "and arithmetic, with names from `[values]`. `palio --set gear.NAME.KEY=VALUE` overrides one value for one "
      "run.\n\n"
      "**Arithmetic** knows `+ - * / ^`, parentheses, `pi`, and `sin cos tan asin acos atan atan2 sqrt abs min max "
      "round floor ceil exp ln`.\n"
      "Angles are in degrees, in and out: `\"10*cos(20)\"` is 9.397. A unit at the end goes with the whole (`\"1/8 "
      "in\"`, `\"1 1/8 in\"`);\n"
      "several terms may each have one (`\"10 mm + 1 in\"`). Decimals take a point; commas, comparisons and choices "
      "are refused.\n"
      "Sizes are at least a micrometre. `bore = 5` is `bore.diameter = 5`, `leaves` are `teeth`; other words of the "
      "trade\n"
      "(`pitch_diameter`, `dp`, `width` …) are answered with the key and the number that are meant.\n";
  for (const Section section : {Section::top, Section::gear, Section::pair, Section::process, Section::frame,
                                Section::material, Section::reducer}) {
    text +=
        fmt::format("\n## {}\n\n| key | allowed | left out | meaning |\n|---|---|---|---|\n", section_name(section));
    for (const Key& key : keys()) {
      if (key.section != section || key.readiness == Readiness::later) continue;
      text += fmt::format("| `{}`{} | {} | {} | {} |\n", key.path, section == Section::gear && !key.is_own ? " ·" : "",
                          allowed(key, "(file's unit)"), key.absent.words, key.meaning);
    }
  }
  text += "\n`·` may also stand in `[shared]`.\n\n## Named already, not made yet\n\n";
  for (const Key& key : keys()) {
    if (key.readiness == Readiness::later) text += fmt::format("- `{}`: {}\n", key.path, key.meaning);
  }
  text +=
      "\n## Reference profiles\n\n| name | pressure angle | addendum | dedendum | tool tip radius "
      "|\n|---|---|---|---|---|\n";
  for (const ReferenceProfile& p : reference_profiles()) {
    text += fmt::format("| `{}` | {}° | {} | {} | {} |\n", p.name, p.pressure_angle, p.addendum, p.dedendum,
                        p.tool_tip_radius);
  }
  text +=
      "\n## Presets of `[process]`\n\nValues to begin from, in mm, degrees and fractions; measure your own (`palio "
      "start coupon`) and override them.\n\n"
      "| preset | hole_allowance | press | slide | free | first_layer_inset | shrinkage | kerf | draft | "
      "smallest_radius | least_wall | "
      "center_distance_tolerance |\n"
      "|---|---|---|---|---|---|---|---|---|---|---|---|\n";
  for (const Process& p : presets()) {
    std::string holes;
    for (const auto& [d, a] : p.hole_allowance)
      holes += fmt::format("{}{} at {}", holes.empty() ? "" : ", ", a, d);
    text += fmt::format("| `{}` | {} | {} | {} | {} | {} | {} | {} | {:.3g} | {} | {} | {} |\n", p.preset,
                        holes.empty() ? "0" : holes, p.press, p.slide, p.free,
                        p.inset > 0 ? fmt::format("{} up to {}", p.inset, p.inset_up_to) : "0", p.shrinkage_radial,
                        p.kerf, p.draft * 180 / kPi, p.smallest_radius, p.least_wall, p.center_distance_tolerance);
  }
  text += "\n## Materials\n\n| name | density, kg/m³ |\n|---|---|\n";
  for (const Material& m : materials())
    text += fmt::format("| `{}` | {} |\n", m.name, m.density);
  text +=
      "\n## Keyways by bore (`keyway = \"standard\"`)\n\nIn the manner of ISO 773, plain parallel keys, in mm: the "
      "series in common use, not compared with the "
      "printed standard.\n\n"
      "| bore above | up to | width | depth in the hub |\n|---|---|---|---|\n";
  for (const body::KeySize& k : body::key_sizes())
    text += fmt::format("| {} | {} | {} | {} |\n", k.over, k.up_to, k.width, k.depth);
  return text;
}

}  // namespace palio::job
