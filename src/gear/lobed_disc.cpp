// The disc of a cycloidal speed reducer.
#include <algorithm>
#include <cmath>
#include <limits>

#include "palio/gear/lobed_disc.hpp"
#include "spec_checks.hpp"

namespace palio::gear {

LobedDiscSizes lobed_disc_limits(const LobedDiscSpec& s) {
  const double N = s.rollers, R = s.roller_circle_diameter / 2, E = s.eccentricity, R_r = s.roller_diameter / 2,
               lambda = E * N / R;
  LobedDiscSizes z{};
  z.ratio = -(N - 1);
  z.max_eccentricity = R / N;
  // Least radius of the roller centre's path where it is convex: at the crests, or beside them once the path is steep.
  z.max_roller_radius_no_undercut = lambda <= (N - 2) / (2 * N - 1)
                                        ? std::pow(R + E * N, 2) / (R + E * N * N)
                                        : std::sqrt(27 * (N - 1) * (R * R - E * E * N * N) / std::pow(N + 1, 3));
  z.min_convex_radius = z.max_roller_radius_no_undercut - R_r;
  if (E * N * N > R) z.min_concave_radius = std::pow(R - E * N, 2) / (E * N * N - R) + R_r;
  z.adjacent_roller_gap = 2 * R * std::sin(kPi / N) - 2 * R_r;
  z.root_diameter = 2 * (R - E - R_r), z.crest_diameter = 2 * (R + E - R_r);
  return z;
}

LobedDisc::LobedDisc(const LobedDiscSpec& spec) : spec_(spec), sizes_(lobed_disc_limits(spec)) {
  const double R = spec.roller_circle_diameter / 2;
  require(spec.rollers >= 4, "rollers", fmt::format("{}", spec.rollers), "a reducer has at least 4",
          "give one more than the ratio");
  require(R > 0, "roller_circle_diameter", mm(2 * R), "it is above 0",
          "give the diameter of the circle that the rollers stand on");
  require(spec.eccentricity > 0 && spec.eccentricity < sizes_.max_eccentricity, "eccentricity", mm(spec.eccentricity),
          fmt::format("it lies between 0 and R/N = {}", mm(sizes_.max_eccentricity)),
          "lower it, or widen the roller circle");
  require(spec.roller_diameter > 0 && sizes_.min_convex_radius > 0, "roller_diameter", mm(spec.roller_diameter),
          fmt::format("rollers wider than {} undercut the disc", mm(2 * sizes_.max_roller_radius_no_undercut)),
          "make the rollers thinner or the eccentricity smaller");
  require(sizes_.adjacent_roller_gap > 0, "roller_diameter", mm(spec.roller_diameter),
          fmt::format("neighbouring rollers touch at {}", mm(2 * R * std::sin(kPi / spec.rollers))),
          "make the rollers thinner");
  outline_.count = spec.rollers - 1;
  const double lobe = 2 * kPi / outline_.count;
  const curve::LobeCurve edge{R, spec.eccentricity, spec.roller_diameter / 2, static_cast<double>(spec.rollers), 0};
  // From root to root by way of the crest, in quarters: each is bent one way nearly evenly, which splines and integrals
  // like.
  for (int i = 0; i < 4; ++i)
    outline_.period.push_back({edge, lobe * i / 4, lobe * (i + 1) / 4, curve::Role::flank});
}

Vec2 LobedDisc::centre(double input) const { return from_polar(spec_.eccentricity, input); }
double LobedDisc::turned(double input) const { return input / sizes_.ratio; }

}  // namespace palio::gear
