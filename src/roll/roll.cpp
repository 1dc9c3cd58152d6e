#include "palio/roll/roll.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "contact.hpp"
#include "palio/error.hpp"

namespace palio::roll {
namespace {

using ToothPair = std::pair<int, int>;

std::vector<ToothPair> touching_pairs(const Limit& limit) {
  std::vector<ToothPair> pairs;
  for (const Contact& c : limit.touching) {
    const ToothPair pair{c.driver_tooth, c.driven_tooth};
    if (std::find(pairs.begin(), pairs.end(), pair) == pairs.end()) pairs.push_back(pair);
  }
  return pairs;
}

bool holds(const std::vector<ToothPair>& pairs, const ToothPair& pair) { return std::find(pairs.begin(), pairs.end(), pair) != pairs.end(); }

/// Contact over the period, with the coordinates of entering and leaving found by bisection between positions.
struct Engagement {
  double mean, lost_share;
};

Engagement engagement(const ContactFinder& finder, Side side, const std::vector<double>& at, const std::vector<std::vector<ToothPair>>& touching) {
  double sum = 0, lost = 0;
  for (std::size_t i = 0; i + 1 < at.size(); ++i) {
    struct Event {
      double at;
      int change;
    };
    std::vector<Event> events;
    const auto find_event = [&](const ToothPair& pair, bool enters) {
      double lo = at[i], hi = at[i + 1];
      for (int k = 0; k < 40 && hi - lo > 1e-12 * (at.back() - at.front()); ++k) {
        const double middle = 0.5 * (lo + hi);
        const bool inside = holds(touching_pairs(finder.limit(side, middle)), pair);
        (inside == enters ? hi : lo) = middle;
      }
      events.push_back({0.5 * (lo + hi), enters ? 1 : -1});
    };
    for (const ToothPair& pair : touching[i]) {
      if (!holds(touching[i + 1], pair)) find_event(pair, false);
    }
    for (const ToothPair& pair : touching[i + 1]) {
      if (!holds(touching[i], pair)) find_event(pair, true);
    }
    std::sort(events.begin(), events.end(), [](const Event& a, const Event& b) { return a.at < b.at; });
    double from = at[i];
    int count = static_cast<int>(touching[i].size());
    events.push_back({at[i + 1], 0});
    for (const Event& e : events) {
      sum += count * (e.at - from);
      if (count == 0) lost += e.at - from;
      count += e.change;
      from = e.at;
    }
  }
  const double period = at.back() - at.front();
  return {sum / period, lost / period};
}

std::string describe(const Contact& c, const Member& driver, const Member& driven) {
  const auto part = [](const Member& m, curve::Role role, int tooth, double label) {
    return fmt::format("{} of {}, tooth {}, at radius {:.4g} mm", name(role), m.name, tooth, label);
  };
  return part(driver, c.driver_role, c.driver_tooth, driver.motion.label(c.point)) + ", against " +
         part(driven, c.driven_role, c.driven_tooth, driven.motion.label(c.point));
}

void widen(Range& range, double value) { range = {std::min(range.min, value), std::max(range.max, value)}; }

constexpr double kInfinite = std::numeric_limits<double>::infinity();

/// What the positions add up to.
class Tally {
 public:
  Tally(const Member& driver, const Member& driven, const Law& law) : driver_(driver), driven_(driven), law_(law), depth_(law.touch_mm) {}

  void add(const Position& p, double nominal) {
    if (p.upper) widen(error_, p.upper->driven - nominal - law_.theoretical_play / 2);
    if (p.lower) widen(error_, p.lower->driven - nominal + law_.theoretical_play / 2);
    if (p.play()) {
      widen(play_, *p.play());
      // Overlapping teeth: at the best coordinate both sides overlap alike, by the play shared in the ratio of the arms.
      const double u = p.upper->arm, l = p.lower->arm;
      if (-*p.play() * std::min(u, l) > law_.touch_mm) {
        overlap(-*p.play() * u * l / (u + l), p, [&] { return describe(*p.upper, driver_, driven_) + "; and " + describe(*p.lower, driver_, driven_); });
      }
    } else {
      open_ = true;
    }
    const double clearance = std::min(p.tip_clearance[0], p.tip_clearance[1]);
    clearance_ = std::min(clearance_, clearance);
    if (-clearance > law_.touch_mm) {
      const bool by_driver = p.tip_clearance[0] <= p.tip_clearance[1];
      const Member &tip = by_driver ? driver_ : driven_, &root = by_driver ? driven_ : driver_;
      overlap(-clearance, p, [&] { return fmt::format("tip of {} in the root of {}", tip.name, root.name); });
    }
  }

  void finish(Result& result) const {
    if (error_.min <= error_.max) result.transmission_error = error_;
    if (play_.min <= play_.max && !open_) result.play = play_;
    result.min_tip_root_clearance = clearance_;
    result.max_overlap = jams_ ? depth_ : 0;
    result.worst = worst_;
    // A share below the bisection's own resolution is a change of tooth pair, not a loss.
    result.verdict = jams_ ? Verdict::jams : result.lost_share > 1e-9 ? Verdict::loses_contact : Verdict::meshes;
  }

 private:
  template <class Words>
  void overlap(double depth, const Position& p, Words where) {
    if (jams_ && depth <= depth_) return;
    jams_ = true;
    depth_ = depth;
    worst_ = Result::Worst{p.driver, where()};
  }

  const Member &driver_, &driven_;
  const Law& law_;
  Range error_{kInfinite, -kInfinite}, play_{kInfinite, -kInfinite};
  double clearance_ = kInfinite, depth_;
  bool jams_ = false, open_ = false;  // open: at some position nothing stands in the way
  std::optional<Result::Worst> worst_;
};

}  // namespace

std::string_view name(Verdict verdict) noexcept {
  switch (verdict) {
    case Verdict::meshes: return "meshes";
    case Verdict::jams: return "jams";
    case Verdict::loses_contact: return "loses_contact";
  }
  return "";
}

Result roll(const Member& driver, const Member& driven, const Law& law) {
  if (law.positions < 8 || law.positions > 1000000) {
    throw InvalidParameter("positions", fmt::format("{}", law.positions), "it lies between 8 and 1000000", "leave it out for 360");
  }
  const ContactFinder finder(driver, driven, law);
  Result result{};
  result.drives_upper = law.ratio < 0;
  result.pairs_min = std::numeric_limits<int>::max();
  Tally tally(driver, driven, law);
  std::vector<double> at;
  std::vector<std::vector<ToothPair>> touching;
  for (int i = 0; i <= law.positions; ++i) {
    const double coordinate = driver.start + finder.driver_pitch() * i / law.positions;
    Limit upper, lower;
    finder.limits(coordinate, upper, lower);
    at.push_back(coordinate);
    touching.push_back(touching_pairs(result.drives_upper ? upper : lower));
    if (i == law.positions) break;  // the first position again, one tooth on: closes the period

    Position p{coordinate, upper.first, lower.first, std::move(upper.touching), std::move(lower.touching), {}};
    const double nominal = finder.nominal(coordinate);
    const double middle = p.play() ? 0.5 * (p.upper->driven + p.lower->driven) : nominal;
    p.tip_clearance = {finder.crest_clearance(true, coordinate, middle), finder.crest_clearance(false, coordinate, middle)};
    result.pairs_min = std::min(result.pairs_min, static_cast<int>(touching.back().size()));
    result.pairs_max = std::max(result.pairs_max, static_cast<int>(touching.back().size()));
    tally.add(p, nominal);
    result.positions.push_back(std::move(p));
  }
  const Engagement engaged = engagement(finder, result.drives_upper ? Side::upper : Side::lower, at, touching);
  result.pairs_mean = engaged.mean;
  result.lost_share = engaged.lost_share;
  tally.finish(result);
  return result;
}

}  // namespace palio::roll
