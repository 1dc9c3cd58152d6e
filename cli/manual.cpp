// Manual pages, written from what help says of each verb and from the table of keys.
#include <filesystem>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/readings/explain.hpp"
#include "palio/values/keys.hpp"
#include "palio/version.hpp"
#include "shell.hpp"

namespace palio::cli {
namespace {

/// Text as roff takes it: what would begin a request or an escape says itself.
std::string roff(const std::string& text) {
  std::string out;
  bool begins = true;
  for (const char c : text) {
    if (begins && (c == '.' || c == '\'')) out += "\\&";
    if (c == '\\') {
      out += "\\e";
    } else if (c == '-') {
      out += "\\-";
    } else {
      out += c;
    }
    begins = c == '\n';
  }
  return out;
}

std::string head(const std::string& name, int section, const std::string& meaning) {
  std::string title = name;
  for (char& c : title)
    c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return fmt::format(".TH {} {} \"\" \"palio {}\" \"Palio\"\n.SH NAME\n{} \\- {}\n", roff(title), section, kVersion,
                     roff(name), roff(meaning));
}

std::string first_line(const std::string& text) { return text.substr(0, text.find('\n')); }

/// Text that keeps its lines, set in.
std::string shown(const std::string& text) { return ".nf\n" + roff(text) + "\n.fi\n"; }

/// "Example: …" of a footer under a heading of its own, what stands before it as text.
std::string of_footer(const std::string& footer) {
  const std::size_t example = footer.find("Example:\n");
  std::string text;
  if (const std::string before = footer.substr(0, example); !before.empty())
    text += ".SH NOTES\n" + roff(before.substr(0, before.find_last_not_of('\n') + 1)) + "\n";
  if (example != std::string::npos) text += ".SH EXAMPLES\n" + shown(footer.substr(example + 9));
  return text;
}

std::string entry(const CLI::Option& option) {
  std::string name = option.get_name(option.get_positional(), !option.get_positional());
  if (const std::string word = value_word(option); !word.empty()) name += " " + word;
  return fmt::format(".TP\n.B {}\n{}\n", roff(name), roff(described(option)));
}

std::string verb_page(const CLI::App& verb) {
  std::string synopsis, positionals, options;
  for (const CLI::Option* option : verb.get_options()) {
    if (option->get_positional()) {
      const std::string name = option->get_name(true);
      synopsis += option->get_required() ? " " + name : fmt::format(" [{}]", name);
      positionals += entry(*option);
    } else {
      options += entry(*option);
    }
  }
  return head("palio-" + verb.get_name(), 1, first_line(verb.get_description())) +
         fmt::format(".SH SYNOPSIS\n.B palio {}\n{} [options]\n", roff(verb.get_name()),
                     roff(synopsis.substr(synopsis.empty() ? 0 : 1))) +
         ".SH DESCRIPTION\n" + roff(verb.get_description()) + ".\n" +
         (positionals.empty() ? "" : ".SH ARGUMENTS\n" + positionals) + ".SH OPTIONS\n" + options +
         of_footer(verb.get_footer()) + ".SH SEE ALSO\n.BR palio (1),\n.BR palio-job (5)\n";
}

std::string tool_page(const CLI::App& app) {
  std::string text = head("palio", 1, "exact gears from one text file") +
                     ".SH SYNOPSIS\n.B palio\n.I verb\n[options]\n.SH DESCRIPTION\n" + roff(app.get_description()) +
                     "\n.SH VERBS\n";
  for (const CLI::App* verb : app.get_subcommands({}))
    text += fmt::format(".TP\n.BR palio\\-{} (1)\n{}\n", verb->get_name(), roff(first_line(verb->get_description())));
  text +=
      ".SH EXIT STATUS\n.TP\n.B 0\nDone; a report with doubts is done.\n.TP\n.B 1\nCould not compute or write.\n.TP\n"
      ".B 2\nAsked wrongly: a mistake in the job or in an option.\n.TP\n.B 3\nComputed, and the verdict is against "
      "it.\n.SH ENVIRONMENT\n.TP\n.B NO_COLOR\nNothing is coloured, as with \\-\\-color never.\n"
      ".SH SEE ALSO\n.BR palio\\-job (5)\n";
  return text;
}

std::string job_page() {
  std::string text = head("palio-job", 5, "the job file of palio") +
                     ".SH DESCRIPTION\nA job is one TOML file, or JSON of the same shape, with a table for each gear, "
                     "pair, shaft and so on. A number is in the unit of the file (units = \"mm\" or \"in\"), angles "
                     "are in degrees; a text may carry a unit and arithmetic. \"find\" leaves a value open for "
                     "palio find.\n";
  for (const job::Section section : job::sections()) {
    const std::string table = section == job::Section::top ? "Top of the file"
                              : job::has_names(section)    ? fmt::format("[{}.NAME]", job::name(section))
                                                           : fmt::format("[{}]", job::name(section));
    text += fmt::format(".SH {}\n", roff(table));
    for (const job::Key& key : job::keys()) {
      if (key.section != section) continue;
      const std::string of = key.kinds == job::Kinds::all() ? "" : fmt::format(" Of: {}.", key.kinds.names());
      text += fmt::format(".TP\n.B {}\n{}. {}; left out: {}.{}\n", roff(std::string(key.path)),
                          roff(std::string(key.meaning)), roff(job::allowed(key, "(file's unit)")),
                          roff(key.absent.words), roff(of));
    }
  }
  return text + ".SH SEE ALSO\n.BR palio (1)\n";
}

}  // namespace

void write_manual(const CLI::App& app, const std::string& folder) {
  const auto put = [&](const std::string& name, const std::string& text) {
    write::write_file((std::filesystem::path(folder) / name).string(), text);
  };
  put("palio.1", tool_page(app));
  for (const CLI::App* verb : app.get_subcommands({}))
    put(fmt::format("palio-{}.1", verb->get_name()), verb_page(*verb));
  put("palio-job.5", job_page());
  put("job-schema.json", job::job_schema());
}

}  // namespace palio::cli
