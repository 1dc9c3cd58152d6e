#include "palio/pair/eccentric.hpp"

#include <algorithm>
#include <cmath>

#include <boost/math/tools/minima.hpp>

#include "palio/error.hpp"
#include "palio/math/extent.hpp"

namespace palio::pair {
namespace {

/// The middles apart by `off` in the direction θ, counted from the line of centres.
struct Moved {
  double distance;  ///< between them (of a rack: from its line) [mm]
  double turned;    ///< by which the driven follows, on either flank alike [its coordinate]
};

Moved moved(const Pair& pair, double off, double theta) {
  const double a = pair.mounted_center_distance(), out = off * std::cos(theta), aside = off * std::sin(theta);
  const auto& [driver, driven] = pair.gears();
  if (driven.teeth.is_rack()) return {a + out, aside};
  if (driver.teeth.is_rack()) return {a + out, aside * std::abs(pair.motion_ratio())};
  // Teeth stand before spaces where z₁(φ₁ − β) ± z₂(φ₂ − β) keeps its value: the driven follows 1 − i times the
  // direction β.
  return {std::hypot(a + out, aside), (1 - pair.motion_ratio()) * std::atan2(aside, a + out)};
}

/// How far the driven stands beyond half its own play, on either flank, at another distance.
struct Limits {
  roll::Range upper, lower, play;
};

Limits limits(const ParallelPair& pair, double distance, double half) {
  const ParallelPair there(pair.driver(), pair.driven(), distance);
  const double play = there.driven_play(), beyond = play / 2 - half;
  return {{beyond, beyond}, {-beyond, -beyond}, {play, play}};
}

/// Of teeth that do not run evenly: as they roll there.
std::optional<Limits> limits(const Pair& pair, double distance, double half) {
  if (const ParallelPair* involute = pair.parallel()) return limits(*involute, distance, half);
  constexpr int kPositions = 96;
  const auto& [driver, driven] = pair.gears();
  Arrangement there;
  there.direction = pair.direction(), there.mounted_center_distance = distance;
  const Pair moved = in_mesh(driver, driven, there);
  const roll::Result r = roll(moved, kPositions);
  if (!r.play) return std::nullopt;
  Limits found{{math::kInfinite, -math::kInfinite}, {math::kInfinite, -math::kInfinite}, *r.play};
  const double phi = moved.gears()[0].phase, psi = moved.gears()[1].phase;
  for (const roll::Position& p : r.positions) {
    const double even = psi + moved.motion_ratio() * (p.driver - phi);
    const double up = p.upper->driven - even - half, down = p.lower->driven - even + half;
    found.upper = {std::min(found.upper.min, up), std::max(found.upper.max, up)};
    found.lower = {std::min(found.lower.min, down), std::max(found.lower.max, down)};
  }
  return found;
}

}  // namespace

std::optional<roll::Range> eccentric_play(const Pair& pair, double off) {
  if (!pair.plane()) return std::nullopt;
  try {
    const double a = pair.mounted_center_distance();
    const auto nearest = limits(pair, a - off, 0), furthest = limits(pair, a + off, 0);
    if (!nearest || !furthest) return std::nullopt;
    return roll::Range{std::min(nearest->play.min, furthest->play.min),
                       std::max(nearest->play.max, furthest->play.max)};
  } catch (const InvalidParameter&) {
    return std::nullopt;  // no line of action there
  }
}

std::optional<roll::Range> eccentric_error(const Pair& pair, double off) {
  if (!pair.plane()) return std::nullopt;
  const double half = pair.driven_play() / 2;
  bool rolls = true;
  // The furthest of both flanks, either way.
  const auto reached = [&](double theta, bool most) {
    const Moved m = moved(pair, off, theta);
    const auto at = limits(pair, m.distance, half);
    rolls = rolls && at;
    if (!at) return 0.0;
    return m.turned + (most ? std::max(at->upper.max, at->lower.max) : std::min(at->upper.min, at->lower.min));
  };
  const int directions = pair.cycloidal() ? 16 : 64;
  try {
    roll::Range error{0, 0};
    for (const bool most : {false, true}) {
      const auto worse = [&](double theta) { return most ? -reached(theta, true) : reached(theta, false); };
      const double step = 2 * kPi / directions;
      double best = 0, least = math::kInfinite;
      for (int k = 0; k < directions; ++k) {
        if (const double here = worse(k * step); here < least) least = here, best = k * step;
      }
      // Between neighbours that are no worse there is one worst place: the way is a sine but for what is small of
      // second order. Its height needs half the digits of its place.
      constexpr int kBits = 26;
      const double worst = boost::math::tools::brent_find_minima(worse, best - step, best + step, kBits).second;
      (most ? error.max : error.min) = most ? -std::min(worst, least) : std::min(worst, least);
    }
    return rolls ? std::optional(error) : std::nullopt;
  } catch (const InvalidParameter&) {
    return std::nullopt;  // no line of action there
  }
}

}  // namespace palio::pair
