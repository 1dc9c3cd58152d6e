#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/curve/bernstein.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/error.hpp"

namespace palio::curve {
namespace {

/// Breaks that are dense where the curve is tight: equal shares of ∫√(1 + (κ_rel)²), by the turning of the tangent.
std::vector<double> spread(const Segment& segment, int spans) {
  constexpr int kTable = 256;
  std::vector<double> turn(kTable + 1, 0.0);
  for (int i = 0; i < kTable; ++i) {
    const double t = segment.from + (segment.to - segment.from) * (i + 0.5) / kTable;
    const Jet j = segment.jet(t);
    turn[i + 1] = turn[i] + 0.05 / kTable + std::abs(cross(j.d1, j.d2)) / j.d1.squaredNorm() / kTable;
  }
  std::vector<double> breaks{segment.from};
  int at = 0;
  for (int k = 1; k < spans; ++k) {
    const double target = turn.back() * k / spans;
    while (turn[at + 1] < target)
      ++at;
    const double place = (at + (target - turn[at]) / (turn[at + 1] - turn[at])) / kTable;
    breaks.push_back(segment.from + (segment.to - segment.from) * place);
  }
  breaks.push_back(segment.to);
  return breaks;
}

SplineCopy fit(const Segment& segment, int degree, int spans) {
  SplineCopy s;
  s.degree = degree;
  const std::vector<double> breaks = spread(segment, spans);
  const std::vector<double> u = nodes(degree);
  const Eigen::MatrixXd& inverse = inverse_bernstein(degree);
  for (int k = 0; k < spans; ++k) {
    Eigen::MatrixX2d at(degree + 1, 2);
    for (int i = 0; i <= degree; ++i) {
      at.row(i) = segment.point(i == degree ? breaks[k + 1] : breaks[k] + u[i] * (breaks[k + 1] - breaks[k]));
    }
    const Eigen::MatrixX2d poles = inverse * at;
    for (int i = k == 0 ? 0 : 1; i <= degree; ++i)
      s.poles.emplace_back(poles.row(i));
    s.poles.back() = at.row(degree);
    if (k == 0) s.poles.front() = at.row(0);
  }
  // The spline's own parameter runs forward whatever the segment's does.
  for (const double b : breaks)
    s.breaks.push_back(segment.to < segment.from ? -b : b);
  for (int k = 0; k <= spans; ++k) {
    const int times = (k == 0 || k == spans) ? degree + 1 : degree;
    s.knots.insert(s.knots.end(), times, s.breaks[k]);
  }
  const int looks = 24;
  for (int k = 0; k < spans; ++k) {
    for (int i = 1; i < looks; ++i) {
      const double t = breaks[k] + (breaks[k + 1] - breaks[k]) * i / looks;
      const Vec2 off = point(s, segment.to < segment.from ? -t : t) - segment.point(t);
      s.deviation = std::max(s.deviation, std::abs(cross(segment.tangent(t), off)));
    }
  }
  return s;
}

}  // namespace

Vec2 point(const SplineCopy& s, double t) {
  std::size_t span = 0;
  while (span + 2 < s.breaks.size() && t > s.breaks[span + 1])
    ++span;
  const double u = (t - s.breaks[span]) / (s.breaks[span + 1] - s.breaks[span]);
  const Eigen::VectorXd b = bernstein(s.degree, u);
  Vec2 sum = Vec2::Zero();
  for (int i = 0; i <= s.degree; ++i)
    sum += b[i] * s.poles[span * s.degree + i];
  return sum;
}

// One span first, of rising degree: that is smaller than several spans of a low one, and the kernel's default
// integrators are exact on it (volume of a 17-tooth pinion: 3e-12 of itself with one span, 2e-8 with four of degree 9).
SplineCopy spline_copy(const Segment& segment, double tolerance) {
  SplineCopy best;
  for (const auto& [degree, spans] :
       {std::pair{7, 1}, {9, 1}, {12, 1}, {15, 1}, {18, 1}, {21, 1}, {9, 4}, {9, 8}, {9, 16}, {9, 32}, {9, 64}}) {
    best = fit(segment, degree, spans);
    if (best.deviation <= tolerance) return best;
  }
  throw NoConvergence(fmt::format("a spline of degree 9 in 64 spans strays {:.3g} mm from the curve, {:.3g} mm allowed",
                                  best.deviation, tolerance));
}

}  // namespace palio::curve
