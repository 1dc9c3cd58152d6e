// Columns of texts for a terminal. Private to solve.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "palio/utf8.hpp"

namespace palio::solve {

inline std::string right(const std::string& text, std::size_t width) {
  const std::size_t have = columns(text);
  return have >= width ? text : std::string(width - have, ' ') + text;
}

/// Columns of texts, each as wide as its widest.
inline std::string table(const std::vector<std::vector<std::string>>& rows) {
  std::vector<std::size_t> widths;
  for (const auto& row : rows) {
    widths.resize(std::max(widths.size(), row.size()));
    for (std::size_t c = 0; c < row.size(); ++c)
      widths[c] = std::max(widths[c], columns(row[c]));
  }
  std::string text;
  for (const auto& row : rows) {
    for (std::size_t c = 0; c < row.size(); ++c)
      text += "  " + right(row[c], widths[c]);
    text += "\n";
  }
  return text;
}

/// A miss in units of its uncertainty: "+1.25 σ", without a sign that rounding left.
inline std::string in_sigmas(double sigmas) {
  return fmt::format("{:+.2f} σ", std::abs(sigmas) < 0.005 ? 0.0 : sigmas);
}

/// "a, b and c".
inline std::string listed(const std::vector<std::string>& names, const char* last = " and ") {
  std::string text;
  for (std::size_t i = 0; i < names.size(); ++i)
    text += (i == 0 ? "" : i + 1 == names.size() ? last : ", ") + names[i];
  return text;
}

}  // namespace palio::solve
