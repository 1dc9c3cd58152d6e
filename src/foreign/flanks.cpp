// The best involute and the best arc through the flanks of a foreign outline.
//
// A point at radius r and half angle ψ from the middle of its tooth lies off the involute of base radius r_b by
// r_b (|ψ| − ψ_b + inv α), cos α = r_b/r, along the normal: exactly, since involutes of one circle are parallels.
#include <algorithm>
#include <array>
#include <cmath>

#include <Eigen/Dense>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/foreign/teeth.hpp"
#include "palio/math/extent.hpp"
#include "samples.hpp"

namespace palio::foreign {
namespace {

using Vector5 = Eigen::Matrix<double, 5, 1>;  // centre, turn, r_b, ψ_b
using Matrix5 = Eigen::Matrix<double, 5, 5>;

struct Placed {
  double radius, psi;  // signed, from the middle of its tooth
  double angle;        // polar
};

Placed placed(const Vec2& p, const Vector5& x, double pitch) {
  const Vec2 q = p - x.head<2>();
  const double angle = std::atan2(q.y(), q.x());
  return {q.norm(), std::remainder(angle - x[2], pitch), angle};
}

/// Off the involute; none inside the base circle.
std::optional<double> off_at(const Placed& at, const Vector5& x) {
  if (at.radius <= x[3]) return std::nullopt;
  const double alpha = std::acos(x[3] / at.radius);
  return x[3] * (std::abs(at.psi) - x[4] + std::tan(alpha) - alpha);
}

struct Zone {
  double low, high;
  bool holds(double r) const { return r >= low && r <= high; }
};

/// Of every sample in a zone that is not inside the base circle: where it lies, and how far off the involute.
template <class Visit>
void each_off(const std::vector<Sample>& samples, double pitch, const Zone& zone, const Vector5& x, Visit visit) {
  for (const Sample& s : samples) {
    const Placed at = placed(s.p, x, pitch);
    if (!zone.holds(at.radius)) continue;
    if (const std::optional<double> d = off_at(at, x)) visit(s.weight, at, *d);
  }
}

/// Gauss–Newton over the samples of a zone. Returns the matrix of the normal equations at the end.
std::optional<Matrix5> fit(const std::vector<Sample>& samples, double pitch, const Zone& zone, Vector5& x) {
  Matrix5 normal;
  for (int round = 0; round < 60; ++round) {
    normal.setZero();
    Vector5 right = Vector5::Zero();
    std::size_t used = 0;
    each_off(samples, pitch, zone, x, [&](double weight, const Placed& at, double d) {
      const double alpha = std::acos(x[3] / at.radius), side = at.psi < 0 ? -1 : 1;
      const Vec2 out = turned(Vec2(std::sin(alpha), side * std::cos(alpha)), at.angle);
      Vector5 row;
      row << -out.x(), -out.y(), -side * x[3], d / x[3] - std::tan(alpha), -x[3];
      normal += weight * row * row.transpose();
      right -= weight * d * row;
      ++used;
    });
    if (used < 12) return std::nullopt;
    const Vector5 step = normal.ldlt().solve(right);
    if (!step.allFinite()) return std::nullopt;
    x += step;
    if (!(x[3] > 0.3 * zone.low) || !(x[3] < zone.high)) return std::nullopt;
    if (std::abs(step[0]) + std::abs(step[1]) + std::abs(step[3]) + x[3] * (std::abs(step[2]) + std::abs(step[4])) <
        1e-13 * x[3])
      break;
  }
  return normal;
}

/// What is left, by bins of the radius.
struct Bins {
  static constexpr std::size_t kCount = 100;
  Zone span;
  std::array<double, kCount> weight{}, sum{}, square{};

  Bins(const std::vector<Sample>& samples, double pitch, const Zone& over, const Vector5& x) : span(over) {
    each_off(samples, pitch, span, x, [&](double w, const Placed& at, double d) {
      const std::size_t k = of(at.radius);
      weight[k] += w, sum[k] += w * d, square[k] += w * d * d;
    });
  }
  std::size_t of(double radius) const {
    return std::min(kCount - 1, static_cast<std::size_t>(kCount * (radius - span.low) / (span.high - span.low)));
  }
  double at(std::size_t k) const { return span.low + (span.high - span.low) * static_cast<double>(k) / kCount; }
  double mean(std::size_t k) const { return weight[k] > 0 ? sum[k] / weight[k] : 0; }
  double rms(const Zone& zone) const {
    double w = 0, q = 0;
    for (std::size_t k = of(zone.low); k <= of(zone.high); ++k)
      w += weight[k], q += square[k];
    return w > 0 ? std::sqrt(q / w) : 0;
  }
};

/// The zone grown from the middle for as long as what is left stays as it is there.
Zone grown(const Bins& bins, const Zone& middle, double depth) {
  const double most = std::clamp(4 * bins.rms(middle), 1e-7 * depth, 2e-3 * depth);
  const auto fine = [&](std::size_t k) {
    return bins.weight[k] == 0 || std::sqrt(bins.square[k] / bins.weight[k]) <= most;
  };
  std::size_t low = bins.of(middle.low), high = bins.of(middle.high);
  while (low > 0 && fine(low - 1))
    --low;
  while (high + 1 < Bins::kCount && fine(high + 1))
    ++high;
  // The last bin on either side holds the edge itself.
  return {std::min(middle.low, bins.at(low + 1)), std::max(middle.high, bins.at(high))};
}

/// The best circular arc through all flanks, folded onto one.
Off arc_off(const std::vector<Sample>& samples, double pitch, const Zone& zone, const Vector5& x) {
  std::vector<std::pair<Vec2, double>> folded;
  for (const Sample& s : samples) {
    const Placed at = placed(s.p, x, pitch);
    if (zone.holds(at.radius)) folded.emplace_back(from_polar(at.radius, std::abs(at.psi)), s.weight);
  }
  if (folded.size() < 3) return {};
  Vec2 about = Vec2::Zero();
  double all = 0;
  for (const auto& [p, w] : folded)
    about += w * p, all += w;
  about /= all;
  // |p − c|² = R²: linear in c and R² − |c|²; then Gauss–Newton on the distances.
  Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
  Vec3 right = Vec3::Zero();
  for (const auto& [p, w] : folded) {
    const Vec2 q = p - about;
    const Vec3 row(2 * q.x(), 2 * q.y(), 1);
    normal += w * row * row.transpose(), right += w * q.squaredNorm() * row;
  }
  Vec3 c = normal.ldlt().solve(right);
  c.z() = std::sqrt(std::max(0.0, c.z() + c.head<2>().squaredNorm()));
  for (int round = 0; round < 30; ++round) {
    normal.setZero(), right.setZero();
    for (const auto& [p, w] : folded) {
      const Vec2 from = p - about - c.head<2>();
      const double d = from.norm() - c.z();
      const Vec3 row(-from.x() / from.norm(), -from.y() / from.norm(), -1);
      normal += w * row * row.transpose(), right -= w * d * row;
    }
    const Vec3 step = normal.ldlt().solve(right);
    if (!step.allFinite()) break;
    c += step;
    if (step.norm() < 1e-13 * c.z()) break;
  }
  Off found;
  double squares = 0;
  for (const auto& [p, w] : folded) {
    const double d = (p - about - c.head<2>()).norm() - c.z();
    found.greatest = std::max(found.greatest, std::abs(d)), squares += w * d * d;
  }
  found.rms = std::sqrt(squares / all);
  return found;
}

/// How often a row of numbers changes its sign, and one more: so many of them are independent.
std::size_t runs(const std::vector<double>& all) {
  std::size_t n = 1;
  for (std::size_t i = 0; i + 1 < all.size(); ++i)
    n += (all[i] < 0) != (all[i + 1] < 0) ? 1 : 0;
  return n;
}

/// What the fit leaves in a zone: of it, what is the same on all teeth, and what differs between them.
struct Left {
  Off off;
  double same_at_most = 0, squares = 0, scattered = 0, weight = 0;
  std::size_t same_runs = 1, other_runs = 1;

  Left(const std::vector<Sample>& samples, double pitch, const Zone& zone, const Vector5& x) {
    const Bins bins(samples, pitch, zone, x);
    std::vector<double> row, means;
    each_off(samples, pitch, zone, x, [&](double w, const Placed& at, double d) {
      const double beyond = d - bins.mean(bins.of(at.radius));
      off.greatest = std::max(off.greatest, std::abs(d));
      squares += w * d * d, scattered += w * beyond * beyond, weight += w;
      row.push_back(beyond);
    });
    for (std::size_t k = 0; k < Bins::kCount; ++k) {
      if (bins.weight[k] == 0) continue;
      means.push_back(bins.mean(k));
      same_at_most = std::max(same_at_most, std::abs(bins.mean(k)));
    }
    off.rms = weight > 0 ? std::sqrt(squares / weight) : 0;
    same_runs = runs(means), other_runs = runs(row);
  }
  double scatter() const { return weight > 0 ? std::sqrt(scattered / weight) : 0; }
  /// Of what is so sampled, if each run of one sign counts as one sample.
  double variance_of_mean() const {
    if (!(weight > 0)) return 0;
    return std::max(0.0, squares - scattered) / weight / static_cast<double>(same_runs) +
           scattered / weight / static_cast<double>(other_runs);
  }
};

}  // namespace

FlankFit fit_flanks(const Toothed& toothed) {
  const double pitch = 2 * kPi / toothed.teeth, depth = toothed.outer_radius - toothed.inner_radius;
  const std::vector<Sample> samples = corners(toothed.loop), between = samples_of(toothed.loop, 4, depth / 60);
  const Zone middle{toothed.inner_radius + 0.42 * depth, toothed.inner_radius + 0.9 * depth};
  std::optional<Vector5> best;
  double least = math::kInfinite;
  for (const double degrees : {12.0, 20.0, 28.0, 38.0}) {
    // The thickness where the involute is sought begins with what is there.
    const double r_b = (toothed.outer_radius - 0.45 * depth) * std::cos(degrees * kPi / 180);
    Vector5 x;
    x << toothed.loop.centre.x(), toothed.loop.centre.y(), toothed.phase, r_b, 0;
    double sum = 0, weight = 0;
    each_off(samples, pitch, middle, x, [&](double w, const Placed&, double d) { sum += w * d / r_b, weight += w; });
    if (weight == 0) continue;
    x[4] = sum / weight;
    if (!fit(samples, pitch, middle, x)) continue;
    const double left = Bins(samples, pitch, middle, x).rms(middle);
    if (left < least) least = left, best = x;
  }
  if (!best) {
    throw InvalidParameter("outline", std::to_string(toothed.teeth) + " teeth whose flanks lie on no involute",
                           "flanks of involute teeth, of three points or more each",
                           "give an outline with more points, or of an involute gear");
  }
  Vector5 x = *best;
  const Zone whole{toothed.inner_radius, toothed.outer_radius + 1e-9 * depth};
  Zone zone = middle;
  std::optional<Matrix5> normal;
  for (int round = 0; round < 3; ++round) {
    zone = grown(Bins(samples, pitch, whole, x), zone, depth);
    Vector5 next = x;
    normal = fit(samples, pitch, zone, next);
    if (!normal) break;
    x = next;
  }
  if (!normal) normal = fit(samples, pitch, middle, x), zone = middle;

  FlankFit found{};
  found.teeth = toothed.teeth;
  found.centre = x.head<2>(), found.turn = x[2], found.base_radius = x[3], found.half_angle = x[4];
  found.from = zone.low, found.to = zone.high;
  // What is the same on all teeth is known no better for there being many of them.
  const Left in_zone(samples, pitch, zone, x);
  double total = 0;
  for (const Sample& s : samples)
    total += zone.holds(placed(s.p, x, pitch).radius) ? s.weight : 0;
  // Files have so many digits, and no more.
  const double digits = 1e-9 * toothed.outer_radius;
  const Matrix5 covariance = (*normal / total).inverse() * (in_zone.variance_of_mean() + digits * digits);
  found.base_radius_doubt = std::sqrt(std::max(0.0, covariance(3, 3)));
  found.half_angle_doubt = std::sqrt(std::max(0.0, covariance(4, 4)));
  found.half_angle_slope = covariance(3, 3) > 0 ? covariance(4, 3) / covariance(3, 3) : 0;
  found.half_angle_doubt_held = std::sqrt(std::max(0.0, covariance(4, 4) - covariance(4, 3) * found.half_angle_slope));
  // Which curve it is: an arc shows in the middle of the flanks, where no fillet or chamfer can be; an involute by how
  // far it reaches.
  const auto compare = [&](const Zone& over, const Vector5& at) {
    const Left left(samples, pitch, over, at);
    found.involute = left.off, found.form = left.same_at_most, found.scatter = left.scatter();
    found.arc = arc_off(samples, pitch, over, at);
    found.with_chords = Left(between, pitch, over, at).off;
    found.compared_from = over.low, found.compared_to = over.high;
  };
  compare(middle, *best);
  if (form_of(found) != Form::circular_arc) compare(zone, x);
  return found;
}

/// In shares of the base radius over the number of teeth: some thousandths of a module.
constexpr double kLittle = 0.012;

Form form_of(const FlankFit& fit) {
  // What chords, thin splines and a rough making leave; cycloids and arcs are further off.
  const double little = std::max(kLittle * fit.base_radius / fit.teeth, 3 * fit.scatter);
  const bool involute = fit.involute.rms < little / 2 && fit.form < little, arc = fit.arc.rms < little / 2;
  if (involute && fit.involute.rms < fit.arc.rms / 2) return Form::involute;
  if (arc && fit.arc.rms < fit.involute.rms / 2) return Form::circular_arc;
  return involute && arc ? Form::either : Form::neither;
}

std::string name(Form form) {
  switch (form) {
    case Form::involute: return "involute";
    case Form::circular_arc: return "circular_arc";
    case Form::either: return "either";
    case Form::neither: break;
  }
  return "neither";
}

}  // namespace palio::foreign
