// palio: lists its verbs and turns what they throw into a message and an exit status.
#include <csignal>
#include <iostream>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/error.hpp"
#include "palio/values/spelling.hpp"
#include "palio/version.hpp"
#include "palio/write/file.hpp"

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

int run(int argc, char** argv) {
  int status = cli::kDone;
  CLI::App app{
      "Exact gears from one text file: all dimensions, proof by rolling the real teeth, files to make them.\n"
      "Begin with: palio start spur --out vent.toml && palio report vent.toml"};
  app.name("palio");
  app.set_version_flag("--version", std::string("palio ") + kVersion);
  app.require_subcommand(1);
  app.option_defaults()->always_capture_default(false);
  for (const cli::Verb add : {cli::add_start, cli::add_desk, cli::add_find, cli::add_recover, cli::add_compare,
                              cli::add_report, cli::add_draw, cli::add_vary, cli::add_variants, cli::add_roll,
                              cli::add_make, cli::add_sheet, cli::add_explain, cli::add_demo}) {
    add(app, status);
  }
  for (CLI::App* verb : app.get_subcommands([](CLI::App* sub) { return sub->get_option_no_throw("--out") != nullptr; }))
    cli::add_force(*verb);
  try {
    app.parse(argc, argv);
  } catch (const CLI::Success& e) {
    return app.exit(e);
  } catch (const CLI::ParseError& e) {
    std::string verb = "palio";
    if (argc > 1 && argv[1][0] != '-' && app.get_subcommands().empty()) {
      std::cerr << fmt::format("palio: \"{}\" is no verb{}\nSee: palio --help\n", cli::plain(argv[1]),
                               suggestion(app, argv[1]));
      return cli::kAskedWrongly;
    }
    for (const CLI::App* sub : app.get_subcommands())
      verb += " " + sub->get_name();
    std::cerr << "palio: " << e.what() << "\nSee: " << verb << " --help\n";
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
    std::cerr << cli::plain(e.what()) << "\n";
    return cli::kAskedWrongly;
  } catch (const cli::Misuse& e) {
    std::cerr << "palio: " << cli::plain(e.what()) << "\n";
    return cli::kAskedWrongly;
  } catch (const InvalidParameter& e) {
    std::cerr << "palio: " << cli::plain(e.what()) << "\n";
    return cli::kAskedWrongly;
  } catch (const std::exception& e) {
    std::cerr << "palio: " << cli::plain(e.what()) << "\n";
    return cli::kFailed;
  }
}
