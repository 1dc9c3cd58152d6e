#include "palio/solve/recover.hpp"

#include <memory>

#include "common.hpp"

namespace palio::cli {

void add_recover(CLI::App& root, int& status) {
  struct Options {
    JobOptions job;
    std::string out, as = "found";
    bool json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("recover", "Find a worn or unknown gear again from what was measured of it");
  add_job(*verb, options->job);
  verb->add_option("--as", options->as,
                   "The job as found, with its wear and play (found, default), or with the standard sizes near by put "
                   "in (new)")
      ->check(CLI::IsMember({"found", "new"}))
      ->type_name("STATE");
  verb->add_option("--out", options->out,
                   "New job (.toml, or .json of a JSON job) with the recovered values in their places; or a folder");
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->footer(
      "Example:\n  palio start measurements --out worn.toml && palio recover worn.toml --out winch.toml\n"
      "In the job: values written \"find\", and for each measurement\n"
      "  [[measured]]\n  of = \"gear.winch_pinion.span\"\n  teeth = 3\n  is = 19.39\n  by = \"caliper\"");
  verb->callback([options, &status] {
    const job::Values values = load_values(options->job);
    const Target t = options->out.empty() ? Target{} : target(options->out, {"toml", "json"});
    progress("fitting …");
    const solve::Recovered found = solve::recover(values, options->as == "new");
    progress("");
    print(options->json ? solve::recover_json(found) : solve::recover_text(found));
    if (!options->out.empty()) save(t.path("recovered.toml"), values.filled_in(found.numbers()));
    if (found.contradiction) status = kVerdictAgainst;
  });
}

}  // namespace palio::cli
