// What a shell is told of the tool: words that could come next, manual pages, help that fits its width. All of it is
// read off the verbs as they were declared, and off the tables of keys and readings.
#pragma once

#include <CLI/CLI.hpp>
#include <string>
#include <vector>

namespace palio::cli {

/// What could stand where the last of `words` does: verbs, options, choices, and names, keys and readings of the job
/// among the words. Paths come a step at a time, "gear.", "gear.pinion.", "gear.pinion.teeth=". Files are the shell's.
/// \param words  of the command line after "palio", the last one begun or empty
std::vector<std::string> completed(const CLI::App& app, const std::vector<std::string>& words);

/// What the parser complains of, in our words: what was given, what is allowed, what may have been meant.
std::string complaint(const CLI::App& verb, const CLI::ParseError& error, const std::vector<std::string>& arguments);

/// "; did you mean --format?" of the first option among `arguments` that the verb does not know; empty where none is
/// near.
std::string option_meant(const CLI::App& verb, const std::vector<std::string>& arguments);

/// Writes palio.1, one palio-VERB.1 each, palio-job.5 and job-schema.json into a folder that is there. \throws
/// FileError
void write_manual(const CLI::App& app, const std::string& folder);

/// What may stand behind an option, where that is one of several words.
std::vector<std::string> choices_of(const CLI::Option& option);
/// The word for an option's value: "NAME", or its choices "mm|in"; empty where it takes none, or its own name says it.
std::string value_word(const CLI::Option& option);
/// What an option is, with the limits of its value.
std::string described(const CLI::Option& option);

/// The parser's help in these words.
class Help : public CLI::Formatter {
 public:
  std::string make_option_opts(const CLI::Option* option) const override;
  std::string make_option_desc(const CLI::Option* option) const override;
};

/// Help with its descriptions wrapped to a width, each under its own beginning; examples stay as they are.
std::string wrapped_help(const std::string& help, std::size_t width);
/// Lines of a message wrapped to a width between words, with two blanks more from the second line on.
std::string wrapped(const std::string& message, std::size_t width);
/// Columns of the terminal behind a file descriptor; 0 where it is none.
std::size_t terminal_width(int descriptor);

}  // namespace palio::cli
