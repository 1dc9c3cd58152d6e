#include "palio/solve/recover.hpp"

#include <memory>

#include "common.hpp"
#include "outline.hpp"
#include "palio/foreign/recovered.hpp"
#include "palio/solve/coupon.hpp"

namespace palio::cli {
namespace {

struct RecoverOptions {
  JobOptions job;
  std::string out, as = "found";
  bool json = false;
};

void recover_machine(const job::Values& values, const RecoverOptions& options, int& status) {
  const Target t = options.out.empty() ? Target{} : target(options.out, {"toml"});
  progress("fitting …");
  const solve::Process found = solve::recover_process(values);
  progress("");
  print(options.json ? solve::process_json(found) : solve::process_text(found));
  if (!options.out.empty()) save(t.path("process.toml"), solve::process_toml(found, options.job.path));
  if (found.contradiction) status = kVerdictAgainst;
}

void recover_from_outline(const JobOptions& from, const std::string& out, bool json) {
  if (!from.overrides.empty()) throw Misuse("--set: an outline has no values to set");
  const Target t = out.empty() ? Target{} : target(out, {"toml"});
  progress("reading …");
  const foreign::Toothed toothed = load_outline(from.path);
  progress("fitting …");
  const foreign::Recovered found = foreign::recover(toothed);
  progress("");
  print(json ? foreign::recovered_json(found) : foreign::recovered_text(found, from.path));
  if (!out.empty()) save(t.path("recovered.toml"), foreign::job_text(found, from.path));
}

}  // namespace

void add_recover(CLI::App& root, int& status) {
  const auto options = std::make_shared<RecoverOptions>();
  CLI::App* verb =
      root.add_subcommand("recover", "Find a worn or unknown gear again from measurements, or from its outline");
  add_job(*verb, options->job);
  verb->add_option("--as", options->as,
                   "The job as found, with its wear and play (found, default), or with the standard sizes near by put "
                   "in (new)")
      ->transform(one_of({"found", "new"}))
      ->type_name("STATE");
  verb->add_option("-o,--out", options->out,
                   "New job (.toml, or .json of a JSON job) with the recovered values in their places; or a folder");
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->get_option("JOB")->description("Job with [[measured]], - for standard input; or an outline (.dxf, .svg, .stl)");
  verb->footer(
      "Example:\n  palio start measurements --out worn.toml && palio recover worn.toml --out winch.toml\n"
      "In the job: values written \"find\", and for each measurement\n"
      "  [[measured]]\n  of = \"gear.winch_pinion.span\"\n  teeth = 3\n  is = 19.39\n  by = \"caliper\"\n"
      "Of a printed coupon (palio start coupon says which): the [process] table of the machine that made it.");
  verb->callback([options, verb, &status] {
    if (is_outline(options->job.path)) {
      if (verb->count("--as") > 0)
        throw Misuse("--as: an outline says how the gear is; of measurements alone a gear as new can be made");
      recover_from_outline(options->job, options->out, options->json);
      return;
    }
    const job::Values values = load_values(options->job);
    if (solve::is_coupon(values)) {
      recover_machine(values, *options, status);
      return;
    }
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
