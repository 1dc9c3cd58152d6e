#include "palio/roll/space.hpp"

#include <Eigen/Geometry>
#include <cmath>

#include "engagement.hpp"
#include "space_finder.hpp"
#include "tally.hpp"

namespace palio::roll {

Axis crossed_axis(Angle direction, double a, Angle shaft_angle, double offset) {
  const Vec3 normal(std::cos(direction.radians()), std::sin(direction.radians()), 0);
  const Eigen::Matrix3d axes = Eigen::AngleAxisd(-shaft_angle.radians(), normal).toRotationMatrix();
  return {a * normal + offset * axes.col(2), axes};
}

namespace {

template <class Shape, class Part>
Result roll_in_space(const Part& driver, const Part& driven, const Law& law) {
  check_positions(law.positions);
  const SpaceFinder<Shape> finder(driver, driven, law);
  // The other gear's crest over this one's floor is seen from its own side.
  const Axis seen{-(driven.axis.axes.transpose() * driven.axis.origin), driven.axis.axes.transpose()};
  Part mover = driven, held = driver;
  mover.axis = {}, held.axis = seen;
  const SpaceFinder<Shape> from_driven(mover, held, law);

  Result result{};
  result.drives_upper = law.ratio < 0;
  const Side pushed = result.drives_upper ? Side::upper : Side::lower;
  Tally tally(driver.name, driven.name, law, [&](const Contact& c) { return finder.describe(c); });
  std::vector<double> at;
  Trail trail;
  std::vector<std::vector<Touching>> touching;
  for (int i = 0; i <= law.positions; ++i) {
    const double coordinate = driver.start + finder.pitch() * i / law.positions;
    Limit upper, lower;
    finder.limits(coordinate, upper, lower, trail);
    at.push_back(coordinate);
    touching.push_back(touching_pairs((pushed == Side::upper ? upper : lower).touching));
    if (i == law.positions) break;  // the first position again, one tooth on: closes the period
    Position p{};
    p.driver = coordinate;
    p.upper = upper.first, p.lower = lower.first;
    p.pairs_upper = static_cast<int>(touching_pairs(upper.touching).size()),
    p.pairs_lower = static_cast<int>(touching_pairs(lower.touching).size());
    p.touching_upper = std::move(upper.touching), p.touching_lower = std::move(lower.touching);
    const double nominal = finder.nominal(coordinate),
                 middle = p.play() ? 0.5 * (p.upper->driven + p.lower->driven) : nominal;
    p.tip_clearance = {finder.clearance(coordinate), from_driven.clearance(middle)};
    tally.add(p, nominal, result.drives_upper);
    result.positions.push_back(std::move(p));
  }
  const Engagement engaged(
      at, touching, [&](int tooth, double coordinate) { return finder.tooth_place(tooth, coordinate); },
      [&](double coordinate) { return touching_pairs(finder.limit(pushed, coordinate).touching); });
  result.pairs_mean = engaged.mean();
  result.lost_share = engaged.lost_share();
  tally.finish(result);
  return result;
}

}  // namespace

Result roll(const Twisted& driver, const Twisted& driven, const Law& law) {
  return roll_in_space<Screw>(driver, driven, law);
}
Result roll(const Coned& driver, const Coned& driven, const Law& law) {
  return roll_in_space<Cone>(driver, driven, law);
}

}  // namespace palio::roll
