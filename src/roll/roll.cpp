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
  const double inf = std::numeric_limits<double>::infinity();
  result.min_tip_root_clearance = inf;
  Range play{inf, -inf}, error{inf, -inf};
  double worst_depth = law.touch_mm;
  bool jams = false, one_sided = false;
  std::vector<double> at;
  std::vector<std::vector<ToothPair>> touching;
  result.pairs_min = std::numeric_limits<int>::max();

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
    const double clearance = std::min(p.tip_clearance[0], p.tip_clearance[1]);
    result.min_tip_root_clearance = std::min(result.min_tip_root_clearance, clearance);
    result.pairs_min = std::min(result.pairs_min, static_cast<int>(touching.back().size()));
    result.pairs_max = std::max(result.pairs_max, static_cast<int>(touching.back().size()));

    if (p.upper) {
      const double e = p.upper->driven - nominal - law.theoretical_play / 2;
      error = {std::min(error.min, e), std::max(error.max, e)};
    }
    if (p.lower) {
      const double e = p.lower->driven - nominal + law.theoretical_play / 2;
      error = {std::min(error.min, e), std::max(error.max, e)};
    }
    if (p.play()) {
      play = {std::min(play.min, *p.play()), std::max(play.max, *p.play())};
      // Overlapping teeth: at the best coordinate both sides overlap alike, by the play shared in the ratio of the arms.
      const double arms = p.upper->arm * p.lower->arm / (p.upper->arm + p.lower->arm);
      const double depth = -*p.play() * arms;
      if (-*p.play() * std::min(p.upper->arm, p.lower->arm) > law.touch_mm) {
        jams = true;
        result.max_overlap = std::max(result.max_overlap, depth);
        if (depth > worst_depth) {
          worst_depth = depth;
          result.worst = Result::Worst{coordinate, describe(*p.upper, driver, driven) + "; and " + describe(*p.lower, driver, driven)};
        }
      }
    } else {
      one_sided = true;
    }
    if (-clearance > law.touch_mm) {
      jams = true;
      result.max_overlap = std::max(result.max_overlap, -clearance);
      if (-clearance > worst_depth) {
        worst_depth = -clearance;
        const bool driver_tip = p.tip_clearance[0] <= p.tip_clearance[1];
        result.worst = Result::Worst{
            coordinate, fmt::format("tip of {} in the root of {}", driver_tip ? driver.name : driven.name, driver_tip ? driven.name : driver.name)};
      }
    }
    result.positions.push_back(std::move(p));
  }

  const Engagement engaged = engagement(finder, result.drives_upper ? Side::upper : Side::lower, at, touching);
  result.pairs_mean = engaged.mean;
  result.lost_share = engaged.lost_share;
  if (error.min <= error.max) result.transmission_error = error;
  if (play.min <= play.max && !one_sided) result.play = play;
  // A share below the bisection's own resolution is a change of tooth pair, not a loss.
  const bool lost = result.lost_share > 1e-9;
  result.verdict = jams ? Verdict::jams : lost ? Verdict::loses_contact : Verdict::meshes;
  return result;
}

}  // namespace palio::roll
