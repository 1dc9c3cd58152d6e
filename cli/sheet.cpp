#include "palio/view/sheet.hpp"

#include <memory>

#include <fmt/format.h>

#include "common.hpp"

namespace palio::cli {

std::vector<make::File> sheet_files(const job::Design& design, const std::string& of, const view::SheetOptions& sheet,
                                    const Target& t) {
  const std::vector<view::Part> parts = view::parts(design);
  std::vector<view::SheetOf> chosen;
  std::string known;
  for (const view::SheetOf& s : view::all_sheets(design, parts)) {
    known += (known.empty() ? "" : ", ") + view::name(s);
    if (of.empty() || view::name(s) == of) chosen.push_back(s);
  }
  if (chosen.empty()) throw Misuse(fmt::format("--of {}: the job's parts are {}", of, known));
  const std::string format = t.extension.empty() ? "pdf" : t.extension;
  const bool one_file = !t.file.empty();
  if (one_file && chosen.size() > 1 && format != "pdf")
    throw Misuse(fmt::format("--out with one .{}, but {} sheets: a .pdf takes them all; or choose one with --of",
                             format, chosen.size()));
  std::vector<make::File> made;
  const auto draw = [&](const std::string& path, const std::string& part, const std::vector<view::SheetOf>& sheets) {
    made.push_back({path, format, part});
    made.back().meaning = sheets.front().gear ? "the drawing with its tooth data" : "the drawing";
    made.back().parts = sheets.size();
    if (sheets.size() > 1) made.back().meaning = "the drawings, a page each";
    progress("drawing " + path + " …");
    write_with_job(path, view::draw_sheets(design, sheets, sheet, format), design);
  };
  if (one_file) {
    draw(t.path(""), chosen.size() == 1 ? view::name(chosen.front()) : "all", chosen);
  } else {
    for (const view::SheetOf& s : chosen)
      draw(t.path(view::name(s) + "-sheet." + format), view::name(s), {s});
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
  CLI::App* verb = root.add_subcommand(
      "sheet", "Hand it to the shop: a one-page drawing of each part, of gears with their tooth data");
  add_job(*verb, options->job);
  verb->add_option("--of", options->gear, "Only this part")->type_name("NAME");
  verb->add_option("--paper", options->sheet.paper, "A4 (default), A3 or letter")
      ->transform(one_of({"A4", "A3", "letter"}));
  verb->add_option("--units", options->units, "mm or in (default: those of the job)")->transform(one_of({"mm", "in"}));
  verb->add_option(
      "-o,--out", options->out,
      "Folder for NAME-sheet.pdf, one .pdf with a page for each, or a .png of one (default: the current folder)");
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
