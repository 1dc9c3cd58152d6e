#include "unknown.hpp"

#include <algorithm>
#include <cmath>

namespace palio::solve {
namespace {

// Where a key has no bounds of its own, numbers are sought between these [mm, degrees, plain].
constexpr double kLeastSize = 1e-3, kGreatestSize = 1e4, kGreatestLength = 100, kGreatestAngle = 360, kGreatest = 1e3;
/// Signed lengths are sought evenly up to here and evenly in their logarithm beyond [mm].
constexpr double kEven = 1e-2;

}  // namespace

Unknown::Unknown(const job::Sought& sought, job::Units units, std::optional<double> usual)
    : path_(sought.path),
      whole_(sought.whole()),
      length_(sought.key && job::is_length(sought.key->type)),
      least_(sought.least),
      greatest_(sought.greatest),
      among_(sought.among),
      usual_(usual) {
  std::sort(among_.begin(), among_.end());
  among_.erase(std::unique(among_.begin(), among_.end()), among_.end());
  if (!among_.empty()) {
    least_ = among_.front(), greatest_ = among_.back();
    return;
  }
  if (whole_) {
    for (double n = std::ceil(least_); n <= greatest_; ++n)
      among_.push_back(n);
    return;
  }
  const job::Type type = sought.key ? sought.key->type : job::Type::plain;
  const double unit = length_ ? job::mm_per(units) : 1;
  const bool from_nothing = sought.key && sought.key->least == 0.0 && !sought.key->above_least;
  if (length_ && (least_ < 0 || from_nothing) && !sought.ranged) {
    scale_ = Scale::sinh;
    const double most = least_ < 0 ? kGreatestLength : kGreatestSize;
    least_ = std::max(least_, -most / unit), greatest_ = std::min(greatest_, most / unit);
    return;
  }
  if (type == job::Type::angle) {
    least_ = std::max(least_, -kGreatestAngle), greatest_ = std::min(greatest_, kGreatestAngle);
    return;
  }
  const bool size = least_ >= 0 && (length_ || type == job::Type::millimetres || type == job::Type::per_inch);
  if (size && !sought.ranged) {
    scale_ = Scale::log;
    least_ = std::max(least_, kLeastSize / unit), greatest_ = std::min(greatest_, kGreatestSize / unit);
    return;
  }
  least_ = std::max(least_, -kGreatest), greatest_ = std::min(greatest_, kGreatest);
}

double Unknown::number(double u) const {
  if (u <= 0) return least_;
  if (u >= 1) return greatest_;
  switch (scale_) {
    case Scale::plain: return least_ + (greatest_ - least_) * u;
    case Scale::log: return least_ * std::pow(greatest_ / least_, u);
    case Scale::sinh: {
      const double lo = std::asinh(least_ / kEven), hi = std::asinh(greatest_ / kEven);
      return kEven * std::sinh(lo + (hi - lo) * u);
    }
  }
  return least_;
}

double Unknown::coordinate(double number) const {
  if (greatest_ <= least_) return 0;
  switch (scale_) {
    case Scale::plain: return (number - least_) / (greatest_ - least_);
    case Scale::log: return std::log(number / least_) / std::log(greatest_ / least_);
    case Scale::sinh: {
      const double lo = std::asinh(least_ / kEven), hi = std::asinh(greatest_ / kEven);
      return (std::asinh(number / kEven) - lo) / (hi - lo);
    }
  }
  return 0;
}

}  // namespace palio::solve
