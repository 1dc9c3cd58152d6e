#include "palio/readings/explain.hpp"

#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/readings/reading.hpp"

namespace palio::cli {

void add_explain(CLI::App& root, int&) {
  struct Options {
    std::string word;
    JobOptions job;
    bool schema = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("explain", "What a word means here: keys, readings, findings");
  verb->add_option("WORD", options->word,
                   "A key, a reading, a symbol or a finding (alone: lists them); or keys, readings, findings: whole "
                   "pages");
  verb->add_option("JOB", options->job.path, "Job file: with its numbers");
  verb->add_option("--set", options->job.overrides, "Override one value for this run (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY=VALUE");
  verb->add_flag("--schema", options->schema, "The JSON Schema of the job file, for editors");
  verb->footer("Example:\n  palio explain base_diameter && palio explain undercut");
  verb->callback([options] {
    if (options->schema) {
      if (!options->word.empty()) throw Misuse("--schema stands alone; leave out the word");
      return print(job::job_schema());
    }
    if (options->word.empty()) return print(job::explain_words());
    const bool page = options->word == "keys" || options->word == "readings" || options->word == "findings";
    if (page && !options->job.path.empty()) {
      throw Misuse(fmt::format("{} is a whole page, and no job changes it; leave out the job", options->word));
    }
    if (options->word == "keys") return print(job::reference());
    if (options->word == "readings") return print(job::readings_page());
    if (options->word == "findings") return print(job::findings_page());
    if (options->job.path.empty()) return print(job::explain(options->word));
    const job::Design design = load(options->job);
    print(job::explain(options->word, &design));
  });
}

}  // namespace palio::cli
