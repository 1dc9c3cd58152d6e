// palio: lists its verbs and turns what they throw into a message and an exit status.
#include <unistd.h>

#include <csignal>
#include <iostream>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/error.hpp"
#include "palio/values/spelling.hpp"
#include "palio/version.hpp"
#include "palio/write/file.hpp"
#include "shell.hpp"

namespace {

using namespace palio;

/// "; did you mean …", or the verbs there are.
std::string suggestion(CLI::App& app, const std::string& word) {
  if (word == "help") return "; palio --help lists the verbs, palio VERB --help tells of one";
  if (word == "version") return "; did you mean palio --version?";
  std::vector<std::string> verbs;
  for (const CLI::App* verb : app.get_subcommands([](CLI::App*) { return true; }))
    verbs.push_back(verb->get_name());
  const job::Known known = job::known_words(verbs, word, word.size() / 2 + 1);
  return known.nearest.empty() ? "; there are " + known.list : fmt::format("; did you mean palio {}?", known.nearest);
}

/// All verbs declared.
void add_verbs(CLI::App& app, int& status) {
  app.name("palio");
  app.set_version_flag("--version", std::string("palio ") + kVersion);
  app.require_subcommand(1);
  app.formatter(std::make_shared<cli::Help>());
  app.get_formatter()->label("SUBCOMMAND", "VERB");
  app.get_formatter()->label("Positionals", "Arguments");
  app.option_defaults()->always_capture_default(false);
  for (const cli::Verb add : {cli::add_start, cli::add_desk, cli::add_find, cli::add_recover, cli::add_compare,
                              cli::add_report, cli::add_draw, cli::add_vary, cli::add_variants, cli::add_roll,
                              cli::add_make, cli::add_sheet, cli::add_explain, cli::add_demo}) {
    add(app, status);
  }
  for (CLI::App* verb : app.get_subcommands([](CLI::App*) { return true; })) {
    if (CLI::Option* out = verb->get_option_no_throw("--out")) {
      out->type_name("PLACE");
      cli::add_force(*verb);
    }
    cli::add_manner(*verb);
    verb->group("Verbs");
  }
}

/// What is asked by shells and by the build, not by people: --complete WORDS… and --manual FOLDER. True where it was.
bool answered_beside(const CLI::App& app, const std::vector<std::string>& words) {
  if (words.empty()) return false;
  if (words.front() == "--complete") {
    for (const std::string& word : cli::completed(app, {words.begin() + 1, words.end()}))
      cli::print(word + "\n");
    return true;
  }
  if (words.front() != "--manual" || words.size() != 2) return false;
  cli::write_manual(app, words[1]);
  return true;
}

/// What to say of a line that cannot be read, and where help is.
std::string unread(CLI::App& app, const CLI::ParseError& e, const std::vector<std::string>& words) {
  if (!words.empty() && words.front()[0] != '-' && app.get_subcommands().empty())
    return fmt::format("palio: \"{}\" is no verb{}\nSee: palio --help", cli::plain(words.front()),
                       suggestion(app, words.front()));
  const std::vector<CLI::App*> chosen = app.get_subcommands();
  const CLI::App& verb = chosen.empty() ? app : *chosen.front();
  return fmt::format("palio: {}\nSee: palio {}--help", cli::plain(cli::complaint(verb, e, words)),
                     chosen.empty() ? "" : verb.get_name() + " ");
}

void complain(const std::string& message) {
  std::cerr << cli::wrapped(message, cli::terminal_width(STDERR_FILENO)) << "\n";
}

int run(int argc, char** argv) {
  int status = cli::kDone;
  CLI::App app{
      "Exact gears from one text file: all dimensions, proof by rolling the real teeth, files to make them.\n"
      "Begin with: palio start spur --out vent.toml && palio report vent.toml"};
  add_verbs(app, status);
  const std::vector<std::string> words(argv + 1, argv + argc);
  if (answered_beside(app, words)) return status;
  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp&) {
    cli::print(cli::wrapped_help(app.help(), cli::terminal_width(STDOUT_FILENO)));
  } catch (const CLI::Success& e) {
    return app.exit(e);
  } catch (const CLI::ParseError& e) {
    complain(unread(app, e, words));
    return cli::kAskedWrongly;
  }
  return status;
}

constexpr int kMore = 4;
void (*at_stop[kMore])() = {};

/// Stopped: what was half written goes.
void stop(int signal) {
  for (void (*more)() : at_stop) {
    if (more) more();
  }
  write::discard_all();
  std::signal(signal, SIG_DFL);
  std::raise(signal);
}

}  // namespace

void palio::cli::discard_on_signal(void (*discard)()) {
  for (void (*&slot)() : at_stop) {
    if (slot == discard) return;
    if (slot) continue;
    slot = discard;
    return;
  }
}

int main(int argc, char** argv) {
  std::signal(SIGPIPE, SIG_DFL);  // `palio report job | head` ends quietly
  for (const int signal : {SIGINT, SIGTERM, SIGHUP})
    std::signal(signal, stop);
  try {
    return run(argc, argv);
  } catch (const job::JobError& e) {
    complain(cli::plain(e.what()));
    return cli::kAskedWrongly;
  } catch (const cli::Misuse& e) {
    complain("palio: " + cli::plain(e.what()));
    return cli::kAskedWrongly;
  } catch (const InvalidParameter& e) {
    complain("palio: " + cli::plain(e.what()));
    return cli::kAskedWrongly;
  } catch (const std::exception& e) {
    complain("palio: " + cli::plain(e.what()));
    return cli::kFailed;
  }
}
