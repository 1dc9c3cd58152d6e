#include "palio/view/sheet.hpp"

#include <memory>

#include <fmt/format.h>

#include "common.hpp"

namespace palio::cli {

std::vector<make::File> sheet_files(const job::Design& design, const std::string& of, const view::SheetOptions& sheet,
                                    const Target& t) {
  std::vector<const job::Gear*> gears;
  std::string known;
  for (const job::Gear& g : design.gears) {
    known += (known.empty() ? "" : ", ") + g.name;
    if (of.empty() || g.name == of) gears.push_back(&g);
  }
  if (design.gears.empty())
    throw Misuse("sheet: the job has no gears; sheets are drawn of gears (a reducer's parts have none yet)");
  if (gears.empty()) throw Misuse(fmt::format("--of {}: the job's gears are {}", of, known));
  if (!t.file.empty() && gears.size() > 1)
    throw Misuse("--out with one file, but several gears: choose one with --of, or give a folder");
  const std::string format = t.extension.empty() ? "pdf" : t.extension;
  std::vector<make::File> made;
  for (const job::Gear* g : gears) {
    made.push_back({t.path(g->name + "-sheet." + format), format, g->name});
    made.back().meaning = "the drawing with its tooth data";
    progress("drawing " + made.back().path + " …");
    write_with_job(made.back().path, view::draw_sheet(design, *g, sheet, format), design);
  }
  progress("");
  return made;
}

void add_sheet(CLI::App& root, int& status) {
  struct Options {
    JobOptions job;
    std::string gear, out, units;
    view::SheetOptions sheet;
    bool json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb =
      root.add_subcommand("sheet", "Hand it to the shop: a one-page drawing of each gear with its tooth data");
  add_job(*verb, options->job);
  verb->add_option("--of", options->gear, "Only this gear")->type_name("NAME");
  verb->add_option("--paper", options->sheet.paper, "A4 (default), A3 or letter")
      ->transform(one_of({"A4", "A3", "letter"}));
  verb->add_option("--units", options->units, "mm or in (default: those of the job)")->transform(one_of({"mm", "in"}));
  verb->add_option("-o,--out", options->out,
                   "Folder for NAME-sheet.pdf, or one .pdf or .png (default: the current folder)");
  verb->add_flag("--json", options->json, "For scripts: what was written, as JSON");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml && palio sheet vent.toml --of drum_wheel --out drum_wheel.pdf");
  verb->callback([options, &status] {
    job::Design design = load(options->job);
    if (!options->units.empty()) design.units = options->units == "in" ? job::Units::inch : job::Units::mm;
    tell(sheet_files(design, options->gear, options->sheet, target(options->out, {"pdf", "png"})), options->json);
    status = tell_errors(design);
  });
}

}  // namespace palio::cli
