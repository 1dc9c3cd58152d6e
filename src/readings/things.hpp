// What readings are of, by name. Private to the readings.
#pragma once

#include <string>
#include <string_view>
#include <utility>

#include "palio/readings/reading.hpp"

namespace palio::job {

inline std::string_view of_word(ReadingOf of) {
  switch (of) {
    case ReadingOf::gear: return "gear";
    case ReadingOf::pair: return "pair";
    case ReadingOf::frame: return "frame";
    case ReadingOf::reducer: return "reducer";
  }
  return "";
}

/// The thing that a path names ("gear.motor_pinion"), and the word at its end.
inline std::pair<std::string, std::string> thing_and_word(const std::string& word) {
  const auto first = word.find('.'), second = first == std::string::npos ? first : word.find('.', first + 1);
  const std::string head = word.substr(0, first);
  if (second == std::string::npos || (head != "gear" && head != "pair" && head != "frame" && head != "reducer")) {
    return {"", word};
  }
  return {word.substr(0, second), word.substr(second + 1)};
}

}  // namespace palio::job
