#include "palio/curve/flatten.hpp"

#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/math/roots.hpp"
#include "random_gear.hpp"

using namespace palio;
using namespace palio::curve;
using Catch::Matchers::WithinAbs;

namespace {

/// Every kind of segment, at many sizes.
std::vector<Segment> any_segments(unsigned seed) {
  test::Draw draw(seed);
  const double r = draw.between(1, 60), at = draw.between(-3, 3);
  const int side = draw.of({-1, 1});
  return {
      {Involute{r, at, side}, draw.between(0.05, 0.3), draw.between(0.4, 1.2), Role::flank},
      {Involute{r, at, side}, draw.between(0.4, 1.2), draw.between(0.0, 0.3), Role::flank},
      {Trochoid{r, draw.of({1.0, 0.9}), draw.between(0, 0.03) * r, -draw.between(0.05, 0.12) * r, 0.02 * r, at, side},
       kPi / 2, 0.4, Role::root},
      {Arc{{draw.between(-5, 5), 1}, 0.2 * r}, at, at + draw.between(-2, 2), Role::root},
      {Line{{1, 2}, {draw.between(3, 5), r}}, 0, 1, Role::root}};
}

/// Distance of p from a segment, by dense points and the chords between them.
double distance(const Segment& s, const Vec2& p, int looks) {
  double least = 1e9;
  Vec2 before = s.first();
  for (int i = 1; i <= looks; ++i) {
    const Vec2 after = s.point(s.from + (s.to - s.from) * i / looks), along = after - before;
    const double u = std::clamp((p - before).dot(along) / std::max(1e-300, along.squaredNorm()), 0.0, 1.0);
    least = std::min(least, (p - before - u * along).norm());
    before = after;
  }
  return least;
}

}  // namespace

TEST_CASE("every normal of an involute is tangent to its base circle, and its radius of curvature is the string") {
  for (unsigned seed = 1; seed <= 200; ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const double r_b = std::pow(10, draw.between(-3, 3)), t = draw.between(0, 6);
    const Segment s{Involute{r_b, draw.between(-3, 3), draw.of({-1, 1})}, 0, 7, Role::flank};
    // Two coordinates and the dot product, each within a few ε of r_b (1 + t).
    CHECK_THAT(std::abs(s.point(t).dot(s.tangent(t))) / r_b,
               WithinAbs(t > 0 ? 1 : s.point(t).norm() / r_b, 1e-14 * (1 + t)));
    if (t > 0.01) CHECK_THAT(std::abs(s.curvature(t)) * r_b * t, WithinAbs(1, 1e-12));
  }
  const Segment cusp{Involute{5, 0, +1}, 0, 1, Role::flank};
  CHECK((cusp.tangent(0) - Vec2(1, 0)).norm() < 1e-15);
  CHECK(std::isinf(cusp.curvature(0)));
}

TEST_CASE("derivatives are those of the points, for every kind of segment") {
  for (unsigned seed = 1; seed <= 100; ++seed) {
    for (const Segment& s : any_segments(seed)) {
      const double t = 0.37 * s.from + 0.63 * s.to, h = 1e-4 * std::abs(s.to - s.from);
      const Jet j = s.jet(t), a = s.jet(t - h), b = s.jet(t + h);
      CAPTURE(seed, s.curve.index());
      const double size = j.d1.norm() + j.d2.norm() + 1;
      CHECK(((b.p - a.p) / (2 * h) - j.d1).norm() < 1e-6 * size);
      CHECK(((b.d1 - a.d1) / (2 * h) - j.d2).norm() < 1e-5 * size);
      CHECK_THAT(s.tangent(t).norm(), WithinAbs(1, 1e-14));
      CHECK_THAT(s.tangent(t).dot(s.normal(t)), WithinAbs(0, 1e-15));
    }
  }
}

TEST_CASE("turning a segment turns its points") {
  for (const Segment& s : any_segments(7)) {
    const Segment moved = palio::curve::turned(s, 0.7);
    CHECK((moved.first() - palio::turned(s.first(), 0.7)).norm() < 1e-13 * (1 + s.first().norm()));
    CHECK((moved.last() - palio::turned(s.last(), 0.7)).norm() < 1e-13 * (1 + s.last().norm()));
  }
}

TEST_CASE("no chord strays further than asked, and the deviation told is the one it has") {
  for (unsigned seed = 1; seed <= 60; ++seed) {
    for (const Segment& s : any_segments(seed)) {
      const double wanted = 1e-4 * s.first().norm() + 1e-6;
      const Chords chords = flatten(s, wanted);
      CAPTURE(seed, s.curve.index(), chords.at.size());
      CHECK(chords.at.front() == s.from);
      CHECK(chords.at.back() == s.to);
      CHECK(chords.deviation <= wanted);
      double dense = 0;
      for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) {
        const Vec2 a = s.point(chords.at[i]), along = (s.point(chords.at[i + 1]) - a).normalized();
        for (int k = 1; k < 800; ++k) {
          const double t = chords.at[i] + (chords.at[i + 1] - chords.at[i]) * k / 800;
          dense = std::max(dense, std::abs(cross(along, s.point(t) - a)));
        }
      }
      CHECK(dense <= chords.deviation * (1 + 1e-6) + 1e-14 * (1 + s.first().norm()));
      CHECK(dense >= chords.deviation * (1 - 1e-3) - 1e-14 * (1 + s.first().norm()));
      // As few as asked: the error is used, not halved and halved again.
      if (chords.at.size() > 8) CHECK(chords.deviation > 0.5 * wanted);
    }
  }
  CHECK_THROWS_AS(flatten(any_segments(1)[0], 0), InvalidParameter);
  CHECK_THROWS_AS(flatten(any_segments(1)[0], std::nan("")), InvalidParameter);
}

TEST_CASE("biarcs close, follow the outline within the tolerance, and give circles exactly") {
  int gears = 0;
  for (unsigned seed = 1; seed <= 25; ++seed) {
    const auto gear = test::any_gear(seed);
    if (!gear) continue;
    ++gears;
    const Outline& outline = gear->outline();
    const double tolerance = 0.002 * gear->spec().module;
    const BulgedLoop loop = biarcs(outline, tolerance);
    CAPTURE(seed, loop.points.size(), loop.deviation);
    CHECK(loop.deviation <= tolerance);
    const std::size_t per_period = loop.points.size() / outline.count;
    // Each arc's middle lies on the exact outline within the tolerance.
    for (std::size_t i = 0; i < per_period; ++i) {
      const Vec2 p = loop.points[i].p, q = loop.points[i + 1].p, chord = q - p;
      const Vec2 middle = 0.5 * (p + q) - quarter_turn(chord) * loop.points[i].bulge / 2;
      double off = 1e9;
      for (const Segment& s : outline.period)
        off = std::min(off, distance(s, middle, 800));
      CHECK(off <= tolerance + 1e-6 * gear->spec().module);
    }
  }
  CHECK(gears > 12);
  const BulgedLoop round = biarcs(circle(4, Role::bore, true), 0.01);
  CHECK(round.points.size() == 2);
  CHECK_THAT(round.points[0].bulge, WithinAbs(-1, 1e-15));
  CHECK(round.deviation == 0);
}

TEST_CASE("an involute as one Bézier of degree 7 stays within 1e-7 mm for modules 1 to 5, as its closed form says") {
  for (const double module : {1.0, 2.0, 5.0}) {
    for (const int teeth : {12, 17, 40, 100}) {
      gear::CylindricalSpec spec;
      spec.teeth = teeth;
      spec.module = module;
      spec.face_width = 10;
      spec.profile_shift = teeth < 17 ? 0.3 : 0;
      const gear::CylindricalGear gear(spec);
      for (const Segment& s : gear.outline().period) {
        if (s.role == Role::tip) continue;
        CAPTURE(module, teeth, name(s.role));
        const SplineCopy copy = spline_copy(s, 1e-7 * std::max(1.0, module / 5));
        double worst = 0;
        for (int i = 0; i <= 997; ++i) {  // points of the spline against the curve, at other places than the fit looked
          const double t = s.from + (s.to - s.from) * i / 997;
          const Vec2 off = point(copy, s.to < s.from ? -t : t) - s.point(t);
          worst = std::max(worst, std::abs(cross(s.tangent(t), off)));
        }
        CHECK(worst <= 1e-7 * std::max(1.0, module / 5));
        CHECK(worst <= 1.2 * copy.deviation + 1e-13);
        CHECK((copy.poles.front() - s.first()).norm() < 1e-13 * s.first().norm());
        CHECK((copy.poles.back() - s.last()).norm() < 1e-13 * s.last().norm());
        if (const auto* flank = std::get_if<Involute>(&s.curve)) {
          CHECK(copy.degree == 7);
          CHECK(copy.breaks.size() == 2);
          // Interpolation error: |p⁽ⁿ⁺¹⁾| |ω|/(n+1)!, with |p⁽ⁿ⁺¹⁾| = r_b √(t² + n²) ≤ … and |ω| ≤ 2 (h/4)^{n+1} on
          // Lobatto nodes.
          const int n = copy.degree;
          const double t = std::max(s.from, s.to), h = std::abs(s.to - s.from);
          const double bound = std::sqrt(2.0) * flank->base_radius * std::hypot(t, n) * 2 * std::pow(h / 4, n + 1) /
                               std::tgamma(n + 2) * n;
          CHECK(worst <= bound);
        }
      }
    }
  }
}

TEST_CASE("area by the exact line integral is the limit of the polygon's") {
  const auto gear = test::any_gear(3);
  REQUIRE(gear);
  const Outline& outline = gear->outline();
  double polygon = 0;
  for (const Segment& s : outline.period) {
    const Chords chords = flatten(s, 1e-6 * gear->spec().module);
    for (std::size_t i = 0; i + 1 < chords.at.size(); ++i)
      polygon += 0.5 * cross(s.point(chords.at[i]), s.point(chords.at[i + 1]));
  }
  polygon *= outline.count;
  CHECK_THAT(signed_area(outline) / polygon, WithinAbs(1, 1e-6));
  CHECK_THAT(signed_area(circle(3, Role::bore, true)), WithinAbs(-9 * kPi, 1e-12));
  CHECK_THAT(polar_moment(circle(3, Role::bore, false)), WithinAbs(81 * kPi / 2, 1e-11));
}

TEST_CASE("the involute function and its inverse undo each other from nothing to nearly a right angle") {
  for (const double alpha : {0.0, 1e-9, 1e-4, 0.0199, 0.0201, 0.1, 0.35, 0.8, 1.2, 1.5}) {
    CAPTURE(alpha);
    CHECK_THAT(math::arcinv(math::inv(alpha)), WithinAbs(alpha, 4e-15 * (1 + 1 / (1.58 - alpha))));
  }
  CHECK_THAT(math::inv(20 * kPi / 180), WithinAbs(0.0149043838673, 1e-12));  // the value every table prints
  CHECK_THROWS_AS(math::arcinv(-1e-9), InvalidParameter);
  CHECK_THROWS_AS(math::arcinv(std::nan("")), InvalidParameter);
  CHECK_THROWS_AS(math::find_root([](double x) { return x * x + 1; }, -1, 1), NoConvergence);
}
