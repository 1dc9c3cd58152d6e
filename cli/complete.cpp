// What could come next on the command line.
#include <algorithm>
#include <filesystem>
#include <set>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/keys.hpp"
#include "palio/values/settings.hpp"
#include "palio/values/spelling.hpp"
#include "shell.hpp"

namespace palio::cli {
namespace {

bool begins_with(const std::string& text, const std::string& start) { return text.rfind(start, 0) == 0; }

bool is_job(const std::string& path) {
  const std::string format = format_of(path);
  std::error_code error;
  return (format == "toml" || format == "json") && std::filesystem::is_regular_file(path, error);
}

/// The words that begin with what is there.
std::vector<std::string> begun(const std::vector<std::string>& all, const std::string& last) {
  std::vector<std::string> found;
  std::copy_if(all.begin(), all.end(), std::back_inserter(found),
               [&](const std::string& word) { return begins_with(word, last); });
  return found;
}

/// Paths a step at a time: as far as the next point after what is there.
std::vector<std::string> by_steps(const std::vector<std::string>& paths, const std::string& last) {
  std::vector<std::string> found;
  std::set<std::string> seen;
  for (const std::string& path : paths) {
    if (!begins_with(path, last)) continue;
    const std::size_t point = path.find('.', last.size());
    const std::string step = point == std::string::npos ? path : path.substr(0, point + 1);
    if (seen.insert(step).second) found.push_back(step);
  }
  return found;
}

/// "gear.pinion" and the like, in the order of the job, with what it says of itself.
std::vector<std::pair<std::string, const job::Settings*>> things(const job::Tables& tables) {
  std::vector<std::pair<std::string, const job::Settings*>> all;
  for (const auto* list : tables.with_names()) {
    for (const job::Settings& s : *list)
      all.emplace_back(fmt::format("{}.{}", job::name(s.section), s.name), &s);
  }
  return all;
}

/// All paths that a job could be told a value at, without lists.
std::vector<std::string> value_paths(const job::Tables& tables) {
  std::vector<std::string> all;
  const auto add = [&](const std::string& thing, job::Section section, const job::Settings* of) {
    for (const job::Key& key : job::keys()) {
      if (key.section != section) continue;
      if (key.type == job::Type::table || job::is_list(key.path.substr(0, key.path.find('.')))) continue;
      if (of && of->kind() && !key.kinds.has(*of->kind())) continue;
      all.push_back(thing + std::string(key.path));
    }
  };
  for (const auto& [thing, settings] : things(tables))
    add(thing + ".", settings->section, settings);
  add("shared.", job::Section::gear, nullptr);
  add("process.", job::Section::process, nullptr);
  for (const auto& [name, number] : tables.named)
    all.push_back("values." + name);
  return all;
}

std::vector<std::string> reading_paths(const job::Values& values) {
  std::vector<std::string> all;
  for (const job::ReportTable& table : job::report_tables(job::resolve(values), false)) {
    for (const job::ReportRow& row : table.rows)
      all.push_back(table.path + "." + row.key);
  }
  return all;
}

/// Names of what is made, or of all that can be looked at.
std::vector<std::string> names(const job::Tables& tables, bool made) {
  std::vector<std::string> all;
  for (const auto& [thing, settings] : things(tables)) {
    const bool turns_only = settings->section == job::Section::pair || settings->section == job::Section::train;
    if (settings->section != job::Section::material && !(made && turns_only)) all.push_back(settings->name);
  }
  if (made) all.emplace_back("assembly");
  return all;
}

/// Of "--set PATH=VALUE" and "vary JOB PATH=FROM:TO": paths as far as the sign, then what the key may hold.
std::vector<std::string> assignments(const job::Tables& tables, const std::string& last) {
  const std::size_t sign = last.find('=');
  if (sign == std::string::npos) {
    std::vector<std::string> found = by_steps(value_paths(tables), last);
    for (std::string& path : found) {
      if (path.back() != '.') path += "=";
    }
    return found;
  }
  const std::string path = last.substr(0, sign);
  const auto parts = job::parts_of_path(path);
  const auto section = parts ? job::section_named(parts->head) : std::nullopt;
  const job::Key* key = section ? job::find_key(*section, parts->word) : nullptr;
  std::vector<std::string> found;
  if (key) {
    for (const std::string& choice : job::words_of(key->choices))
      found.push_back(path + "=" + choice);
  }
  return begun(found, last);
}

/// What `palio explain` has words for.
std::vector<std::string> explained() {
  std::set<std::string> all{"keys", "readings", "findings"};
  for (const job::Key& key : job::keys())
    all.emplace(key.path);
  for (const job::Reading& reading : job::readings())
    all.emplace(reading.key);
  return {all.begin(), all.end()};
}

/// Where a list is going on: "step,st" goes on with "step,stl".
std::vector<std::string> list_goes_on(const std::vector<std::string>& all, const std::string& last) {
  const std::size_t comma = last.find_last_of(',');
  const std::string head = comma == std::string::npos ? "" : last.substr(0, comma + 1);
  std::vector<std::string> found;
  for (const std::string& word : begun(all, last.substr(head.size())))
    found.push_back(head + word);
  return found;
}

/// What the job among the words says; none where there is no such file, or no job in it.
std::optional<job::Values> job_among(const std::vector<std::string>& words) {
  const auto found = std::find_if(words.begin(), words.end() - 1, is_job);
  if (found == words.end() - 1) return std::nullopt;
  try {
    return job::Values::read(write::read_file(*found), *found);
  } catch (const std::exception&) {
    return std::nullopt;
  }
}

/// The values of one option, by the word that stands for them in help.
std::vector<std::string> of_option(const CLI::Option& option, const std::vector<std::string>& words) {
  const std::string& last = words.back();
  if (const std::vector<std::string> choices = choices_of(option); !choices.empty()) return list_goes_on(choices, last);
  const std::string meaning = option.get_type_name();
  const auto values = job_among(words);
  if (!values) return {};
  if (meaning == "KEY=VALUE") return assignments(values->tables(), last);
  if (meaning == "PATH" || meaning == "VALUE") return by_steps(reading_paths(*values), last);
  if (meaning == "NAME") return begun(names(values->tables(), false), last);
  if (meaning == "NAMES") return list_goes_on(names(values->tables(), true), last);
  return {};
}

const CLI::App* verb_named(const CLI::App& app, const std::string& name) {
  for (const CLI::App* verb : app.get_subcommands({})) {
    if (verb->get_name() == name) return verb;
  }
  return nullptr;
}

}  // namespace

std::vector<std::string> completed(const CLI::App& app, const std::vector<std::string>& words) {
  if (words.size() < 2) {
    std::vector<std::string> all{"--help", "--version"};
    for (const CLI::App* verb : app.get_subcommands({}))
      all.push_back(verb->get_name());
    return begun(all, words.empty() ? "" : words.front());
  }
  const CLI::App* verb = verb_named(app, words.front());
  if (!verb) return {};
  const std::string &last = words.back(), &before = words[words.size() - 2];
  const CLI::Option* open = begins_with(before, "-") ? verb->get_option_no_throw(before) : nullptr;
  if (open && open->get_expected_max() > 0) return of_option(*open, words);
  if (begins_with(last, "-")) {
    std::vector<std::string> all;
    for (const CLI::Option* option : verb->get_options()) {
      for (const std::string& name : option->get_lnames())
        all.push_back("--" + name);
    }
    return begun(all, last);
  }
  if (verb->get_name() == "start") return begun(job::starter_names(), last);
  if (verb->get_name() == "explain" && words.size() == 2) return begun(explained(), last);
  const auto values = verb->get_name() == "vary" ? job_among(words) : std::nullopt;
  return values ? assignments(values->tables(), last) : std::vector<std::string>{};
}

std::vector<std::string> choices_of(const CLI::Option& option) {
  const std::string checks = option.get_type_name();
  const std::size_t from = checks.find('{'), to = checks.find('}');
  if (from == std::string::npos || to == std::string::npos) return {};
  std::string list = checks.substr(from + 1, to - from - 1);
  std::replace(list.begin(), list.end(), ',', ' ');
  return job::words_of(list);
}

std::string option_meant(const CLI::App& verb, const std::vector<std::string>& arguments) {
  std::vector<std::string> known;
  for (const CLI::Option* option : verb.get_options()) {
    for (const std::string& name : option->get_lnames())
      known.push_back("--" + name);
  }
  for (const std::string& argument : arguments) {
    const std::string word = argument.substr(0, argument.find('='));
    if (!begins_with(word, "--") || std::find(known.begin(), known.end(), word) != known.end()) continue;
    const job::Known near = job::known_words(known, word, job::name_slip(word));
    return near.nearest.empty() ? "" : fmt::format("; did you mean {}?", near.nearest);
  }
  return "";
}

}  // namespace palio::cli
