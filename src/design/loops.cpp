#include "loops.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>
#include "palio/math/tolerance.hpp"

namespace palio::job {
namespace {

/// A gear that may be moved: it stands in the closing pair and in one other, which places it.
struct Movable {
  const Pair* placing;
  std::size_t gear, anchor;  // moved; its mate in the placing pair
};

/// The one pair beside the closing one that a gear stands in; null where there are more, or none.
const Pair* only_other(const Design& design, const Pair& closing, std::size_t gear) {
  const Pair* other = nullptr;
  for (const Pair& p : design.pairs) {
    if (&p == &closing || (p.driver != gear && p.driven != gear)) continue;
    if (other) return nullptr;
    other = &p;
  }
  return other;
}

std::size_t mate_of(const Pair& pair, std::size_t gear) { return pair.driver == gear ? pair.driven : pair.driver; }

std::vector<Movable> movable(const Design& design, const Pair& closing) {
  std::vector<Movable> all;
  for (const std::size_t g : {closing.driven, closing.driver}) {
    if (design.gears[g].teeth.is_rack()) continue;  // its own pair turns it too
    const Pair* other = only_other(design, closing, g);
    if (!other || !other->plane() || other->loop) continue;
    if (!design.gears[mate_of(*other, g)].teeth.is_rack()) all.push_back({other, g, mate_of(*other, g)});
  }
  return all;
}

/// The loop with one gear of the closing pair in another place.
struct Moved {
  Gear driver, driven;  // of the closing pair
  double distance, direction, off;
};

Moved moved_to(const Design& design, const Pair& closing, std::size_t index, const Gear& gear) {
  const Gear& driver = closing.driver == index ? gear : design.gears[closing.driver];
  const Gear& driven = closing.driven == index ? gear : design.gears[closing.driven];
  if (driver.teeth.is_rack() || driven.teeth.is_rack()) {
    // It moves along the rack and away from it.
    const double direction = closing.direction().radians();
    const double distance = (driven.axis - driver.axis).dot(from_polar(1, direction));
    return {driver, driven, distance, direction, off_middle(driver, driven, direction)};
  }
  const Vec2 apart = driven.teeth.internal() ? Vec2(driver.axis - driven.axis) : Vec2(driven.axis - driver.axis);
  const double direction = std::atan2(apart.y(), apart.x());
  return {driver, driven, apart.norm(), direction, off_middle(driver, driven, direction)};
}

/// With the placing pair in another direction.
Moved moved(const Design& design, const Pair& closing, const Movable& m, double theta) {
  Gear gear = design.gears[m.gear];
  const Gear& anchor = design.gears[m.anchor];
  const Pair& q = *m.placing;
  static_cast<pair::Placed&>(gear) = q.driven == m.gear ? q.beside(anchor, gear, Angle::radians(theta))
                                                        : q.before(anchor, gear, Angle::radians(theta));
  return moved_to(design, closing, m.gear, gear);
}

/// In the driven's coordinate.
double half_pitch_of(const gear::Teeth& teeth) {
  return teeth.is_rack() ? teeth.rack().pitch() / 2 : kPi / teeth.count();
}

/// Where between two places a miss is none; it runs evenly but for its jumps by a pitch, which are no such place.
template <class Off>
std::optional<double> none_between(double low, double high, double half_pitch, Off off) {
  const double before = off(low), after = off(high);
  if ((before > 0) == (after > 0) || std::abs(before - after) > half_pitch) return std::nullopt;
  constexpr int kHalvings = 60;
  for (int k = 0; k < kHalvings; ++k) {
    const double middle = 0.5 * (low + high);
    ((off(middle) > 0) == (before > 0) ? low : high) = middle;
  }
  return low;
}

/// Of a gear between two racks that run alike: where along the one that places it its teeth meet those of the other
/// too. Empty where that is not how the loop is made.
std::string along_remedy(const Design& design, const Pair& closing, double unit) {
  const std::size_t g = design.gears[closing.driven].teeth.is_rack() ? closing.driver : closing.driven;
  const Pair* placing = only_other(design, closing, g);
  if (!placing || placing->loop) return "";
  const Gear& bar = design.gears[mate_of(*placing, g)];
  if (!bar.teeth.is_rack()) return "";
  const double pitch = bar.teeth.rack().pitch(), now = pair::along(bar, design.gears[g].axis);
  const auto slid = [&](double way) {
    Gear gear = design.gears[g];
    const pair::Placed there = pair::rack_at(bar, bar.axis + from_polar(now + way, bar.facing));
    static_cast<pair::Placed&>(gear) =
        placing->driver == g ? placing->before(there, gear) : placing->beside(there, gear);
    return moved_to(design, closing, g, gear);
  };
  const double half_pitch = half_pitch_of(design.gears[closing.driven].teeth);
  if (std::abs(slid(pitch).distance - slid(0).distance) > math::kAlike) return "";
  constexpr int kLooks = 64;  // over a pitch to either side, in which the teeth meet once at least
  for (int i = 0; i < kLooks; ++i) {
    for (const double sense : {1.0, -1.0}) {
      const auto way = none_between(sense * pitch * i / kLooks, sense * pitch * (i + 1) / kLooks, half_pitch,
                                    [&](double at) { return slid(at).off; });
      if (way)
        return fmt::format("along = {:.14g} in pair.{} would close it", (now + bar.phase + *way) / unit, placing->name);
    }
  }
  return "";
}

bool keeps_play(const Moved& m) {
  if (m.driver.teeth.is_cycloidal()) return true;
  if (m.distance <= pair::least_center_distance(m.driver.teeth, m.driven.teeth)) return false;
  return pair::ParallelPair(m.driver.teeth, m.driven.teeth, m.distance).circumferential_backlash() >= 0;
}

}  // namespace

double off_middle(const Gear& driver, const Gear& driven, double direction) {
  const pair::Placed first = driver.teeth.is_rack() ? pair::rack_at(driver, driven.axis) : pair::Placed(driver),
                     second = driven.teeth.is_rack() ? pair::rack_at(driven, driver.axis) : pair::Placed(driven);
  const double wanted =
      pair::driven_phase(driver.teeth, driven.teeth, pair::section(first, first.height), Angle::radians(direction));
  return std::remainder(pair::section(second, first.height) - wanted, 2 * half_pitch_of(driven.teeth));
}

std::string loop_remedy(const Design& design, const Pair& closing) {
  const double unit = mm_per(design.units);
  // A gear that goes round an axis common to its mates keeps both distances: that one rather than another.
  const auto turns_about_both = [&](const Movable& m) {
    return std::abs(moved(design, closing, m, m.placing->direction().radians() + 0.1).distance -
                    closing.mounted_center_distance()) < math::kAlike;
  };
  const gear::Teeth &driver = design.gears[closing.driver].teeth, &driven = design.gears[closing.driven].teeth;
  const bool to_rack = driver.is_rack() || driven.is_rack();
  const double module = driver.module();
  if (to_rack) {
    if (std::string words = along_remedy(design, closing, unit); !words.empty()) return words;
  }
  std::vector<Movable> all = movable(design, closing);
  std::stable_partition(all.begin(), all.end(), turns_about_both);
  for (const Movable& m : all) {
    const double now = m.placing->direction().radians(), half_pitch = half_pitch_of(driven);
    const bool round = turns_about_both(m);
    // Looked for on both sides, nearest first.
    constexpr int kLooks = 4000;
    constexpr double kReach = kPi / 2;
    for (const bool with_play : {true, false}) {
      for (int i = 0; i < kLooks; ++i) {
        for (const double sense : {1.0, -1.0}) {
          const auto theta = none_between(now + sense * kReach * i / kLooks, now + sense * kReach * (i + 1) / kLooks,
                                          half_pitch, [&](double at) { return moved(design, closing, m, at).off; });
          if (!theta) continue;
          const Moved found = moved(design, closing, m, *theta);
          if (with_play && !round && !keeps_play(found)) continue;
          // Away from a rack teeth soon leave each other.
          if (to_rack && std::abs(found.distance - closing.mounted_center_distance()) > 0.25 * module) continue;
          const auto degrees = [](double angle) { return std::remainder(angle, 2 * kPi) * 180 / kPi; };
          std::string words =
              fmt::format("direction = {:.14g} in pair.{} would close it, with ", degrees(*theta), m.placing->name);
          if (!round) words += fmt::format("center_distance = {:.14g} and ", found.distance / unit);
          return words + fmt::format("direction = {:.14g} in pair.{}", degrees(found.direction), closing.name);
        }
      }
    }
  }
  return "no gear of it can be moved alone; leave one pair out";
}

}  // namespace palio::job
