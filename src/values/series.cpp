// What is bought or agreed on.
#include <algorithm>
#include <cmath>

#include "palio/values/keys.hpp"

namespace palio::job {

Series standard_series(std::string_view key_path) {
  // ISO 54:1996, its first and second series; below 1 as instrument makers have them.
  if (key_path == "module") {
    return {{0.1, 0.12, 0.16, 0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.8, 1,  1.25, 1.5, 2,
             2.5, 3,    4,    5,   6,    8,   10,  12,  16,  20,  25, 32,   40,  50},
            {0.15, 0.35, 0.45, 0.7, 0.75, 0.9, 1.125, 1.375, 1.75, 2.25, 2.75, 3.5,
             4.5,  5.5,  7,    9,   11,   14,  18,    22,    28,   36,   45}};
  }
  if (key_path == "diametral_pitch")
    return {{1, 2, 2.5, 3, 4, 6, 8, 10, 12, 16, 20, 24, 32, 40, 48, 64, 80, 96, 120}, {5, 14, 18, 28, 36, 56, 72}};
  if (key_path == "pressure_angle") return {{20}, {14.5, 25}};
  return {};
}

std::vector<double> Series::all() const {
  std::vector<double> both = preferred;
  both.insert(both.end(), second.begin(), second.end());
  std::sort(both.begin(), both.end());
  return both;
}

std::optional<double> Series::nearest(double number) const {
  const std::vector<double> both = all();
  const auto it = std::min_element(both.begin(), both.end(),
                                   [&](double a, double b) { return std::abs(a - number) < std::abs(b - number); });
  return it == both.end() ? std::nullopt : std::optional(*it);
}

}  // namespace palio::job
