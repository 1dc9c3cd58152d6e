// Help in words: what may stand behind an option, without the names of types.
#include <regex>

#include <fmt/format.h>

#include "palio/values/spelling.hpp"
#include "shell.hpp"

namespace palio::cli {
namespace {

constexpr std::size_t kShort = 30;  // choices that take more are told by the description

/// What an option's declaration says of its value: a word for it, and what is allowed.
struct Asked {
  std::string word;    ///< "NAME", or the choices, "mm|in"
  std::string limits;  ///< "1 to 120", where it is a number between two
};

Asked asked(const CLI::Option& option) {
  const std::string type = option.get_type_name();
  const std::size_t colon = type.find(':');
  const std::string check = colon == std::string::npos ? "" : type.substr(colon + 1);
  Asked said{type.substr(0, colon), ""};
  const std::string choices = fmt::format("{}", fmt::join(choices_of(option), "|"));
  if (!choices.empty() && choices.size() <= kShort) said.word = choices;
  if (const std::size_t from = check.find('['), to = check.find(']'); to != std::string::npos) {
    said.limits = check.substr(from + 1, to - from - 1);
    if (const std::size_t dash = said.limits.find(" - "); dash != std::string::npos)
      said.limits.replace(dash, 3, " to ");
  }
  if (said.word == "TEXT") said.word = "WORD";
  if (said.word == "INT" || said.word == "UINT") said.word = "N";
  if (said.word == "FLOAT") said.word = "NUMBER";
  return said;
}

}  // namespace

std::string value_word(const CLI::Option& option) {
  const bool takes = option.get_expected_max() > 0 && option.get_type_size() != 0;
  const std::string word = takes ? asked(option).word : "";
  // The name of an argument says what it is.
  return option.get_positional() && word == "WORD" ? "" : word;
}

std::string described(const CLI::Option& option) {
  const std::string limits = asked(option).limits;
  return option.get_description() + (limits.empty() ? "" : "; " + limits);
}

std::string Help::make_option_opts(const CLI::Option* option) const {
  const std::string word = value_word(*option);
  const bool many = option->get_expected_max() == CLI::detail::expected_max_vector_size;
  return (word.empty() ? "" : " " + word) + (many ? " ..." : "");
}

std::string Help::make_option_desc(const CLI::Option* option) const { return described(*option); }

std::string complaint(const CLI::App& verb, const CLI::ParseError& error, const std::vector<std::string>& arguments) {
  std::string told = error.what();
  if (dynamic_cast<const CLI::ExtrasError*>(&error)) {
    // The first word that begins like an option and is none; else a word too many.
    for (const std::string& word : arguments) {
      const std::string name = word.substr(0, word.find('='));
      if (word.size() > 1 && word.front() == '-' && !verb.get_option_no_throw(name))
        return fmt::format("{} is no option of palio {}{}", name, verb.get_name(), option_meant(verb, arguments));
    }
    return fmt::format("one word too many: {}", told.substr(told.find(": ") + 2));
  }
  static const std::regex no_choice(R"((-[-\w]+): (.*) not in \{.*\})"),
      out_of(R"((-[-\w]+): Value (\S+) not in range .*)");
  std::smatch found;
  const bool none_of_them = std::regex_match(told, found, no_choice);
  if (!none_of_them && !std::regex_match(told, found, out_of)) return told;
  const CLI::Option* option = verb.get_option_no_throw(found[1]);
  if (!option) return told;
  if (none_of_them) {
    const std::string word = found[2];
    const job::Known known = job::known_words(choices_of(*option), word, job::name_slip(word));
    return fmt::format("{} is \"{}\", but {} are allowed{}", found[1].str(), word, known.list,
                       known.nearest.empty() ? "" : "; did you mean " + known.nearest + "?");
  }
  const std::string limits = asked(*option).limits;
  return limits.empty()
             ? told
             : fmt::format("{} is {}, but a number from {} is allowed", found[1].str(), found[2].str(), limits);
}

}  // namespace palio::cli
