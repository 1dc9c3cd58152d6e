#include "palio/solve/find.hpp"

#include <memory>

#include <fmt/format.h>

#include "common.hpp"

namespace palio::cli {

void add_find(CLI::App& root, int& status) {
  struct Options {
    JobOptions job;
    std::size_t most = 10, pick = 1;
    std::string out;
    bool json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("find", "Find the values written \"find\", so that what [want] says holds");
  add_job(*verb, options->job);
  verb->add_option("--most", options->most, "How many solutions to tell, the best of all (default 10)")
      ->check(CLI::Range(1, 100000));
  verb->add_option("--pick", options->pick, "Which solution goes into the new job (default 1, the best)")
      ->check(CLI::Range(1, 100000));
  verb->add_option("-o,--out", options->out,
                   "New job (.toml, or .json of a JSON job) with the values of the picked solution in their places; or "
                   "a folder for it");
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml && palio find vent.toml --set gear.motor_pinion.profile_shift=find "
      "--set gear.drum_wheel.profile_shift=find --set want.pair.first_stage.sliding_imbalance=0\n"
      "In the job: a value \"find\", \"find 12..40\", \"find standard\" or \"find 1, 1.25, 1.5\", and a table\n"
      "  [want]\n  pair.first_stage.center_distance = 50      # or [a, b], \"at least …\", \"at most …\", "
      "\"greatest\", "
      "\"least\"");
  verb->callback([options, &status] {
    const job::Values values = load_values(options->job);
    const Target t = options->out.empty() ? Target{} : target(options->out, {"toml", "json"});
    solve::FindRequest request;
    request.most = std::max(options->most, options->pick);
    request.progress = [](std::size_t done, std::size_t all) {
      const std::size_t step = all / 100 + 1;
      if (all > 1 && done % step == 0) progress(fmt::format("looked into {} of {} choices …", done, all));
    };
    progress("looking …");
    const solve::Found found = solve::find(values, request);
    progress("");
    print(options->json ? solve::find_json(found) : solve::find_text(found));
    if (found.solutions.empty()) {
      status = kVerdictAgainst;
      return;
    }
    if (options->pick > found.solutions.size())
      throw Misuse(fmt::format("--pick {}: there {} {} solution{}", options->pick, found.count == 1 ? "is" : "are",
                               found.count, found.count == 1 ? "" : "s"));
    if (options->out.empty()) return;
    save(t.path("found.toml"), values.filled_in(found.solutions[options->pick - 1].values));
  });
}

}  // namespace palio::cli
