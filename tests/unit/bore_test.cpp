// Bores as shafts meet them: limits by their symbols, shapes that take a shaft along.
#include <algorithm>
#include <cmath>
#include <tuple>
#include <vector>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "idler.hpp"
#include "palio/readings/reading.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/keys.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;
using test::free_radius;
using test::idler;
using test::mesh_of;

TEST_CASE("limits of fits follow the formulas that their table was rounded from") {
  // i = 0.45 ∛D + 0.001 D of the range's geometric mean; grades are multiples of it, deviations powers of D [µm].
  const std::vector<double> ends{1, 3, 6, 10, 18, 30, 50, 80, 120};
  // The smallest sizes stand a seventh off what the formulas give.
  const auto near = [](double is, double formula, bool smallest) {
    CHECK(std::abs(is - formula) <= std::max(smallest ? 2.1 : 1.6, (smallest ? 0.16 : 0.07) * formula));
  };
  for (std::size_t k = 0; k + 1 < ends.size(); ++k) {
    const double D = std::sqrt(ends[k] * ends[k + 1]), i = 0.45 * std::cbrt(D) + 0.001 * D, size = ends[k + 1];
    CAPTURE(size);
    const auto at = [&](const char* symbol) {
      const auto l = job::hole_limits(symbol, size);
      REQUIRE(l);
      return job::FitLimits{l->least * 1e3, l->greatest * 1e3};
    };
    for (const auto& [symbol, times] : std::vector<std::pair<const char*, double>>{
             {"H6", 10}, {"H7", 16}, {"H8", 25}, {"H9", 40}, {"H10", 64}, {"H11", 100}}) {
      CHECK(at(symbol).least == 0);
      near(at(symbol).greatest, times * i, k == 0);
    }
    near(at("G7").least, 2.5 * std::pow(D, 0.34), k == 0);
    near(at("F7").least, 5.5 * std::pow(D, 0.41), k == 0);
    near(at("E9").least, 11 * std::pow(D, 0.41), k == 0);
    near(at("D10").least, 16 * std::pow(D, 0.44), k == 0);
    // A hole N7 sits on a shaft h6 as a hole H7 on a shaft n6: the same least play, but for the smallest sizes.
    const double n = 5 * std::pow(D, 0.34), it6 = at("H6").greatest, it7 = at("H7").greatest;
    near(-at("N7").greatest, n - (k > 0 ? it7 - it6 : 0), k == 0);
    CHECK(at("JS7").least == -at("JS7").greatest);
    // From loose to tight.
    double before = 1e9;
    for (const char* symbol : {"F7", "G7", "H7", "JS7", "K7", "M7", "N7", "P7"}) {
      const job::FitLimits l = at(symbol);
      CHECK_THAT(l.greatest - l.least, WithinAbs(it7, 1e-9));
      CHECK(l.middle() < before);
      before = l.middle();
    }
  }
  // As every shop has them on the wall.
  const auto limits = [](const char* symbol, double d) {
    const auto l = job::hole_limits(symbol, d);
    return std::pair(std::lround(l->least * 1e3), std::lround(l->greatest * 1e3));
  };
  CHECK(limits("H7", 8) == std::pair(0L, 15L));
  CHECK(limits("N7", 22) == std::pair(-28L, -7L));
  CHECK(limits("P7", 10) == std::pair(-24L, -9L));
  CHECK(limits("K7", 26) == std::pair(-15L, 6L));
  CHECK(limits("M7", 47) == std::pair(-25L, 0L));
  CHECK(limits("F8", 12) == std::pair(16L, 43L));
  CHECK(limits("G6", 25) == std::pair(7L, 20L));
  CHECK_FALSE(job::hole_limits("H7", 120.1));
  CHECK_FALSE(job::hole_limits("H7", 0));
  CHECK_FALSE(job::hole_limits("h7", 8));
  CHECK_FALSE(job::hole_limits("press", 8));
  CHECK_FALSE(job::hole_limits("", 8));
  for (const std::string& symbol : job::words_of(job::hole_fits()))
    CHECK(job::hole_limits(symbol, 30));
}

TEST_CASE("a bore with a fit is drawn in the middle of its limits, however it is said") {
  const std::string gear = "[gear.a]\nkind='spur'\nteeth=40\nmodule=1.5\nface_width=10\n";
  for (const std::string& said : {gear + "bore='8 H7'\n", gear + "bore.diameter='8 H7'\n",
                                  gear + "bore={diameter=8,fit='H7'}\n", "[shared]\nbore='5/2+5.5 H7'\n" + gear,
                                  gear + "bore='8 mm H7'\n", "units='in'\n" + gear + "bore='8 mm H7'\n"}) {
    CAPTURE(said);
    const job::Design d = job::resolve(said, "job.toml");
    const double mm = job::mm_per(d.units);
    const nlohmann::json told = nlohmann::json::parse(job::report_json(d, false))["gears"]["a"];
    CHECK_THAT(told["bore_diameter"].get<double>() * mm, WithinAbs(8, 1e-12));
    CHECK_THAT(told["fit_least_diameter"].get<double>() * mm, WithinAbs(8, 1e-12));
    CHECK_THAT(told["fit_greatest_diameter"].get<double>() * mm, WithinAbs(8.015, 1e-12));
    CHECK_THAT(told["bore_expected_diameter"].get<double>() * mm, WithinAbs(8.0075, 1e-12));
    CHECK(told["grip"] == "H7");
    CHECK_THAT(free_radius(mesh_of(d), 1) * 2, WithinAbs(8.0075, 5e-3));
  }
  // Another size keeps the fit and takes its limits.
  const job::Values values = job::Values::read(gear + "bore='8 H7'\n", "job.toml");
  const job::Design other = job::resolve(values.with("gear.a.bore.diameter", 12));
  CHECK_THAT(other.gears[0].teeth.bore_diameter(), WithinAbs(12.009, 1e-12));
  const job::Design overridden = job::resolve(gear + "bore=5\n", "job.toml", {"gear.a.bore=20 H8"});
  CHECK_THAT(overridden.gears[0].teeth.bore_diameter(), WithinAbs(20.0165, 1e-12));
  // Rewritten in the other unit it is the same bore.
  for (const auto& [said, units, back] : std::vector<std::tuple<std::string, job::Units, std::string>>{
           {"bore='12 H7'\n", job::Units::inch, ""},
           {"bore='10+2 H7'\n", job::Units::inch, ""},
           {"bore={diameter='12 H7'}\n", job::Units::inch, ""},
           {"bore='0.5 H7'\n", job::Units::mm, "units='in'\n"}}) {
    const std::string job = back + (back.empty() ? gear : "[gear.a]\nkind='spur'\nteeth=40\nmodule=1.5\n") + said;
    const std::string text = job::in_units(job, "job.toml", units, [](const std::string&) { return true; });
    CAPTURE(text);
    const job::Gear is = job::resolve(text, "job.toml").gears[0], was = job::resolve(job, "job.toml").gears[0];
    CHECK(is.grip == "H7");
    CHECK_THAT(is.teeth.bore_diameter(), WithinAbs(was.teeth.bore_diameter(), 1e-9));
  }
  // A bearing sits by its outside.
  const job::Design seat = job::resolve(gear + "bore={bearing='608',fit='N7'}\n", "job.toml");
  CHECK_THAT(seat.gears[0].features.steps[0].diameter, WithinAbs(22 - 0.0175, 1e-12));
  CHECK(seat.gears[0].teeth.bore_diameter() == 15);
  // A fit of its own stands in place of the grip of the gear that it is like.
  const job::Design like =
      job::resolve(gear + "bore={diameter=8,grip='slide'}\n[gear.b]\nlike='a'\nbore.fit='G7'\n", "job.toml");
  CHECK(like.gears[1].grip == "G7");
  CHECK_THAT(test::mistakes(gear + "bore='130 H7'\n"), Contains("up to 120 mm"));
  CHECK_THAT(test::mistakes(gear + "bore={diameter='8 H7',fit='G7'}\n"), Contains("stands beside"));
  CHECK_THAT(test::mistakes(gear + "bore={diameter=8,fit='H7',grip='slide'}\n"), Contains("stands beside bore.fit"));
  CHECK_THAT(test::mistakes(gear + "bore='8 H99'\n"), Contains("gear.a.bore"));
}

namespace {

/// Corners of the shaft that a bore is for, as a caliper reads the shaft.
struct Shaft {
  std::string said;
  std::vector<Vec2> corners;  ///< of straight-sided ones; empty: a round with flats
  double radius = 0, half_flats = 0;
};

Shaft any_shaft(test::Draw& draw) {
  const double size = draw.between(4, 9);
  switch (draw.whole(0, 3)) {
    case 0:
    case 1: {
      const int sides = draw.of({4, 6});
      Shaft s{fmt::format("{}={{across_flats={}}}\n", sides == 4 ? "square" : "hex", size), {}};
      for (int i = 0; i < sides; ++i)
        s.corners.push_back(from_polar(size / 2 / std::cos(kPi / sides), (2 * i + 1) * kPi / sides));
      return s;
    }
    case 2: {
      const int teeth = draw.whole(12, 30);
      const double inner = size * std::cos(kPi / teeth) * draw.between(0.85, 0.97);
      Shaft s{fmt::format("serration={{teeth={},inner_diameter={},outer_diameter={}}}\n", teeth, inner, size), {}};
      for (int i = 0; i < 2 * teeth; ++i)
        s.corners.push_back(from_polar((i % 2 == 0 ? size : inner) / 2, i * kPi / teeth));
      return s;
    }
    default: {
      const double flats = size * draw.between(0.6, 0.95);
      return {fmt::format("bore.diameter={}\nflat={{across_flats={}}}\n", size, flats), {}, size / 2, flats / 2};
    }
  }
}

/// How far a point is from the nearest straight side of a polygon.
double from_sides(const std::vector<Vec2>& corners, const Vec2& p) {
  double least = 1e9;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const Vec2& a = corners[i];
    const Vec2 way = corners[(i + 1) % corners.size()] - a;
    const double along = std::clamp((p - a).dot(way) / way.squaredNorm(), 0.0, 1.0);
    least = std::min(least, (a + along * way - p).norm());
  }
  return least;
}

}  // namespace

TEST_CASE("a shaft goes into the bore that is made for it with half its play at every wall") {
  for (unsigned seed = 1; seed <= 120; ++seed) {
    test::Draw draw(seed);
    const Shaft shaft = any_shaft(draw);
    const double play = draw.between(0.02, 0.2);
    const std::string text = idler(shaft.said + fmt::format("bore.allowance={}\n", play));
    CAPTURE(seed, text);
    const job::Design d = job::resolve(text, "job.toml");
    const body::Body body = job::body(d.gears[0]).layers();
    for (const body::Loop& loop : body.loops) {
      if (!body::of_bore(loop)) continue;
      for (const curve::Segment& side : loop.outline.period) {
        const Vec2 middle = side.point((side.from + side.to) / 2);
        double room = from_sides(shaft.corners, middle);
        if (shaft.corners.empty()) {
          // Of a double D the flat on +x and its opposite, and the round between them.
          const bool flat = std::holds_alternative<curve::Line>(side.curve);
          room = flat ? std::abs(middle.x()) - shaft.half_flats : middle.norm() - shaft.radius;
        }
        CHECK_THAT(room, WithinAbs(play / 2, 1e-9));
      }
    }
  }
}

TEST_CASE("bores that hold a shaft are refused beside each other, and told what they are for") {
  CHECK_THAT(test::mistakes(idler("bore.diameter=8\nsquare.across_flats=5\n")), Contains("beside bore.diameter"));
  CHECK_THAT(test::mistakes(idler("hex.across_flats=8\nserration={teeth=20,inner_diameter=7,outer_diameter=8}\n")),
             Contains("serration"));
  CHECK_THAT(test::mistakes(idler("serration={teeth=20,inner_diameter=7.99,outer_diameter=8}\n")),
             Contains("is below 7.90151 mm"));
  CHECK_THAT(test::mistakes(idler("serration={teeth=20,inner_diameter=7}\n")), Contains("outer_diameter"));
  CHECK_THAT(test::mistakes(idler("bore.diameter=6\nflat.across_flats=6.5\n")), Contains("from flat to flat"));
  // What a gear is like gives way.
  const job::Design d = job::resolve(
      idler("bore.diameter=8\nflat.height=7\n", "[gear.b]\nlike='idler'\nsquare.across_flats=5\n"), "job.toml");
  CHECK(d.gears[1].features.sided);
  CHECK_FALSE(d.gears[1].features.flat);
}
