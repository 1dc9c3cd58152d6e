// How much room text takes.
#pragma once

#include <algorithm>
#include <string>
#include <string_view>

namespace palio {

/// Whether a byte of UTF-8 text goes on with the character before it.
inline bool continues(char byte) { return (static_cast<unsigned char>(byte) & 0xC0) == 0x80; }

/// Columns that a terminal takes for UTF-8 text without wide characters: as many as it has characters.
inline std::size_t columns(std::string_view text) {
  return text.size() - static_cast<std::size_t>(std::count_if(text.begin(), text.end(), continues));
}

/// What has more than so many columns ends after them in dots.
inline std::string shortened(const std::string& text, std::size_t most) {
  std::size_t end = 0, count = 0;
  for (; end < text.size() && count < most; ++count) {
    ++end;
    while (end < text.size() && continues(text[end]))
      ++end;
  }
  return end == text.size() ? text : text.substr(0, end) + "…";
}

}  // namespace palio
