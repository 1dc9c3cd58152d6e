// What is wrong with a job, in words: each mistake once, in the job's units.
#include <algorithm>

#include <fmt/format.h>

#include "palio/values/mistake.hpp"

namespace palio::job {
namespace {

/// What `key` says below its table: "teeth" of "gear.motor_pinion.teeth".
std::string_view below_table(std::string_view key) {
  for (int dots = 0; dots < 2; ++dots)
    key.remove_prefix(std::min(key.size(), key.find('.') + 1));
  return key;
}

/// Whether both say the same of one value, taken over by several tables. Of JSON no line is known that would tell one
/// value from another.
bool one_value(const Mistake& a, const Mistake& b) {
  const bool one_place = a.where.line == b.where.line && a.where.column == b.where.column &&
                         a.where.source == b.where.source &&
                         (a.where.line > 0 || a.where.source.rfind("--set", 0) == 0);
  return one_place && a.id == b.id && a.message == b.message && below_table(a.key) == below_table(b.key);
}

}  // namespace

void Mistakes::note(const std::string& id, const Where& where, const std::string& key, const std::string& message) {
  if (id == "missing-key") {
    const auto last = key.rfind('.');
    const std::string table = key.substr(0, last);
    // What a gear was to take over from another is not missing where that is what cannot be read.
    if (told(table, std::string_view(key).substr(last + 1)) || told(table, "like")) return;
  }
  told_.insert(key);
  const Mistake mistake{id, where, key, message};
  if (std::none_of(all_.begin(), all_.end(), [&](const Mistake& m) { return one_value(m, mistake); }))
    all_.push_back(mistake);
}

bool Mistakes::told(const std::string& table, std::string_view key) const {
  if (told_.count(table + "." + std::string(key)) > 0) return true;
  return table.rfind("gear.", 0) == 0 && told_.count("shared." + std::string(key)) > 0;
}

void Mistakes::hand_on(const std::string& from, const std::string& to) {
  std::vector<std::string> more;
  for (auto it = told_.lower_bound(from + "."); it != told_.end() && it->compare(0, from.size() + 1, from + ".") == 0;
       ++it)
    more.push_back(to + it->substr(from.size()));
  told_.insert(more.begin(), more.end());
}

void Mistakes::stop() const {
  if (all_.empty()) return;
  std::vector<Mistake> sorted = all_;
  std::stable_sort(sorted.begin(), sorted.end(),
                   [](const Mistake& a, const Mistake& b) { return a.where.line < b.where.line; });
  throw JobError(std::move(sorted));
}

namespace {

std::string join(const std::vector<Mistake>& mistakes) {
  std::string all;
  for (const Mistake& m : mistakes)
    all += (all.empty() ? "" : "\n") + m.text();
  return all;
}

}  // namespace

std::string Mistake::text() const {
  std::string at = where.source;
  if (where.line > 0) at += fmt::format(":{}:{}", where.line, where.column);
  // Names may hold anything until they have been checked: what would command a terminal is told as what it is.
  std::string text;
  for (const char c : fmt::format("{}{}{}{}{}", at, at.empty() ? "" : ": ", key, key.empty() ? "" : " ", message)) {
    const auto u = static_cast<unsigned char>(c);
    if (u < 32 || u == 127)
      text += fmt::format("\\u{:04x}", u);
    else
      text += c;
  }
  return text;
}

JobError::JobError(std::vector<Mistake> mistakes)
    : std::runtime_error(join(mistakes)), mistakes_(std::move(mistakes)) {}

}  // namespace palio::job
