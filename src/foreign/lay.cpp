#include "palio/foreign/lay.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <Eigen/Dense>
#include <boost/geometry.hpp>
#include <boost/geometry/geometries/register/point.hpp>
#include <boost/geometry/index/rtree.hpp>

#include "palio/angle.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/error.hpp"
#include "palio/math/extent.hpp"
#include "samples.hpp"

namespace palio::foreign {
namespace {

namespace bg = boost::geometry;
using Point = bg::model::d2::point_xy<double>;
using Chord = bg::model::segment<Point>;
using Vector4 = Eigen::Vector4d;  // centre, turn, scale

/// Chords of exact curves are this near to them [mm].
constexpr double kChordError = 1e-7;
/// Another scale counts where it leaves so much less.
constexpr double kScaled = 5;

/// What is laid on: chords with the material on their left, found by place.
class Ground {
 public:
  struct Foot {
    double off;    // along the normal, positive outside the material
    Vec2 normal;   // out of the material
    double along;  // arc length of the ground
    curve::Role role;
  };

  /// One period of exact teeth between its neighbours.
  Ground(const curve::Outline& outline, double phase) : pitch_(outline.pitch()), phase_(phase) {
    for (int copy = -1; copy <= 1; ++copy) {
      const Vec2 turn = from_polar(1, outline.turn(copy));
      double along = 0;
      for (const curve::Segment& s : outline.period) {
        const curve::Chords cut = curve::flatten(s, kChordError);
        Vec2 before = turned(s.point(cut.at.front()), turn);
        for (std::size_t i = 1; i < cut.at.size(); ++i) {
          const Vec2 next = turned(s.point(cut.at[i]), turn);
          add(before, next, s.role, along, copy == 0);
          along += (next - before).norm();
          before = next;
        }
      }
      length_ = along;
    }
    finish();
  }

  /// A whole foreign outline, counter-clockwise; `internal`: its material is outside.
  explicit Ground(const Toothed& other) {
    const Loop& loop = other.loop;
    const std::size_t n = loop.points.size();
    const double depth = other.outer_radius - other.inner_radius;
    double along = 0;
    for (std::size_t k = 0; k < n; ++k) {
      const std::size_t i = other.internal ? n - 1 - k : k;
      const Vec2 a = loop.points[other.internal ? (i + 1) % n : i] - loop.centre,
                 b = loop.points[other.internal ? i : (i + 1) % n] - loop.centre;
      const double share = ((0.5 * (a + b)).norm() - other.inner_radius) / depth,
                   height = other.internal ? 1 - share : share;
      add(a, b, height < 0.2 ? curve::Role::root : height > 0.95 ? curve::Role::tip : curve::Role::flank, along, true);
      along += (b - a).norm();
    }
    length_ = along;
    finish();
  }

  double length() const { return length_; }

  /// Places evenly along it, with nothing measured there yet.
  std::vector<Station> stations(std::size_t count) const {
    std::vector<Station> all;
    std::size_t piece = 0;
    for (std::size_t i = 0; i < count; ++i) {
      const double along = length_ * (static_cast<double>(i) + 0.5) / static_cast<double>(count);
      while (piece + 1 < pieces_.size() &&
             (!pieces_[piece].own || along > pieces_[piece].along + (pieces_[piece].b - pieces_[piece].a).norm()))
        ++piece;
      const Piece& c = pieces_[piece];
      const Vec2 way = (c.b - c.a).normalized();
      all.push_back({c.a + (along - c.along) * way, -quarter_turn(way), along, c.role, {}, {}, {}});
    }
    return all;
  }

  Foot foot(const Vec2& p) const {
    Vec2 q = p, turn(1, 0);
    if (pitch_ > 0) {
      const double angle = std::atan2(p.y(), p.x());
      turn = from_polar(1, std::remainder(angle - phase_, pitch_) + phase_ - angle);
      q = turned(p, turn);
    }
    Foot best{};
    double least = math::kInfinite;
    const auto look = [&](const std::pair<Chord, std::size_t>& found) {
      const Piece& c = pieces_[found.second];
      const Vec2 way = c.b - c.a;
      const double share = std::clamp((q - c.a).dot(way) / way.squaredNorm(), 0.0, 1.0);
      const Vec2 at = c.a + share * way, to = q - at;
      // On the right of the chord, out of the material. At a corner the chord that the point lies beside decides.
      const Vec2 normal = Vec2(way.y(), -way.x()) / way.norm();
      const double side = to.dot(normal), away = to.norm();
      if (away < least - 1e-12 || (away < least + 1e-12 && std::abs(side) > std::abs(best.off))) {
        least = std::min(least, away);
        best = {side < 0 ? -away : away, normal, c.along + share * way.norm(), c.role};
      }
    };
    std::vector<std::pair<Chord, std::size_t>> near;
    tree_.query(bg::index::nearest(Point(q.x(), q.y()), 2), std::back_inserter(near));
    for (const auto& found : near)
      look(found);
    best.normal = turned(best.normal, Vec2(turn.x(), -turn.y()));
    return best;
  }

 private:
  struct Piece {
    Vec2 a, b;
    curve::Role role;
    double along;
    bool own;  // not of a neighbouring period
  };
  void add(const Vec2& a, const Vec2& b, curve::Role role, double along, bool own) {
    if (a != b) pieces_.push_back({a, b, role, along, own});
  }
  void finish() {
    std::vector<std::pair<Chord, std::size_t>> all;
    all.reserve(pieces_.size());
    for (std::size_t i = 0; i < pieces_.size(); ++i) {
      const Piece& c = pieces_[i];
      all.emplace_back(Chord(Point(c.a.x(), c.a.y()), Point(c.b.x(), c.b.y())), i);
    }
    tree_ = Tree(all.begin(), all.end());
  }

  using Tree = bg::index::rtree<std::pair<Chord, std::size_t>, bg::index::rstar<16>>;
  std::vector<Piece> pieces_;
  Tree tree_{};
  double pitch_ = 0, phase_ = 0, length_ = 0;
};

Vec2 moved(const Vec2& p, const Vector4& x) { return x[3] * turned(Vec2(p - x.head<2>()), x[2]); }

/// Gauss–Newton on the distances along the normals. What lies far off counts little: other roots, chamfers, a burr.
void settle(const std::vector<Sample>& samples, const Ground& ground, bool free_scale, Vector4& x) {
  constexpr double kSettled = 1e-9;  // [mm]
  const double reach = 1 / (1 + (samples.front().p - x.head<2>()).norm());
  const Eigen::Index n = free_scale ? 4 : 3;
  for (int round = 0; round < 40; ++round) {
    std::vector<Ground::Foot> feet;
    std::vector<double> sizes;
    feet.reserve(samples.size());
    for (const Sample& s : samples) {
      feet.push_back(ground.foot(moved(s.p, x)));
      sizes.push_back(std::abs(feet.back().off));
    }
    std::nth_element(sizes.begin(), sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2), sizes.end());
    const double usual = 3 * sizes[sizes.size() / 2] + 1e-9;
    Eigen::Matrix4d normal = Eigen::Matrix4d::Zero();
    Vector4 right = Vector4::Zero();
    for (std::size_t i = 0; i < samples.size(); ++i) {
      const Ground::Foot& f = feet[i];
      const double weight = samples[i].weight / (1 + std::pow(f.off / usual, 2));
      const Vec2 at = moved(samples[i].p, x), back = x[3] * turned(f.normal, -x[2]);
      Vector4 row(-back.x(), -back.y(), f.normal.dot(quarter_turn(at)), f.normal.dot(at) / x[3]);
      normal += weight * row * row.transpose(), right -= weight * f.off * row;
    }
    Vector4 step = Vector4::Zero();
    step.head(n) = normal.topLeftCorner(n, n).ldlt().solve(right.head(n));
    if (!step.allFinite()) return;
    x += step;
    x[3] = std::clamp(x[3], 0.01, 100.0);
    if (step.head<2>().norm() < kSettled && std::abs(step[2]) + std::abs(step[3]) < kSettled * reach) return;
  }
}

/// How far off everything is, placed as `x` says, and where.
struct Tally {
  Off flank, whole;
  Vec2 worst = Vec2::Zero();  // where a flank is most off
  std::vector<Station> stations;
};

Tally tally(const std::vector<Sample>& samples, const Ground& ground, const Vector4& x, std::size_t count) {
  Tally all;
  all.stations = ground.stations(count);
  double of_flank = 0, of_all = 0, flank_length = 0, length = 0;
  std::vector<double> sums(count), weights(count);
  for (const Sample& s : samples) {
    const Vec2 at = moved(s.p, x);
    const Ground::Foot f = ground.foot(at);
    const double away = std::abs(f.off);
    all.whole.greatest = std::max(all.whole.greatest, away);
    of_all += s.weight * away * away, length += s.weight;
    if (f.role == curve::Role::flank) {
      of_flank += s.weight * away * away, flank_length += s.weight;
      if (away > all.flank.greatest) all.flank.greatest = away, all.worst = at;
    }
    const std::size_t k =
        std::min(count - 1, static_cast<std::size_t>(f.along / ground.length() * static_cast<double>(count)));
    Station& station = all.stations[k];
    station.least = std::min(station.least.value_or(f.off), f.off);
    station.most = std::max(station.most.value_or(f.off), f.off);
    sums[k] += s.weight * f.off, weights[k] += s.weight;
  }
  for (std::size_t k = 0; k < count; ++k) {
    if (weights[k] > 0) all.stations[k].mean = sums[k] / weights[k];
  }
  all.whole.rms = length > 0 ? std::sqrt(of_all / length) : 0;
  all.flank.rms = flank_length > 0 ? std::sqrt(of_flank / flank_length) : 0;
  if (flank_length == 0) all.flank = all.whole;  // so far off that nothing comes near a flank
  return all;
}

/// Of a long list, one in so many.
std::vector<Sample> thinned(const std::vector<Sample>& all, std::size_t most) {
  const std::size_t step = all.size() / most + 1;
  std::vector<Sample> some;
  for (std::size_t i = 0; i < all.size(); i += step)
    some.push_back(all[i]);
  return some;
}

/// \param start  centre, turn and scale to begin with
Laid laid(const Toothed& foreign, const Ground& ground, const Vector4& start, double pitch, std::size_t stations,
          bool whole_ground, const Laying& laying) {
  constexpr std::size_t kToPlace = 20000, kRough = 3000;
  const double depth = foreign.outer_radius - foreign.inner_radius;
  const std::vector<Sample> every = samples_of(foreign.loop, 4, depth / 60),
                            samples = laying.rough ? thinned(every, kRough) : every, few = thinned(samples, kToPlace);
  Vector4 held = start, fitted = start;
  held[3] = laying.scale.value_or(1);
  if (std::abs(start[3] - 1) < 0.2) fitted[3] = 1;
  const bool together = fitted[3] == held[3];
  settle(few, ground, false, held);
  if (together)
    fitted = held;
  else
    settle(few, ground, false, fitted);
  settle(few, ground, true, fitted);
  Tally at_best = tally(samples, ground, fitted, stations), at_held = tally(samples, ground, held, stations);
  const Off as_drawn = at_held.flank;
  // Thinner teeth fit better a little smaller as well, but their tips do not.
  const bool scaled = !laying.scale && at_best.flank.rms < at_held.flank.rms / kScaled &&
                      at_best.whole.rms < at_held.whole.rms / kScaled;
  const Vector4& x = scaled ? fitted : held;
  Tally all = std::move(scaled ? at_best : at_held);
  const double worst = std::atan2(all.worst.y(), all.worst.x());
  if (whole_ground) {
    const double middle = std::round(worst / pitch) * pitch;
    const auto beside = [&](const Station& s) {
      return std::abs(std::remainder(std::atan2(s.p.y(), s.p.x()) - middle, 2 * kPi)) > 0.55 * pitch;
    };
    all.stations.erase(std::remove_if(all.stations.begin(), all.stations.end(), beside), all.stations.end());
  }
  const auto tooth = static_cast<int>(std::lround((worst - x[2]) / pitch));
  return {x.head<2>(),
          x[2],
          x[3],
          fitted[3],
          all.flank,
          all.whole,
          as_drawn,
          std::move(all.stations),
          ((tooth % foreign.teeth) + foreign.teeth) % foreign.teeth};
}

/// Points of an outline as a loop, for its phase.
Loop loop_of(const curve::Outline& outline) {
  Loop loop;
  for (int copy = 0; copy < outline.count; ++copy) {
    for (std::size_t i = 0; i < outline.period.size(); ++i) {
      const curve::Segment s = outline.segment(copy, i);
      constexpr int kPoints = 8;
      for (int k = 0; k < kPoints; ++k)
        loop.points.push_back(s.point(s.from + (s.to - s.from) * k / kPoints));
    }
  }
  if (outline.clockwise) std::reverse(loop.points.begin(), loop.points.end());
  return loop;
}

[[noreturn]] void teeth_differ(int foreign, int other) {
  throw InvalidParameter("teeth", fmt::format("{} teeth", foreign), fmt::format("an outline of {} teeth", other),
                         "name the gear that it is to be laid on");
}

}  // namespace

Laid lay(const Toothed& foreign, const curve::Outline& exact, const Laying& laying) {
  if (foreign.teeth != exact.count) teeth_differ(foreign.teeth, exact.count);
  constexpr std::size_t kStations = 240;
  const Loop loop = loop_of(exact);
  const double phase = phase_of(loop, Vec2::Zero(), exact.count);
  math::Extent radii;
  for (const Vec2& p : loop.points)
    radii.hold(p.norm());
  Vector4 start;
  start << foreign.loop.centre.x(), foreign.loop.centre.y(), phase - foreign.phase, radii.high() / foreign.outer_radius;
  return laid(foreign, Ground(exact, phase), start, exact.pitch(), kStations, false, laying);
}

Laid lay(const Toothed& foreign, const Toothed& other, const Laying& laying) {
  if (foreign.teeth != other.teeth) teeth_differ(foreign.teeth, other.teeth);
  constexpr std::size_t kStations = 120;
  Vector4 start;
  start << foreign.loop.centre.x(), foreign.loop.centre.y(), other.phase - foreign.phase,
      other.outer_radius / foreign.outer_radius;
  return laid(foreign, Ground(other), start, 2 * kPi / other.teeth, kStations * static_cast<std::size_t>(other.teeth),
              true, laying);
}

}  // namespace palio::foreign
