#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/readings/vary.hpp"
#include "palio/view/chart.hpp"

namespace palio::cli {

void add_vary(CLI::App& root, int&) {
  struct Options {
    JobOptions job;
    std::vector<std::string> keys, holds, shows;
    std::string out;
    bool json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("vary", "Change one number and see what it does to all the others");
  add_job(*verb, options->job);
  verb->add_option(
          "CHANGE", options->keys,
          "What to vary, in the file's units; a second one makes a map, up to four a page with as many sliders")
      ->type_name("KEY=FROM:TO[:STEPS]")
      ->required()
      ->expected(1, 4);
  verb->add_option("--hold", options->holds, "KEY that keeps its value, or KEY+KEY whose sum stays (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY");
  verb->add_option("--show", options->shows,
                   "Report value to show, as pair.first_stage.total_contact_ratio (repeatable)")
      ->allow_extra_args(false)
      ->type_name("VALUE");
  verb->add_option(
      "-o,--out", options->out,
      "File: .csv, .json, .png, .svg, .pdf (chart or map), .html (sliders while the teeth turn); or a folder for all");
  verb->add_flag("--json", options->json, "For scripts: JSON on standard output");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml && palio vary vent.toml gear.motor_pinion.profile_shift=-0.4:0.8 "
      "--hold gear.motor_pinion.profile_shift+gear.drum_wheel.profile_shift --out shift.html");
  verb->callback([options] {
    const job::Design design = load(options->job);
    job::VaryRequest request;
    for (const std::string& k : options->keys)
      request.keys.push_back(job::parse_vary_key(k));
    request.holds = options->holds, request.shows = options->shows;
    const Target t =
        options->out.empty() ? Target{} : target(options->out, {"csv", "json", "png", "svg", "pdf", "html"});
    const std::size_t keys = request.keys.size();
    const bool folder = !options->out.empty() && t.file.empty();
    if (keys > 2 && (t.extension == "png" || t.extension == "svg" || t.extension == "pdf"))
      throw Misuse(
          fmt::format("--out {}: a picture shows one key as a chart or two as a map; for {} ask for a page "
                      "with sliders (--out sliders.html), .csv or .json",
                      options->out, keys));
    progress("resolving the job at every step …");
    const job::Varied varied = job::vary(design.values, request, (folder && keys != 2) || t.extension == "html");
    progress("");
    const auto save = [&](const std::string& extension, const auto& make) {
      if (folder || t.extension == extension) write_with_job(t.path("vary." + extension), make(), design);
    };
    if (!options->out.empty()) {
      save("csv", [&] { return job::vary_csv(varied); });
      save("json", [&] { return job::vary_json(varied); });
      for (const char* format : {"png", "svg"}) {
        if (keys < 3) save(format, [&] { return view::draw_vary(design, varied, format); });
      }
      if (!folder && keys < 3) save("pdf", [&] { return view::draw_vary(design, varied, "pdf"); });
      if (!folder || keys != 2) save("html", [&] { return view::vary_page(design, varied); });
    }
    print(options->json ? job::vary_json(varied) : job::vary_text(varied));
  });
}

}  // namespace palio::cli
