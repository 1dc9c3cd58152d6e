// What readings are of, by name. Private to the readings.
#pragma once

#include <string>
#include <string_view>
#include <utility>

#include "palio/readings/reading.hpp"
#include "palio/values/keys.hpp"

namespace palio::job {

/// The thing that a path names ("gear.motor_pinion"), and the word at its end.
inline std::pair<std::string, std::string> thing_and_word(const std::string& word) {
  const std::optional<PathParts> parts = parts_of_path(word);
  if (!parts || !reading_of(parts->head)) return {"", word};
  return {parts->thing(), parts->word};
}

}  // namespace palio::job
