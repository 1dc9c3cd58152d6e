#include "palio/roll/sphere.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "engagement.hpp"
#include "tally.hpp"

namespace palio::roll {

Vec3 on_sphere(const Vec2& p, double distance) {
  const double k = distance / (1 + p.squaredNorm());
  return {2 * k * p.x(), 2 * k * p.y(), k * (1 - p.squaredNorm())};
}

Result roll(const std::vector<SphereSection>& sections, const Law& law) {
  std::vector<Result> each;
  for (const SphereSection& s : sections) {
    each.push_back(roll(s.driver, s.driven, law));
    for (Position& p : each.back().positions) {
      for (std::optional<Contact>* c : {&p.upper, &p.lower}) {
        if (*c) (*c)->height = s.distance;
      }
      for (std::vector<Contact>* list : {&p.touching_upper, &p.touching_lower}) {
        for (Contact& c : *list)
          c.height = s.distance;
      }
    }
  }
  Result all = each.front();
  const SphereSection& first = sections.front();
  Tally tally(first.driver.name, first.driven.name, law, [&](const Contact& c) {
    return describe(c, first.driver, first.driven) + fmt::format(", {:.4g} mm from the apex", c.height);
  });
  for (std::size_t i = 0; i < all.positions.size(); ++i) {
    Position& p = all.positions[i];
    for (std::size_t k = 1; k < each.size(); ++k) {
      Position& q = each[k].positions[i];
      const auto nearer = [](const std::optional<Contact>& a, const std::optional<Contact>& b, double sign) {
        return b && (!a || sign * b->driven < sign * a->driven);
      };
      if (nearer(p.upper, q.upper, 1)) p.upper = q.upper;
      if (nearer(p.lower, q.lower, -1)) p.lower = q.lower;
      p.touching_upper.insert(p.touching_upper.end(), q.touching_upper.begin(), q.touching_upper.end());
      p.touching_lower.insert(p.touching_lower.end(), q.touching_lower.begin(), q.touching_lower.end());
      for (const int end : {0, 1})
        p.tip_clearance[end] = std::min(p.tip_clearance[end], q.tip_clearance[end]);
    }
    const auto keep = [&](std::vector<Contact>& touching, const std::optional<Contact>& limit) {
      touching.erase(
          std::remove_if(touching.begin(), touching.end(),
                         [&](const Contact& c) { return std::abs(c.driven - limit->driven) * c.arm > law.touch_mm; }),
          touching.end());
      return static_cast<int>(touching_pairs(touching).size());
    };
    p.pairs_upper = keep(p.touching_upper, p.upper);
    p.pairs_lower = keep(p.touching_lower, p.lower);
    const Member& driver = first.driver;
    const double nominal = first.driven.start + law.ratio * (p.driver - driver.start);
    tally.add(p, nominal, all.drives_upper);
  }
  // The paths of contact of all sections lie on one great circle, and the longest holds the others.
  int sum = 0, none = 0;
  for (const Position& p : all.positions) {
    const int pairs = all.drives_upper ? p.pairs_upper : p.pairs_lower;
    sum += pairs;
    none += pairs == 0 ? 1 : 0;
  }
  for (const Result& r : each)
    all.pairs_mean = std::max(all.pairs_mean, r.pairs_mean), all.lost_share = std::min(all.lost_share, r.lost_share);
  if (const double lost = static_cast<double>(none) / static_cast<double>(all.positions.size());
      lost > all.lost_share) {
    // An edge in one section holds the flanks of the others apart: then only the positions themselves tell.
    all.lost_share = lost;
    all.pairs_mean = static_cast<double>(sum) / static_cast<double>(all.positions.size());
  }
  tally.finish(all);
  return all;
}

}  // namespace palio::roll
