#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <iostream>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/error.hpp"
#include "palio/make/make.hpp"

namespace palio::cli {
namespace {

/// The STEP module, loaded when the first STEP is asked for: the B-rep kernel would slow every other start.
auto step_writer() {
  static const auto function = [] {
    void* entry = module_entry("palio_step", "palio_write_step", "PALIO_STEP", "choose other formats with --format");
    discard_on_signal(reinterpret_cast<decltype(&palio_step_discard_all)>(
        module_entry("palio_step", "palio_step_discard_all", "PALIO_STEP", "choose other formats with --format")));
    return reinterpret_cast<decltype(&palio_write_step)>(entry);
  }();
  return function;
}

std::string packed(const std::string& format, const std::vector<write::PackedPart>& parts, const write::Stamp& stamp,
                   double seconds) {
  static const auto function = reinterpret_cast<decltype(&palio_pack)>(
      module_entry("palio_packed", "palio_pack", "", "choose other formats with --format"));
  std::string bytes, error;
  if (!function(format.c_str(), &parts, &stamp, seconds, &bytes, &error)) throw FileError(format + ": " + error);
  return bytes;
}

std::array<double, 2> size_said(const std::string& option, const std::string& text, const char* of, const char* as) {
  double w = 0, d = 0;
  char x = 0, rest = 0;
  if (std::sscanf(text.c_str(), "%lf%c%lf%c", &w, &x, &d, &rest) != 3 || (x != 'x' && x != 'X') || !(w > 0) ||
      !(d > 0)) {
    throw Misuse(fmt::format("{} {}: give the {}'s size in mm, as {}", option, text, of, as));
  }
  return {w, d};
}

}  // namespace

write::StepMade write_step_file(const std::vector<write::StepPart>& parts, const write::Stamp& stamp, double tolerance,
                                const std::string& path) {
  check_replaceable(path);
  write::StepMade result{};
  std::string error;
  if (!step_writer()(&parts, &stamp, tolerance, path.c_str(), &result, &error)) throw FileError(error);
  return result;
}

namespace {

make::Means means_for(const Target& t) {
  make::Means means;
  means.path = [&t](const std::string& name) {
    const std::filesystem::path path = t.path(name);
    if (path.has_parent_path()) std::filesystem::create_directories(path.parent_path());
    return path.string();
  };
  means.save = [](const std::string& path, std::string_view bytes) { save(path, bytes); };
  means.about_to = [](const std::string& path) { progress("writing " + path + " …"); };
  means.remark = [](const std::string& remark) { std::cerr << remark << "\n"; };
  means.step = write_step_file, means.pack = packed;
  return means;
}

/// Refusals are told by the options' names.
template <class Make>
std::vector<make::File> told_by_options(Make make, const char* bed = "--nested") {
  try {
    std::vector<make::File> made = make();
    progress("");
    return made;
  } catch (const InvalidParameter& e) {
    for (const auto& [name, option] : {std::pair{"only", "--only"},
                                       {"name", "--name"},
                                       {"format", "--format"},
                                       {"bed", bed},
                                       {"stock", "--stock"},
                                       {"tabs", "--tabs"},
                                       {"blank", "--blank"},
                                       {"region", "--region"},
                                       {"mould", "--mould"},
                                       {"wall", "--walls"},
                                       {"floor", "--walls"},
                                       {"electrode", "--electrode"}}) {
      if (e.name() == name) throw InvalidParameter(option, e.given(), e.allowed(), e.remedy());
    }
    throw;
  }
}

}  // namespace

std::vector<std::string> format_names() {
  std::vector<std::string> names;
  for (const make::Format& f : make::formats())
    names.emplace_back(f.name);
  return names;
}

std::string folder_of(const std::string& path, const job::Design& design) {
  const std::string stem = path == "-" ? "" : std::filesystem::path(path).stem().string();
  return make::slug(stem.empty() ? design.title : stem);
}

std::vector<make::File> make_files(const job::Design& design, const make::Request& request, const Target& t) {
  return told_by_options([&] { return make::make(design, request, means_for(t)); });
}

namespace {

struct MakeOptions {
  JobOptions job;
  make::Request make;
  std::string bed, out, curves = "arcs", formula_language = "text";
  bool json = false, assembly = false, formula = false;
  int pieces = 1;
  struct {
    bool wanted = false;
    double blank = 0;
    std::vector<double> at;
    double turned = 0;
  } region;
  struct {
    bool mould = false;
    make::Tools made;
    std::vector<double> walls;  // around the part and below it

    bool wanted() const { return mould || made.spark_gap > 0; }
  } tools;
  struct {
    std::string size;
    std::vector<double> tabs;  // how many, how wide
    double between = 5;

    bool wanted() const { return !size.empty(); }
  } stock;
};

/// Curves as equations: printed, or into a file.
void print_formulas(const job::Design& design, const MakeOptions& options) {
  const std::string text = make::formulas(design, options.make.only, options.formula_language, options.pieces);
  if (options.out.empty()) return print(text);
  const Target t = target(options.out, {"txt", "c", "py"});
  const std::string extension = options.formula_language == "c"        ? "c"
                                : options.formula_language == "python" ? "py"
                                                                       : "txt";
  save(t.path("formulas." + extension), text);
}

void make_regions(const job::Design& design, const MakeOptions& options, const std::string& out) {
  const Target t = target(out, {"dxf", "svg", "step"});
  make::Region region;
  region.formats = t.extension.empty() ? options.make.formats : std::vector<std::string>{t.extension};
  region.only = options.make.only, region.chord_error = options.make.chord_error;
  region.blank = options.region.blank, region.turned = Angle::degrees(options.region.turned);
  if (options.region.at.size() == 2) region.at = Vec2(options.region.at[0], options.region.at[1]);
  region.one_file = !t.file.empty();
  tell(told_by_options([&] { return make::regions(design, region, means_for(t)); }), options.json);
}

void make_tools(const job::Design& design, const MakeOptions& options, const std::string& out) {
  const Target t = target(out, {});
  make::Tools tools = options.tools.made;
  tools.formats = options.make.formats, tools.only = options.make.only, tools.chord_error = options.make.chord_error;
  if (!options.tools.walls.empty()) tools.sizes.wall = tools.sizes.floor = options.tools.walls[0];
  if (options.tools.walls.size() > 1) tools.sizes.floor = options.tools.walls[1];
  tell(told_by_options([&] {
         std::vector<make::File> made;
         if (options.tools.mould) made = make::moulds(design, tools, means_for(t));
         if (tools.spark_gap > 0) {
           for (make::File& file : make::electrodes(design, tools, means_for(t)))
             made.push_back(std::move(file));
         }
         return made;
       }),
       options.json);
  if (design.process.given && !options.json) tell_beside(make::process_note(design.process));
}

void make_sheets_of_stock(const job::Design& design, const MakeOptions& options, const std::string& out) {
  const Target t = target(out, {"dxf", "svg"});
  make::Stock stock;
  stock.size = size_said("--stock", options.stock.size, "sheet", "600x400");
  stock.between = options.stock.between;
  constexpr double kTab = 0.5;  // [mm]
  const std::vector<double>& tabs = options.stock.tabs;
  if (!tabs.empty()) {
    if (tabs[0] != std::floor(tabs[0]) || tabs[0] > 100)
      throw Misuse(
          fmt::format("--tabs {:.6g}: give a whole number up to 100, and their width in mm behind a comma", tabs[0]));
    stock.tabs = {static_cast<int>(tabs[0]), tabs.size() > 1 ? tabs[1] : kTab};
  }
  stock.formats = t.extension.empty() ? options.make.formats : std::vector<std::string>{t.extension};
  stock.only = options.make.only, stock.chord_error = options.make.chord_error, stock.one_file = !t.file.empty();
  tell(told_by_options([&] { return make::sheets_of_stock(design, stock, means_for(t)); }, "--stock"), options.json);
  if (design.process.given && !options.json) tell_beside(make::process_note(design.process));
}

void make_parts(const job::Design& design, const MakeOptions& options, const std::string& out) {
  const Target t = target(out, format_names());
  if (!t.extension.empty() && !options.make.formats.empty() &&
      options.make.formats != std::vector<std::string>{t.extension}) {
    throw Misuse(
        fmt::format("--format and --out {} name different formats; leave --format out, or give a folder", out));
  }
  make::Request request = options.make;
  request.splines = options.curves == "splines", request.one_file = !t.file.empty();
  if (!options.bed.empty()) request.bed = size_said("--nested", options.bed, "bed", "220x220");
  if (options.assembly) request.only = {"assembly"};
  if (!t.extension.empty()) request.formats = {t.extension};
  tell(make_files(design, request, t), options.json);
  if (design.process.given && !options.json) tell_beside(make::process_note(design.process));
}

void check_wishes(const MakeOptions& options) {
  const int ways = (options.formula ? 1 : 0) + (options.region.wanted ? 1 : 0) + (options.tools.wanted() ? 1 : 0) +
                   (options.stock.wanted() ? 1 : 0);
  if (ways > 1)
    throw Misuse("--formula, --region, --stock, and --mould with --electrode leave out each other; give one");
}

void run_make(const MakeOptions& options, int& status) {
  check_wishes(options);
  const job::Design design = load(options.job);
  if (options.formula && options.json) throw Misuse("--formula prints text; leave --json out");
  if (options.formula) return print_formulas(design, options);
  for (const job::Pair& p : design.pairs)
    running_pairs(design, p.name);
  const std::string out = !options.out.empty() ? options.out : folder_of(options.job.path, design);
  if (options.region.wanted)
    make_regions(design, options, out);
  else if (options.tools.wanted())
    make_tools(design, options, out);
  else if (options.stock.wanted())
    make_sheets_of_stock(design, options, out);
  else
    make_parts(design, options, out);
  status = tell_errors(design);
}

/// Of curves as equations, and of teeth as plane shapes.
void add_other_makings(CLI::App* verb, const std::shared_ptr<MakeOptions>& options) {
  verb->add_flag("--formula", options->formula,
                 "Print the curves of one tooth as parametric equations with their numbers, and check points");
  verb->add_option("--language", options->formula_language, "Of --formula: text, c or python")
      ->transform(one_of({"text", "c", "python"}));
  verb->add_flag("--region", options->region.wanted,
                 "Teeth as plane shapes to cut into a part that exists already: NAME_profile, one closed loop, and "
                 "NAME_region, what has to be removed, "
                 "between that loop and the blank; DXF, SVG, and STEP as planar faces");
  verb->add_option("--blank", options->region.blank,
                   "Of --region: diameter of the part around the teeth, in mm (default: a module beyond the tips)")
      ->check(positive())
      ->type_name("MM");
  verb->add_option("--at", options->region.at, "Of --region: where the gear's axis lies, in mm")
      ->delimiter(',')
      ->expected(2)
      ->check(finite())
      ->type_name("X,Y");
  CLI::Option* mould = verb->add_flag(
      "--mould", options->tools.mould,
      "The mould of each gear as two solids, NAME_mould_lower and NAME_mould_upper, that meet at the upper "
      "end of the teeth: larger by the shrinkage of [process], with its draft on round walls; STEP and STL");
  verb->add_option("--walls", options->tools.walls,
                   "Of --mould: thickness around the part, and below and above it, in mm (default: 8)")
      ->delimiter(',')
      ->expected(1, 2)
      ->needs(mould)
      ->check(positive())
      ->type_name("MM[,MM]");
  verb->add_option("--electrode", options->tools.made.spark_gap,
                   "An electrode for each external gear whose teeth are one outline, NAME_electrode: its form without "
                   "the bore, drawn in "
                   "by this spark gap, in mm, everywhere along the normal")
      ->check(positive())
      ->type_name("GAP");
  CLI::Option* stock = verb->add_option(
      "--stock", options->stock.size,
      "Flat parts side by side on sheets of stock of this size in mm, to be cut out: those of one material and "
      "thickness together, as many of each as the machine has, names on a layer of their own; DXF and SVG");
  stock->type_name("WxD");
  verb->add_option("--tabs", options->stock.tabs,
                   "Of --stock: bridges that hold each part in its sheet, and their width in mm (default: none; 0.5 "
                   "wide), on tips (of pointed teeth on roots) and beside the teeth; the kerf of [process] is added")
      ->delimiter(',')
      ->expected(1, 2)
      ->needs(stock)
      ->check(positive())
      ->type_name("N[,MM]");
  verb->add_option("--between", options->stock.between,
                   "Of --stock: room between parts, and to the sheet's rim, in mm (default: 5)")
      ->needs(stock)
      ->check(positive())
      ->type_name("MM");
  verb->add_option("--turned", options->region.turned, "Of --region: how far the gear is turned, in degrees")
      ->check(finite())
      ->type_name("DEG");
}

}  // namespace

void add_make(CLI::App& root, int& status) {
  const auto options = std::make_shared<MakeOptions>();
  CLI::App* verb = root.add_subcommand(
      "make", "Solids and outlines: STEP, STL, 3MF, GLB, DXF, SVG 1:1, CSV, PDF drawing; or the curves as formulas");
  add_job(*verb, options->job);
  verb->add_option(
          "--format", options->make.formats,
          "Comma-separated choice of step, stl, 3mf, glb, dxf, svg, csv, pdf, parts and parts-sheet (the list of all "
          "parts, CSV and PDF; default: all of these), and urdf (the machine as a robot description)")
      ->delimiter(',')
      ->transform(one_of(format_names()))
      ->type_name("LIST");
  verb->add_option("--only", options->make.only,
                   "Only these parts (names of gears, frames and parts of reducers as NAME_disc; assembly)")
      ->delimiter(',')
      ->type_name("NAMES");
  verb->add_flag("--assembly", options->assembly, "Only the assembly");
  verb->add_option("--chord-error", options->make.chord_error,
                   "Largest distance of chords and arcs from the exact curves, in mm (default: the smaller of 0.005 "
                   "and module/300)")
      ->check(CLI::Range(1e-7, 10.0))
      ->check(finite())
      ->type_name("MM");
  verb->add_option("--curves", options->curves,
                   "DXF: arcs (circles and closed polylines with bulges, default) or splines (an entity and a layer "
                   "for each curve's role)")
      ->transform(one_of({"arcs", "splines"}));
  verb->add_option("--nested", options->bed, "3MF: the assembly's parts side by side on a bed of this size in mm")
      ->type_name("WxD");
  verb->add_option("--name", options->make.pattern,
                   "File names, from {gear} {part} {number} {module} {teeth} {kind} {material} {job}; / makes "
                   "sub-folders (default: {gear})")
      ->type_name("PATTERN");
  add_other_makings(verb, options);
  verb->add_option("--pieces", options->pieces, "Of --formula: cut every curve into so many pieces")
      ->check(CLI::Range(1, 1000))
      ->type_name("N");
  verb->add_option("-o,--out", options->out, "Folder, or one file (default: a folder named after the job)");
  verb->add_flag("--json", options->json, "For scripts: what was written, as JSON");
  verb->footer(
      "With a [process] in the job, files are drawn with its corrections, and say so.\n"
      "Example:\n  palio start spur --out vent.toml && palio make vent.toml --format stl,dxf --out parts");
  verb->callback([options, &status] { run_make(*options, status); });
}

}  // namespace palio::cli
