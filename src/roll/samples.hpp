// Outlines as they are sampled for the broad phase of a plane roll. Private to the roll.
#pragma once

#include <algorithm>
#include <array>
#include <functional>
#include <utility>
#include <vector>

#include "palio/roll/roll.hpp"

namespace palio::roll {

/// A number for each sample of a segment.
class Row {
 public:
  static constexpr std::size_t kMost = 9;
  void push_back(double value) { values_[size_++] = value; }
  std::size_t size() const noexcept { return size_; }
  const double* begin() const noexcept { return values_.data(); }
  const double* end() const noexcept { return values_.data() + size_; }
  const double& front() const noexcept { return values_[0]; }
  const double& back() const noexcept { return values_[size_ - 1]; }
  const double& operator[](std::size_t i) const noexcept { return values_[i]; }

 private:
  std::array<double, kMost> values_{};
  std::size_t size_ = 0;
};

/// A segment with its samples in the chart it is compared in.
struct Sampled {
  const curve::Segment* segment;
  Row at;                       // parameters
  std::vector<curve::Jet> own;  // jets in the member's own frame
  Row label, place;             // in the own chart (coordinate 0, period 0); driven member only
  Row lean;                     // of each chord: how fast the place goes with the label
  double sag;                   // largest distance of the curve from the sampled chords [mm]
  bool level;                   // label constant: moves along itself
  bool cusp;                    // one of its ends is a cusp
  bool knee_before = false,
       knee_after = false;  // a flank that goes on at its `from`, `to` with another curve the same way
  Vec2 middle;              // a circle that holds the segment, in the member's own frame
  double radius;
};

struct Sampling {
  std::vector<Sampled> segments;
  double least_label, greatest_label, pitch;
  bool islands;                    // every period is a closed loop of its own (pins): there is no floor between them
  std::vector<std::size_t> crest;  // segments that reach greatest_label
  Vec2 middle;                     // a circle that holds the period, in the member's own frame
  double radius;
};

Sampling sample(const Member& member);

/// The motion of a member in its own frame: coordinate 0, axis or slide through its own origin.
const Motion& own_motion(const Member& member);

/// Value at `x` of the polyline through (xs, ys) on interval k.
inline double between(const Row& xs, const Row& ys, std::size_t k, double x) {
  const double width = xs[k + 1] - xs[k];
  return width == 0 ? ys[k] : ys[k] + (ys[k + 1] - ys[k]) * (x - xs[k]) / width;
}

inline bool spans(double a, double b, double x) { return (a <= x && x <= b) || (b <= x && x <= a); }

/// The interval of a monotone table that holds x.
inline std::size_t interval(const Row& table, double x) {
  std::size_t i = 0;
  while (i + 2 < table.size() && !spans(table[i], table[i + 1], x))
    ++i;
  return i;
}

/// Of labels that run one way: the intervals, first and one after the last, that reach into [a, b].
inline std::pair<std::size_t, std::size_t> intervals_within(const Row& labels, double a, double b) {
  const bool falls = labels.back() < labels.front();
  const double* first = falls ? std::upper_bound(labels.begin(), labels.end(), b, std::greater<>())
                              : std::upper_bound(labels.begin(), labels.end(), a);
  const double* last = falls ? std::lower_bound(labels.begin(), labels.end(), a, std::greater<>())
                             : std::lower_bound(labels.begin(), labels.end(), b);
  const std::size_t from = first == labels.begin() ? 0 : static_cast<std::size_t>(first - labels.begin()) - 1;
  return {from, std::min(labels.size() - 1, static_cast<std::size_t>(last - labels.begin()))};
}

}  // namespace palio::roll
