// Which gear has these flanks: one base circle and one thickness, to be shared out among module, pressure angle and
// profile shift. The circles of tips and roots tell which sharing is plausible.
#include <algorithm>
#include <cmath>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/foreign/teeth.hpp"
#include "palio/math/extent.hpp"
#include "palio/values/keys.hpp"

namespace palio::foreign {
namespace {

/// A size that people choose, and what it costs to believe in it.
struct Usual {
  double value, cost;
};

constexpr Usual kAngles[] = {{20, 0}, {14.5, 0.5}, {25, 0.5}, {15, 1}, {17.5, 1}, {22.5, 1}, {30, 1}};
constexpr Usual kAddenda[] = {{1, 0}, {0.8, 0.5}};
constexpr Usual kDedenda[] = {{1.25, 0}, {1.157, 0.2}, {1.2, 0.2}, {1.35, 0.3}, {1.4, 0.3}, {1, 0.5}};
constexpr double kOwnAngle = 2.5, kOwnModule = 2.5;

/// How far a number is from the usual ones, at so much for each unit, up to a limit.
template <std::size_t N>
Usual nearest(const Usual (&all)[N], double x, double each, double most) {
  Usual best{x, math::kInfinite};
  for (const Usual& u : all) {
    const double cost = u.cost + std::min(most, each * std::abs(x - u.value));
    if (cost < best.cost) best = {u.value, cost};
  }
  return best;
}

struct Sharing {
  double module, angle;  // [mm], [rad]
  double cost;
  bool standard_module, standard_angle;
};

/// Modules that can be bought, diametral pitches among them.
std::vector<Usual> modules() {
  std::vector<Usual> all;
  const job::Series metric = job::standard_series("module"), inch = job::standard_series("diametral_pitch");
  for (const double m : metric.preferred)
    all.push_back({m, 0});
  for (const double m : metric.second)
    all.push_back({m, 0.3});
  for (const double p : inch.preferred)
    all.push_back({25.4 / p, 0.3});
  for (const double p : inch.second)
    all.push_back({25.4 / p, 0.6});
  return all;
}

/// How far the loop reaches out (or in) in the middle of its teeth: the middle one of all.
double reach(const Toothed& toothed, const FlankFit& fit, bool outwards) {
  const double pitch = 2 * kPi / toothed.teeth, shift = outwards ? 0 : pitch / 2;
  std::vector<double> all(static_cast<std::size_t>(toothed.teeth), outwards ? 0 : math::kInfinite);
  for (const Vec2& p : toothed.loop.points) {
    const Vec2 q = p - fit.centre;
    const auto k = static_cast<long>(std::lround((std::atan2(q.y(), q.x()) - fit.turn - shift) / pitch));
    double& r = all[static_cast<std::size_t>(((k % toothed.teeth) + toothed.teeth) % toothed.teeth)];
    r = outwards ? std::max(r, q.norm()) : std::min(r, q.norm());
  }
  std::nth_element(all.begin(), all.begin() + toothed.teeth / 2, all.end());
  return all[static_cast<std::size_t>(toothed.teeth / 2)];
}

}  // namespace

std::vector<Guess> guesses(const Toothed& toothed, const FlankFit& fit) {
  const double z = toothed.teeth, outer = reach(toothed, fit, true), inner = reach(toothed, fit, false);
  const double sign = toothed.internal ? -1 : 1, tip = toothed.internal ? inner : outer,
               root = toothed.internal ? outer : inner;
  std::vector<Sharing> all;
  const std::vector<Usual> bought = modules();
  const double near = std::max(3 * fit.base_radius_doubt / fit.base_radius, 2e-5);
  const auto share = [&](double m, double angle, double cost, bool m_usual, bool angle_usual) {
    all.push_back({m, angle, cost, m_usual, angle_usual});
  };
  for (const Usual& a : kAngles) {
    const double angle = a.value * kPi / 180, m = 2 * fit.base_radius / (z * std::cos(angle));
    share(m, angle, a.cost + kOwnModule, false, true);
    for (const Usual& b : bought) {
      if (std::abs(m / b.value - 1) < near) share(b.value, angle, a.cost + b.cost, true, true);
    }
  }
  for (const Usual& b : bought) {
    const double cosine = 2 * fit.base_radius / (b.value * z);
    if (cosine > std::cos(35 * kPi / 180) && cosine < std::cos(12 * kPi / 180))
      share(b.value, std::acos(cosine), b.cost + kOwnAngle, true, false);
  }
  const double full = (outer - inner) / 2.25, cosine = 2 * fit.base_radius / (full * z);
  if (cosine > 0.8 && cosine < 0.985) share(full, std::acos(cosine), kOwnModule + kOwnAngle, false, false);

  std::stable_sort(all.begin(), all.end(), [](const Sharing& a, const Sharing& b) { return a.cost < b.cost; });
  std::vector<std::pair<double, Guess>> found;
  for (const Sharing& s : all) {
    const double r = s.module * z / 2, involute = std::tan(s.angle) - s.angle;
    // ψ = s/d of an external tooth; of a ring it is the space's.
    const double off_radius = r * std::cos(s.angle) - fit.base_radius;
    const double at_reference = 2 * r * (fit.half_angle + fit.half_angle_slope * off_radius - involute);
    const double x = sign * (at_reference / s.module - kPi / 2) / (2 * std::tan(s.angle));
    const double addendum = sign * (tip - r) / s.module - x, dedendum = sign * (r - root) / s.module + x;
    if (!(addendum > 0.2) || !(dedendum > 0.2) || std::abs(x) > 2.5) continue;
    const Usual a = nearest(kAddenda, addendum, 20, 2),
                d = nearest(kDedenda, dedendum, 15, toothed.internal ? 0.5 : 1.5);
    const double cost = s.cost + a.cost + d.cost + (std::abs(x) > 1e-3 ? 0.2 : 0) + std::max(0.0, std::abs(x) - 1);

    Guess g{};
    gear::CylindricalSpec& spec = g.spec;
    spec.teeth = toothed.teeth, spec.module = s.module, spec.pressure_angle = Angle::radians(s.angle);
    spec.internal = toothed.internal, spec.face_width = 10 * s.module;
    g.module_doubt = 2 * fit.base_radius_doubt / (z * std::cos(s.angle));
    g.pressure_angle_doubt = fit.base_radius_doubt / (r * std::sin(s.angle)) * 180 / kPi;
    // x follows from ψ_b at the angle chosen, and from that angle through inv α.
    const bool held = s.standard_module && s.standard_angle;
    g.profile_shift_doubt =
        (held ? fit.half_angle_doubt_held
              : std::hypot(fit.half_angle_doubt, std::pow(std::tan(s.angle), 2) * g.pressure_angle_doubt * kPi / 180)) *
        z / (2 * std::tan(s.angle));
    const double alike = std::max(2 * g.profile_shift_doubt, 2e-4);
    spec.profile_shift = std::abs(x) < alike ? 0 : x;
    spec.addendum = std::abs(addendum - a.value) < alike ? a.value : addendum;
    spec.dedendum = std::abs(dedendum - d.value) < alike ? d.value : dedendum;
    constexpr double kMostThinned = 0.1;  // a tenth of a module: more is no thinning
    if (spec.addendum != a.value && addendum > a.value && addendum - a.value < kMostThinned)
      g.thinned = Thinned{a.value, x + addendum - a.value};
    g.standard_module = s.standard_module, g.standard_angle = s.standard_angle;
    if (std::any_of(found.begin(), found.end(), [&](const auto& other) {
          // One gear within the doubt: only its numbers are less round.
          return std::abs(other.second.spec.module / s.module - 1) < std::max(near, 5e-4) &&
                 std::abs(other.second.spec.pressure_angle.radians() - s.angle) < std::max(3 * near, 2e-3);
        }))
      continue;
    found.emplace_back(cost, g);
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<Guess> best;
  for (const auto& [cost, guess] : found) {
    if (best.size() < 5) best.push_back(guess);
  }
  if (best.empty())
    throw InvalidParameter("outline", std::to_string(toothed.teeth) + " teeth",
                           "teeth of an involute gear: no module and pressure angle give these flanks, tips and roots",
                           "compare the outline with a job instead");
  return best;
}

}  // namespace palio::foreign
