// The page of all keys, written from the table that checks jobs.
#include <fmt/format.h>

#include "palio/design/design.hpp"
#include "palio/readings/explain.hpp"
#include "palio/values/bearings.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/motors.hpp"
#include "palio/values/retaining_rings.hpp"
#include "palio/values/threads.hpp"

namespace palio::job {
namespace {

std::string heading(Section section) {
  if (section == Section::top) return "Top of the file";
  const std::string table = fmt::format("[{}{}]", name(section), has_names(section) ? ".NAME" : "");
  return section == Section::gear ? table + ", and [shared] where marked" : table;
}

/// A row for each symbol, after the first corner of the table.
std::string fit_table(std::string_view symbols, std::optional<FitLimits> (*limits_of)(std::string_view, double)) {
  std::string text;
  const std::vector<double> sizes = fit_sizes();
  for (const double size : sizes)
    text += fmt::format(" up to {} mm |", size);
  text += "\n|---|---|---|---|---|---|---|---|---|\n";
  for (const std::string& symbol : words_of(symbols)) {
    text += fmt::format("| `{}` |", symbol);
    for (const double size : sizes) {
      const FitLimits limits = *limits_of(symbol, size);
      text += fmt::format(" {:+.4g} {:+.4g} |", limits.least * 1e3, limits.greatest * 1e3);
    }
    text += "\n";
  }
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
  for (const Section section : sections()) {
    text += fmt::format("\n## {}\n\n| key | allowed | left out | meaning |\n|---|---|---|---|\n", heading(section));
    for (const Key& key : keys()) {
      if (key.section != section) continue;
      text += fmt::format("| `{}`{} | {} | {} | {} |\n", key.path, section == Section::gear && !key.is_own ? " ·" : "",
                          allowed(key, "(file's unit)"), key.absent.words, key.meaning);
    }
  }
  text +=
      "\n`·` may also stand in `[shared]`.\n"
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
  text +=
      "\n## Ball bearings (`bore.bearing`)\n\nBoundary dimensions in the manner of ISO 15, in mm: deep-groove "
      "bearings that are as wide open as shielded, as commonly tabulated, not compared with the printed standard. "
      "Those with an F are flanged (in the manner of ISO 8443): the flange lies on the end of the part. Others are "
      "given "
      "by their sizes, as `bore.steps`.\n\n"
      "| designation | bore | outside | width | flange |\n|---|---|---|---|---|\n";
  for (const Bearing& b : ball_bearings())
    text += fmt::format("| `{}` | {} | {} | {} | {} |\n", b.designation, b.bore, b.outside, b.width,
                        b.flange_width > 0 ? fmt::format("{} × {}", b.flange_diameter, b.flange_width) : "");
  text +=
      "\n## Motor faces (`motors.flange` of a frame)\n\nSquare flanges in the manner of NEMA ICS 16, in mm, through "
      "holes of the middle row of ISO 273: as commonly tabulated, not compared with the printed standards.\n\n"
      "| flange | boss | circle of the screws | screws | through holes |\n|---|---|---|---|---|\n";
  for (const MotorFace& f : motor_faces())
    text += fmt::format("| `{}` | {} | {} | {} × {} | {} |\n", f.size, f.pilot, f.circle, f.count, f.screw, f.hole);
  text +=
      "\n## Threads (`set_screw.thread`)\n\nMetric threads of coarse pitch (ISO 261), through holes of the middle row "
      "of "
      "ISO 273, nuts in the manner of ISO 4032, in mm: as commonly tabulated, not compared with the printed "
      "standards.\n\n"
      "| thread | tapping hole | through hole | nut across flats | nut thick |\n|---|---|---|---|---|\n";
  for (const Thread& t : threads())
    text += fmt::format("| `{}` | {:.4g} | {} | {} | {} |\n", t.name, t.tapping_hole(), t.clearance_hole,
                        t.nut_across_flats, t.nut_height);
  text +=
      "\n## Fits of bores (`bore.fit`)\n\nLimits in the manner of ISO 286, in µm above the nominal size: as commonly "
      "tabulated, not compared with the printed standard.\n\n| |";
  text += fit_table(hole_fits(), hole_limits);
  text += "\n## Fits of axles (`fit` of a shaft)\n\nThe same for shafts, from the same tables.\n\n| |" +
          fit_table(shaft_fits(), shaft_limits);
  text +=
      "\n## Retaining rings (`ring` of a shaft)\n\nGrooves in the manner of DIN 471, plain rings, in mm: as commonly "
      "tabulated, not compared with the printed standard. The axle stands out by play, ring and three times the "
      "groove's "
      "depth beyond what the ring holds. Room for the ring's ears, and for the tool that spreads them, is not looked "
      "at.\n\n"
      "| axle | thickness of the ring | bottom of the groove | its width |\n|---|---|---|---|\n";
  for (const RetainingRing& r : retaining_rings())
    text += fmt::format("| {} | {} | {} | {} |\n", r.shaft, r.thickness, r.groove_diameter, r.groove_width);
  return text;
}

}  // namespace palio::job
