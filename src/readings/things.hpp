// What readings are of, by name. Private to the readings.
#pragma once

#include <string>
#include <string_view>
#include <utility>

#include "palio/readings/reading.hpp"
#include "palio/values/keys.hpp"

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
  const std::optional<PathParts> parts = parts_of_path(word);
  if (!parts || (parts->head != "gear" && parts->head != "pair" && parts->head != "frame" && parts->head != "reducer"))
    return {"", word};
  return {parts->thing(), parts->word};
}

}  // namespace palio::job
