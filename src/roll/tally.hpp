// What the positions of a roll add up to. Private to the roll.
#pragma once

#include <functional>
#include <string>

#include "palio/math/extent.hpp"
#include "palio/roll/roll.hpp"

namespace palio::roll {

using math::kInfinite;

/// A contact in words: what of whom touches what of whom, and how far out.
std::string describe(const Contact& c, const Member& driver, const Member& driven);

class Tally {
 public:
  /// \param describe  a contact in words
  Tally(std::string driver, std::string driven, const Law& law, std::function<std::string(const Contact&)> describe)
      : driver_(std::move(driver)),
        driven_(std::move(driven)),
        law_(law),
        describe_(std::move(describe)),
        depth_(law.binding()) {}

  /// \param nominal  the driven's coordinate by the law
  void add(const Position& p, double nominal, bool drives_upper);
  /// Fills in all but positions, means and lost share; those two must be there.
  void finish(Result& result) const;

 private:
  template <class Words>
  void overlap(double depth, const Position& p, Words where);

  std::string driver_, driven_;
  const Law& law_;
  std::function<std::string(const Contact&)> describe_;
  math::Extent error_, play_;
  double clearance_ = kInfinite, depth_;
  bool jams_ = false, open_ = false;  // open: at some position nothing stands in the way
  int pairs_min_ = std::numeric_limits<int>::max(), pairs_max_ = 0;
  std::optional<Result::Worst> worst_;
};

}  // namespace palio::roll
