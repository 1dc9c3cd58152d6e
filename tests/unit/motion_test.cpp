#include "palio/roll/motion.hpp"

#include <catch2/catch.hpp>

#include "palio/angle.hpp"
#include "random_gear.hpp"

using namespace palio;
using namespace palio::roll;
using Catch::Matchers::WithinAbs;

namespace {

Motion any_motion(test::Draw& draw) {
  const Vec2 at(draw.between(-20, 20), draw.between(-20, 20));
  return draw.whole(0, 1) ? Motion::rotation(at) : Motion::translation(at, Angle::radians(draw.between(-3, 3)));
}

}  // namespace

TEST_CASE("in the chart of a motion, moving is a plain shift of the place, and the label stays") {
  for (unsigned seed = 1; seed <= 200; ++seed) {
    test::Draw draw(seed);
    const Motion motion = any_motion(draw);
    const curve::Segment s{curve::Involute{draw.between(2, 20), draw.between(-3, 3), draw.of({-1, 1})}, 0, 1,
                           curve::Role::flank};
    const double q = draw.between(-1, 1), t = draw.between(0.1, 1);
    const ChartJet before = motion.chart(motion.carry(s.jet(t), 0), 0),
                   after = motion.chart(motion.carry(s.jet(t), q), before.place + q);
    CAPTURE(seed, q, t);
    CHECK_THAT(after.label, WithinAbs(before.label, 1e-12));
    CHECK_THAT(after.place - before.place, WithinAbs(q, 1e-12));
    for (const auto& [a, b] : {std::pair{before.label1, after.label1},
                               {before.place1, after.place1},
                               {before.label2, after.label2},
                               {before.place2, after.place2}}) {
      CHECK_THAT(a, WithinAbs(b, 1e-10));
    }
    CHECK_THAT(motion.label(motion.carry(s.jet(t), q).p), WithinAbs(before.label, 1e-12));
    CHECK_THAT(motion.place(motion.carry(s.jet(t), 0).p, before.place), WithinAbs(before.place, 1e-12));
  }
}

TEST_CASE("chart derivatives are those of label and place along the curve") {
  for (unsigned seed = 1; seed <= 100; ++seed) {
    test::Draw draw(seed);
    const Motion motion = any_motion(draw);
    const curve::Segment s{curve::Involute{draw.between(2, 20), draw.between(-3, 3), 1}, 0, 1, curve::Role::flank};
    const double t = 0.6, h = 1e-4;
    const auto at = [&](double x) { return motion.chart(motion.carry(s.jet(x), 0.2), 0); };
    const ChartJet a = at(t - h), c = at(t), b = at(t + h);
    if (c.label < 1) continue;  // beside the axis angles change too fast for differences
    CAPTURE(seed);
    const double size = 1 + std::abs(c.label2) + std::abs(c.place2) * 30;
    CHECK_THAT((b.label - a.label) / (2 * h), WithinAbs(c.label1, 1e-5 * size));
    CHECK_THAT(std::remainder(b.place - a.place, 2 * kPi) / (2 * h), WithinAbs(c.place1, 1e-5 * size));
    CHECK_THAT((b.label1 - a.label1) / (2 * h), WithinAbs(c.label2, 1e-4 * size));
    CHECK_THAT((b.place1 - a.place1) / (2 * h), WithinAbs(c.place2, 1e-4 * size));
  }
}

TEST_CASE("velocity is the derivative of the way carried") {
  for (unsigned seed = 1; seed <= 50; ++seed) {
    test::Draw draw(seed);
    const Motion motion = any_motion(draw);
    const curve::Jet own{{draw.between(-9, 9), draw.between(-9, 9)}, {1, 0}, {0, 0}};
    const double q = draw.between(-2, 2), h = 1e-6;
    const Vec2 way = (motion.carry(own, q + h).p - motion.carry(own, q - h).p) / (2 * h);
    CHECK((way - motion.velocity(motion.carry(own, q).p)).norm() < 1e-7);
  }
}
