#include "palio/pair/allowances.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "palio/math/tolerance.hpp"

namespace palio::pair {
namespace {

/// Gears that hang together by demands have one freedom at most: along δ_a + δ_b = total one gear's δ gives all others,
/// δ = base ± c, and a loop of an odd number of pairs fixes c. So the best division is a number in an interval.
class Division {
 public:
  Division(std::size_t gears, const std::vector<Demand>& demands)
      : demands_(demands), of_gear_(gears), members_(gears) {
    for (std::size_t j = 0; j < demands.size(); ++j) {
      of_gear_[demands[j].driver].push_back(j);
      of_gear_[demands[j].driven].push_back(j);
      size_ = std::max(size_, std::abs(demands[j].total));
    }
    result_.thinning.assign(gears, 0.0);
  }

  Allowances divided() {
    for (std::size_t g = 0; g < members_.size(); ++g) {
      if (!members_[g].reached && !of_gear_[g].empty()) divide_from(g);
    }
    std::sort(result_.unmet.begin(), result_.unmet.end());
    result_.unmet.erase(std::unique(result_.unmet.begin(), result_.unmet.end()), result_.unmet.end());
    return std::move(result_);
  }

 private:
  struct Member {
    bool reached = false;
    double base = 0, sign = 1;           // δ = base + sign c
    std::optional<std::size_t> by = {};  // the demand it was reached by; none: the first
    std::size_t steps = 0;               // from the first
  };

  /// Sums around a loop gather the rounding of all its pairs.
  bool differ(double a, double b) const { return std::abs(a - b) > 100 * math::kRounding * std::max(1.0, size_); }
  std::size_t other(std::size_t demand, std::size_t gear) const {
    return demands_[demand].driver == gear ? demands_[demand].driven : demands_[demand].driver;
  }

  /// All demands by which two gears hang together are said not to hold.
  void refuse_between(std::size_t a, std::size_t b) {
    while (a != b) {
      std::size_t& further = members_[a].steps >= members_[b].steps ? a : b;
      const std::size_t demand = *members_[further].by;
      result_.unmet.push_back(demand);
      further = other(demand, further);
    }
  }

  void divide_from(std::size_t first) {
    std::vector<std::size_t> found{first};
    std::optional<double> fixed;  // c, by a loop
    members_[first].reached = true;
    for (std::size_t next = 0; next < found.size(); ++next) {
      const std::size_t gear = found[next];
      for (const std::size_t j : of_gear_[gear]) {
        const std::size_t mate = other(j, gear);
        if (!members_[mate].reached) {
          members_[mate] = {true, demands_[j].total - members_[gear].base, -members_[gear].sign, j,
                            members_[gear].steps + 1};
          found.push_back(mate);
        }
      }
    }
    for (const std::size_t gear : found) {
      for (const std::size_t j : of_gear_[gear]) {
        if (demands_[j].driver != gear) continue;
        const Member &a = members_[gear], &b = members_[demands_[j].driven];
        const double lacks = demands_[j].total - a.base - b.base;  // (sign_a + sign_b) c must come to it
        const bool closes = a.sign == b.sign && !fixed;
        if (closes) fixed = lacks / (2 * a.sign);
        if (differ(a.sign == b.sign ? 2 * a.sign * *fixed : 0.0, lacks)) {
          result_.unmet.push_back(j);
          refuse_between(gear, demands_[j].driven);
        }
      }
    }
    place(found, fixed);
  }

  /// The c nearest to all wishes, Σ (base + sign c − wanted)² least, among those that leave no tooth thicker.
  void place(const std::vector<std::size_t>& found, const std::optional<double>& fixed) {
    double sum = 0, ends = 0;
    std::optional<std::size_t> lowest, highest;  // the gears that bound c from below and above
    const auto bound = [&](std::size_t gear) { return -members_[gear].sign * members_[gear].base; };
    for (const std::size_t gear : found) {
      const Member& m = members_[gear];
      for (const std::size_t j : of_gear_[gear]) {
        const double share = demands_[j].driver == gear ? demands_[j].driver_share : 1 - demands_[j].driver_share;
        sum += m.sign * (demands_[j].total * share - m.base);
        ends += 1;
      }
      std::optional<std::size_t>& limit = m.sign > 0 ? lowest : highest;
      if (!limit || (m.sign > 0 ? bound(gear) > bound(*limit) : bound(gear) < bound(*limit))) limit = gear;
    }
    double c = fixed.value_or(sum / ends);
    if (!fixed && highest) c = std::min(c, bound(*highest));
    if (!fixed && lowest) c = std::max(c, bound(*lowest));
    for (const std::size_t gear : found) {
      const Member& m = members_[gear];
      const double thinning = m.base + m.sign * c;
      if (thinning < 0 && differ(thinning, 0)) {
        // It would have to grow: between it and the gear that keeps it from less the demands do not hold together.
        if (!fixed)
          refuse_between(*lowest, *highest);
        else
          result_.unmet.insert(result_.unmet.end(), of_gear_[gear].begin(), of_gear_[gear].end());
      }
      result_.thinning[gear] = std::max(0.0, thinning);
    }
  }

  const std::vector<Demand>& demands_;
  std::vector<std::vector<std::size_t>> of_gear_;  // demands of each gear
  std::vector<Member> members_;
  double size_ = 0;
  Allowances result_;
};

}  // namespace

Allowances divide_thinning(std::size_t gears, const std::vector<Demand>& demands) {
  return Division(gears, demands).divided();
}

}  // namespace palio::pair
