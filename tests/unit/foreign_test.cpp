// Outlines of others: what was done to exact teeth before they are handed over is found again, and nothing else is.
#include <catch2/catch.hpp>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/design/design.hpp"
#include "palio/error.hpp"
#include "palio/foreign/recovered.hpp"
#include "palio/view/laid.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;

namespace {

/// Points of a whole outline: on the exact curves, `each` to a segment.
std::vector<Vec2> points_of(const curve::Outline& outline, int each) {
  std::vector<Vec2> all;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (std::size_t i = 0; i < outline.period.size(); ++i) {
      const curve::Segment s = outline.segment(copy, i);
      for (int k = 0; k < each; ++k)
        all.push_back(s.point(s.from + (s.to - s.from) * k / each));
    }
  }
  return all;
}

/// A drawing of loops as a reader would have it, through the bytes of an SVG.
foreign::Drawing drawing_of(const std::vector<std::vector<Vec2>>& loops) {
  std::string text = "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' viewBox='0 0 100 100'>";
  for (const std::vector<Vec2>& loop : loops) {
    text += "<polygon points='";
    for (const Vec2& p : loop)
      text += fmt::format("{:.17g},{:.17g} ", p.x(), -p.y());
    text += "'/>";
  }
  return foreign::read_svg(text + "</svg>", 1e-6);
}

std::vector<Vec2> moved(std::vector<Vec2> points, double scale, double turn, const Vec2& to) {
  for (Vec2& p : points)
    p = turned(Vec2(scale * p), turn) + to;
  return points;
}

std::vector<Vec2> ring_around(double radius) {
  std::vector<Vec2> all;
  all.reserve(90);
  for (int i = 0; i < 90; ++i)
    all.push_back(from_polar(radius, i * kPi / 45));
  return all;
}

foreign::Toothed toothed(const std::vector<Vec2>& points) {
  const auto found = foreign::find_teeth(drawing_of({points}));
  REQUIRE(found);
  return *found;
}

/// Of a sort that any tool makes, and whose numbers are round.
gear::CylindricalSpec round_spec(test::Draw& draw) {
  gear::CylindricalSpec s;
  s.teeth = draw.whole(9, 80);
  s.module = draw.of({0.5, 0.8, 1.0, 1.25, 1.5, 2.0, 3.0, 25.4 / 16});
  s.pressure_angle = Angle::degrees(draw.of({14.5, 20.0, 20.0, 25.0}));
  s.profile_shift = draw.of({0.0, 0.0, 0.2, 0.35, -0.1}) + (s.teeth < 18 ? 0.4 : 0.0);
  s.tool_tip_radius = draw.of({0.1, 0.2, 0.25});
  s.face_width = 5;
  return s;
}

double um(double mm) { return 1000 * mm; }

}  // namespace

TEST_CASE("every sort of plane teeth, moved, turned and made larger, is counted and laid back on itself") {
  std::vector<std::pair<std::string, gear::Teeth>> all;
  for (const char* starter : {"spur", "helical", "internal", "crossed", "cycloidal", "clock"}) {
    const job::Design design = job::resolve(job::starter(starter, job::Units::mm), starter);
    for (const job::Gear& g : design.gears)
      all.emplace_back(fmt::format("{} {}", starter, g.name), g.teeth);
  }
  test::Draw draw(41);
  for (const auto& [name, teeth] : all) {
    CAPTURE(name);
    const Vec2 to(draw.between(-80, 80), draw.between(-80, 80));
    const double turn = draw.between(-3, 3), scale = draw.of({1.0, 1.004, 25.4});
    std::vector<std::vector<Vec2>> loops{moved(points_of(teeth.outline(), 60), scale, turn, to)};
    if (teeth.internal()) loops.push_back(moved(ring_around(teeth.outer_diameter() / 2), scale, turn, to));
    const auto found = foreign::find_teeth(drawing_of(loops));
    REQUIRE(found);
    CHECK(found->teeth == teeth.count());
    CHECK(found->internal == teeth.internal());
    const foreign::Laid laid = foreign::lay(*found, teeth.outline());
    CHECK((laid.centre - to).norm() < 1e-5 * scale);
    // The chords between the points lie off: their sag is known.
    double sag = 0;
    for (const curve::Segment& s : teeth.outline().period) {
      for (int k = 0; k < 60; ++k)
        sag = std::max(
            sag, curve::chord_deviation(s, s.from + (s.to - s.from) * k / 60, s.from + (s.to - s.from) * (k + 1) / 60));
    }
    CHECK(laid.scale * scale == Approx(1).margin(scale == 1 ? 0 : 1e-5));
    CHECK(laid.best_scale * scale == Approx(1).margin(1e-4));
    CHECK(laid.whole.greatest < 1.2 * sag + 1e-6);
    const double pitch = 2 * kPi / teeth.count();
    CHECK(std::abs(std::remainder(laid.turn + turn, pitch)) * teeth.reach() < 1e-4);
    // And on itself, as one foreign outline on the other.
    const foreign::Laid other = foreign::lay(*found, *found);
    CHECK(other.whole.greatest < 1e-9 * scale);
  }
}

TEST_CASE("thinned teeth are off by the thinning along the normal, on both flanks, and by nothing at the tips") {
  for (unsigned seed = 1; seed <= test::share(10); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    gear::CylindricalSpec s = round_spec(draw);
    const auto exact = test::try_gear(s);
    s.thickness_allowance = -draw.between(0.005, 0.04) * s.module;
    const auto thin = test::try_gear(s);
    if (!exact || !thin) continue;
    const foreign::Toothed given = toothed(points_of(thin->outline(), 100));
    const foreign::Laid laid = foreign::lay(given, exact->outline(), {1.0, false});
    const double off = s.thickness_allowance / 2 * std::cos(s.pressure_angle.radians());
    int looked = 0;
    for (const foreign::Station& station : laid.stations) {
      const double r = station.p.norm();
      if (station.role == curve::Role::tip && station.mean && r > 0.9999 * exact->sizes().tip_diameter / 2 &&
          *station.most < 0.2 * off)
        continue;  // beside the edge, which stands elsewhere now
      if (station.role != curve::Role::flank || !station.mean) continue;
      if (r < thin->sizes().root_form_diameter / 2 + 0.1 * s.module ||
          r > exact->sizes().tip_diameter / 2 - 0.1 * s.module)
        continue;
      ++looked;
      CHECK(um(*station.mean) == Approx(um(off)).margin(0.3));
    }
    CHECK(looked > 20);
    CHECK(um(laid.flank.greatest) > 0.9 * um(-off));
  }
}

TEST_CASE("an outline that fits only at another scale says so; one that is merely off is not stretched to fit") {
  gear::CylindricalSpec s;
  s.teeth = 23, s.module = 1.5, s.face_width = 5;
  const gear::CylindricalGear exact(s);
  const std::vector<Vec2> points = points_of(exact.outline(), 60);
  const foreign::Laid larger = foreign::lay(toothed(moved(points, 1.003, 0, {0, 0})), exact.outline());
  CHECK(larger.scale == Approx(1 / 1.003).epsilon(1e-6));
  CHECK(um(larger.as_drawn.greatest) > 5);
  CHECK(um(larger.flank.greatest) < 0.5);
  const foreign::Laid held = foreign::lay(toothed(moved(points, 1.003, 0, {0, 0})), exact.outline(), {1.0, false});
  CHECK(held.scale == 1);
  CHECK(held.flank.greatest == Approx(held.as_drawn.greatest));
  s.thickness_allowance = -0.03;
  const foreign::Laid thin = foreign::lay(toothed(points_of(gear::CylindricalGear(s).outline(), 60)), exact.outline());
  CHECK(thin.scale == 1);
}

TEST_CASE("teeth, module, pressure angle and shift are found from an outline alone") {
  int looked = 0, right = 0;
  for (unsigned seed = 1; seed <= test::share(60); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const gear::CylindricalSpec s = round_spec(draw);
    const auto exact = test::try_gear(s);
    if (!exact || exact->sizes().tip_thickness < 0.15 * s.module) continue;
    ++looked;
    const std::vector<Vec2> points =
        moved(points_of(exact->outline(), 40), 1, draw.between(0, 6), {draw.between(-50, 50), 7});
    const foreign::Toothed given = toothed(points);
    REQUIRE(given.teeth == s.teeth);
    const foreign::FlankFit fit = foreign::fit_flanks(given);
    CHECK(fit.base_radius == Approx(exact->sizes().base_diameter / 2).epsilon(2e-5));
    CHECK(foreign::form_of(fit) != foreign::Form::circular_arc);
    CHECK(foreign::form_of(fit) != foreign::Form::neither);
    const foreign::Guess best = foreign::guesses(given, fit).front();
    const bool same = std::abs(best.spec.module / s.module - 1) < 1e-3 &&
                      std::abs((best.spec.pressure_angle - s.pressure_angle).degrees()) < 0.05 &&
                      std::abs(best.spec.profile_shift - s.profile_shift) < 0.005;
    right += same ? 1 : 0;
    if (!same)
      UNSCOPED_INFO(fmt::format("seed {}: m {} at {}°", seed, best.spec.module, best.spec.pressure_angle.degrees()));
  }
  CHECK(looked > 0.7 * test::share(60));
  CHECK(right == looked);
}

TEST_CASE("a ring is known by the outline around its teeth, and recovered as one") {
  for (const int teeth : {34, 61}) {
    gear::CylindricalSpec s;
    s.internal = true, s.teeth = teeth, s.module = 1.25, s.face_width = 5, s.profile_shift = 0.1;
    const gear::Teeth ring(gear::CylindricalGear{s});
    const auto found =
        foreign::find_teeth(drawing_of({points_of(ring.outline(), 60), ring_around(ring.outer_diameter() / 2)}));
    REQUIRE(found);
    CHECK(found->internal);
    const foreign::Recovered r = foreign::recover(*found);
    const gear::CylindricalSpec& best = r.guesses.front().spec;
    CHECK(best.internal);
    CHECK(best.module == Approx(1.25));
    CHECK(best.pressure_angle.degrees() == Approx(20));
    CHECK(best.profile_shift == Approx(0.1).margin(2e-3));
    CHECK(um(r.laid.flank.greatest) < 1);
  }
}

TEST_CASE("noise widens the doubt as it should, and blunders of the hand are not covered by it") {
  // Of many noisy outlines, the true base circle lies within 1.96 doubts as often as it should, or nearly.
  gear::CylindricalSpec s;
  s.teeth = 24, s.module = 2, s.face_width = 5;
  const gear::CylindricalGear exact(s);
  const std::vector<Vec2> points = points_of(exact.outline(), 12);
  int within = 0;
  const int runs = static_cast<int>(test::share(200));
  for (int seed = 1; seed <= runs; ++seed) {
    std::mt19937 engine(static_cast<unsigned>(seed));
    std::normal_distribution<double> noise(0, 0.01);
    std::vector<Vec2> rough = points;
    for (Vec2& p : rough)
      p += Vec2(noise(engine), noise(engine));
    const foreign::FlankFit fit = foreign::fit_flanks(toothed(rough));
    within += std::abs(fit.base_radius - exact.sizes().base_diameter / 2) < 1.96 * fit.base_radius_doubt ? 1 : 0;
    CHECK(um(fit.scatter) > 2);
    CHECK(um(fit.scatter) < 20);
  }
  CHECK(within >= 0.85 * runs);
  // Drawn two in a thousand too large: no standard size within the doubt, and the nearest is offered.
  const foreign::Recovered large = foreign::recover(toothed(moved(points_of(exact.outline(), 60), 1.002, 0, {0, 0})));
  const foreign::Guess& best = large.guesses.front();
  CHECK_FALSE((best.standard_module && best.standard_angle));
  CHECK(best.spec.module * std::cos(best.spec.pressure_angle.radians()) ==
        Approx(1.002 * 2 * std::cos(20 * kPi / 180)).epsilon(1e-5));
}

TEST_CASE("arcs and thin splines in place of involutes are told, by how much they are off") {
  gear::CylindricalSpec s;
  s.teeth = 20, s.module = 3, s.face_width = 5;
  const gear::CylindricalGear exact(s);
  const curve::Outline& outline = exact.outline();
  // Every flank by the circle through its ends and its middle; and by a polynomial through four points.
  std::vector<Vec2> arcs, splines;
  double arc_off = 0, spline_off = 0;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (std::size_t i = 0; i < outline.period.size(); ++i) {
      const curve::Segment seg = outline.segment(copy, i);
      const auto at = [&](double share) { return seg.point(seg.from + (seg.to - seg.from) * share); };
      constexpr int kEach = 60;
      if (seg.role != curve::Role::flank) {
        for (int k = 0; k < kEach; ++k)
          arcs.push_back(at(1.0 * k / kEach)), splines.push_back(at(1.0 * k / kEach));
        continue;
      }
      const Vec2 a = at(0), b = at(0.5), c = at(1);
      Eigen::Matrix2d sides;
      sides << (b - a).transpose(), (c - a).transpose();
      const Vec2 centre = a + sides.inverse() * Vec2((b - a).squaredNorm() / 2, (c - a).squaredNorm() / 2);
      const double radius = (a - centre).norm();
      const double from = std::atan2(a.y() - centre.y(), a.x() - centre.x()),
                   sweep = std::remainder(std::atan2(c.y() - centre.y(), c.x() - centre.x()) - from, 2 * kPi);
      for (int k = 0; k < kEach; ++k) {
        const double share = 1.0 * k / kEach;
        arcs.push_back(centre + from_polar(radius, from + sweep * share));
        arc_off = std::max(arc_off, std::abs((at(share) - centre).norm() - radius));
        // Lagrange through 0, 1/3, 2/3, 1.
        Vec2 p = Vec2::Zero();
        for (int n = 0; n < 4; ++n) {
          double w = 1;
          for (int other = 0; other < 4; ++other) {
            if (other != n) w *= (share - other / 3.0) / ((n - other) / 3.0);
          }
          p += w * at(n / 3.0);
        }
        splines.push_back(p);
        spline_off =
            std::max(spline_off, std::abs((p - at(share)).dot(seg.normal(seg.from + (seg.to - seg.from) * share))));
      }
    }
  }
  const foreign::FlankFit of_arcs = foreign::fit_flanks(toothed(arcs)),
                          of_spline = foreign::fit_flanks(toothed(splines)),
                          of_exact = foreign::fit_flanks(toothed(points_of(outline, 60)));
  CHECK(foreign::form_of(of_arcs) == foreign::Form::circular_arc);
  CHECK(um(of_arcs.arc.greatest) < 0.2);
  CHECK(foreign::form_of(of_exact) == foreign::Form::involute);
  CHECK(um(of_exact.involute.greatest) < 0.5);  // chords between points
  CHECK(foreign::form_of(of_spline) == foreign::Form::involute);
  // Laid on the exact teeth, either is off as it was drawn.
  const foreign::Laid arcs_laid = foreign::lay(toothed(arcs), outline, {1.0, false}),
                      spline_laid = foreign::lay(toothed(splines), outline, {1.0, false});
  CHECK(um(arc_off) > 3);
  CHECK(arcs_laid.flank.greatest == Approx(arc_off).epsilon(0.5));
  CHECK(um(spline_laid.flank.greatest) == Approx(um(spline_off)).margin(0.15 + 0.5 * um(spline_off)));
}

TEST_CASE("a burr, another root and a few grains of dust move nothing: the flanks say where the teeth lie") {
  gear::CylindricalSpec s;
  s.teeth = 21, s.module = 2, s.face_width = 5;
  const gear::CylindricalGear exact(s);
  s.dedendum = 1.4;
  const gear::CylindricalGear deeper(s);
  for (unsigned seed = 1; seed <= test::share(8); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    std::vector<Vec2> points = points_of(deeper.outline(), 60);
    // Dust: single points that stand out by a tenth of a millimetre.
    for (int i = 0; i < 20; ++i) {
      Vec2& p = points[static_cast<std::size_t>(draw.whole(0, static_cast<int>(points.size()) - 1))];
      p += from_polar(0.1, draw.between(0, 6));
    }
    const Vec2 to(draw.between(-20, 20), 5);
    const double turn = draw.between(-0.1, 0.1);
    const foreign::Laid laid = foreign::lay(toothed(moved(points, 1, turn, to)), exact.outline(), {1.0, false});
    CHECK(um((laid.centre - to).norm()) < 2);
    CHECK(std::abs(std::remainder(laid.turn + turn, 2 * kPi / 21)) < 1e-4);
    CHECK(um(laid.whole.greatest) > 200);  // the root is told as what it is
    CHECK(um(laid.flank.rms) < 15);
  }
}

TEST_CASE("what is told of an outline for scripts has every key, of involutes and of others, rings too") {
  for (const char* starter : {"spur", "internal", "cycloidal", "clock"}) {
    const job::Design design = job::resolve(job::starter(starter, job::Units::mm), starter);
    for (const job::Gear& g : design.gears) {
      CAPTURE(g.name);
      std::vector<std::vector<Vec2>> loops{points_of(g.teeth.outline(), 30)};
      if (g.teeth.internal()) loops.push_back(ring_around(g.teeth.outer_diameter() / 2));
      const auto found = foreign::find_teeth(drawing_of(loops));
      REQUIRE(found);
      const foreign::Told told = foreign::told("a.svg", "gear." + g.name, *found, g.teeth.outline());
      const auto laid = nlohmann::json::parse(foreign::laid_json(told));
      for (const char* key : {"values", "readings", "teeth", "centre", "turn_deg", "scale", "best_scale", "whole_um",
                              "as_drawn_um", "flanks", "along", "unit_told", "worst_tooth"})
        CHECK(laid.contains(key));
      CHECK(laid["deviation_um"]["greatest"].get<double>() == Approx(um(told.laid.flank.greatest)));
      // The chart says nothing beyond the greatest, and somewhere comes up to it.
      double most = 0;
      for (const auto& at : laid["along"]) {
        CHECK(at["least_um"].get<double>() <= at["mean_um"].get<double>() + 1e-9);
        CHECK(at["mean_um"].get<double>() <= at["greatest_um"].get<double>() + 1e-9);
        most = std::max({most, std::abs(at["least_um"].get<double>()), std::abs(at["greatest_um"].get<double>())});
      }
      CHECK(most == Approx(laid["whole_um"]["greatest"].get<double>()));
      CHECK_THAT(foreign::laid_text(told), Contains("whole outline"));
      const std::string page = view::side_by_side_page("<script>x</script>", view::draw_laid(told, "svg"), "a < b & c");
      CHECK_THAT(page, Contains("&lt;script&gt;") && Contains("a &lt; b &amp; c") && !Contains("<script>x"));
      if (g.teeth.is_cycloidal()) continue;
      const foreign::Recovered r = foreign::recover(*found);
      const auto json = nlohmann::json::parse(foreign::recovered_json(r));
      for (const char* key : {"values", "measured", "chi2", "degrees_of_freedom", "contradiction", "suspect",
                              "undetermined", "would_settle", "snaps", "others", "flanks", "deviation_um"})
        CHECK(json.contains(key));
      for (const char* key : {"teeth", "module", "pressure_angle", "profile_shift", "addendum", "dedendum"})
        CHECK(json["values"][std::string("gear.recovered.") + key]["uncertainty"].get<double>() >= 0);
      CHECK(json["internal"] == g.teeth.internal());
    }
  }
}

TEST_CASE("teeth thinned for play are told with the shift they had before") {
  for (unsigned seed = 1; seed <= test::share(20); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    gear::CylindricalSpec s;
    s.teeth = draw.whole(18, 60), s.module = draw.of({1.0, 1.5, 2.0}), s.face_width = 5;
    s.profile_shift = draw.between(0, 0.4);
    s.thickness_allowance = -draw.between(0.01, 0.05) * s.module;
    const auto thin = test::try_gear(s);
    if (!thin) continue;
    const foreign::Recovered r = foreign::recover(toothed(points_of(thin->outline(), 60)));
    const foreign::Guess& g = r.guesses.front();
    REQUIRE(g.thinned);
    CHECK(g.thinned->addendum == 1);
    CHECK(g.thinned->profile_shift == Approx(s.profile_shift).margin(2e-3));
    const double thinned = 2 * s.module * std::tan(20 * kPi / 180) * (g.spec.profile_shift - g.thinned->profile_shift);
    CHECK(thinned == Approx(s.thickness_allowance).margin(2e-3 * s.module));
  }
}

TEST_CASE("what has no teeth, or others, is told as it is") {
  CHECK_FALSE(foreign::find_teeth(drawing_of({ring_around(10)})));
  for (int sides = 3; sides <= 12; ++sides) {
    std::vector<Vec2> polygon;
    for (int i = 0; i < sides; ++i) {
      for (int k = 0; k < 20; ++k)
        polygon.push_back(from_polar(10, 2 * kPi * i / sides) * (1 - k / 20.0) +
                          from_polar(10, 2 * kPi * (i + 1) / sides) * (k / 20.0));
    }
    CAPTURE(sides);
    CHECK_FALSE(foreign::find_teeth(drawing_of({polygon})));
  }
  gear::CylindricalSpec s;
  s.teeth = 20, s.module = 1, s.face_width = 5;
  const gear::CylindricalGear twenty(s);
  s.teeth = 21;
  CHECK_THROWS_WITH(foreign::lay(toothed(points_of(twenty.outline(), 20)), gear::CylindricalGear(s).outline()),
                    Contains("21 teeth"));
}

TEST_CASE("the job of a recovered gear is a job, and its teeth are those of the outline") {
  gear::CylindricalSpec s;
  s.teeth = 19, s.module = 1.5, s.face_width = 5, s.profile_shift = 0.3;
  const gear::CylindricalGear exact(s);
  const foreign::Recovered r = foreign::recover(toothed(points_of(exact.outline(), 60)));
  const job::Design design = job::resolve(foreign::job_text(r, "worn.dxf"), "recovered");
  const gear::Teeth& teeth = design.gears.at(0).teeth;
  CHECK(teeth.count() == 19);
  CHECK(teeth.tip_diameter() == Approx(exact.sizes().tip_diameter).margin(1e-3));
  CHECK(teeth.root_diameter() == Approx(exact.sizes().root_diameter).margin(1e-3));
  CHECK(um(r.laid.whole.greatest) < 1);
  foreign::Told told{"worn.dxf", "the recovered gear", r.toothed, r.laid, r.fit};
  for (const char* format : {"png", "svg", "pdf"})
    CHECK(view::draw_laid(told, format).size() > 5000);
  CHECK_THAT(foreign::laid_json(told), Contains("deviation_um"));
}
