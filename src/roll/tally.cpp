#include "tally.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace palio::roll {
template <class Words>
void Tally::overlap(double depth, const Position& p, Words where) {
  if (jams_ && depth <= depth_) return;
  jams_ = true;
  depth_ = depth;
  worst_ = Result::Worst{p.driver, where()};
}

void Tally::add(const Position& p, double nominal, bool drives_upper) {
  const int pairs = drives_upper ? p.pairs_upper : p.pairs_lower;
  pairs_min_ = std::min(pairs_min_, pairs);
  pairs_max_ = std::max(pairs_max_, pairs);
  if (p.upper) error_.hold(p.upper->driven - nominal - law_.theoretical_play / 2);
  if (p.lower) error_.hold(p.lower->driven - nominal + law_.theoretical_play / 2);
  if (p.play()) {
    play_.hold(*p.play());
    // Overlapping teeth: at the best coordinate both sides overlap alike, by the play shared in the ratio of the arms.
    const double u = p.upper->arm, l = p.lower->arm;
    if (-*p.play() * std::min(u, l) > law_.binding()) {
      overlap(-*p.play() * u * l / (u + l), p, [&] { return describe_(*p.upper) + "; and " + describe_(*p.lower); });
    }
  } else {
    open_ = true;
  }
  const double clearance = std::min(p.tip_clearance[0], p.tip_clearance[1]);
  clearance_ = std::min(clearance_, clearance);
  if (-clearance > law_.binding()) {
    const bool by_driver = p.tip_clearance[0] <= p.tip_clearance[1];
    const std::string &tip = by_driver ? driver_ : driven_, &root = by_driver ? driven_ : driver_;
    overlap(-clearance, p, [&] { return fmt::format("tip of {} in the root of {}", tip, root); });
  }
}

void Tally::finish(Result& result) const {
  result.pairs_min = pairs_min_, result.pairs_max = pairs_max_;
  if (!error_.empty()) result.transmission_error = Range{error_.low(), error_.high()};
  if (!play_.empty() && !open_) result.play = Range{play_.low(), play_.high()};
  result.min_tip_root_clearance = clearance_;
  result.max_overlap = jams_ ? depth_ : 0;
  result.worst = worst_;
  // A share below the bisection's own resolution is a change of tooth pair, not a loss.
  result.verdict = jams_ ? Verdict::jams : result.lost_share > 1e-9 ? Verdict::loses_contact : Verdict::meshes;
}

}  // namespace palio::roll
