// Words of a line, beginnings of a text, digits of a number. Private.
#pragma once

#include <algorithm>
#include <cmath>
#include <string>
#include <string_view>
#include <vector>

namespace palio {

/// Without the blanks around it.
inline std::string trimmed(const std::string& text) {
  const auto first = text.find_first_not_of(" \t");
  return first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(" \t") + 1 - first);
}

/// The parts between the marks, without blanks around them.
inline std::vector<std::string> split_at(const std::string& text, char mark) {
  std::vector<std::string> parts;
  std::size_t from = 0;
  for (auto at = text.find(mark); at != std::string::npos; at = text.find(mark, from)) {
    parts.push_back(trimmed(text.substr(from, at - from)));
    from = at + 1;
  }
  parts.push_back(trimmed(text.substr(from)));
  return parts;
}

/// So many places behind the point as a number's doubt leaves sense in, and one more; `most` where there is none.
inline int decimals(double doubt, int most) {
  return doubt > 0 ? std::clamp(static_cast<int>(std::ceil(-std::log10(doubt))) + 1, 0, most) : most;
}

/// Without a byte-order mark.
inline std::string_view unmarked(std::string_view text) {
  return text.substr(0, 3) == "\xEF\xBB\xBF" ? text.substr(3) : text;
}

/// Whether a job's text is JSON by how it begins.
inline bool begins_json(std::string_view text) {
  const auto first = text.find_first_not_of(" \t\r\n");
  return first != std::string_view::npos && text[first] == '{';
}

}  // namespace palio
