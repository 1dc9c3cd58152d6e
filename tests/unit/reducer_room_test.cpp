// The room of a reducer's disc between its rollers: against a brute search on a polygon, for clearances from none to
// where the disc falls through, and monotone in the clearance.
#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/reducer/play.hpp"
#include "random_gear.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

constexpr double kTouch = 1e-9;

reducer::Spec spec(int rollers, double eccentricity, double offset) {
  reducer::Spec s;
  s.rollers = rollers, s.roller_circle_diameter = 80, s.roller_diameter = 5, s.eccentricity = eccentricity,
  s.disc_offset = offset;
  s.output_pins = 6, s.output_pin_circle_diameter = 46, s.output_pin_diameter = 6, s.bore_diameter = 19,
  s.face_width = 6, s.disc_gap = 0.6;
  return s;
}

/// The disc's edge as many points in its own frame.
std::vector<Vec2> points(const reducer::Reducer& r) {
  std::vector<Vec2> all;
  for (int copy = 0; copy < r.edge().count; ++copy) {
    for (const curve::Segment& s : r.edge().period) {
      for (int i = 0; i < 120; ++i)
        all.push_back(turned(s.point(s.from + (s.to - s.from) * i / 120), r.edge().turn(copy)));
    }
  }
  return all;
}

/// The smallest gap between any roller and the polygon, the disc turned by `turn`: negative where a roller lies in it.
double least_gap(const reducer::Reducer& r, const std::vector<Vec2>& edge, double input, double turn) {
  const double theta = r.turned(0, input) + turn;
  double least = 1e9;
  for (int k = 0; k < r.spec().rollers; ++k) {
    const Vec2 q = turned(r.roller(k) - r.centre(0, input), -theta);
    double near = 1e18;
    bool inside = false;
    for (std::size_t i = 0, j = edge.size() - 1; i < edge.size(); j = i++) {
      const Vec2 &a = edge[j], &b = edge[i], way = b - a;
      const double t = std::clamp((q - a).dot(way) / way.squaredNorm(), 0.0, 1.0);
      near = std::min(near, (a + t * way - q).squaredNorm());
      if ((a.y() > q.y()) != (b.y() > q.y()) && q.x() < a.x() + (b.x() - a.x()) * (q.y() - a.y()) / (b.y() - a.y()))
        inside = !inside;
    }
    least = std::min(least, (inside ? -1 : 1) * std::sqrt(near) - r.spec().roller_diameter / 2);
  }
  return least;
}

}  // namespace

TEST_CASE("the room of a disc is what a brute search finds, from no clearance to where it falls through") {
  for (const auto& [rollers, eccentricity] : {std::pair{20, 1.0}, {24, 1.2}, {12, 2.0}, {8, 1.5}}) {
    for (const double offset : {0.02, 0.09, 0.095, 0.12, 0.2, 0.5, 1.2}) {
      const reducer::Reducer r(spec(rollers, eccentricity, offset));
      const std::vector<Vec2> edge = points(r);
      for (const double input : {0.0, 1.1, 4.4}) {
        CAPTURE(rollers, eccentricity, offset, input);
        const reducer::Room room = reducer::standing(r, input, kTouch).discs[0];
        if (room.loose) continue;
        CHECK(room.overlap == 0);
        CHECK(room.low <= 0);
        CHECK(room.high >= 0);
        // At its limits it just touches, by other means; within it is free, and past them it is not.
        const double step = 0.01 * (room.high - room.low);
        CHECK_THAT(least_gap(r, edge, input, room.high), WithinAbs(0, 2e-4));
        CHECK_THAT(least_gap(r, edge, input, room.low), WithinAbs(0, 2e-4));
        for (const double share : {0.1, 0.35, 0.5, 0.8})
          CHECK(least_gap(r, edge, input, room.low + share * (room.high - room.low)) > -2e-4);
        CHECK(least_gap(r, edge, input, room.high + step) < 2e-4);
        CHECK(least_gap(r, edge, input, room.low - step) < 2e-4);
      }
    }
  }
}

TEST_CASE("play grows with the clearance, step by step, and a sound reducer never jams") {
  int turned = 0;
  for (unsigned seed = 1; seed <= 12; ++seed) {
    test::Draw draw(seed);
    const int rollers = draw.whole(8, 30);
    const double eccentricity = draw.between(0.3, 0.8) * 40 / rollers;
    double before = -1;
    for (double offset = 0; offset <= 1.5; offset = offset == 0 ? 0.01 : 1.4 * offset) {
      std::optional<reducer::Reducer> r;
      try {
        r.emplace(spec(rollers, eccentricity, offset));
      } catch (const InvalidParameter&) {
        break;  // undercut, or a thin wall
      }
      CAPTURE(seed, rollers, eccentricity, offset);
      const reducer::Rolled rolled = reducer::roll(*r, 24, kTouch);
      if (rolled.verdict == roll::Verdict::loses_contact) break;  // falls through: from here on it does
      CHECK(rolled.verdict == roll::Verdict::meshes);
      REQUIRE(rolled.disc_play);
      CHECK(rolled.disc_play->min >= before - 1e-12);
      CHECK(rolled.disc_play->max < 2 * kPi / (rollers - 1));
      before = rolled.disc_play->min;
    }
    turned += before >= 0 ? 1 : 0;
  }
  CHECK(turned > 6);
}

TEST_CASE("a disc that lies loose between its rollers does not mesh") {
  // An edge so far in that its crests pass below the rollers.
  reducer::Spec s = spec(24, 0.2, 0);
  s.disc_offset = 0.45;
  const reducer::Rolled r = reducer::roll(reducer::Reducer(s), 24, kTouch);
  CHECK(r.verdict == roll::Verdict::loses_contact);
  CHECK(r.loose_at.has_value());
}
