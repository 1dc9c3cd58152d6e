// When the pairs of teeth touch. Private to the roll.
#pragma once

#include <functional>
#include <vector>

#include "contact.hpp"

namespace palio::roll {

using ToothPair = std::pair<int, int>;
/// Two teeth that touch, and how far the contact is from the end of its curves (Contact::to_end; 0: not known).
struct Touching {
  ToothPair pair;
  double to_end;
};
std::vector<Touching> touching_pairs(const std::vector<Contact>& touching);

/// Where a tooth of the driver touches some flank, as intervals of its place (all teeth are alike, so one tells all).
class Engagement {
 public:
  struct Interval {
    double from, to;
  };

  /// \param at        coordinates of the positions over one period, both ends included
  /// \param touching  the pairs that touch there
  /// \param place     of a driver's tooth, counted through from tooth to tooth, at a coordinate
  /// \param touches   the pairs at any other coordinate: where a contact enters or leaves is bracketed
  Engagement(const std::vector<double>& at, const std::vector<std::vector<Touching>>& touching,
             const std::function<double(int, double)>& place,
             const std::function<std::vector<Touching>(double)>& touches);

  /// The same when each place is looked at together with all places from `from` to `to` beside it.
  Engagement widened(double from, double to) const;

  double mean() const;        ///< teeth that touch, on average over the period
  double lost_share() const;  ///< share of the period in which none does
  const std::vector<Interval>& intervals() const noexcept { return intervals_; }

 private:
  Engagement() = default;
  void merge();
  std::vector<Interval> intervals_;
  double period_ = 0;
};

}  // namespace palio::roll
