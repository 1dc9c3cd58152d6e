#include "samples.hpp"

#include <algorithm>
#include <cmath>

namespace palio::foreign {

std::vector<Sample> corners(const Loop& loop) {
  const std::size_t n = loop.points.size();
  std::vector<Sample> all(n);
  for (std::size_t i = 0; i < n; ++i) {
    all[i].p = loop.points[i];
    const double half = 0.5 * (loop.points[(i + 1) % n] - loop.points[i]).norm();
    all[i].weight += half, all[(i + 1) % n].weight += half;
  }
  return all;
}

std::vector<Sample> samples_of(const Loop& loop, int each, double apart) {
  constexpr double kMost = 400000;
  const std::size_t n = loop.points.size();
  double length = 0;
  for (std::size_t i = 0; i < n; ++i)
    length += (loop.points[(i + 1) % n] - loop.points[i]).norm();
  apart = std::max(apart, length / kMost);
  std::vector<Sample> all;
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 &a = loop.points[i], way = loop.points[(i + 1) % n] - a;
    // Chords shorter than that hide little of a curve.
    const double chords = way.norm() / apart;
    const int count =
        std::max(1, static_cast<int>(std::ceil(chords < 1 ? each * chords : std::max<double>(each, chords))));
    for (int k = 0; k < count; ++k)
      all.push_back({a + way * (k + 0.5) / count, way.norm() / count});
  }
  return all;
}

}  // namespace palio::foreign
