// palio: lists its verbs and turns what they throw into a message and an exit status.
#include <csignal>
#include <iostream>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/error.hpp"
#include "palio/version.hpp"

namespace {

using namespace palio;

int run(int argc, char** argv) {
  int status = cli::kDone;
  CLI::App app{
      "Exact gears from one text file: all dimensions, proof by rolling the real teeth, files to make them.\n"
      "Begin with: palio start spur --out vent.toml && palio report vent.toml"};
  app.name("palio");
  app.set_version_flag("--version", std::string("palio ") + kVersion);
  app.require_subcommand(1);
  app.option_defaults()->always_capture_default(false);
  for (const cli::Verb add :
       {cli::add_start, cli::add_report, cli::add_draw, cli::add_vary, cli::add_roll, cli::add_make, cli::add_sheet, cli::add_explain, cli::add_demo}) {
    add(app, status);
  }
  try {
    app.parse(argc, argv);
  } catch (const CLI::Success& e) {
    return app.exit(e);
  } catch (const CLI::ParseError& e) {
    std::string verb = "palio";
    for (const CLI::App* sub : app.get_subcommands()) verb += " " + sub->get_name();
    std::cerr << "palio: " << e.what() << "\nSee: " << verb << " --help\n";
    return cli::kAskedWrongly;
  }
  return status;
}

}  // namespace

int main(int argc, char** argv) {
  std::signal(SIGPIPE, SIG_DFL);  // `palio report job | head` ends quietly
  try {
    return run(argc, argv);
  } catch (const job::JobError& e) {
    std::cerr << e.what() << "\n";
    return cli::kAskedWrongly;
  } catch (const cli::Misuse& e) {
    std::cerr << "palio: " << e.what() << "\n";
    return cli::kAskedWrongly;
  } catch (const InvalidParameter& e) {
    std::cerr << "palio: " << e.what() << "\n";
    return cli::kAskedWrongly;
  } catch (const std::exception& e) {
    std::cerr << "palio: " << e.what() << "\n";
    return cli::kFailed;
  }
}
