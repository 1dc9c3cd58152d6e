// Sheets of stock: things lie beside each other, tabs hold where they may, names stand within what they name.
#include <algorithm>
#include <cmath>
#include <random>

#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/write/nest.hpp"
#include "palio/write/stock.hpp"
#include "polygons.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

/// Points along a piece between two points: by its angle, with no formula of palio's.
std::vector<Vec2> along(const Vec2& a, double bulge, const Vec2& b, int steps) {
  std::vector<Vec2> points;
  const double angle = 4 * std::atan(bulge);
  for (int i = 0; i < steps; ++i) {
    const double t = static_cast<double>(i) / steps;
    if (std::abs(angle) < 1e-7) {
      points.emplace_back(a + t * (b - a));
      continue;
    }
    const Vec2 middle = (a + b) / 2 + quarter_turn(Vec2(b - a)) / (2 * std::tan(angle / 2));
    points.push_back(middle + turned(Vec2(a - middle), t * angle));
  }
  return points;
}

test::Loop sampled(const curve::BulgedLoop& loop, bool closed, int steps) {
  test::Loop all;
  const std::size_t n = loop.points.size();
  for (std::size_t i = 0; i + (closed ? 0 : 1) < n; ++i) {
    for (const Vec2& p : along(loop.points[i].p, loop.points[i].bulge, loop.points[(i + 1) % n].p, steps))
      all.push_back(p);
  }
  if (!closed) all.push_back(loop.points.back().p);
  return all;
}

double length_of(const test::Loop& loop, bool closed) {
  double length = closed ? (loop.front() - loop.back()).norm() : 0;
  for (std::size_t i = 0; i + 1 < loop.size(); ++i)
    length += (loop[i + 1] - loop[i]).norm();
  return length;
}

}  // namespace

TEST_CASE("tabs take their width from the cut and nothing else and leave flanks alone") {
  std::vector<std::pair<const char*, gear::Teeth>> all = test::one_of_each();
  for (const auto& more : test::one_of_each_cycloidal())
    all.push_back(more);
  int tried = 0;
  for (const auto& [name, teeth] : all) {
    if (!teeth.is_one_loop()) continue;
    const curve::BulgedLoop loop = curve::biarcs(teeth.outline(), 0.002);
    constexpr int kSteps = 16;
    const test::Loop whole = sampled(loop, true, kSteps);
    for (const int count : {1, 2, 3, 7}) {
      const double width = 0.3;
      CAPTURE(name, count);
      std::vector<curve::BulgedLoop> chains;
      try {
        chains = write::with_tabs(loop, {count, width});
      } catch (const InvalidParameter& e) {
        CHECK(e.name() == "tabs");
        continue;
      }
      ++tried;
      REQUIRE(chains.size() == static_cast<std::size_t>(count));
      double cut = 0;
      for (std::size_t i = 0; i < chains.size(); ++i) {
        const test::Loop chain = sampled(chains[i], false, kSteps);
        cut += length_of(chain, false);
        double off = 0;
        for (std::size_t k = 0; k < chain.size(); k += 31)
          off = std::max(off, test::distance({whole}, chain[k]));
        CHECK(off < 1e-3);
        // The bridge, and what stands at its two ends: a tip, or no tooth.
        const Vec2 &end = chain.back(), &next = chains[(i + 1) % chains.size()].points.front().p;
        CHECK(((end - next).norm() <= width + 1e-9 && (end - next).norm() > 0.9 * width));
        const curve::Role left = chains[i].points[chains[i].points.size() - 2].role,
                          right = chains[(i + 1) % chains.size()].points.front().role;
        CHECK(left == right);
        CHECK(left != curve::Role::flank);
      }
      CHECK_THAT(length_of(whole, true) - cut, WithinAbs(count * width, 4e-3 * count));
    }
  }
  CHECK(tried > 15);
}

TEST_CASE("tabs that find no room are told with the room there is and that is enough") {
  gear::CylindricalSpec s;
  s.module = 1, s.teeth = 12, s.face_width = 5;
  const curve::BulgedLoop loop = curve::biarcs(gear::CylindricalGear(s).outline(), 0.002);
  CHECK_THROWS_WITH(write::with_tabs(loop, {13, 0.2}), Contains("room for 12"));
  try {
    write::with_tabs(loop, {2, 5});
    FAIL("tabs wider than a tip");
  } catch (const InvalidParameter& e) {
    const auto at = e.allowed().find("may be ");
    REQUIRE(at != std::string::npos);
    CHECK(write::with_tabs(loop, {2, 0.99 * std::stod(e.allowed().substr(at + 7))}).size() == 2);
  }
}

TEST_CASE("a name stands within what it names wherever there is room and as large as it may be") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> any(0, 1);
  int written = 0, none = 0;
  for (int n = 0; n < 60; ++n) {
    const double outer = 4 + 30 * any(random), inner = outer * (0.2 + 0.7 * any(random)), off = 0.3 * (outer - inner);
    const std::vector<curve::Outline> loops{
        curve::circle(outer, curve::Role::body, false),
        curve::circle(inner, curve::Role::body, true, from_polar(off, 6 * any(random)))};
    std::vector<test::Loop> polygons;
    polygons.reserve(loops.size());
    for (const curve::Outline& o : loops)
      polygons.push_back(sampled(curve::biarcs(o, 0.001), true, 400));
    const double turn = n % 3 == 0 ? kPi / 2 : 0;
    polygons = test::placed(polygons, turn, Vec2::Zero());
    const auto label = write::label_within(loops, turn, "vent_drum", 5);
    CAPTURE(n, outer, inner);
    if (!label) {
      // Nor would there be in the middle of the widest place: nine letters of a millimetre lie in a band of this width.
      CHECK(outer - inner + off < 9);
      ++none;
      continue;
    }
    ++written;
    CHECK((label->height >= 1 && label->height <= 5));
    for (int i = 0; i <= 40; ++i) {
      for (const double up : {0.0, 0.5, 1.0}) {
        const Vec2 p = label->from + Vec2(label->width * i / 40, label->height * up);
        CHECK(test::inside(polygons, p));
        CHECK(test::distance(polygons, p) > 0.1 * label->height);
      }
    }
  }
  CHECK(written > 20);
  CHECK(none > 3);
  // A plain disc leaves more room than any ring: nothing keeps its name small.
  CHECK(write::label_within({curve::circle(60, curve::Role::body, false)}, 0, "vent", 5)->height == 5);
}

TEST_CASE("things laid on beds lie within them and apart and the bed that is asked for is enough") {
  std::mt19937 random(8);
  std::uniform_real_distribution<double> any(0, 1);
  for (int n = 0; n < 80; ++n) {
    std::vector<Vec2> sizes;
    const int count = 1 + n % 40;
    sizes.reserve(static_cast<std::size_t>(count));
    for (int i = 0; i < count; ++i)
      sizes.emplace_back(3 + 60 * any(random), 3 + 40 * any(random));
    write::Beds beds{80 + 200 * any(random), 80 + 200 * any(random), 1 + 6 * any(random)};
    beds.several = true, beds.quarters = n % 2 == 0;
    const std::vector<write::Lay> lays = write::side_by_side(sizes, beds);
    REQUIRE(lays.size() == sizes.size());
    std::size_t most = 0;
    const auto size = [&](std::size_t i) { return lays[i].quarter ? Vec2(sizes[i].y(), sizes[i].x()) : sizes[i]; };
    double area = 0;
    for (std::size_t i = 0; i < lays.size(); ++i) {
      CHECK((beds.quarters || !lays[i].quarter));
      const Vec2 low = lays[i].at, high = lays[i].at + size(i);
      CHECK(low.minCoeff() >= beds.gap - 0.011);
      CHECK((high.x() <= beds.width - beds.gap + 0.011 && high.y() <= beds.depth - beds.gap + 0.011));
      for (std::size_t k = 0; k < i; ++k) {
        if (lays[k].bed != lays[i].bed) continue;
        const Vec2 l = lays[k].at, h = lays[k].at + size(k);
        CHECK(std::max({low.x() - h.x(), l.x() - high.x(), low.y() - h.y(), l.y() - high.y()}) >= beds.gap - 1e-9);
      }
      most = std::max(most, lays[i].bed), area += sizes[i].prod();
    }
    // No bed is begun while half of what came before would still hold it all.
    CHECK(static_cast<double>(most) * beds.width * beds.depth * 0.3 <= 2 * area + beds.width * beds.depth);
    // The same again, to the bit.
    const std::vector<write::Lay> again = write::side_by_side(sizes, beds);
    for (std::size_t i = 0; i < lays.size(); ++i)
      CHECK((again[i].at == lays[i].at && again[i].bed == lays[i].bed));
  }
  // What is refused is told with the size that holds it.
  CHECK_THROWS_WITH(write::side_by_side({{100, 20}}, {90, 90, 4}), Contains("108 x 28"));
  CHECK(write::side_by_side({{100, 20}}, {108, 28, 4}).size() == 1);
  write::Beds upright{28, 108, 4};
  CHECK_THROWS_AS(write::side_by_side({{100, 20}}, upright), InvalidParameter);
  upright.quarters = true;
  CHECK(write::side_by_side({{100, 20}}, upright)[0].quarter);
  CHECK_THROWS_WITH(write::side_by_side({{100, 20}}, {1e12, 90, 4}), Contains("up to 20000"));
  CHECK_THROWS_WITH(write::side_by_side({{40, 40}, {40, 40}}, {50, 50, 4}), Contains("any more"));
}
