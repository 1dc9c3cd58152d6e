#include "palio/curve/profile.hpp"

#include <algorithm>

#include <boost/math/quadrature/gauss_kronrod.hpp>

#include "palio/angle.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::curve {
namespace {

template <class Integrand>
double around(const Outline& outline, Integrand integrand) {
  using Rule = boost::math::quadrature::gauss_kronrod<double, 31>;
  double sum = 0;
  // The rule's own error estimate is that of its 15-point half; the 31-point value is exact to rounding long before.
  for (const Segment& s : outline.period) {
    sum += Rule::integrate([&](double t) { return integrand(s.jet(t)); }, s.from, s.to, 4, math::kAlike);
  }
  return sum * outline.count;
}

}  // namespace

double Outline::pitch() const noexcept { return 2 * kPi / count; }

Segment Outline::segment(int copy, std::size_t index) const {
  return shift == Vec2::Zero() ? turned(period[index], turn(copy)) : moved(period[index], copy * shift);
}

Outline reversed(const Outline& outline) {
  // From the end of period 0 back to its start, then on to the period before it.
  Outline made = outline;
  std::reverse(made.period.begin(), made.period.end());
  for (Segment& s : made.period)
    s = reversed(s);
  made.clockwise = !outline.clockwise;
  return made;
}

Outline mirrored(const Outline& outline) {
  Outline made = outline;
  made.period.clear();
  for (auto it = outline.period.rbegin(); it != outline.period.rend(); ++it)
    made.period.push_back(mirrored(*it));
  return made;
}

Outline moved(Outline outline, const Vec2& way) {
  for (Segment& s : outline.period)
    s = moved(s, way);
  return outline;
}

Outline turned(Outline outline, double angle) {
  for (Segment& s : outline.period)
    s = turned(s, angle);
  return outline;
}

Outline scaled(Outline outline, double factor) {
  for (Segment& s : outline.period)
    s = scaled(s, factor);
  outline.shift *= factor;
  return outline;
}

Outline circle(double radius, Role role, bool hole, const Vec2& centre) {
  const Arc arc{centre, radius};
  return {{hole ? Segment{arc, 2 * kPi, 0, role} : Segment{arc, 0, 2 * kPi, role}}, 1, hole, Vec2::Zero()};
}

double signed_area(const Outline& outline) {
  return around(outline, [](const Jet& j) { return 0.5 * cross(j.p, j.d1); });
}

Vec2 first_moment(const Outline& outline) {
  if (outline.count > 1) return Vec2::Zero();
  return {around(outline, [](const Jet& j) { return j.p.x() / 3 * cross(j.p, j.d1); }),
          around(outline, [](const Jet& j) { return j.p.y() / 3 * cross(j.p, j.d1); })};
}

double polar_moment(const Outline& outline) {
  return around(outline, [](const Jet& j) { return 0.25 * j.p.squaredNorm() * cross(j.p, j.d1); });
}

}  // namespace palio::curve
