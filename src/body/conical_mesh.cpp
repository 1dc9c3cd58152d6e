// The teeth are cut into strips along the outline and steps from toe to heel; an end face into rows between the two
// flanks of a tooth, at equal cone angles, and rings below. Both sides of every seam use the same vertices.
#include <algorithm>
#include <cmath>
#include <functional>

#include <fmt/format.h>

#include "bore.hpp"
#include "palio/angle.hpp"
#include "palio/body/conical.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"
#include "triangulate.hpp"

namespace palio::body {
namespace {

using curve::Outline;
using Index = std::uint32_t;
using Row = std::vector<Index>;

constexpr int kLooks = 4;

/// Largest distance of a surface X(u, v), u and v from 0 to 1, from the two triangles over its corners, looked at
/// inside and along the edges.
double quad_deviation(const std::function<Vec3(double, double)>& X) {
  const Vec3 A = X(0, 0), B = X(1, 0), C = X(1, 1), D = X(0, 1);
  const Vec3 right = (B - A).cross(C - A).normalized(), left = (C - A).cross(D - A).normalized();
  double worst = 0;
  for (int x = 0; x <= kLooks; ++x) {
    for (int y = 0; y <= kLooks; ++y) {
      const Vec3 p = X(static_cast<double>(x) / kLooks, static_cast<double>(y) / kLooks) - A;
      if (x >= y) worst = std::max(worst, std::abs(right.dot(p)));
      if (y >= x) worst = std::max(worst, std::abs(left.dot(p)));
    }
  }
  return worst;
}

class ConicalMesher {
 public:
  ConicalMesher(const ConicalBody& body, double chord_error) : body_(body), core_(body.core()), z_(core_.count) {
    R_i_ = core_.inner, R_e_ = core_.outer;
    choose(chord_error);
    teeth();
    const Row rear = end(rings_.back(), R_e_, body.rear_angle().radians(), chord_error, true);
    const Row front = end(rings_.front(), R_i_, body.front_angle().radians(), chord_error, false);
    planes(front, rear, chord_error);
  }
  TriangleMesh take() { return std::move(made_); }

 private:
  Index vertex(const Vec3& p) {
    made_.vertices.push_back(p);
    return static_cast<Index>(made_.vertices.size() - 1);
  }
  /// A strip between two rows as long; they run so that, seen from outside, `low` lies to the right of `high`'s left.
  void strip(const Row& low, const Row& high, bool closed, bool flipped = false) {
    const std::size_t n = low.size(), last = closed ? n : n - 1;
    for (std::size_t i = 0; i < last; ++i) {
      const std::size_t j = (i + 1) % n;
      for (std::array<Index, 3> t : {std::array<Index, 3>{low[i], low[j], high[j]}, {low[i], high[j], high[i]}}) {
        if (flipped) std::swap(t[1], t[2]);
        if (t[0] != t[1] && t[1] != t[2] && t[0] != t[2]) made_.triangles.push_back(t);
      }
    }
  }

  /// How many strips each segment is cut into, and how many steps lie between toe and heel: as few quadrangles as hold.
  void choose(double chord_error) {
    if (!(chord_error > 0))
      throw InvalidParameter("chord_error", fmt::format("{}", chord_error), "it is above 0", "give 0.005 mm, say");
    const Outline heel = core_.section(R_e_);
    const std::size_t middle = heel.period.size() / 2;
    // Circles about the axis hold the error where they are largest.
    const double largest = std::max(core_.tip_radius, body_.rear().radius),
                 step = 2 * std::acos(1 - std::min(1.0, 0.8 * chord_error / largest));
    constexpr int kMost = 400;
    const double half_foot = kPi / z_ - std::abs(azimuth(heel.period[0].last()) + kPi / z_);
    // What a segment begins with: arcs about the axis as fine as their radius asks, flanks with two strips.
    const auto fewest = [&](std::size_t k) {
      return k == 0        ? std::max(1, static_cast<int>(std::ceil((kPi / z_ - half_foot) / step)))
             : k == middle ? std::max(2, static_cast<int>(std::ceil(2 * half_foot / step)))
                           : 2;
    };
    const auto cost = [&](std::size_t k, int n, int steps) {
      return static_cast<std::size_t>(n) * static_cast<std::size_t>(steps) * (k == 0 || k == middle ? 1U : 2U);
    };
    std::size_t least = SIZE_MAX;
    for (const int steps : {1, 2, 3, 4, 6, 8, 12, 16, 24, 32}) {
      std::size_t at_least = 0;
      for (std::size_t k = 0; k <= middle; ++k)
        at_least += cost(k, fewest(k), steps);
      if (at_least >= least) break;
      std::vector<Outline> sections;
      constexpr int kFine = kLooks;
      for (int j = 0; j <= steps * kFine; ++j)
        sections.push_back(core_.section(level(j, steps * kFine)));
      std::vector<int> counts;
      double worst = 0;
      std::size_t total = 0;
      for (std::size_t k = 0; k <= middle && total < least; ++k) {
        double found = 0;
        int n = fewest(k);
        for (; total + cost(k, n, steps) < least; n = n + std::max(1, n / 4)) {
          found = 0;
          for (int i = 0; i < n && found <= chord_error; ++i) {
            for (int j = 0; j < steps; ++j) {
              found = std::max(found, quad_deviation([&](double u, double v) {
                                 const int at = j * kFine + static_cast<int>(std::lround(v * kFine));
                                 return body_.point(sections[at], k, (i + u) / n, level(at, steps * kFine));
                               }));
            }
          }
          if (found <= chord_error || n > kMost) break;
        }
        worst = std::max(worst, found);
        counts.push_back(n);
        total = found > chord_error ? SIZE_MAX : total + cost(k, n, steps);
      }
      if (total < least) least = total, counts_ = counts, steps_ = steps, made_.deviation = worst;
    }
    if (least == SIZE_MAX)
      throw InvalidParameter("chord_error", fmt::format("{} mm", chord_error), "such fine triangles are too many",
                             "give a larger one");
    for (std::size_t k = middle; k-- > 0;)
      counts_.push_back(counts_[k]);
  }

  double level(int i, int of) const { return i == 0 ? R_i_ : i == of ? R_e_ : R_i_ + (R_e_ - R_i_) * i / of; }
  static double azimuth(const Vec2& p) { return std::atan2(p.y(), p.x()); }

  /// Rings of vertices at every level, and strips between them.
  void teeth() {
    for (int j = 0; j <= steps_; ++j) {
      const double R = level(j, steps_);
      const Outline section = core_.section(R);
      std::vector<Vec3> period;
      for (std::size_t k = 0; k < counts_.size(); ++k) {
        for (int i = 0; i < counts_[k]; ++i)
          period.push_back(body_.point(section, k, static_cast<double>(i) / counts_[k], R));
      }
      Row ring;
      for (int copy = 0; copy < z_; ++copy) {
        const double c = std::cos(section.turn(copy)), s = std::sin(section.turn(copy));
        for (const Vec3& p : period)
          ring.push_back(vertex({c * p.x() - s * p.y(), s * p.x() + c * p.y(), p.z()}));
      }
      if (j > 0) strip(rings_.back(), ring, true);
      rings_.push_back(std::move(ring));
    }
  }

  /// An end of the teeth, from the outline in to a circle; returns the circle. `up`: seen from above it runs round the
  /// axis.
  Row end(const Row& ring, double R, double inner, double chord_error, bool up) {
    const Outline section = core_.section(R);
    const std::size_t per_period = ring.size() / static_cast<std::size_t>(z_), middle = counts_.size() / 2;
    const int land = counts_.front(), columns = counts_[middle];
    std::size_t side = 0;  // strips from the foot of a tooth to its tip
    for (std::size_t k = 1; k < middle; ++k)
      side += static_cast<std::size_t>(counts_[k]);
    const double foot = section.period[0].last().norm(), floor = 2 * std::atan(foot),
                 half = std::abs(azimuth(section.period[0].last()));
    // Below the foot a cone needs one step, a sphere as many as hold the error.
    int below = 1;
    const double column = std::max(2 * half / columns, (kPi / z_ - half) / land);
    for (;; ++below) {
      const double dev = quad_deviation(
          [&](double u, double v) { return body_.at(inner + (floor - inner) * v / below, column * u, R); });
      made_.deviation = std::max(made_.deviation, dev <= chord_error ? dev : 0);
      if (dev <= chord_error || below > 100) break;
    }
    std::vector<Row> circles(static_cast<std::size_t>(below));
    for (int copy = 0; copy < z_; ++copy) {
      const std::size_t base = static_cast<std::size_t>(copy) * per_period;
      const auto on_ring = [&](std::size_t i) { return ring[(base + i) % ring.size()]; };
      // Rows across the tooth, from the foot upwards.
      Row under;
      for (std::size_t i = 0; i < side; ++i) {
        const Index left = on_ring(static_cast<std::size_t>(land) + i),
                    right = on_ring(per_period - static_cast<std::size_t>(land) - i);
        const Vec3 &a = made_.vertices[left], b = made_.vertices[right];
        const double from = azimuth(a.head<2>());
        double to = azimuth(b.head<2>());
        while (to < from)
          to += 2 * kPi;
        const double r = a.head<2>().norm(), height = a.z();
        Row row{left};
        for (int c = 1; c < columns; ++c) {
          const double at = from + (to - from) * c / columns;
          row.push_back(vertex({r * std::cos(at), r * std::sin(at), height}));
        }
        row.push_back(right);
        if (i > 0)
          strip(under, row, false, up);
        else
          feet_row_ = row;
        under = std::move(row);
      }
      Row tip;
      for (int c = 0; c <= columns; ++c)
        tip.push_back(on_ring(static_cast<std::size_t>(land) + side + static_cast<std::size_t>(c)));
      strip(under, tip, false, up);
      // The foot's whole period, then circles down to the inner one.
      Row foot_row;
      for (int i = 0; i < land; ++i)
        foot_row.push_back(on_ring(static_cast<std::size_t>(i)));
      foot_row.insert(foot_row.end(), feet_row_.begin(), feet_row_.end());
      for (int i = 1; i < land; ++i)
        foot_row.push_back(on_ring(per_period - static_cast<std::size_t>(land) + static_cast<std::size_t>(i)));
      feet_.insert(feet_.end(), foot_row.begin(), foot_row.end());
      for (int b = 0; b < below; ++b) {
        const double angle = inner + (floor - inner) * b / below;
        for (const Index v : foot_row)
          circles[static_cast<std::size_t>(b)].push_back(
              vertex(body_.at(angle, azimuth(Vec2(made_.vertices[v].head<2>())), R)));
      }
    }
    for (std::size_t b = 0; b < circles.size(); ++b)
      strip(circles[b], b + 1 < circles.size() ? circles[b + 1] : feet_, true, up);
    feet_.clear();
    return circles.front();
  }

  /// A flat face inside `outer` (round the axis) and outside the bore's ring.
  void plane(const Row& outer, const Row& bore, bool up) {
    std::vector<Vec2> points;
    std::vector<std::vector<Index>> loops(1);
    Row vertices;
    const auto add = [&](Index v) {
      points.emplace_back(made_.vertices[v].head<2>());
      vertices.push_back(v);
      return static_cast<Index>(points.size() - 1);
    };
    for (const Index v : outer)
      loops[0].push_back(add(v));
    if (!bore.empty()) {
      loops.emplace_back();
      for (const Index v : bore)
        loops[1].push_back(add(v));
    }
    for (const Triangle& t : triangulate(points, loops)) {
      if (up)
        made_.triangles.push_back({vertices[t[0]], vertices[t[1]], vertices[t[2]]});
      else
        made_.triangles.push_back({vertices[t[0]], vertices[t[2]], vertices[t[1]]});
    }
  }

  void planes(const Row& front, const Row& rear, double chord_error) {
    Row behind = rear;
    if (const auto hub = body_.hub()) {
      // From the rear circle in to the hub, where the rim is wider, and along the hub.
      Row foot = rear, top;
      const auto around = [&](double radius, double z) {
        Row row;
        for (const Index v : rear) {
          const double at = azimuth(Vec2(made_.vertices[v].head<2>()));
          row.push_back(vertex({radius * std::cos(at), radius * std::sin(at), z}));
        }
        return row;
      };
      if (hub->radius < body_.rear().radius * (1 - math::kAlike)) {
        foot = around(hub->radius, body_.rear().z);
        strip(foot, rear, true, true);
      }
      top = around(hub->radius, hub->z);
      strip(foot, top, true);
      behind = top;
    }
    Row bore[2];
    if (body_.bore()) {
      const double heights[2] = {body_.front().z, body_.top()};
      for (int e = 0; e < 2; ++e) {
        for (const curve::Segment& s : body_.bore()->period) {
          const curve::Chords chords = curve::flatten(s, chord_error);
          made_.deviation = std::max(made_.deviation, chords.deviation);
          for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) {
            const Vec2 p = s.point(chords.at[i]);
            bore[e].push_back(vertex({p.x(), p.y(), heights[e]}));
          }
        }
      }
      strip(bore[0], bore[1], true);
    }
    plane(front, bore[0], false);
    plane(behind, bore[1], true);
  }

  const ConicalBody& body_;
  const ConicalCore& core_;
  int z_;
  double R_i_, R_e_;
  std::vector<int> counts_;  // strips of each segment of the period
  int steps_ = 1;
  std::vector<Row> rings_;
  Row feet_, feet_row_;
  TriangleMesh made_;
};

}  // namespace

TriangleMesh mesh(const ConicalBody& body, double chord_error) { return ConicalMesher(body, chord_error).take(); }

}  // namespace palio::body
