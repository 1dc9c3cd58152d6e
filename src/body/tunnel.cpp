#include "palio/body/tunnel.hpp"

#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/body/clear.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::body {

double Mouth::reach(double aside) const { return round ? std::sqrt(distance * distance - aside * aside) : distance; }

Vec3 Tunnel::at(double t, const Mouth& mouth) const {
  const double y = radius * std::cos(t);
  const Vec2 p = mouth.reach(y) * outwards() + y * aside();
  return {p.x(), p.y(), z + radius * std::sin(t)};
}

namespace {

/// The strip of the plane that a tunnel takes with its clearance, on its side of the axis.
struct Lane {
  Vec2 outwards, aside;
  double half;

  Vec2 seen(const Vec2& p) const { return {p.dot(outwards), p.dot(aside)}; }
  /// Whether a chord, in the lane's own frame, comes into it.
  bool holds_some_of(const Vec2& a, const Vec2& b) const {
    double from = 0, to = 1;
    const double rise = b.y() - a.y();
    if (std::abs(rise) < math::kRounding) {
      if (std::abs(a.y()) > half) return false;
    } else {
      const double u = (-half - a.y()) / rise, v = (half - a.y()) / rise;
      from = std::max(from, std::min(u, v)), to = std::min(to, std::max(u, v));
      if (from > to) return false;
    }
    return std::max((a + from * (b - a)).x(), (a + to * (b - a)).x()) > 0;
  }
};

enum class Meets { not_at_all, squarely, badly };

Meets meets(const curve::Segment& s, const Lane& lane, double angle) {
  if (const auto* arc = std::get_if<curve::Arc>(&s.curve); arc && arc->centre.norm() < math::kAlike) {
    if (arc->radius <= lane.half) return Meets::badly;
    const double half = std::asin(lane.half / arc->radius), low = std::min(s.from, s.to), high = std::max(s.from, s.to);
    if (high - low > 2 * kPi - math::kAlike) return Meets::squarely;
    // The middle of the lane, as the first turn of it that ends behind the arc's beginning.
    double middle = angle;
    while (middle + half > low)
      middle -= 2 * kPi;
    middle += 2 * kPi;
    if (middle - half > high) return Meets::not_at_all;
    return middle - half > low && middle + half < high ? Meets::squarely : Meets::badly;
  }
  if (std::holds_alternative<curve::Line>(s.curve)) {
    const Vec2 a = lane.seen(s.first()), b = lane.seen(s.last());
    if (!lane.holds_some_of(a, b)) return Meets::not_at_all;
    const bool square = std::abs(a.x() - b.x()) < math::kAlike * (1 + std::abs(a.x()));
    const bool across = std::min(a.y(), b.y()) < -lane.half && std::max(a.y(), b.y()) > lane.half;
    return square && across ? Meets::squarely : Meets::badly;
  }
  constexpr int kChords = 64;
  Vec2 before = lane.seen(s.first());
  for (int i = 1; i <= kChords; ++i) {
    const Vec2 next = lane.seen(s.point(s.from + (s.to - s.from) * i / kChords));
    if (lane.holds_some_of(before, next)) return Meets::badly;
    before = next;
  }
  return Meets::not_at_all;
}

}  // namespace

Crossed crossed(const curve::Outline& outline, std::size_t loop, const Tunnel& tunnel) {
  const Lane lane{tunnel.outwards(), tunnel.aside(), tunnel.radius + kTouches};
  Crossed all;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (std::size_t i = 0; i < outline.period.size(); ++i) {
      const curve::Segment s = outline.segment(copy, i);
      const Meets how = meets(s, lane, tunnel.angle);
      if (how == Meets::badly) all.clean = false;
      if (how != Meets::squarely) continue;
      const auto* arc = std::get_if<curve::Arc>(&s.curve);
      all.mouths.push_back({loop, static_cast<std::size_t>(copy) * outline.period.size() + i, arc != nullptr,
                            arc ? arc->radius : lane.seen(s.first()).x()});
    }
  }
  std::sort(all.mouths.begin(), all.mouths.end(),
            [](const Mouth& a, const Mouth& b) { return a.distance < b.distance; });
  return all;
}

Taken taken(const Tunnel& t) {
  // Slices beside the tunnel's axis at y = s sin θ, 2 s cos θ high: the integrand is smooth and periodic in θ, where
  // equal steps converge like no power of theirs.
  constexpr int kSteps = 512;
  Taken sum{0, Vec3::Zero(), 0};
  double first = 0;
  for (int i = 0; i < kSteps; ++i) {
    const double theta = 2 * kPi * i / kSteps, y = t.radius * std::sin(theta);
    const double weight = std::pow(t.radius * std::cos(theta), 2) * (2 * kPi / kSteps);
    const double a = t.inner.reach(y), b = t.outer.reach(y);
    sum.volume += weight * (b - a);
    first += weight * (b * b - a * a) / 2;
    sum.polar_moment += weight * ((b * b * b - a * a * a) / 3 + y * y * (b - a));
  }
  const Vec2 moment = first * t.outwards();
  sum.moment = Vec3(moment.x(), moment.y(), sum.volume * t.z);
  return sum;
}

}  // namespace palio::body
