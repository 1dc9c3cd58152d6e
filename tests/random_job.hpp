// Jobs of every kind as text, drawn from a seed: within the ranges of practice, or beyond them.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "random_gear.hpp"

namespace palio::test {

inline const std::vector<std::string>& job_kinds() {
  static const std::vector<std::string> all{"spur",           "helical", "double_helical", "internal",
                                            "rack",           "crossed", "bevel",          "true_cycloid",
                                            "cycloidal_ring", "clock",   "lantern",        "reducer"};
  return all;
}

/// One job of a kind with one pair "p" of gears "a" and "b", or one reducer "r".
/// \param wild  numbers from the whole of what keys allow, so that much is refused or doubtful
/// \param size  every length, modules too, so many times as large
inline std::string random_job(const std::string& kind, unsigned seed, bool wild = false, bool inch = false,
                              double size = 1) {
  Draw draw(seed * 2654435761u + 17);
  std::string text = fmt::format("title = \"{} {}\"\nunits = \"{}\"\n", kind, seed, inch ? "in" : "mm");
  const double unit = (inch ? 25.4 : 1) / size;
  const double m = wild ? draw.of({0.2, 0.5, 1.0, 3.0, 12.0}) : draw.of({0.5, 1.0, 1.5, 2.0, 3.0});
  const auto length = [&](double mm) { return fmt::format("{:.6g}", mm / unit); };
  const auto line = [&](const std::string& key, const std::string& value) { text += key + " = " + value + "\n"; };
  const auto number = [&](const std::string& key, double value) { line(key, fmt::format("{:.5g}", value)); };
  const int few = wild ? 4 : 12, many = wild ? 90 : 60;
  if (kind == "reducer") {
    const int rollers = draw.whole(wild ? 5 : 8, wild ? 40 : 28);
    const double circle = draw.between(40, 120);
    text += "[reducer.r]\n";
    line("rollers", std::to_string(rollers));
    line("roller_circle_diameter", length(circle));
    line("eccentricity", length(draw.between(0.2, wild ? 1.1 : 0.75) * circle / 2 / rollers));
    line("roller_diameter", length(draw.between(0.2, 0.55) * kPi * circle / rollers));
    line("discs", std::to_string(draw.whole(1, 3)));
    line("disc_gap", length(0.02 * circle));
    line("disc_offset", length(draw.of({0.0, 0.02, 0.1, 0.2, -0.01})));
    if (draw.whole(0, 1)) line("output_hole_clearance", length(draw.of({0.0, 0.05, 0.2})));
    return text;
  }
  const bool helical = kind == "helical" || kind == "double_helical" || kind == "crossed";
  const double alpha = draw.of({14.5, 20.0, 20.0, 20.0, 25.0}), dedendum = draw.of({1.2, 1.25, 1.25, 1.4});
  const bool cycloidal = kind == "true_cycloid" || kind == "cycloidal_ring" || kind == "clock" || kind == "lantern";
  text += "[shared]\n";
  number("module", m * size);
  if (!cycloidal) number("pressure_angle", alpha);
  if (!cycloidal && kind != "bevel") number("dedendum", dedendum);
  int z1 = draw.whole(few, many / 2), z2 = draw.whole(few, many);
  if (kind == "internal" || kind == "cycloidal_ring") z2 = z1 + draw.whole(wild ? 1 : 12, 50);
  if (kind == "clock") z1 = draw.whole(wild ? 4 : 6, 16), z2 = draw.whole(20, 80);
  if (kind == "lantern") z1 = draw.whole(wild ? 4 : 7, 14), z2 = draw.whole(24, 70);
  const double beta = draw.of({8.0, 15.0, 25.0, 35.0}), x1 = draw.between(wild ? -0.8 : -0.1, wild ? 1.0 : 0.5),
               x2 = draw.between(wild ? -0.8 : -0.2, 0.4);
  const std::string teeth_kind = kind == "crossed" ? "helical" : kind == "internal" || kind == "rack" ? "spur" : kind;
  text += "[gear.a]\n";
  line("kind", cycloidal ? (kind == "lantern" ? "\"lantern\"" : "\"cycloidal\"") : "\"" + teeth_kind + "\"");
  line("teeth", std::to_string(z1));
  if (helical) number("helix_angle", kind == "crossed" ? 45 : beta);
  if (kind == "helical" || kind == "crossed") line("hand", "\"right\"");
  if (kind == "double_helical") line("apex", "\"clockwise\"");
  if (kind == "clock") line("form", "\"clock\"");
  if (kind == "lantern") line("pin_diameter", length(draw.between(1.1, 1.6) * m));
  if (!cycloidal) number("profile_shift", kind == "bevel" ? x1 / 2 : x1);
  if (draw.whole(0, 2) == 0 && !cycloidal) line("bore.diameter", length(draw.between(0.1, wild ? 1.2 : 0.4) * m * z1));
  line("face_width", length(draw.between(3, 12) * m));
  text += "[gear.b]\n";
  line("kind", kind == "internal" ? "\"internal\""
               : kind == "rack"   ? "\"rack\""
               : cycloidal        ? "\"cycloidal\""
                                  : "\"" + teeth_kind + "\"");
  line("teeth", std::to_string(z2));
  if (helical) number("helix_angle", kind == "crossed" ? draw.of({45.0, 35.0, 25.0}) : beta);
  if (kind == "helical") line("hand", "\"left\"");
  if (kind == "crossed") line("hand", "\"right\"");
  if (kind == "double_helical") line("apex", "\"counter-clockwise\"");
  if (kind == "cycloidal_ring") line("internal", "true");
  if (kind == "clock") line("form", "\"clock\"");
  if (kind == "lantern") line("form", "\"lantern_wheel\"");
  if (!cycloidal && kind != "rack") number("profile_shift", kind == "bevel" ? -x1 / 2 : x2);
  line("face_width", length(draw.between(3, 12) * m));
  text += "[pair.p]\ndriver = \"a\"\ndriven = \"b\"\n";
  if (kind == "crossed") text.replace(text.rfind("hand = \"right\""), 0, "");
  if (kind != "clock" && draw.whole(0, 3) > 0) line("backlash", length(draw.of({0.0, 0.02, 0.05, 0.1}) * m));
  if (draw.whole(0, 1)) number("direction", draw.between(-180, 180));
  if (kind == "crossed") {
    // The helix angles, both right-handed, add up to the shaft angle.
    const auto at = text.find("helix_angle = ", text.find("[gear.b]"));
    number("shaft_angle", 45 + std::strtod(text.c_str() + at + 14, nullptr));
  }
  if (kind == "bevel" && draw.whole(0, 1)) number("shaft_angle", draw.of({60.0, 75.0, 90.0, 105.0}));
  return text;
}

}  // namespace palio::test
