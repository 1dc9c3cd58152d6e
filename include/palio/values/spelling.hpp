// "Did you mean …?"
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace palio::job {

/// The least number of single-letter changes between two words: what "did you mean" is found by.
std::size_t spelling_distance(std::string_view a, std::string_view b);

/// What there is, where a word is none of it.
struct Known {
  std::string list;     ///< "a, b, c"
  std::string nearest;  ///< in spelling to the word; empty where none is nearer than asked
};
/// \param below  how many letters the nearest may differ in, at most one less
Known known_words(const std::vector<std::string>& all, std::string_view word, std::size_t below);
/// How many for a name in a job: less than half of it and one, 3 at most.
inline std::size_t name_slip(std::string_view word) { return word.size() / 2 + 1 < 4 ? word.size() / 2 + 1 : 4; }

/// "a", "b" or "c": those of which the word is a part, of three letters or more; of more than six the shortest; empty
/// where there are none, or more than a dozen.
std::string words_holding(const std::vector<std::string>& all, std::string_view word);

/// "did you mean …?", or where the known ones are listed.
std::string did_you_mean(const std::string& nearest);

}  // namespace palio::job
