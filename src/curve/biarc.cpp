#include <algorithm>
#include <cmath>

#include "measure.hpp"
#include "palio/angle.hpp"
#include "palio/curve/biarc.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::curve {
namespace {

double bulge_of(const Vec2& p, const Vec2& tangent, const Vec2& q) {
  const Vec2 chord = q - p;
  const double half = std::atan2(cross(tangent, chord), tangent.dot(chord));  // tangent to chord: half the arc's angle
  return std::tan(half / 2);
}

/// Distance of `x` from the arc from p with the bulge to q (full circle or line of it: the pieces are short).
double off_arc(const Vec2& p, const Vec2& q, double bulge, const Vec2& x) {
  const Vec2 chord = q - p;
  const double length = chord.norm();
  if (length == 0) return (x - p).norm();
  if (std::abs(bulge) < math::kAlike) return std::abs(cross(chord / length, x - p));
  const Arc arc = circle_of(p, bulge, q);
  return std::abs((x - arc.centre).norm() - arc.radius);
}

double biarc_deviation(const Segment& segment, double a, double b, const Biarc& arcs) {
  const Vec2 p = segment.point(a), q = segment.point(b);
  const auto off = [&](double t) { return arcs.off(p, q, segment.point(t)); };
  return std::max(largest(off, a, 0.5 * (a + b)), largest(off, 0.5 * (a + b), b));
}

}  // namespace

Arc circle_of(const Vec2& a, double bulge, const Vec2& b) {
  const Vec2 chord = b - a;
  return {(a + b) / 2 + quarter_turn(chord) * ((1 - bulge * bulge) / (4 * bulge)),
          chord.norm() * (1 + bulge * bulge) / (4 * std::abs(bulge))};
}

Biarc biarc(const Vec2& p, const Vec2& t, const Vec2& q, const Vec2& u) {
  // Joint from tangent lengths d with |(q − d u) − (p + d t)| = 2d: (2 − 2 t·u) d² + 2 v·(t + u) d − v² = 0, v = q − p.
  const Vec2 v = q - p;
  const double a = 2 * (1 - t.dot(u)), b = 2 * v.dot(t + u), c = -v.squaredNorm();
  const double d = 2 * -c / (b + std::sqrt(b * b - 4 * a * c));
  const Vec2 joint = 0.5 * ((p + d * t) + (q - d * u));
  return {joint, bulge_of(p, t, joint), -bulge_of(q, -u, joint)};
}

double Biarc::off(const Vec2& p, const Vec2& q, const Vec2& x) const {
  const Vec2 along = (joint - p).normalized() + (q - joint).normalized();
  return along.dot(x - joint) < 0 ? off_arc(p, joint, bulge_in, x) : off_arc(joint, q, bulge_out, x);
}

BulgedLoop biarcs(const Outline& outline, double tolerance) {
  check_tolerance(tolerance);
  std::vector<BulgedPoint> period;
  double deviation = 0;
  for (const Segment& s : outline.period) {
    if (s.first() == s.last() && !std::holds_alternative<Arc>(s.curve)) continue;
    if (std::holds_alternative<Line>(s.curve)) {
      period.push_back({s.first(), 0, s.role});
    } else if (std::holds_alternative<Arc>(s.curve)) {
      const double turn = s.to - s.from;
      if (turn == 0) continue;
      const int parts = std::abs(turn) > kPi * 0.99 ? 2 : 1;
      for (int i = 0; i < parts; ++i) {
        period.push_back({s.point(s.from + turn * i / parts), std::tan(turn / parts / 4), s.role});
      }
    } else {
      for (int pieces = 1;; pieces += std::max(1, pieces / 4)) {
        const std::vector<double> cuts = even_cuts(s, pieces);
        std::vector<BulgedPoint> points;
        double worst = 0;
        for (int i = 0; i < pieces && worst <= tolerance; ++i) {
          const Vec2 p = s.point(cuts[i]), q = s.point(cuts[i + 1]);
          const Biarc arcs = biarc(p, s.tangent(cuts[i]), q, s.tangent(cuts[i + 1]));
          worst = std::max(worst, biarc_deviation(s, cuts[i], cuts[i + 1], arcs));
          points.push_back({p, arcs.bulge_in, s.role});
          points.push_back({arcs.joint, arcs.bulge_out, s.role});
        }
        if (worst <= tolerance) {
          period.insert(period.end(), points.begin(), points.end());
          deviation = std::max(deviation, worst);
          break;
        }
      }
    }
  }
  BulgedLoop loop{{}, deviation};
  loop.points.reserve(period.size() * outline.count);
  for (int copy = 0; copy < outline.count; ++copy) {
    for (const BulgedPoint& b : period) {
      const Vec2 p = copy == 0 ? b.p : palio::turned(b.p, outline.turn(copy));
      loop.points.push_back({p, b.bulge, b.role});
    }
  }
  return loop;
}

}  // namespace palio::curve
