#include "palio/readings/explain.hpp"

#include <algorithm>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "film.hpp"
#include "palio/readings/reading.hpp"
#include "palio/view/draw.hpp"

namespace palio::cli {
namespace {

const std::vector<std::string> kMarked{"png", "svg", "pdf"};

}  // namespace

void add_explain(CLI::App& root, int&) {
  struct Options {
    std::string word;
    JobOptions job;
    bool schema = false;
    std::string out, size = "1280x800";
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
  verb->add_option("-o,--out", options->out,
                   "With a job: a picture with the reading marked on its teeth, .png, .svg or .pdf");
  verb->add_option("--size", options->size, "Of the picture, as 1280x800")->type_name("WxH");
  verb->footer(
      "Example:\n  palio explain base_diameter && palio start spur --out vent.toml && palio explain span vent.toml "
      "--out "
      "span.png");
  verb->callback([options] {
    if (options->schema) {
      if (!options->word.empty()) throw Misuse("--schema stands alone; leave out the word");
      return print(job::job_schema());
    }
    if (!options->out.empty() && options->job.path.empty()) {
      throw Misuse(
          "--out draws a word on the teeth of a job; name the job too, as in palio explain span vent.toml --out "
          "span.png");
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
    const std::string text = job::explain(options->word, &design);
    if (!options->out.empty()) {
      const Target t = target(options->out, kMarked);
      const std::string format = t.extension.empty() ? "png" : t.extension;
      const std::string bytes = view::draw_marked(design, options->word, format, parse_size(options->size));
      std::string name = options->word;
      std::replace(name.begin(), name.end(), '.', '-');
      const std::string path = t.path(name + "-marked." + format);
      write_with_job(path, bytes, design);
      tell({{path, format, ""}}, false);
    }
    print(text);
  });
}

}  // namespace palio::cli
