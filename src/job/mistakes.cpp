// What is wrong with a job, in words: each mistake once, in the job's units.
#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <regex>

#include "resolver.hpp"

namespace palio::job {

void Resolver::note(const std::string& id, const Where& where, const std::string& key, const std::string& message) {
  if (id == "missing-key") {
    const auto last = key.rfind('.');
    if (told(key.substr(0, last), std::string_view(key).substr(last + 1))) return;
  }
  told_.insert(key);
  mistakes_.push_back({id, where, key, message});
}

bool Resolver::told(const std::string& table, std::string_view key) const {
  if (told_.count(table + "." + std::string(key)) > 0) return true;
  return table.rfind("gear.", 0) == 0 && told_.count("shared." + std::string(key)) > 0;
}

bool Resolver::name_fits(const std::string& name, const Where& where, const std::string& table) {
  constexpr std::size_t kLongest = 80;
  const auto plain = [](char c) {
    return std::isalnum(static_cast<unsigned char>(c)) || c == '_' || c == '-' || c == '+' ||
           static_cast<unsigned char>(c) >= 0x80;
  };
  const bool fits = !name.empty() && name.size() <= kLongest && name[0] != '-' &&
                    std::all_of(name.begin(), name.end(), plain) && !has_control_characters(name);
  if (!fits) {
    note("bad-name", where, table + "." + (name.size() > kLongest ? name.substr(0, kLongest) + "…" : name),
         fmt::format("a name becomes a file name and stands in every output: use letters, digits, _ and - (not first), "
                     "up to {} of them",
                     kLongest));
    return false;
  }
  // Two parts of one name would be one file, two things that are rolled one page.
  std::map<std::string, std::string>* used[] = {table == "pair" || table == "material" ? nullptr : &parts_,
                                                table == "pair" || table == "reducer" ? &rolled_ : nullptr};
  for (auto* names : used) {
    if (!names) continue;
    if (names == &parts_ && name == "assembly") {
      note("bad-name", where, table + "." + name, "the file of all parts in place has this name; choose another");
      return false;
    }
    const auto [it, fresh] = names->try_emplace(name, table);
    if (fresh) continue;
    note("bad-name", where, table + "." + name,
         fmt::format("{}.{} has this name too, and their files would overwrite each other; choose another", it->second,
                     name));
    return false;
  }
  return true;
}

std::string Resolver::in_job_units(const std::string& text) const {
  if (design_.units == Units::mm) return text;
  static const std::regex length(R"((-?\d+(?:\.\d+)?(?:e[-+]?\d+)?) mm\b(?! of module))");
  std::string out;
  auto from = text.cbegin();
  for (auto it = std::sregex_iterator(text.begin(), text.end(), length); it != std::sregex_iterator(); ++it) {
    const std::string before = it->prefix().str();
    out.append(from, text.cbegin() + it->position());
    // A module is in millimetres whatever the units.
    if (before.size() >= 7 && before.compare(before.size() - 7, 7, "module ") == 0)
      out += it->str();
    else
      out += print(std::strtod(it->str(1).c_str(), nullptr));
    from = text.cbegin() + it->position() + it->length();
  }
  out.append(from, text.cend());
  return out;
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
  for (const char c : fmt::format("{}: {}{}{}", at, key, key.empty() ? "" : " ", message)) {
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
