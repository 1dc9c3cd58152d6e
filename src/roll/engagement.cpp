#include "engagement.hpp"

#include <algorithm>
#include <cmath>

namespace palio::roll {
namespace {

bool holds(const std::vector<ToothPair>& pairs, const ToothPair& pair) {
  return std::find(pairs.begin(), pairs.end(), pair) != pairs.end();
}

}  // namespace

std::vector<ToothPair> touching_pairs(const std::vector<Contact>& touching) {
  std::vector<ToothPair> pairs;
  for (const Contact& c : touching) {
    const ToothPair pair{c.driver_tooth, c.driven_tooth};
    if (!holds(pairs, pair)) pairs.push_back(pair);
  }
  return pairs;
}

Engagement::Engagement(const std::vector<double>& at, const std::vector<std::vector<ToothPair>>& touching,
                       const std::function<double(int, double)>& place,
                       const std::function<std::vector<ToothPair>(double)>& touches)
    : period_(at.back() - at.front()) {
  for (std::size_t i = 0; i + 1 < at.size(); ++i) {
    const auto event = [&](const ToothPair& pair, bool enters) {
      double lo = at[i], hi = at[i + 1];
      for (int k = 0; k < 40 && hi - lo > 1e-12 * period_; ++k) {
        const double middle = 0.5 * (lo + hi);
        (holds(touches(middle), pair) == enters ? hi : lo) = middle;
      }
      return 0.5 * (lo + hi);
    };
    const auto add = [&](const ToothPair& pair, double from, double to) {
      const double first = place(pair.first, from);
      intervals_.push_back({first, first + (to - from)});
    };
    for (const ToothPair& pair : touching[i])
      add(pair, at[i], holds(touching[i + 1], pair) ? at[i + 1] : event(pair, false));
    for (const ToothPair& pair : touching[i + 1]) {
      if (!holds(touching[i], pair)) add(pair, event(pair, true), at[i + 1]);
    }
  }
  merge();
}

void Engagement::merge() {
  std::sort(intervals_.begin(), intervals_.end(), [](const Interval& a, const Interval& b) { return a.from < b.from; });
  std::vector<Interval> merged;
  for (const Interval& i : intervals_) {
    if (!merged.empty() && i.from <= merged.back().to + 1e-10 * period_) {
      merged.back().to = std::max(merged.back().to, i.to);
    } else {
      merged.push_back(i);
    }
  }
  intervals_ = std::move(merged);
}

Engagement Engagement::widened(double from, double to) const {
  // A place c is looked at with c + from … c + to: it touches when that range meets an interval.
  Engagement wide;
  wide.period_ = period_;
  for (const Interval& i : intervals_)
    wide.intervals_.push_back({i.from - to, i.to - from});
  wide.merge();
  return wide;
}

double Engagement::mean() const {
  double sum = 0;
  for (const Interval& i : intervals_)
    sum += i.to - i.from;
  return sum / period_;
}

double Engagement::lost_share() const {
  // All teeth together: the intervals folded into one period.
  std::vector<Interval> folded;
  for (const Interval& i : intervals_) {
    if (i.to - i.from >= period_) return 0;
    const double from = i.from - period_ * std::floor(i.from / period_), to = from + (i.to - i.from);
    folded.push_back({from, std::min(to, period_)});
    if (to > period_) folded.push_back({0, to - period_});
  }
  std::sort(folded.begin(), folded.end(), [](const Interval& a, const Interval& b) { return a.from < b.from; });
  double covered = 0, until = 0;
  for (const Interval& i : folded) {
    if (i.to <= until) continue;
    covered += i.to - std::max(i.from, until);
    until = i.to;
  }
  return std::max(0.0, (period_ - covered) / period_);
}

}  // namespace palio::roll
