// How a chord is measured. The distance of the curve from the chord's line is a smooth function of the parameter; its
// greatest absolute value lies where the tangent is parallel to the chord. A midpoint alone misses it where the curve
// has an inflection (the middle may even lie on the chord), so the parameter range is looked at in kLooks places, and
// the best of them refined by golden section between its neighbours. The pieces are short (the curvature turns by
// little within one), so there are at most two such extremes, well inside the grid's reach. tests/curve checks the
// result against a hundred times denser sampling.
#include "palio/curve/flatten.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "measure.hpp"
#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::curve {

void check_tolerance(double tolerance) {
  if (!(tolerance > 0) || !std::isfinite(tolerance)) {
    throw InvalidParameter("chord_error", fmt::format("{} mm", tolerance), "a chord error is a length above 0",
                           "give 0.005 mm, say");
  }
}

std::vector<double> even_cuts(const Segment& segment, int pieces) {
  constexpr int kTable = 64;
  std::vector<double> sum(kTable + 1, 0.0);
  const double span = segment.to - segment.from;
  const auto weight = [&](double t) {
    const Jet j = segment.jet(t);
    const double speed = j.d1.norm();
    return speed > 0 ? std::sqrt(std::abs(cross(j.d1, j.d2)) / speed) : 0.0;  // √κ · ds/dt
  };
  for (int i = 0; i < kTable; ++i) {
    sum[i + 1] = sum[i] + weight(segment.from + span * (i + 0.5) / kTable);
  }
  std::vector<double> cuts{segment.from};
  int at = 0;
  for (int k = 1; k < pieces; ++k) {
    const double target = sum.back() * k / pieces;
    while (at < kTable - 1 && sum[at + 1] < target)
      ++at;
    const double share = sum.back() > 0 ? (target - sum[at]) / (sum[at + 1] - sum[at]) : 0;
    const double place = sum.back() > 0 ? (at + share) / kTable : static_cast<double>(k) / pieces;
    cuts.push_back(segment.from + span * place);
  }
  cuts.push_back(segment.to);
  return cuts;
}

namespace {

double estimate_pieces(const Segment& segment, double chord_error) {
  constexpr int kTable = 64;
  double sum = 0;
  for (int i = 0; i < kTable; ++i) {
    const Jet j = segment.jet(segment.from + (segment.to - segment.from) * (i + 0.5) / kTable);
    const double speed = j.d1.norm();
    if (speed > 0) sum += std::sqrt(std::abs(cross(j.d1, j.d2)) / speed);
  }
  return sum * std::abs(segment.to - segment.from) / kTable / std::sqrt(8 * chord_error);
}

}  // namespace

double chord_deviation(const Segment& segment, double a, double b) {
  const Vec2 from = segment.point(a), to = segment.point(b);
  const double length = (to - from).norm();
  if (length == 0) return 0;
  const Vec2 along = (to - from) / length;
  return largest([&](double t) { return cross(along, segment.point(t) - from); }, a, b);
}

Chords flatten(const Segment& segment, double chord_error, int least) {
  check_tolerance(chord_error);
  if (std::holds_alternative<Line>(segment.curve) && least <= 1) return {{segment.from, segment.to}, 0};
  if (const Arc* arc = std::get_if<Arc>(&segment.curve)) {
    // A chord over the angle δ strays r (1 − cos δ/2) from its arc, at its middle.
    const double turn = std::abs(segment.to - segment.from);
    const double widest = chord_error < arc->radius ? 2 * std::acos(1 - chord_error / arc->radius) : kPi;
    const int floor = std::max(least, static_cast<int>(std::ceil(turn / (2 * kPi / 3) - math::kAlike)));
    const int pieces = std::max(floor, static_cast<int>(std::ceil(turn / widest - math::kAlike)));
    std::vector<double> at;
    for (int i = 0; i <= pieces; ++i)
      at.push_back(segment.from + (segment.to - segment.from) * i / pieces);
    at.back() = segment.to;
    const double half = turn / pieces / 2;
    return {std::move(at), 2 * arc->radius * std::pow(std::sin(half / 2), 2)};
  }
  const double estimate = estimate_pieces(segment, chord_error);
  if (estimate > 2e6) {
    throw InvalidParameter("chord_error", fmt::format("{} mm", chord_error),
                           fmt::format("this would take about {:.0f} chords a flank", estimate), "give a larger one");
  }
  int pieces = std::max(least, static_cast<int>(std::ceil(estimate * 0.98)));
  for (;; pieces += std::max(1, pieces / 16)) {
    Chords result{even_cuts(segment, pieces), 0};
    for (std::size_t i = 0; i + 1 < result.at.size() && result.deviation <= chord_error; ++i) {
      result.deviation = std::max(result.deviation, chord_deviation(segment, result.at[i], result.at[i + 1]));
    }
    if (result.deviation <= chord_error) return result;
  }
}

}  // namespace palio::curve
