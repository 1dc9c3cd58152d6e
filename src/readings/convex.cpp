#include "convex.hpp"

#include <algorithm>
#include <cmath>

#include <ccd/ccd.h>

#include "palio/angle.hpp"
#include "palio/math/extent.hpp"

namespace palio::job {
namespace {

/// Across an axis, in the direction's own half plane; zero along it.
Vec3 across(const Vec3& direction, const Vec3& along) { return direction - along * along.dot(direction); }

void support(const void* object, const ccd_vec3_t* direction, ccd_vec3_t* point) {
  const Vec3 p = static_cast<const Convex*>(object)->furthest({direction->v[0], direction->v[1], direction->v[2]});
  ccdVec3Set(point, p.x(), p.y(), p.z());
}

}  // namespace

Convex turned_about(const Spin& spin, const std::vector<Turned>& profile) {
  math::Extent heights, radii;
  for (const Turned& t : profile)
    heights.hold(t.height), radii.hold(t.radius);
  const Vec3 middle = spin.foot + spin.along * (heights.low() + heights.high()) / 2;
  return {[=](const Vec3& d) {
            const Vec3 out = across(d, spin.along);
            const double up = d.dot(spin.along), wide = out.norm();
            const auto far = std::max_element(profile.begin(), profile.end(), [&](const Turned& a, const Turned& b) {
              return a.radius * wide + a.height * up < b.radius * wide + b.height * up;
            });
            const Vec3 on_axis = spin.foot + spin.along * far->height;
            return Vec3(wide > 0 ? Vec3(on_axis + out * (far->radius / wide)) : on_axis);
          },
          middle, std::hypot(radii.high(), heights.size() / 2)};
}

std::vector<Convex> ring_about(const Spin& spin, double inner, double outer, double low, double high) {
  // Neighbouring chords meet at inner / cos(half the step).
  constexpr int kPieces = 224;
  const Vec3 x = spin.along.unitOrthogonal(), y = spin.along.cross(x);
  const double half_chord = std::sqrt(std::max(0.0, outer * outer - inner * inner));
  std::vector<Convex> all;
  all.reserve(kPieces);
  for (int k = 0; k < kPieces; ++k) {
    const double angle = 2 * kPi * k / kPieces;
    const Vec3 u = x * std::cos(angle) + y * std::sin(angle), v = spin.along.cross(u);
    const auto furthest = [=](const Vec3& d) {
      const Vec3 base = spin.foot + spin.along * (d.dot(spin.along) < 0 ? low : high);
      const double du = d.dot(u), dv = d.dot(v), wide = std::hypot(du, dv);
      if (wide > 0 && outer * du / wide >= inner) return Vec3(base + (u * du + v * dv) * (outer / wide));
      return Vec3(base + u * inner + v * (dv < 0 ? -half_chord : half_chord));
    };
    all.push_back({furthest, spin.foot + u * ((inner + outer) / 2) + spin.along * ((low + high) / 2),
                   std::hypot(half_chord, outer - inner, (high - low) / 2)});
  }
  return all;
}

Convex hull_of(std::vector<Vec3> corners) {
  Vec3 middle = Vec3::Zero();
  for (const Vec3& c : corners)
    middle += c / static_cast<double>(corners.size());
  double reach = 0;
  for (const Vec3& c : corners)
    reach = std::max(reach, (c - middle).norm());
  return {[corners = std::move(corners)](const Vec3& d) {
            return *std::max_element(corners.begin(), corners.end(),
                                     [&](const Vec3& a, const Vec3& b) { return a.dot(d) < b.dot(d); });
          },
          middle, reach};
}

Convex plate_of(const Vec3& origin, const Eigen::Matrix3d& axes, std::vector<Disc> discs, double low, double high) {
  Vec2 middle = Vec2::Zero();
  for (const Disc& disc : discs)
    middle += disc.at / static_cast<double>(discs.size());
  double reach = 0;
  for (const Disc& disc : discs)
    reach = std::max(reach, (disc.at - middle).norm() + disc.radius);
  const Vec3 centre_at = origin + axes * Vec3(middle.x(), middle.y(), (low + high) / 2);
  return {[=, discs = std::move(discs)](const Vec3& direction) {
            const Vec3 d = axes.transpose() * direction;
            const Vec2 flat = d.head<2>();
            const double wide = flat.norm();
            const auto far = std::max_element(discs.begin(), discs.end(), [&](const Disc& a, const Disc& b) {
              return a.at.dot(flat) + a.radius * wide < b.at.dot(flat) + b.radius * wide;
            });
            const Vec2 p = wide > 0 ? Vec2(far->at + flat * (far->radius / wide)) : far->at;
            return Vec3(origin + axes * Vec3(p.x(), p.y(), d.z() < 0 ? low : high));
          },
          centre_at, std::hypot(reach, (high - low) / 2)};
}

namespace {

/// How far b has to go along d for the two to come clear of each other; below 0: they keep clear.
double way(const Convex& a, const Convex& b, const Vec3& d) { return a.furthest(d).dot(d) - b.furthest(-d).dot(d); }

/// The middle of the box in which both can be.
Vec3 common_middle(const Convex& a, const Convex& b) {
  Vec3 middle;
  for (int k = 0; k < 3; ++k) {
    const Vec3 d = Vec3::Unit(k);
    const double low = std::max(a.furthest(-d)[k], b.furthest(-d)[k]),
                 high = std::min(a.furthest(d)[k], b.furthest(d)[k]);
    middle[k] = (low + high) / 2;
  }
  return middle;
}

struct Look {
  double way;
  Vec3 d;
};

/// Around a direction, ever closer, as long as the way gets shorter: to within `last` [rad].
void look_closer(const Convex& a, const Convex& b, double first, double last, Look& best) {
  constexpr int kAround = 8;
  for (double step = first; step > last;) {
    const Vec3 x = best.d.unitOrthogonal(), y = best.d.cross(x);
    bool better = false;
    for (int n = 0; n < kAround; ++n) {
      const double turn = 2 * kPi * n / kAround;
      const Vec3 d = (best.d + step * (x * std::cos(turn) + y * std::sin(turn))).normalized();
      if (const double w = way(a, b, d); w < best.way) best = {w, d}, better = true;
    }
    if (!better) step /= 2;
  }
}

/// The least of all ways: looked for in directions all over the sphere, then around the best of them. None where it is
/// no more than `more_than`.
std::optional<Contact> least_way(const Convex& a, const Convex& b, double more_than) {
  constexpr int kAll = 600, kBest = 20;
  constexpr double kFirst = 0.15, kRough = 5e-3, kLast = 1e-7;  // [rad]: the first is what lies between neighbours
  static const std::vector<Vec3> directions = [] {
    std::vector<Vec3> all;
    all.reserve(kAll);
    const double golden = kPi * (3 - std::sqrt(5.0));
    for (int k = 0; k < kAll; ++k) {
      const double z = 1 - (2 * k + 1.0) / kAll, r = std::sqrt(1 - z * z);
      all.emplace_back(r * std::cos(golden * k), r * std::sin(golden * k), z);
    }
    return all;
  }();
  std::vector<Look> looks;
  looks.reserve(kAll);
  for (const Vec3& d : directions) {
    looks.push_back({way(a, b, d), d});
    if (looks.back().way <= more_than) return std::nullopt;
  }
  std::partial_sort(looks.begin(), looks.begin() + kBest, looks.end(),
                    [](const Look& p, const Look& q) { return p.way < q.way; });
  Look least = looks.front();
  for (int k = 0; k < kBest; ++k) {
    Look& look = looks[static_cast<std::size_t>(k)];
    look_closer(a, b, kFirst, kRough, look);
    if (look.way < least.way) least = look;
    if (least.way <= more_than) return std::nullopt;
  }
  look_closer(a, b, kRough, kLast, least);
  if (least.way <= more_than) return std::nullopt;
  return Contact{least.way, least.d, common_middle(a, b)};
}

}  // namespace

std::optional<Contact> overlap(const Convex& a, const Convex& b, double more_than) {
  if ((a.middle - b.middle).norm() >= a.reach + b.reach) return std::nullopt;
  ccd_t how;
  CCD_INIT(&how);
  constexpr unsigned long kSteps = 500;
  constexpr double kTouch = 1e-4;  // [mm]
  how.support1 = how.support2 = support;
  how.max_iterations = kSteps;
  if (ccdGJKIntersect(&a, &b, &how) != 1) return std::nullopt;
  return least_way(a, b, std::max(more_than, kTouch));
}

}  // namespace palio::job
