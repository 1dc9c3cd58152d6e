#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/readings/reading.hpp"
#include "palio/write/embed.hpp"

namespace palio::cli {

void add_start(CLI::App& root, int&) {
  struct Options {
    std::string kind, units, from, out;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("start", "Begin from a commented job that works");
  verb->add_option(
      "KIND", options->kind,
      fmt::format("What kind of job: {}; greenhouse is all of them, coupon is to find what a machine does to size, "
                  "measurements is for palio recover",
                  fmt::join(job::starter_names(), ", ")));
  verb->add_option(
          "--from", options->from,
          "Take the job out of a file that palio made (STEP, 3MF, GLB, SVG, DXF, PDF, PNG, page), or out of a job")
      ->type_name("FILE");
  verb->add_option("--units", options->units,
                   "mm or in; with --from the job's lengths are rewritten (default: mm, or as they are)")
      ->transform(one_of({"mm", "in"}));
  verb->add_option("-o,--out", options->out, "File to write instead of standard output");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml\n  palio make vent.toml --format 3mf --out parts && palio start "
      "--from parts/drum_wheel.3mf");
  verb->callback([options] {
    if (options->kind.empty() == options->from.empty()) throw Misuse("start takes a KIND, or --from FILE");
    const job::Units units = options->units == "in" ? job::Units::inch : job::Units::mm;
    std::string text;
    if (options->from.empty()) {
      text = job::starter(options->kind, units);
    } else {
      const std::string bytes =
          options->from == "-" ? job_text({options->from, {}, "nominal"}).first : write::read_file(options->from);
      // A job is itself, whatever a text in it looks like.
      const bool is_job = options->from.size() > 5 && (options->from.substr(options->from.size() - 5) == ".toml" ||
                                                       options->from.substr(options->from.size() - 5) == ".json");
      const auto carried = is_job ? std::nullopt : write::job_in(bytes);
      text = carried.value_or(bytes);
      try {
        job::resolve(text, options->from);
      } catch (const job::JobError&) {
        // A job with mistakes is told as such; anything else carries none.
        const bool job_like = carried || bytes.find("[gear.") != std::string::npos;
        if (!job_like)
          throw Misuse(
              fmt::format("--from {}: this file carries no job; palio puts one into STEP, 3MF, GLB, SVG, DXF, PDF, PNG "
                          "and pages (not into STL and CSV)",
                          options->from));
        throw;
      }
      if (!options->units.empty()) text = job::told_in(text, options->from, units);
    }
    if (options->out.empty()) return print(text);
    const Target t = target(options->out, {"toml"});
    save(t.path((options->kind.empty() ? "job" : options->kind) + ".toml"), text);
  });
}

}  // namespace palio::cli
