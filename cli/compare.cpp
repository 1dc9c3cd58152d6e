#include "palio/readings/compare.hpp"

#include <algorithm>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/view/draw.hpp"

namespace palio::cli {
namespace {

struct CompareOptions {
  std::string a, b, of, out;
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

void run_compare(const CompareOptions& options) {
  if (options.a == "-" && options.b == "-") throw Misuse("only one of the two jobs can come from standard input");
  const job::Design a = load({options.a, options.sets_a, "nominal"}), b = load({options.b, options.sets_b, "nominal"});
  const Target t = options.out.empty() ? Target{} : target(options.out, {"txt", "json", "png", "svg", "pdf"});
  const job::Comparison found = job::compare(a, b);
  const std::string name_a = called(options.a, options.sets_a), name_b = called(options.b, options.sets_b);
  const bool folder = !options.out.empty() && t.file.empty();
  const std::string text = job::compare_text(found, name_a, name_b), json = job::compare_json(found);
  if (folder || t.extension == "txt") save(t.path("compare.txt"), text);
  if (folder || t.extension == "json") save(t.path("compare.json"), json);
  for (const char* format : {"png", "svg", "pdf"}) {
    const bool asked = t.extension == format || (folder && std::string_view(format) != "pdf");
    if (!asked) continue;
    const std::string gear = drawn_gear(options, found, a, b);
    write_with_job(t.path(fmt::format("compare.{}", format)),
                   view::draw_overlay(a, a.gear(gear), name_a, b, b.gear(gear), name_b, format), a);
  }
  print(options.json ? json : text);
}

}  // namespace

void add_compare(CLI::App& root, int&) {
  const auto options = std::make_shared<CompareOptions>();
  CLI::App* verb = root.add_subcommand("compare", "Lay two jobs side by side: only what differs, teeth overlaid");
  verb->add_option("A", options->a, "Job file (TOML or JSON), or - for standard input")->required();
  verb->add_option("B", options->b, "The other; the same file with --set-b shows what a change does")->required();
  verb->add_option("--set-a", options->sets_a, "Override one value of A (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY=VALUE");
  verb->add_option("--set-b", options->sets_b, "Override one value of B (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY=VALUE");
  verb->add_option("--of", options->of, "Gear whose teeth are laid over each other (default: the first that differs)")
      ->type_name("NAME");
  verb->add_option("--out", options->out, "File .txt, .json, .png, .svg or .pdf (teeth overlaid); or a folder for all");
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml && palio compare vent.toml vent.toml --set-b "
      "gear.motor_pinion.profile_shift=0.25 --out overlaid.png");
  verb->callback([options] { run_compare(*options); });
}

}  // namespace palio::cli
