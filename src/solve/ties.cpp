#include "ties.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

namespace palio::solve {
namespace {

using job::Settings;

constexpr double kParallel = 1e-4;  // degrees: below it a pair is no crossed one

/// The number at a path as a sum over the unknowns: itself one, or given. None where it is neither.
class Sums {
 public:
  explicit Sums(const job::Tables& tables) : tables_(tables) {}

  std::optional<Linear> at(const Settings& settings, const std::string& section, const std::string& key) const {
    const std::size_t count = tables_.sought.size();
    for (std::size_t i = 0; i < count; ++i) {
      if (tables_.sought[i].path != section + "." + settings.name + "." + key) continue;
      Linear one{0, std::vector<double>(count, 0)};
      one.slopes[i] = 1;
      return one;
    }
    const auto given = settings.given(key);
    if (!given) return std::nullopt;
    return Linear{*given, std::vector<double>(count, 0)};
  }

 private:
  const job::Tables& tables_;
};

bool open(const Linear& l) {
  return std::any_of(l.slopes.begin(), l.slopes.end(), [](double s) { return s != 0; });
}

Linear sum(const Linear& a, double factor, const Linear& b) {
  Linear all = a;
  all.constant += factor * b.constant;
  for (std::size_t i = 0; i < all.slopes.size(); ++i)
    all.slopes[i] += factor * b.slopes[i];
  return all;
}

/// +1 for teeth that rise to the right.
double sense(const Settings& gear) { return gear.text("hand") == "left" ? -1 : 1; }

}  // namespace

Ties::Ties(const job::Tables& tables) : are_(tables.sought.size()), tied_(tables.sought.size(), false) {
  const std::size_t count = are_.size();
  for (std::size_t i = 0; i < count; ++i) {
    are_[i].slopes.assign(count, 0);
    are_[i].slopes[i] = 1;
  }
  const Sums numbers(tables);
  for (const Settings& pair : tables.pairs) {
    const Settings *driver = tables.gear(pair.text("driver")), *driven = tables.gear(pair.text("driven"));
    if (!driver || !driven) continue;
    for (const char* key : {"module", "diametral_pitch", "pressure_angle"}) {
      const auto a = numbers.at(*driver, "gear", key), b = numbers.at(*driven, "gear", key);
      if (a && b && (open(*a) || open(*b))) hold(sum(*a, -1, *b));
    }
    const auto a = numbers.at(*driver, "gear", "helix_angle"), b = numbers.at(*driven, "gear", "helix_angle");
    if (!a || !b || !(open(*a) || open(*b))) continue;
    const auto shaft = numbers.at(pair, "pair", "shaft_angle");
    if (shaft && (open(*shaft) || std::abs(shaft->constant) > kParallel)) {
      Linear zero{0, std::vector<double>(count, 0)};
      zero = sum(sum(sum(zero, sense(*driver), *a), sense(*driven), *b), -1, *shaft);
      hold(zero);
    } else {
      hold(sum(*a, -1, *b));
    }
  }
}

void Ties::hold(Linear zero) {
  // In those that are still free alone.
  Linear bare{zero.constant, std::vector<double>(zero.slopes.size(), 0)};
  for (std::size_t i = 0; i < zero.slopes.size(); ++i)
    bare = sum(bare, zero.slopes[i], are_[i]);
  constexpr double kNothing = 1e-12;
  std::size_t last = bare.slopes.size();
  for (std::size_t i = 0; i < bare.slopes.size(); ++i) {
    if (std::abs(bare.slopes[i]) > kNothing) last = i;
  }
  if (last == bare.slopes.size()) return;  // it holds already, or never: the pair tells it
  Linear is{-bare.constant / bare.slopes[last], std::vector<double>(bare.slopes.size(), 0)};
  for (std::size_t i = 0; i < bare.slopes.size(); ++i) {
    if (i != last) is.slopes[i] = -bare.slopes[i] / bare.slopes[last];
  }
  tied_[last] = true;
  for (Linear& l : are_) {
    const double slope = l.slopes[last];
    if (slope == 0) continue;
    l.slopes[last] = 0;
    l = sum(l, slope, is);
  }
}

void Ties::complete(std::vector<double>& numbers) const {
  for (std::size_t i = 0; i < are_.size(); ++i) {
    if (!tied_[i]) continue;
    double value = are_[i].constant;
    for (std::size_t k = 0; k < numbers.size(); ++k) {
      if (!tied_[k]) value += are_[i].slopes[k] * numbers[k];
    }
    numbers[i] = value;
  }
}

}  // namespace palio::solve
