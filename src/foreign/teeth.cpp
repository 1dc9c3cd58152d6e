#include "palio/foreign/teeth.hpp"

#include <algorithm>
#include <cmath>
#include <complex>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"

namespace palio::foreign {
namespace {

/// Low and high of the radius, between which a tooth is counted.
constexpr double kLow = 0.4, kHigh = 0.6;

/// Polar angles at which the radius comes up.
std::vector<double> risings(const Loop& loop, double low, double high) {
  const std::size_t n = loop.points.size();
  const auto radius = [&](std::size_t i) { return (loop.points[i % n] - loop.centre).norm(); };
  std::size_t start = 0;
  while (start < n && radius(start) > low)
    ++start;
  std::vector<double> at;
  bool up = false;
  for (std::size_t k = 0; k < n; ++k) {
    const std::size_t i = (start + k) % n;
    if (!up && radius(i) >= high) {
      up = true;
      const Vec2 p = loop.points[i] - loop.centre;
      at.push_back(std::atan2(p.y(), p.x()));
    } else if (up && radius(i) <= low) {
      up = false;
    }
  }
  return at;
}

bool regular(std::vector<double> angles) {
  std::sort(angles.begin(), angles.end());
  const double pitch = 2 * kPi / static_cast<double>(angles.size());
  for (std::size_t i = 0; i < angles.size(); ++i) {
    const double next = i + 1 < angles.size() ? angles[i + 1] : angles[0] + 2 * kPi;
    if (std::abs(next - angles[i] - pitch) > 0.3 * pitch) return false;
  }
  return true;
}

}  // namespace

double phase_of(const Loop& loop, const Vec2& centre, int teeth) {
  std::complex<double> sum = 0;
  for (std::size_t i = 0; i < loop.points.size(); ++i) {
    const Vec2 a = loop.points[i] - centre, b = loop.points[(i + 1) % loop.points.size()] - centre, p = 0.5 * (a + b);
    // The radius over the polar angle, so that steep flanks count no more than they turn.
    const double turned = std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b));
    sum += p.norm() * turned * std::polar(1.0, teeth * std::atan2(p.y(), p.x()));
  }
  return std::arg(sum) / teeth;
}

std::vector<Toothed> find_all_teeth(const Drawing& drawing) {
  std::vector<Toothed> all;
  for (const Loop& loop : drawing.loops) {
    math::Extent radii;
    for (const Vec2& p : loop.points)
      radii.hold((p - loop.centre).norm());
    const double depth = radii.size();
    const std::vector<double> at = risings(loop, radii.low() + kLow * depth, radii.low() + kHigh * depth);
    const auto z = static_cast<int>(at.size());
    // A polygon of z sides is shallower than the shallowest teeth.
    if (z < 4 || depth < 2.2 / (z + 2) * radii.high() || !loop.holds(loop.centre) || !regular(at)) continue;
    const bool internal = std::any_of(drawing.loops.begin(), drawing.loops.end(), [&](const Loop& other) {
      return other.area > 1.02 * loop.area && other.holds(loop.centre) && other.holds(loop.points.front());
    });
    all.push_back({loop, z, internal, radii.low(), radii.high(), drawing.unit_told, phase_of(loop, loop.centre, z)});
  }
  return all;
}

std::optional<Toothed> find_teeth(const Drawing& drawing) {
  std::vector<Toothed> all = find_all_teeth(drawing);
  return all.empty() ? std::nullopt : std::optional(std::move(all.front()));
}

}  // namespace palio::foreign
