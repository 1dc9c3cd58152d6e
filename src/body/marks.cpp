#include "marks.hpp"

#include <array>

namespace palio::body {
namespace {

/// Rows from the top, three bits each, the left one first.
std::array<int, 5> letter(char c) {
  switch (c) {
    case '0': return {7, 5, 5, 5, 7};
    case '1': return {2, 6, 2, 2, 7};
    case '2': return {7, 1, 7, 4, 7};
    case '3': return {7, 1, 3, 1, 7};
    case '4': return {5, 5, 7, 1, 1};
    case '5': return {7, 4, 7, 1, 7};
    case '6': return {7, 4, 7, 5, 7};
    case '7': return {7, 1, 2, 2, 2};
    case '8': return {7, 5, 7, 5, 7};
    case '9': return {7, 5, 7, 1, 7};
    case '.': return {0, 0, 0, 0, 2};
    case 'm': return {0, 0, 7, 7, 5};
    case 'z': return {0, 7, 1, 2, 7};
    default: return {0, 0, 0, 0, 0};
  }
}

}  // namespace

std::vector<Dot> dotted_text(const std::string& text, double radius, double height, double middle) {
  const double grid = height / 4.6;  // five dots high, each 0.6 of the grid wide
  const double length = grid * (4.0 * static_cast<double>(text.size()) - 1);
  std::vector<Dot> dots;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const std::array<int, 5> rows = letter(text[i]);
    for (int row = 0; row < 5; ++row) {
      for (int column = 0; column < 3; ++column) {
        if (!(rows[static_cast<std::size_t>(row)] >> (2 - column) & 1)) continue;
        const double along = grid * (4.0 * static_cast<double>(i) + column + 0.5) - length / 2, up = grid * (2 - row);
        // Clockwise along the circle as one reads, so that the feet of the letters look at the axis.
        dots.push_back({from_polar(radius + up, middle - along / radius), 0.6 * grid});
      }
    }
  }
  return dots;
}

}  // namespace palio::body
