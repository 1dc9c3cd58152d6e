// Tolerances of teeth: limits of span, pins and play are those of teeth that are thinner by as much.
#include <random>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::mistakes;

namespace {

/// Two gears at a given distance, the teeth thinned by what is said.
std::string pair_of(const std::string& shape, double thinned_a, double thinned_b, double tolerance_a,
                    double tolerance_b, bool ring) {
  return fmt::format(
      "[shared]\nmodule=1.5\nface_width=12\n{}[gear.a]\nkind='{}'\nteeth=19\nspan_teeth=3\npin_diameter=2."
      "75\nthickness_allowance={}\n"
      "thickness_tolerance={}\nthinning='flanks'\n{}[gear.b]\nkind='{}'\nteeth=52\npin_diameter=2.6\n{}thickness_"
      "allowance={}\n"
      "thickness_tolerance={}\nthinning='flanks'\n{}[pair.p]\ndriver='a'\ndriven='b'\n",
      shape, shape.empty() ? "spur" : "helical", -thinned_a, tolerance_a, shape.empty() ? "" : "hand='right'\n",
      ring            ? "internal"
      : shape.empty() ? "spur"
                      : "helical",
      ring ? "" : "span_teeth=6\n", -thinned_b, tolerance_b,
      shape.empty() ? ""
      : ring        ? "hand='right'\n"
                    : "hand='left'\n");
}

}  // namespace

TEST_CASE("Limits of span, pins, thickness and play are what thinner teeth measure") {
  std::mt19937 random(11);
  const auto any = [&](double from, double to) { return std::uniform_real_distribution<>(from, to)(random); };
  for (int n = static_cast<int>(test::share(24)); n > 0; --n) {
    const bool ring = n % 3 == 0, helical = n % 2 == 0;
    const std::string shape = helical ? "helix_angle=15\n" : "";
    const double thinned_a = any(0, 0.08), thinned_b = any(0, 0.08), t_a = any(0.005, 0.06), t_b = any(0.005, 0.06);
    const std::string text = pair_of(shape, thinned_a, thinned_b, t_a, t_b, ring);
    INFO(text);
    const auto said = test::report(text),
               thin = test::report(pair_of(shape, thinned_a + t_a, thinned_b + t_b, 0, 0, ring));
    int met = 0;
    for (const char* gear : {"a", "b"}) {
      const auto &own = said["gears"][gear], &other = thin["gears"][gear];
      CHECK_THAT(own["least_tooth_thickness"].get<double>(),
                 WithinAbs(other["normal_tooth_thickness"].get<double>(), 1e-12));
      for (const char* measure : {"span", "over_pins", "over_balls", "between_pins", "between_balls"}) {
        if (!own.contains(measure)) continue;
        CAPTURE(gear, measure);
        CHECK_THAT(own[measure]["at_thinnest"].get<double>(), WithinAbs(other[measure]["length"].get<double>(), 1e-9));
        // Thinner teeth measure less from outside, more from inside.
        CHECK((own[measure]["at_thinnest"].get<double>() > own[measure]["length"].get<double>()) ==
              (std::string(measure).substr(0, 7) == "between"));
        CHECK_FALSE(other[measure].contains("at_thinnest"));
        ++met;
      }
    }
    CHECK(met >= 4);
    CHECK_THAT(said["pairs"]["p"]["greatest_circumferential_backlash"].get<double>(),
               WithinAbs(thin["pairs"]["p"]["circumferential_backlash"].get<double>(), 1e-9));
    CHECK_FALSE(thin["pairs"]["p"].contains("greatest_circumferential_backlash"));
  }
}

TEST_CASE("A tip's tolerance is told outwards and inwards; a tolerance that leaves no tooth is refused") {
  const std::string text = pair_of("", 0, 0, 0, 0, true);
  const auto plain = test::report(text);
  std::string with = text;
  with.insert(with.find("thickness_tolerance=0"), "tip_tolerance=0.08\n");
  with.insert(with.rfind("thickness_tolerance=0"), "tip_tolerance=0.12\n");
  const auto said = test::report(with);
  const auto tip = [&](const char* gear) { return plain["gears"][gear]["tip_diameter"].get<double>(); };
  CHECK_THAT(said["gears"]["a"]["tip_limit_diameter"].get<double>(), WithinAbs(tip("a") - 0.08, 1e-12));
  CHECK_THAT(said["gears"]["b"]["tip_limit_diameter"].get<double>(), WithinAbs(tip("b") + 0.12, 1e-12));
  CHECK(said["gears"]["a"]["tip_diameter"] == plain["gears"]["a"]["tip_diameter"]);
  CHECK_FALSE(plain["gears"]["a"].contains("tip_limit_diameter"));
  CHECK_THAT(mistakes(pair_of("", 0, 0, 2.5, 0, false)),
             Contains("gear.a.thickness_tolerance is 2.5 mm") && Contains("2.35619") && Contains("give less"));
  CHECK_THAT(mistakes(pair_of("", 0, 0, -0.1, 0, false)), Contains("thickness_tolerance"));
}
