// Where contacts come and go: found where it is, with few looks where it can be foreseen, and found all the same where
// it cannot.
#include "roll/engagement.hpp"

#include <catch2/catch.hpp>
#include <cmath>

#include "palio/math/extent.hpp"
#include "palio/math/roots.hpp"
#include "palio/math/vec.hpp"
#include "random_gear.hpp"
#include "roll/trail.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

/// One tooth a period that touches from `from` to `to`; `left` tells how far it is from the end of its curves.
struct Toy {
  double from, to;
  std::function<double(double)> left;
  mutable int looks = 0;

  std::vector<roll::Touching> at(double coordinate) const {
    ++looks;
    std::vector<roll::Touching> all;
    for (int tooth = -3; tooth <= 3; ++tooth) {
      const double place = coordinate + tooth;
      if (place >= from && place <= to) all.push_back({{tooth, 0}, left(place)});
    }
    return all;
  }
  double mean(int positions) const {
    std::vector<double> coordinates;
    std::vector<std::vector<roll::Touching>> touching;
    for (int i = 0; i <= positions; ++i) {
      coordinates.push_back(static_cast<double>(i) / positions);
      touching.push_back(at(coordinates.back()));
    }
    looks = 0;
    return roll::Engagement(
               coordinates, touching, [](int tooth, double coordinate) { return coordinate + tooth; },
               [this](double coordinate) { return at(coordinate); })
        .mean();
  }
};

}  // namespace

TEST_CASE("a contact that nears its end evenly is followed to it in a few looks, any other by halving") {
  for (unsigned seed = 1; seed <= test::share(60); ++seed) {
    test::Draw draw(seed);
    const double from = draw.between(-0.9, -0.3), to = draw.between(0.3, 0.9);
    CAPTURE(seed, from, to);
    const auto nearer = [=](double x) { return std::min(x - from, to - x) / (to - from); };
    const Toy even{from, to, nearer};
    CHECK_THAT(even.mean(40), WithinAbs(to - from, 2e-12));
    CHECK(even.looks <= 2 * 12);
    // It nears its end as a square root does, is not known, or leads astray: found all the same.
    const Toy bent{from, to, [=](double x) { return std::sqrt(std::max(0.0, nearer(x))); }};
    CHECK_THAT(bent.mean(40), WithinAbs(to - from, 2e-12));
    const Toy unknown{from, to, [](double) { return 0.0; }};
    CHECK_THAT(unknown.mean(40), WithinAbs(to - from, 2e-12));
    const Toy astray{from, to, [=](double x) { return nearer(x) + 0.2; }};
    CHECK_THAT(astray.mean(40), WithinAbs(to - from, 2e-12));
    CHECK(even.looks < unknown.looks);
  }
}

TEST_CASE("a trail leads on as its last two places do, and each pair of segments has its own") {
  const curve::Segment a{curve::Line{{0, 0}, {1, 0}}, 0, 1, curve::Role::flank}, b = a;
  const roll::Facing one{&a, &b, 0, 0}, other{&a, &b, 1, 0};
  roll::Trail trail;
  CHECK(!trail.expected(one, 0));
  trail.keep(one, 1.0, {0.2, 0.8});
  CHECK(trail.expected(one, 5.0)->s == 0.2);
  trail.keep(one, 1.5, {0.3, 0.7});
  trail.keep(one, 1.5, {9, 9});  // the same place again says nothing new
  const auto on = trail.expected(one, 2.5);
  REQUIRE(on);
  CHECK_THAT(on->s, WithinAbs(0.5, 1e-15));
  CHECK_THAT(on->t, WithinAbs(0.5, 1e-15));
  CHECK(!trail.expected(other, 2.5));
}

TEST_CASE("an extent is empty until it holds, and a root between known values asks for neither end") {
  math::Extent extent;
  CHECK(extent.empty());
  extent.hold(3);
  CHECK((extent.low() == 3 && extent.high() == 3 && extent.size() == 0 && !extent.empty()));
  extent.hold(-1);
  CHECK((extent.low() == -1 && extent.high() == 3 && extent.middle() == 1));
  const auto f = [](double x) {
    CHECK((x > 1 && x < 3));
    return x * x - 2;
  };
  CHECK_THAT(math::find_root(f, 1, 3, -1, 7), WithinAbs(std::sqrt(2.0), 1e-15));
  CHECK_THAT(math::find_root(f, 3, 1, 7, -1), WithinAbs(std::sqrt(2.0), 1e-15));
  // Turned by an angle, and as +x is turned to its direction.
  const Vec2 v(1.3, -0.4);
  CHECK((turned(v, 0.7) - turned(v, from_polar(1, 0.7))).norm() == 0);
}
