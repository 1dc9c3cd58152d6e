// Starter jobs and the job reference, both from the key table.
#include <fmt/format.h>

#include "keys.hpp"
#include "palio/error.hpp"
#include "palio/job/design.hpp"

namespace palio::job {
namespace {

/// "key = value   # meaning", the comment aligned, taken from the table.
std::string line(Section section, std::string_view path, const std::string& value, bool active = true) {
  const Key* key = find_key(section, path);
  const std::string setting = fmt::format("{}{} = {}", active ? "" : "# ", path, value);
  std::string remark(key->meaning);
  if (!active && !key->when_absent.empty()) remark += fmt::format(" (left out: {})", key->when_absent);
  return fmt::format("{:<38} # {}\n", setting, remark);
}

std::string section_name(Section section) {
  switch (section) {
    case Section::top: return "Top of the file";
    case Section::shared: return "[shared]";
    case Section::gear: return "[gear.NAME], and [shared] where marked";
    case Section::pair: return "[pair.NAME]";
  }
  return "";
}

}  // namespace

std::string starter(std::string_view kind, Units units) {
  if (kind != "spur") {
    throw InvalidParameter("kind", fmt::format("\"{}\"", kind), "this version begins jobs of kind \"spur\"", "run palio start spur");
  }
  const bool inch = units == Units::inch;
  // Round numbers in each: millimetres with a module, inches with a diametral pitch.
  struct Numbers {
    const char *units, *size_key, *size, *width1, *width2, *bore1, *bore2, *distance, *backlash;
  };
  const Numbers n = inch ? Numbers{"\"in\"", "diametral_pitch", "16", "0.625", "0.5", "0.1875", "0.375", "1.9", "0.006"}
                         : Numbers{"\"mm\"", "module", "1.5", "14", "12", "4.5", "8", "45.5", "0.14"};
  const auto S = Section::gear;
  std::string text;
  text += "# A palio job. Every verb takes this file: palio report, roll, draw, make …\n";
  text += "# A number is in the file's units (angles in degrees); a string may carry a unit and arithmetic: \"1/8 in\",\n";
  text += "# \"36/2 + 0.2\", \"shaft + 0.1\" with [values] shaft = 8. All keys: docs/job-reference.md.\n\n";
  text += line(Section::top, "title", "\"Roof vent, first stage\"");
  text += line(Section::top, "units", n.units);
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

std::string reference() {
  std::string text =
      "# Job reference\n\nWritten by `palio explain keys` from the table that checks jobs; do not edit by hand.\n\n"
      "A number is in the file's units (angles in degrees). A string may carry a unit (mm, cm, m, µm, in, thou, °, rad, %)\n"
      "and arithmetic, with names from `[values]`. `palio --set gear.NAME.KEY=VALUE` overrides one value for one run.\n";
  for (const Section section : {Section::top, Section::gear, Section::pair}) {
    text += fmt::format("\n## {}\n\n| key | allowed | left out | meaning |\n|---|---|---|---|\n", section_name(section));
    for (const Key& key : keys()) {
      if (key.section != section || key.readiness == Readiness::later) continue;
      text += fmt::format("| `{}`{} | {} | {} | {} |\n", key.path, section == Section::gear && !key.own ? " ·" : "", allowed(key, "(file's unit)"),
                          key.when_absent, key.meaning);
    }
  }
  text += "\n`·` may also stand in `[shared]`.\n\n## Named already, not made yet\n\n";
  for (const Key& key : keys()) {
    if (key.readiness == Readiness::later) text += fmt::format("- `{}`: {}\n", key.path, key.meaning);
  }
  text += "\n## Reference profiles\n\n| name | pressure angle | addendum | dedendum | tool tip radius |\n|---|---|---|---|---|\n";
  for (const ReferenceProfile& p : reference_profiles()) {
    text += fmt::format("| `{}` | {}° | {} | {} | {} |\n", p.name, p.pressure_angle, p.addendum, p.dedendum, p.tool_tip_radius);
  }
  return text;
}

}  // namespace palio::job
