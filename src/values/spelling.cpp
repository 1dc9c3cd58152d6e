#include "palio/values/spelling.hpp"

#include <algorithm>
#include <numeric>

#include <fmt/format.h>

namespace palio::job {

std::size_t spelling_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), 0);
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t corner = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({above + 1, row[j - 1] + 1, corner + (a[i - 1] == b[j - 1] ? 0 : 1)});
      corner = above;
    }
  }
  return row[b.size()];
}

Known known_words(const std::vector<std::string>& all, std::string_view word, std::size_t below) {
  Known known;
  for (const std::string& w : all) {
    known.list += (known.list.empty() ? "" : ", ") + w;
    if (const std::size_t d = spelling_distance(w, word); d < below) below = d, known.nearest = w;
  }
  return known;
}

std::string words_holding(const std::vector<std::string>& all, std::string_view word) {
  constexpr std::size_t kTold = 6, kMany = 12, kShortest = 3;
  std::vector<std::string> holding;
  for (const std::string& w : all) {
    if (word.size() >= kShortest && w.find(word) != std::string::npos) holding.push_back(fmt::format("\"{}\"", w));
  }
  if (holding.empty() || holding.size() > kMany) return "";
  if (holding.size() > kTold) {
    std::stable_sort(holding.begin(), holding.end(),
                     [](const std::string& a, const std::string& b) { return a.size() < b.size(); });
    holding.resize(kTold);
  }
  const std::string last = holding.back();
  holding.pop_back();
  return holding.empty() ? last : fmt::format("{} or {}", fmt::join(holding, ", "), last);
}

std::string did_you_mean(const std::string& nearest) {
  return nearest.empty() ? std::string("palio explain keys lists the known ones")
                         : fmt::format("did you mean \"{}\"?", nearest);
}

}  // namespace palio::job
