#include <memory>

#include "common.hpp"

namespace palio::cli {

void add_start(CLI::App& root, int&) {
  struct Options {
    std::string kind, units = "mm", out;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("start", "Begin from a commented job that works");
  verb->add_option("KIND", options->kind, "What kind of job: spur, helical, double_helical, internal, rack, crossed, or greenhouse (all of them)")->required();
  verb->add_option("--units", options->units, "mm or in")->check(CLI::IsMember({"mm", "in"}));
  verb->add_option("--out", options->out, "File to write instead of standard output");
  verb->footer("Example:\n  palio start spur --out vent.toml");
  verb->callback([options] {
    const std::string text = job::starter(options->kind, options->units == "in" ? job::Units::inch : job::Units::mm);
    if (options->out.empty()) return print(text);
    const Target t = target(options->out, {"toml"});
    write::write_file(t.path(options->kind + ".toml"), text);
  });
}

}  // namespace palio::cli
