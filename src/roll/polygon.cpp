// Everything is seen from the driven's axis: turning the driven by Δ adds Δ to the polar angles of its points and
// leaves their radii. A corner of one gear at radius ϱ meets an edge of the other where that edge passes through ϱ.
#include "palio/roll/polygon.hpp"
#include "palio/math/extent.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::roll {
namespace {

/// An edge about the driven's axis.
struct Edge {
  Vec2 a, b;
  double least, greatest;  // radii
  bool falls;              // radius falls along it: with material on the left it looks counter-clockwise
};

/// Edges by radius, so that those through a given radius are found at once.
class Edges {
 public:
  Edges(std::vector<Edge> edges, double low, double high)
      : edges_(std::move(edges)), low_(low), step_((high - low) / kBins), bins_(kBins) {
    for (std::size_t i = 0; i < edges_.size(); ++i) {
      const auto bin = [&](double r) { return std::clamp(static_cast<int>((r - low_) / step_), 0, kBins - 1); };
      for (int k = bin(edges_[i].least); k <= bin(edges_[i].greatest); ++k)
        bins_[static_cast<std::size_t>(k)].push_back(i);
    }
  }
  const std::vector<Edge>& edges() const { return edges_; }
  template <class Visit>
  void through(double radius, Visit visit) const {
    const int k = static_cast<int>((radius - low_) / step_);
    if (k < 0 || k >= kBins) return;
    for (const std::size_t i : bins_[static_cast<std::size_t>(k)]) {
      const Edge& e = edges_[i];
      if (radius < e.least || radius > e.greatest) continue;
      // |a + s (b − a)|² = ϱ²
      const Vec2 way = e.b - e.a;
      const double A = way.squaredNorm(), B = e.a.dot(way), C = e.a.squaredNorm() - radius * radius,
                   root = B * B - A * C;
      if (A == 0 || root < 0) continue;
      for (const double s : {(-B - std::sqrt(root)) / A, (-B + std::sqrt(root)) / A}) {
        if (s >= -1e-12 && s <= 1 + 1e-12) visit(e, Vec2(e.a + s * way));
      }
    }
  }

 private:
  static constexpr int kBins = 4096;
  std::vector<Edge> edges_;
  double low_, step_;
  std::vector<std::vector<std::size_t>> bins_;
};

/// The ring about its own axis that a cut fills.
struct Zone {
  Vec2 axis;
  double low = math::kInfinite, high = 0;

  explicit Zone(const Cut& cut) : axis(cut.axis) {
    for (const Piece& p : cut.pieces)
      low = std::min(low, p.from.norm()), high = std::max(high, p.from.norm());
  }
  bool near(const Vec2& p) const {
    const double r = (p - axis).norm();
    return r >= low && r <= high;
  }
};

/// The edges of a cut that can meet the other one, about `axis`.
std::vector<Edge> seen(const Cut& cut, double coordinate, const Vec2& axis, double low, double high,
                       const Zone& other) {
  const Vec2 x = from_polar(1, coordinate);
  std::vector<Edge> all;
  for (const Piece& p : cut.pieces) {
    const auto at = [&](const Vec2& v) -> Vec2 { return turned(v, x) + cut.axis - axis; };
    const Vec2 a = at(p.from), b = at(p.to);
    if (!other.near(a + axis) && !other.near(b + axis)) continue;
    const double ra = a.norm(), rb = b.norm();
    // The foot of the perpendicular may lie between the ends.
    const Vec2 way = b - a;
    const double t = way.squaredNorm() > 0 ? std::clamp(-a.dot(way) / way.squaredNorm(), 0.0, 1.0) : 0;
    const double least = std::min({ra, rb, (a + t * way).norm()}), greatest = std::max(ra, rb);
    if (greatest < low || least > high) continue;
    all.push_back({a, b, least, greatest, rb < ra});
  }
  return all;
}

/// How far the driven can turn from where it is: forwards (`sense` +1) or backwards until the two touch.
/// None where nothing is in its way.
std::optional<double> limit(const Edges& driver, const Edges& driven, int sense, double window) {
  double best = math::kInfinite;
  const auto look = [&](const Vec2& still, const Vec2& turning) {
    const double way = std::remainder(std::atan2(still.y(), still.x()) - std::atan2(turning.y(), turning.x()), 2 * kPi);
    if (std::abs(way) < window) best = std::min(best, sense * way);
  };
  // Forwards the driven's edges that look counter-clockwise meet the driver's that look clockwise.
  const bool driven_falls = sense > 0;
  for (const Edge& e : driver.edges()) {
    if (e.falls == driven_falls) continue;
    for (const Vec2& corner : {e.a, e.b}) {
      driven.through(corner.norm(), [&](const Edge& other, const Vec2& p) {
        if (other.falls == driven_falls) look(corner, p);
      });
    }
  }
  for (const Edge& e : driven.edges()) {
    if (e.falls != driven_falls) continue;
    for (const Vec2& corner : {e.a, e.b}) {
      driver.through(corner.norm(), [&](const Edge& other, const Vec2& p) {
        if (other.falls != driven_falls) look(p, corner);
      });
    }
  }
  return sense * best;
}

}  // namespace

CutResult roll(const Cut& driver, const Cut& driven, const Law& law, double driver_pitch, double driven_pitch) {
  check_positions(law.positions);
  const Zone driver_zone(driver), driven_zone(driven);
  const double low = driven_zone.low, high = driven_zone.high;
  math::Extent play, error;
  for (int i = 0; i < law.positions; ++i) {
    const double turn = driver_pitch * i / law.positions;
    const Edges first(seen(driver, driver.start + turn, driven.axis, low, high, driven_zone), low, high);
    const Edges second(seen(driven, driven.start + law.ratio * turn, driven.axis, low, high, driver_zone), low, high);
    const double window = 0.15 * driven_pitch + law.theoretical_play / 2;
    const std::optional<double> upper = limit(first, second, 1, window), lower = limit(first, second, -1, window);
    if (!upper || !lower) {
      throw NoConvergence(fmt::format(
          "with the driver turned by {:.6g} rad nothing of the outlines read stands in the way of the other", turn));
    }
    play.hold(*upper - *lower);
    error.hold(*upper - law.theoretical_play / 2), error.hold(*lower + law.theoretical_play / 2);
  }
  return {{play.low(), play.high()}, {error.low(), error.high()}};
}

}  // namespace palio::roll
