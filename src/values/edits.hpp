// Changes to a job's text in its places. Private to the values.
#pragma once

#include <algorithm>
#include <string>
#include <string_view>
#include <vector>

#include "palio/utf8.hpp"

namespace palio::job {

/// A stretch of the text, and what is to stand there.
struct Edit {
  std::size_t from, to;
  std::string text;
};

/// Byte places of lines, and of columns counted in characters.
class Places {
 public:
  explicit Places(std::string_view text) : text_(text) {
    starts_.push_back(0);
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (text[i] == '\n') starts_.push_back(i + 1);
    }
  }
  /// \param line, column  from 1
  std::size_t at(std::size_t line, std::size_t column) const {
    std::size_t i = starts_[line - 1];
    for (std::size_t c = 1; c < column && i < text_.size(); ++c) {
      ++i;
      while (i < text_.size() && continues(text_[i]))
        ++i;
    }
    return i;
  }

 private:
  std::string_view text_;
  std::vector<std::size_t> starts_;
};

/// The text with all changes made; none may lie within another.
inline std::string edited(std::string text, std::vector<Edit> edits) {
  std::sort(edits.begin(), edits.end(), [](const Edit& a, const Edit& b) { return a.from > b.from; });
  for (const Edit& e : edits)
    text.replace(e.from, e.to - e.from, e.text);
  return text;
}

}  // namespace palio::job
