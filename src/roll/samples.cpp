#include "samples.hpp"

#include <algorithm>
#include <cmath>

#include "palio/curve/flatten.hpp"
#include "palio/math/extent.hpp"

namespace palio::roll {
namespace {

// Chords a segment; their sag is measured, not assumed.
int samples_of(const curve::Segment& segment) { return std::holds_alternative<curve::Arc>(segment.curve) ? 4 : 8; }

bool is_level(const Row& label) {
  const auto [lo, hi] = std::minmax_element(label.begin(), label.end());
  return *hi - *lo <= 1e-9 * std::max(std::abs(*hi), 1.0);
}

}  // namespace

const Motion& own_motion(const Member& member) {
  static const Motion kTurn = Motion::rotation(Vec2::Zero()), kSlide = Motion::translation(Vec2::Zero(), Angle());
  return member.motion.turns() ? kTurn : kSlide;
}

Sampling sample(const Member& member) {
  Sampling all;
  // Only the driven member's own chart is used; for it, coordinate 0 and places near the period itself.
  const Motion& own = own_motion(member);
  all.pitch = member.motion.turns() ? member.outline.pitch() : member.outline.shift.norm();
  all.islands = member.outline.count > 1 &&
                (member.outline.period.front().first() - member.outline.period.back().last()).norm() < 1e-9 * all.pitch;
  all.least_label = math::kInfinite;
  all.greatest_label = -all.least_label;
  const auto& period = member.outline.period;
  for (const curve::Segment& segment : period) {
    Sampled s;
    s.segment = &segment;
    s.sag = 0;
    const int samples = samples_of(segment);
    for (int i = 0; i <= samples; ++i) {
      const double t = i == samples ? segment.to : segment.from + (segment.to - segment.from) * i / samples;
      s.at.push_back(t);
      s.own.push_back(segment.jet(t));
      const ChartJet c = own.chart(s.own.back(), 0);
      s.label.push_back(c.label);
      s.place.push_back(c.place);
      if (i > 0) s.sag = std::max(s.sag, curve::chord_deviation(segment, s.at[i - 1], t));
    }
    for (std::size_t i = 0; i + 1 < s.label.size(); ++i)
      s.lean.push_back(std::abs((s.place[i + 1] - s.place[i]) / (s.label[i + 1] - s.label[i])));
    s.level = is_level(s.label);
    s.cusp = s.own.front().d1.squaredNorm() == 0 || s.own.back().d1.squaredNorm() == 0;
    s.middle = 0.5 * (s.own.front().p + s.own.back().p);
    s.radius = 0;
    for (const curve::Jet& j : s.own)
      s.radius = std::max(s.radius, (j.p - s.middle).norm());
    s.radius += s.sag;
    all.least_label = std::min(all.least_label, *std::min_element(s.label.begin(), s.label.end()));
    all.greatest_label = std::max(all.greatest_label, *std::max_element(s.label.begin(), s.label.end()));
    all.segments.push_back(std::move(s));
  }
  all.middle = 0.5 * (all.segments.front().middle + all.segments.back().middle);
  all.radius = 0;
  for (const Sampled& s : all.segments)
    all.radius = std::max(all.radius, (s.middle - all.middle).norm() + s.radius);
  // A knee lies within a flank that goes on beyond it the same way, outwards or inwards; where it turns back is the
  // tooth's point.
  for (std::size_t i = 0; i + 1 < all.segments.size(); ++i) {
    Sampled &a = all.segments[i], &b = all.segments[i + 1];
    const curve::Segment &s = *a.segment, &t = *b.segment;
    if (s.role != curve::Role::flank || t.role != curve::Role::flank ||
        (s.last() - t.first()).norm() >= 1e-9 * (1 + s.last().norm()))
      continue;
    const bool goes_on = (a.label.back() - a.label.front()) * (b.label.back() - b.label.front()) > 0;
    a.knee_after = b.knee_before = goes_on && s.tangent(s.to).dot(t.tangent(t.from)) > 0;
  }
  for (std::size_t i = 0; i < all.segments.size(); ++i) {
    const auto& label = all.segments[i].label;
    const auto [low, high] = std::minmax_element(label.begin(), label.end());
    const double off =
        member.outline.clockwise ? *low - all.least_label : all.greatest_label - *high;  // a ring's crest is inside
    if (off <= 1e-9 * std::max(1.0, std::abs(all.greatest_label))) all.crest.push_back(i);
  }
  return all;
}

}  // namespace palio::roll
