#include "palio/job/report.hpp"

#include <memory>

#include "common.hpp"

namespace palio::cli {

void add_report(CLI::App& root, int&) {
  struct Options {
    JobOptions job;
    bool json = false;
    std::string out;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("report", "All dependent dimensions, and what is doubtful");
  add_job(*verb, options->job, true);
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->add_option("--out", options->out, "Folder for report.txt and report.json, or one such file");
  verb->footer("Example:\n  palio start spur | palio report - --set gear.motor_pinion.teeth=19");
  verb->callback([options] {
    const job::Design design = load(options->job);
    if (!options->out.empty()) {
      const Target t = target(options->out, {"txt", "json"});
      if (t.extension != "json") save(t.path("report.txt"), job::report_text(design, false));
      if (t.extension != "txt") save(t.path("report.json"), job::report_json(design));
    }
    print(options->json ? job::report_json(design) : job::report_text(design, coloured()));
  });
}

}  // namespace palio::cli
