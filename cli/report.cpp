#include "palio/readings/report.hpp"

#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/readings/reading.hpp"
#include "watch.hpp"

namespace palio::cli {
namespace {

/// Just the values, a line each; or as JSON by their paths.
std::string chosen(const job::Design& design, const std::vector<std::string>& paths, bool json) {
  std::string text;
  for (const std::string& path : paths) {
    if (json)
      text += fmt::format("{}\n  \"{}\": {}", text.empty() ? "{" : ",", path, job::reading_json(design, path));
    else
      text += job::reading_text(design, path) + "\n";
  }
  return json ? text + "\n}\n" : text;
}

struct ReportOptions {
  JobOptions job;
  WatchOptions watch;
  bool json = false, brief = false;
  std::vector<std::string> only;
  std::string out;
};

void run_report(const ReportOptions& options) {
  const job::Design design = load(options.job);
  if (options.brief) return print(options.json ? job::verdict_json(design) : job::verdict_text(design, coloured()));
  if (!options.only.empty()) return print(chosen(design, options.only, options.json));
  if (!options.out.empty()) {
    const Target t = target(options.out, {"txt", "json"});
    if (t.extension != "json") save(t.path("report.txt"), job::report_text(design, false));
    if (t.extension != "txt") save(t.path("report.json"), job::report_json(design));
  }
  print(options.json ? job::report_json(design) : job::report_text(design, coloured()));
}

void check_wishes(const ReportOptions& options) {
  if (options.brief && !options.only.empty()) throw Misuse("--brief and --only leave out each other; give one");
  const bool part = options.brief || !options.only.empty();
  if (part && !options.out.empty()) {
    throw Misuse("--out writes the whole report; leave out --only and --brief, or redirect what is printed");
  }
}

}  // namespace

void add_report(CLI::App& root, int&) {
  const auto options = std::make_shared<ReportOptions>();
  CLI::App* verb = root.add_subcommand("report", "All dependent dimensions, and what is doubtful");
  add_job(*verb, options->job, true);
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->add_option("--only", options->only,
                   "Just this reading, as gear.motor_pinion.tip_diameter or pair.first_stage.tip_clearance.0 "
                   "(repeatable; palio explain lists them)")
      ->type_name("PATH");
  verb->add_flag("--brief", options->brief, "The verdict alone: what is wrong, what to change, ratios and plays");
  verb->add_option("-o,--out", options->out, "Folder for report.txt and report.json, or one such file");
  verb->footer("Example:\n  palio start spur | palio report - --set gear.motor_pinion.teeth=19");
  add_watch(*verb, options->watch);
  verb->callback([options] {
    check_wishes(*options);
    watched(options->job.path, options->watch, [&] { run_report(*options); });
  });
}

}  // namespace palio::cli
