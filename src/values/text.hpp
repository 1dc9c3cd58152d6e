// Words of a line. Private to the values.
#pragma once

#include <string>
#include <vector>

namespace palio::job {

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

}  // namespace palio::job
