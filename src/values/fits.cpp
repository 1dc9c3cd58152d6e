#include "palio/values/fits.hpp"

#include <algorithm>
#include <array>
#include <charconv>

namespace palio::job {
namespace {

/// A number for each range of sizes [µm].
using Row = std::array<double, 8>;

/// Up to and with [mm].
constexpr Row kRanges{3, 6, 10, 18, 30, 50, 80, 120};

struct Grade {
  int number;
  Row width;
};
constexpr std::array kGrades{
    Grade{6, {6, 8, 9, 11, 13, 16, 19, 22}},        Grade{7, {10, 12, 15, 18, 21, 25, 30, 35}},
    Grade{8, {14, 18, 22, 27, 33, 39, 46, 54}},     Grade{9, {25, 30, 36, 43, 52, 62, 74, 87}},
    Grade{10, {40, 48, 58, 70, 84, 100, 120, 140}}, Grade{11, {60, 75, 90, 110, 130, 160, 190, 220}},
};

/// How far the limit that lies nearer to the nominal size is from it: of holes that are wider the lower one, of shafts
/// that are thicker too.
struct Deviation {
  std::string_view letters;
  Row amount;
};
constexpr std::array kWider{
    Deviation{"D", {20, 30, 40, 50, 65, 80, 100, 120}}, Deviation{"E", {14, 20, 25, 32, 40, 50, 60, 72}},
    Deviation{"F", {6, 10, 13, 16, 20, 25, 30, 36}},    Deviation{"G", {2, 4, 5, 6, 7, 9, 10, 12}},
    Deviation{"H", {0, 0, 0, 0, 0, 0, 0, 0}},
};
constexpr std::array kNarrower{
    Deviation{"K", {0, 1, 1, 1, 2, 2, 2, 3}},
    Deviation{"M", {2, 4, 6, 7, 8, 9, 11, 13}},
    Deviation{"N", {4, 8, 10, 12, 15, 17, 20, 23}},
    Deviation{"P", {6, 12, 15, 18, 22, 26, 32, 37}},
};

template <class All>
const Row* amounts(const All& all, std::string_view letters) {
  for (const Deviation& d : all) {
    if (d.letters == letters) return &d.amount;
  }
  return nullptr;
}

const Row* widths(int grade) {
  for (const Grade& g : kGrades) {
    if (g.number == grade) return &g.width;
  }
  return nullptr;
}

}  // namespace

std::string_view hole_fits() { return "D10 E9 F7 F8 G6 G7 H6 H7 H8 H9 H10 H11 JS7 K7 M7 N7 P7"; }

std::vector<double> fit_sizes() { return {kRanges.begin(), kRanges.end()}; }

std::optional<FitLimits> hole_limits(std::string_view symbol, double diameter) {
  const std::size_t digits = std::min(symbol.find_first_of("0123456789"), symbol.size());
  const std::string_view letters = symbol.substr(0, digits);
  int grade = 0;
  std::from_chars(symbol.data() + digits, symbol.data() + symbol.size(), grade);
  const Row* width = widths(grade);
  if (!width || !(diameter > 0) || diameter > kRanges.back()) return std::nullopt;
  const auto range =
      static_cast<std::size_t>(std::lower_bound(kRanges.begin(), kRanges.end(), diameter) - kRanges.begin());
  const double it = (*width)[range];
  double least = 0;  // [µm]
  if (letters == "JS") {
    least = -it / 2;
  } else if (const Row* wider = amounts(kWider, letters)) {
    least = (*wider)[range];
  } else if (const Row* narrower = amounts(kNarrower, letters)) {
    // The same fit in hole and shaft: what the next finer grade is narrower by is added, from 3 mm up.
    const Row* finer = widths(grade - 1);
    if (!finer) return std::nullopt;
    const double added = range > 0 ? it - (*finer)[range] : 0;
    least = -(*narrower)[range] + added - it;
  } else {
    return std::nullopt;
  }
  constexpr double kMicrometre = 1e-3;
  return FitLimits{least * kMicrometre, (least + it) * kMicrometre};
}

std::optional<std::pair<std::string, std::string>> size_and_fit(std::string_view said) {
  const std::size_t blank = said.rfind(' ');
  if (blank == std::string_view::npos || blank == 0) return std::nullopt;
  const std::string_view symbol = said.substr(blank + 1);
  constexpr double kAnySize = 30;  // that the table has
  if (!hole_limits(symbol, kAnySize)) return std::nullopt;
  return std::pair(std::string(said.substr(0, blank)), std::string(symbol));
}

}  // namespace palio::job
