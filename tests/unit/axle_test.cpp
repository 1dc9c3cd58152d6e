// Axles as they are turned: fits by their symbols, grooves for retaining rings, what keeps gears from sliding off.
#include <random>

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include "palio/body/mesh.hpp"
#include "palio/body/stack.hpp"
#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/retaining_rings.hpp"
#include "palio/view/parts_list.hpp"
#include "palio/view/placement.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::mistakes;

namespace {

/// A wheel with a hub and a pinion on one axle, whose table goes on with `axle`.
std::string job_with(const std::string& axle, double bore = 8, const std::string& fit = "H7") {
  return fmt::format(
      "[shared]\nmodule=1\nface_width=7\n[gear.first]\nkind='spur'\nteeth=18\n"
      "[gear.wheel]\nkind='spur'\nteeth=50\nbore.diameter={0}\nbore.fit='{1}'\nhubs=[{{face='bottom',diameter={2},"
      "length=3}}]\n"
      "[gear.pinion]\nkind='spur'\nteeth=60\nbore.diameter={0}\nbore.fit='{1}'\n[gear.last]\nkind='spur'\nteeth=40\n"
      "[pair.one]\ndriver='first'\ndriven='wheel'\nbacklash=0.1\n"
      "[pair.two]\ndriver='pinion'\ndriven='last'\nbacklash=0.1\ndirection=90\n"
      "[shaft.middle]\ngears=['wheel','pinion']\ngap=1.5\n{3}",
      bore, fit, bore + 6, axle);
}

double content(const body::Body& b) { return body::mass_properties(b).volume; }

std::string reading(const job::Design& d, const char* key) { return job::report_value(d, "shaft.middle", key); }

}  // namespace

TEST_CASE("Limits of shafts are those of the tables; fits in the system of holes are those in the system of shafts") {
  struct Known {
    const char* symbol;
    double size, least, greatest;  // [mm], [µm]
  };
  for (const Known& k : {Known{"h6", 10, -9, 0},
                         {"g6", 10, -14, -5},
                         {"f7", 10, -28, -13},
                         {"k6", 10, 1, 10},
                         {"m6", 10, 6, 15},
                         {"n6", 10, 10, 19},
                         {"p6", 10, 15, 24},
                         {"js6", 10, -4.5, 4.5},
                         {"h7", 25, -21, 0},
                         {"e8", 25, -73, -40},
                         {"d9", 25, -117, -65},
                         {"g6", 50, -25, -9},
                         {"k6", 50, 2, 18},
                         {"p6", 50, 26, 42},
                         {"h6", 3, -6, 0},
                         {"p6", 3, 6, 12},
                         {"h11", 16, -110, 0}}) {
    CAPTURE(k.symbol, k.size);
    const auto limits = job::shaft_limits(k.symbol, k.size);
    REQUIRE(limits);
    CHECK_THAT(limits->least * 1000, WithinAbs(k.least, 1e-9));
    CHECK_THAT(limits->greatest * 1000, WithinAbs(k.greatest, 1e-9));
  }
  // The same play at least and at most, whether the hole or the shaft is the one with a limit at nought.
  for (const double size : {4.0, 8.0, 12.0, 25.0, 40.0, 70.0, 110.0}) {
    for (const char* letter : {"f", "g", "k", "m", "n", "p"}) {
      std::string hole(letter);
      hole[0] = static_cast<char>(hole[0] - 'a' + 'A');
      CAPTURE(size, letter);
      const auto h7 = job::hole_limits("H7", size), h6 = job::shaft_limits("h6", size),
                 shaft = job::shaft_limits(letter + std::string("6"), size), wide = job::hole_limits(hole + "7", size);
      if (!shaft || !wide) continue;  // f6 is in no list
      CHECK_THAT(h7->least - shaft->greatest, WithinAbs(wide->least - h6->greatest, 1e-12));
      CHECK_THAT(h7->greatest - shaft->least, WithinAbs(wide->greatest - h6->least, 1e-12));
    }
  }
  for (const char* none : {"H7", "h5", "h12", "x6", "", "6", "h"})
    CHECK_FALSE(job::shaft_limits(none, 10));
  CHECK_FALSE(job::shaft_limits("h6", 121));
}

TEST_CASE("A rod with grooves has the volume of its cylinders, closes, and grooves that are none are refused") {
  std::mt19937 random(5);
  const auto any = [&](double from, double to) { return std::uniform_real_distribution<>(from, to)(random); };
  for (int n = static_cast<int>(test::share(60)); n > 0; --n) {
    const double d = any(3, 40), length = any(20, 90), thin = d * any(0.6, 0.97);
    std::vector<body::Neck> necks;
    double removed = 0, at = any(0, 1) < 0.3 ? 0 : any(0.5, 4);
    while (at < length - 4) {
      const double to = std::min(length, at + any(0.4, 3));
      necks.push_back({at, to, thin}), removed += to - at;
      at = to + any(0.5, 15);
    }
    const body::Body made = body::rod(d, 0, length, necks);
    CHECK_THAT(content(made),
               WithinAbs(kPi / 4 * (d * d * (length - removed) + thin * thin * removed), 1e-8 * d * d * length));
    CHECK_NOTHROW(body::check(body::mesh(made, 0.01)));
  }
  for (const body::Neck& none : {body::Neck{1, 2, 8}, {1, 2, 9}, {1, 2, 0}, {2, 1, 5}, {-1, 2, 5}, {9, 11, 5}})
    CHECK_THROWS_AS(body::rod(8, 0, 10, {none}), InvalidParameter);
  CHECK_THROWS_AS(body::rod(8, 0, 10, {{1, 3, 5}, {2, 4, 5}}), InvalidParameter);
}

TEST_CASE("Retaining rings keep what stands on an axle: with play as asked for, and enough of the axle beyond") {
  std::mt19937 random(7);
  for (int n = static_cast<int>(test::share(30)); n > 0; --n) {
    const std::vector<job::RetainingRing>& all = job::retaining_rings();
    const job::RetainingRing ring = all[std::uniform_int_distribution<std::size_t>(0, 20)(random)];
    const char* side = std::array{"above", "below", "both"}[n % 3];
    const bool play_said = n % 2 == 0, free_ends = n % 5 < 3;
    const double play = play_said ? 0.3 : ring.groove_width - ring.thickness,
                 beyond = play + ring.thickness + ring.edge();
    const std::string text =
        job_with(fmt::format("diameter={0}\nring.side='{1}'\n{2}{3}", ring.shaft, side,
                             play_said ? "ring.play=0.3\n" : "", free_ends ? "" : "ends=[9, 11]\n"),
                 ring.shaft);
    INFO(text);
    const job::Design design = job::resolve(text, "job.toml");
    REQUIRE(design.axles.size() == 1);
    const job::Axle& axle = design.axles.front();
    // What stands on it: the wheel's hub below, two faces, the gap.
    const double low = free_ends ? (n % 3 == 0 ? 0 : beyond) : 9, high = low + 3 + 7 + 1.5 + 7;
    const bool below = n % 3 != 0, above = n % 3 != 1;
    CHECK_THAT(axle.to - axle.from, WithinAbs(high + (free_ends ? (above ? beyond : 0) : 11), 1e-9));
    REQUIRE(axle.grooves.size() == static_cast<std::size_t>(below) + static_cast<std::size_t>(above));
    for (const body::Neck& g : axle.grooves) {
      const bool upper = g.from > high - 1e-9;
      // The wall that holds the ring, and what lies between.
      CHECK_THAT(upper ? g.to - high : low - g.from, WithinAbs(play + ring.thickness, 1e-9));
      CHECK_THAT(g.to - g.from, WithinAbs(ring.groove_width, 1e-12));
      CHECK((upper ? axle.to - axle.from - g.to : g.from) >= 3 * (ring.shaft - ring.groove_diameter) / 2 - 1e-9);
      CHECK((upper ? g.from - high : low - g.to) >= -1e-9);  // nothing stands over the groove
    }
    const double cut = static_cast<double>(axle.grooves.size()) * ring.groove_width;
    CHECK_THAT(content(job::body(design, axle)), WithinAbs(kPi / 4 *
                                                               (ring.shaft * ring.shaft * (axle.to - axle.from - cut) +
                                                                ring.groove_diameter * ring.groove_diameter * cut),
                                                           1e-7));
    std::size_t bought = 0;
    for (const view::ListedPart& p : view::parts_list(design))
      bought += p.bought && p.name == fmt::format("retaining ring {:.6g}", ring.shaft) ? p.quantity : 0;
    CHECK(bought == axle.grooves.size());
    CHECK(reading(design, "retaining_rings") == fmt::format("{}", axle.grooves.size()));
  }
}

TEST_CASE("Too short an end is refused with the length that would do; so is a ring that no table knows") {
  CHECK_THAT(mistakes(job_with("diameter=8\nring.side='both'\nends=[5, 1]\n")),
             Contains("shaft.middle.ends") && Contains("stand out 1 mm above") && Contains("asks for 1.5 mm"));
  CHECK_NOTHROW(job::resolve(job_with("diameter=8\nring.side='both'\nends=[1.5, 1.5]\n"), "job.toml"));
  CHECK_THAT(mistakes(job_with("diameter=8\nring.side='both'\nends=[1.4999, 1.5]\n")), Contains("below"));
  CHECK_THAT(mistakes(job_with("diameter=8.5\nring.side='both'\n", 8.5)), Contains("no ring is tabulated"));
  CHECK_NOTHROW(job::resolve(
      job_with("diameter=8.5\nring={side='both', thickness=0.8, groove_diameter=8, groove_width=0.9}\n", 8.5),
      "job.toml"));
  CHECK_THAT(mistakes(job_with("diameter=8\nring={side='both', groove_diameter=8}\n")),
             Contains("below the axle's 8 mm"));
  CHECK_THAT(mistakes(job_with("diameter=8\nring={side='both', groove_width=0.5}\n")),
             Contains("the ring is 0.8 mm thick"));
  CHECK_THAT(mistakes(job_with("diameter=8\nring={side='both', play=0.05}\n")), Contains("give at least that"));
  CHECK_THAT(mistakes(job_with("diameter=130\nfit='h6'\n")), Contains("shaft.middle.fit") && Contains("up to 120 mm"));
  for (const char* alone : {"ring.side='both'\n", "fit='h6'\n", "ends=[1, 1]\n"})
    CHECK_THAT(mistakes(job_with(alone)), Contains("needs a diameter"));
}

TEST_CASE("An axle is made to the middle of its fit; bores with fits tell their play on it") {
  const job::Design design = job::resolve(job_with("diameter=8\nfit='g6'\n"), "job.toml");
  // g6 at 8 mm: −5 to −14 µm; H7: 0 to +15 µm.
  CHECK(reading(design, "axle_least_diameter") == "⌀7.9860 mm");
  CHECK(reading(design, "axle_greatest_diameter") == "⌀7.9950 mm");
  const job::Axle& axle = design.axles.front();
  const double middle = 8 - 0.0095;
  CHECK_THAT(content(job::body(design, axle)), WithinAbs(kPi / 4 * middle * middle * (axle.to - axle.from), 1e-7));
  const auto report = test::report(job_with("diameter=8\nfit='g6'\n"));
  const auto& play = report["shafts"]["middle"]["bore_play"];
  for (const char* gear : {"wheel", "pinion"}) {
    CHECK_THAT(play[gear]["min"].get<double>(), WithinAbs(0.005, 1e-12));
    CHECK_THAT(play[gear]["max"].get<double>(), WithinAbs(0.029, 1e-12));
  }
  // Pressed on: play below nought; no finding says that the axle is too thick.
  const job::Design pressed = job::resolve(job_with("diameter=8\nfit='p6'\n"), "job.toml");
  const auto tight = test::report(job_with("diameter=8\nfit='p6'\n"))["shafts"]["middle"]["bore_play"]["wheel"];
  CHECK_THAT(tight["max"].get<double>(), WithinAbs(0, 1e-12));
  CHECK_THAT(tight["min"].get<double>(), WithinAbs(-0.024, 1e-12));
  CHECK_FALSE(test::finds(pressed, "axle-too-thick"));
}

TEST_CASE("One piece of an axle and its gears has the grooves of its rings too") {
  const auto made = [](const std::string& more) {
    const job::Design design = job::resolve(job_with("one_piece=true\ndiameter=8\nends=[5, 6]\n" + more), "job.toml");
    return job::body(design, design.axles.front());
  };
  const body::Body plain = made(""), grooved = made("ring.side='both'\n");
  const job::RetainingRing& ring = *job::retaining_ring(8);
  const double removed = kPi / 4 * (64 - ring.groove_diameter * ring.groove_diameter) * ring.groove_width;
  CHECK_THAT(content(plain) - content(grooved), WithinAbs(2 * removed, 1e-7));
  CHECK_NOTHROW(body::check(body::mesh(grooved, 0.01)));
  CHECK(grooved.top() - grooved.bottom() == plain.top() - plain.bottom());
}
