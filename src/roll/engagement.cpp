#include "engagement.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

namespace palio::roll {
namespace {

/// Null where the two are not among them.
template <class All>
auto among(All& all, const ToothPair& pair) {
  const auto it = std::find_if(all.begin(), all.end(), [&](const Touching& t) { return t.pair == pair; });
  return it == all.end() ? nullptr : &*it;
}

/// Where a contact enters or leaves, between a coordinate at which the two touch and one at which they do not. A
/// contact leaves where it runs off its curve, which it nears evenly: two places foresee that, one look on either side
/// of it proves it; where it is otherwise, halving.
class Event {
 public:
  Event(double inside, double to_end, double outside, double enough) : in_(inside), out_(outside), enough_(enough) {
    seen(inside, to_end);
  }

  template <class Looks>
  double find(const Looks& to_end_at) {
    constexpr int kLooks = 80;
    for (int i = 0; i < kLooks && std::abs(out_ - in_) > enough_; ++i)
      look(next(i), to_end_at);
    return 0.5 * (in_ + out_);
  }

 private:
  void seen(double at, double to_end) {
    before_ = last_, before_to_end_ = last_to_end_;
    last_ = at, last_to_end_ = to_end;
  }
  template <class Looks>
  void look(double at, const Looks& to_end_at) {
    if (const std::optional<double> to_end = to_end_at(at))
      in_ = at, seen(at, *to_end);
    else
      out_ = at;
  }
  /// Every third look halves, so that the bracket closes whatever is foreseen.
  double next(int i) const {
    const double middle = 0.5 * (in_ + out_), way = out_ > in_ ? 1 : -1;
    if (i % 3 == 0 || !(last_to_end_ < before_to_end_)) return middle;
    const double foreseen = last_ + (last_ - before_) * last_to_end_ / (before_to_end_ - last_to_end_);
    const double at = foreseen + (i % 3 == 1 ? -0.4 : 0.4) * enough_ * way;
    return (at - in_) * way > 0 && (out_ - at) * way > 0 ? at : middle;
  }

  double in_, out_, enough_;
  double last_ = 0, last_to_end_ = 0, before_ = 0, before_to_end_ = 0;
};

}  // namespace

std::vector<Touching> touching_pairs(const std::vector<Contact>& touching) {
  std::vector<Touching> pairs;
  for (const Contact& c : touching) {
    const ToothPair pair{c.driver_tooth, c.driven_tooth};
    if (Touching* known = among(pairs, pair))
      known->to_end = std::max(known->to_end, c.to_end);
    else
      pairs.push_back({pair, c.to_end});
  }
  return pairs;
}

Engagement::Engagement(const std::vector<double>& at, const std::vector<std::vector<Touching>>& touching,
                       const std::function<double(int, double)>& place,
                       const std::function<std::vector<Touching>(double)>& touches)
    : period_(at.back() - at.front()) {
  const double enough = 1e-12 * period_;
  for (std::size_t i = 0; i + 1 < at.size(); ++i) {
    const auto event = [&](const Touching& t, double inside, double outside) {
      return Event(inside, t.to_end, outside, enough).find([&](double coordinate) -> std::optional<double> {
        const std::vector<Touching> there = touches(coordinate);
        const Touching* same = among(there, t.pair);
        return same ? std::optional(same->to_end) : std::nullopt;
      });
    };
    const auto add = [&](const ToothPair& pair, double from, double to) {
      const double first = place(pair.first, from);
      intervals_.push_back({first, first + (to - from)});
    };
    for (const Touching& t : touching[i])
      add(t.pair, at[i], among(touching[i + 1], t.pair) ? at[i + 1] : event(t, at[i], at[i + 1]));
    for (const Touching& t : touching[i + 1]) {
      if (!among(touching[i], t.pair)) add(t.pair, event(t, at[i + 1], at[i]), at[i + 1]);
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
