// What can be told of a closed loop: inside, crossings with itself, its lines and arcs as an outline.
#include <algorithm>
#include <cmath>

#include <boost/geometry/algorithms/is_valid.hpp>
#include <boost/geometry/geometries/point_xy.hpp>
#include <boost/geometry/geometries/polygon.hpp>

#include "palio/curve/biarc.hpp"
#include "palio/drawn/drawing.hpp"
#include "palio/math/polygon.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::drawn {

bool Loop::holds(const Vec2& point) const {
  return math::in_polygon(
      points.size(), [&](std::size_t i) -> const Vec2& { return points[i]; }, point);
}

bool Loop::crosses_itself() const {
  using Point = boost::geometry::model::d2::point_xy<double>;
  boost::geometry::model::polygon<Point, false, false> polygon;
  for (const Vec2& p : points)
    polygon.outer().emplace_back(p.x(), p.y());
  boost::geometry::validity_failure_type why{};
  return !boost::geometry::is_valid(polygon, why) && why != boost::geometry::failure_duplicate_points;
}

namespace {

using curve::Arc;
using curve::Segment;

Segment piece(const Corner& from, const Vec2& to) {
  if (from.bulge == 0) return {curve::Line{from.p, to}, 0, 1, curve::Role::body};
  const Arc arc = curve::circle_of(from.p, from.bulge, to);
  const Vec2 out = from.p - arc.centre;
  const double start = std::atan2(out.y(), out.x());
  return {arc, start, start + 4 * std::atan(from.bulge), curve::Role::body};
}

/// Lets `a` go on over `b` where both are of one circle.
bool go_on(Segment& a, const Segment& b, double size) {
  auto* one = std::get_if<Arc>(&a.curve);
  const auto* other = std::get_if<Arc>(&b.curve);
  const double alike = 1e-9 * size;
  if (!one || !other || (one->centre - other->centre).norm() > alike || std::abs(one->radius - other->radius) > alike ||
      (a.to > a.from) != (b.to > b.from))
    return false;
  a.to += b.to - b.from;
  return true;
}

}  // namespace

curve::Outline Loop::outline() const {
  curve::Outline made;
  double size = 0;
  for (const Corner& c : corners)
    size = std::max(size, (c.p - centre).norm());
  std::vector<Segment>& all = made.period;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const Vec2& to = corners[(i + 1) % corners.size()].p;
    if ((to - corners[i].p).norm() < math::kAlike * size) continue;
    const Segment next = piece(corners[i], to);
    if (all.empty() || !go_on(all.back(), next, size)) all.push_back(next);
  }
  // Over the seam too.
  if (all.size() > 1) {
    Segment last = all.back();
    if (go_on(last, all.front(), size)) all.front() = last, all.pop_back();
  }
  if (all.size() == 1 && std::holds_alternative<Arc>(all[0].curve)) {
    const Arc& round = std::get<Arc>(all[0].curve);
    return curve::circle(round.radius, curve::Role::body, false, round.centre);
  }
  return made;
}

}  // namespace palio::drawn
