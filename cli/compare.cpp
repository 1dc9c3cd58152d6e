#include "palio/readings/compare.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <optional>
#include <tuple>

#include <fmt/format.h>

#include "common.hpp"
#include "outline.hpp"
#include "palio/view/draw.hpp"
#include "palio/view/laid.hpp"

namespace palio::cli {
namespace {

struct CompareOptions {
  std::string a, b, of, out, as = "nominal";
  std::optional<double> scale;
  std::vector<std::string> sets_a, sets_b;
  bool json = false;
};

/// The gear that is drawn: the one named, else the first whose readings differ, else the first of both.
std::string drawn_gear(const CompareOptions& options, const job::Comparison& found, const job::Design& a,
                       const job::Design& b) {
  const auto has = [](const job::Design& design, const std::string& name) {
    return std::any_of(design.gears.begin(), design.gears.end(), [&](const job::Gear& g) { return g.name == name; });
  };
  if (!options.of.empty()) {
    if (!has(a, options.of) || !has(b, options.of))
      throw Misuse(fmt::format("--of {}: not both jobs have a gear of that name", options.of));
    return options.of;
  }
  for (const job::Difference& d : found.readings) {
    const auto parts = job::parts_of_path(d.path);
    if (parts && parts->head == "gear") return parts->name;
  }
  for (const job::Gear& g : a.gears) {
    if (has(b, g.name)) return g.name;
  }
  throw Misuse("--out: the two jobs have no gear of the same name to be laid over each other");
}

std::string called(const std::string& path, const std::vector<std::string>& sets) {
  return sets.empty() ? path : fmt::format("{} with {}", path, fmt::join(sets, ", "));
}

/// What was found, where it is asked for: text, JSON, pictures, a page; and on standard output.
/// \param draw  the picture in a format
template <class Draw>
void deliver(const CompareOptions& options, const std::string& heading, const std::string& text,
             const std::string& json, const Draw& draw, const job::Design* design) {
  const Target t = options.out.empty() ? Target{} : target(options.out, {"txt", "json", "html", "png", "svg", "pdf"});
  const bool folder = !options.out.empty() && t.file.empty();
  const auto asked = [&](const char* format, bool in_folder) { return t.extension == format || (folder && in_folder); };
  if (asked("txt", true)) save(t.path("compare.txt"), text);
  if (asked("json", true)) save(t.path("compare.json"), json);
  const auto keep = [&](const std::string& name, const std::string& bytes) {
    if (design)
      write_with_job(t.path(name), bytes, *design);
    else
      save(t.path(name), bytes);
  };
  if (asked("html", true)) keep("compare.html", view::side_by_side_page(heading, draw("svg"), text));
  for (const char* format : {"png", "svg", "pdf"}) {
    if (asked(format, std::string_view(format) != "pdf"))
      keep(fmt::format("compare.{}", format), draw(std::string(format)));
  }
  print(options.json ? json : text);
}

void compare_jobs(const CompareOptions& options) {
  if (options.a == "-" && options.b == "-") throw Misuse("only one of the two jobs can come from standard input");
  if (options.scale) throw Misuse("--scale: only an outline is laid on something; these are two jobs");
  const job::Design a = load({options.a, options.sets_a, options.as}),
                    b = load({options.b, options.sets_b, options.as});
  const job::Comparison found = job::compare(a, b);
  const std::string name_a = called(options.a, options.sets_a), name_b = called(options.b, options.sets_b);
  // Known before anything is written: whether there is something to draw.
  const std::string ending = options.out.empty() ? "txt" : format_of(options.out);
  const bool drawn = !options.of.empty() || (ending != "txt" && ending != "json");
  const std::string gear = drawn ? drawn_gear(options, found, a, b) : "";
  const auto draw = [&](const std::string& format) {
    return view::draw_overlay(a, a.gear(gear), name_a, b, b.gear(gear), name_b, format);
  };
  deliver(options, fmt::format("{} and {}", name_a, name_b), job::compare_text(found, name_a, name_b),
          job::compare_json(found), draw, &a);
}

/// Which of the outlines is laid on which gear: the gear named, else the first outline that a gear has as many teeth
/// as; of several such gears the one of its size.
std::pair<const foreign::Toothed*, const job::Gear*> matched(const std::vector<foreign::Toothed>& outlines,
                                                             const job::Design& design, const std::string& of) {
  std::string counts, drawn;
  std::vector<const job::Gear*> gears;
  for (const job::Gear& g : design.gears) {
    if (!g.teeth.is_one_loop()) continue;
    counts += fmt::format("{}{} {}", counts.empty() ? "" : ", ", g.name, g.teeth.count());
    if (of.empty() || g.name == of) gears.push_back(&g);
  }
  for (const foreign::Toothed& t : outlines) {
    drawn += fmt::format("{}{}", drawn.empty() ? "" : ", ", t.teeth);
    const job::Gear* best = nullptr;
    double least = 0;
    for (const job::Gear* g : gears) {
      if (g->teeth.count() != t.teeth) continue;
      const double tip = t.internal ? t.inner_radius : t.outer_radius,
                   away = std::abs(std::log(tip / (g->teeth.tip_diameter() / 2)));
      if (!best || away < least) best = g, least = away;
    }
    if (best) return {&t, best};
  }
  throw Misuse(fmt::format("outlines in the file have {} teeth, and the job has {} of as many: its plane gears are {}",
                           drawn, of.empty() ? "no plane gear" : "no plane gear \"" + of + "\"",
                           counts.empty() ? "none" : counts));
}

void compare_outlines(const CompareOptions& options) {
  // The job, or the second outline, is what the other is laid on.
  const bool a_is_outline = is_outline(options.a), both = a_is_outline && is_outline(options.b);
  const std::string& path = both || !a_is_outline ? options.b : options.a;
  const std::string& on = both || !a_is_outline ? options.a : options.b;
  const auto& sets = a_is_outline ? options.sets_b : options.sets_a;
  for (const auto& [set, given, of] :
       {std::tuple{"--set-a", &options.sets_a, &options.a}, {"--set-b", &options.sets_b, &options.b}}) {
    if (!given->empty() && is_outline(*of))
      throw Misuse(fmt::format("{}: {} is an outline and has no values to set", set, *of));
  }
  progress("reading …");
  const std::vector<foreign::Toothed> outlines = load_outlines(path);
  std::optional<job::Design> design;
  const foreign::Told told = [&] {
    const foreign::Laying laying{options.scale};
    if (both) {
      const foreign::Toothed other = load_outline(on);
      if (other.teeth != outlines.front().teeth)
        throw Misuse(fmt::format("{} has {} teeth, {} has {}: one cannot be laid on the other", path,
                                 outlines.front().teeth, on, other.teeth));
      progress("laying one on the other …");
      return foreign::told(path, on, outlines.front(), other, laying);
    }
    design = load({on, sets, options.as});
    const auto [outline, gear] = matched(outlines, *design, options.of);
    foreign::Toothed toothed = *outline;
    toothed.internal = gear->teeth.internal();
    progress("laying it on the exact teeth …");
    return foreign::told(path, fmt::format("gear.{} of {}", gear->name, called(on, sets)), std::move(toothed),
                         gear->teeth.outline(), laying);
  }();
  progress("");
  deliver(
      options, fmt::format("{} laid on {}", told.of, told.on), foreign::laid_text(told), foreign::laid_json(told),
      [&](const std::string& format) { return view::draw_laid(told, format); }, design ? &*design : nullptr);
}

}  // namespace

void add_compare(CLI::App& root, int&) {
  const auto options = std::make_shared<CompareOptions>();
  CLI::App* verb =
      root.add_subcommand("compare", "Lay two side by side: jobs, or a job and an outline or mesh of others");
  verb->add_option("A", options->a, "Job file (TOML or JSON), - for standard input, or an outline (.dxf, .svg, .stl)")
      ->required();
  verb->add_option("B", options->b,
                   "The other: a job (the same with --set-b shows what a change does), or an outline that is laid on A")
      ->required();
  verb->add_option("--set-a", options->sets_a, "Override one value of A (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY=VALUE");
  verb->add_option("--set-b", options->sets_b, "Override one value of B (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY=VALUE");
  verb->add_option("--of", options->of,
                   "Gear whose teeth are laid over each other (default: the first that differs; with an outline "
                   "the one of as many teeth)")
      ->type_name("NAME");
  verb->add_option("--as", options->as, "Jobs as designed (nominal, default), or as [process] makes them (made)")
      ->transform(one_of({"nominal", "made"}))
      ->type_name("STATE");
  verb->add_option("--scale", options->scale,
                   "Hold the scale of an outline; else it is fitted, and taken where it leaves less than a fifth of "
                   "what is off")
      ->check(finite() & CLI::Range(0.01, 100.0))
      ->type_name("FACTOR");
  verb->add_option("-o,--out", options->out,
                   "File .txt, .json, .html, .png, .svg or .pdf (teeth overlaid); or a folder for all");
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml && palio compare vent.toml vent.toml --set-b "
      "gear.motor_pinion.profile_shift=0.25 --out overlaid.png");
  verb->callback([options] {
    is_outline(options->a) || is_outline(options->b) ? compare_outlines(*options) : compare_jobs(*options);
  });
}

}  // namespace palio::cli
