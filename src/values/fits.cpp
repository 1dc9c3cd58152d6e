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
std::string_view shaft_fits() { return "d9 e8 f7 f8 g6 g7 h6 h7 h8 h9 h10 h11 js6 js7 k6 k7 m6 m7 n6 n7 p6 p7"; }

std::vector<double> fit_sizes() { return {kRanges.begin(), kRanges.end()}; }

namespace {

constexpr double kMicrometre = 1e-3;  // [mm]

/// A symbol taken apart, at a size that the table has.
struct Symbol {
  std::string_view letters;
  int grade = 0;
  double width = 0;       // of the grade [µm]
  std::size_t range = 0;  // of sizes
};

std::optional<Symbol> symbol_of(std::string_view symbol, double diameter) {
  Symbol s;
  const std::size_t digits = std::min(symbol.find_first_of("0123456789"), symbol.size());
  s.letters = symbol.substr(0, digits);
  std::from_chars(symbol.data() + digits, symbol.data() + symbol.size(), s.grade);
  const Row* width = widths(s.grade);
  if (!width || !(diameter > 0) || diameter > kRanges.back()) return std::nullopt;
  s.range = static_cast<std::size_t>(std::lower_bound(kRanges.begin(), kRanges.end(), diameter) - kRanges.begin());
  s.width = (*width)[s.range];
  return s;
}

FitLimits from(double least, double width) { return {least * kMicrometre, (least + width) * kMicrometre}; }

}  // namespace

std::optional<FitLimits> hole_limits(std::string_view symbol, double diameter) {
  const auto s = symbol_of(symbol, diameter);
  if (!s) return std::nullopt;
  if (s->letters == "JS") return from(-s->width / 2, s->width);
  if (const Row* wider = amounts(kWider, s->letters)) return from((*wider)[s->range], s->width);
  const Row *narrower = amounts(kNarrower, s->letters), *finer = widths(s->grade - 1);
  if (!narrower || !finer) return std::nullopt;
  // The same fit in hole and shaft: what the next finer grade is narrower by is added, from 3 mm up.
  const double added = s->range > 0 ? s->width - (*finer)[s->range] : 0;
  return from(-(*narrower)[s->range] + added - s->width, s->width);
}

std::optional<FitLimits> shaft_limits(std::string_view symbol, double diameter) {
  const auto s = symbol_of(symbol, diameter);
  if (!s || std::any_of(s->letters.begin(), s->letters.end(), [](char c) { return c < 'a' || c > 'z'; }))
    return std::nullopt;
  std::string of_hole(s->letters);
  for (char& c : of_hole)
    c = static_cast<char>(c - 'a' + 'A');
  if (of_hole == "JS") return from(-s->width / 2, s->width);
  if (const Row* thinner = amounts(kWider, of_hole)) return from(-(*thinner)[s->range] - s->width, s->width);
  if (const Row* thicker = amounts(kNarrower, of_hole)) return from((*thicker)[s->range], s->width);
  return std::nullopt;
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
