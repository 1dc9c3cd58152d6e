#include <algorithm>
#include <iostream>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "film.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/page.hpp"
#include "watch.hpp"
#include "written.hpp"

namespace palio::cli {
namespace {

struct RollOptions {
  WatchOptions watch;
  JobOptions job;
  bool json = false;
  int positions = 360;
  std::string pair, out, written;
  FilmOptions film;
};

/// What was rolled of a job.
struct RolledJob {
  std::vector<job::RolledPair> pairs;
  std::vector<job::RolledReducer> reducers;

  bool mesh() const {
    const auto meshes = [](const auto& r) { return r.result.verdict == roll::Verdict::meshes; };
    return std::all_of(pairs.begin(), pairs.end(), meshes) && std::all_of(reducers.begin(), reducers.end(), meshes);
  }
};

/// What the page of all together is called; a pair of that name keeps its own.
std::string machine_file(const RolledJob& all) {
  const auto taken = [](const auto& r) { return r.pair->name == "machine"; };
  return std::any_of(all.pairs.begin(), all.pairs.end(), taken) ? "machine.all.html" : "machine.html";
}

/// Pages, tables or a film.
void write_rolled(const job::Design& design, const RolledJob& all, const RollOptions& options) {
  const Target t = target(options.out, {"html", "json", "mp4", "webm", "gif"});
  const bool several = all.pairs.size() + all.reducers.size() > 1;
  if (is_film(t.extension) && several)
    throw Misuse("--out with a film, but several pairs: choose one with --pair, or give a page or a folder");
  if (is_film(t.extension) && all.pairs.empty())
    return film_of_reducer(design, *all.reducers.front().reducer, options.film, t.file);
  if (is_film(t.extension)) return film_of_pair(design, *all.pairs.front().pair, options.film, t.file);
  if (t.extension != "html") save(t.path("roll.json"), job::roll_json(design, all.pairs, all.reducers));
  if (t.extension == "json") return;
  if (several || t.file.empty())
    write_with_job(t.path(machine_file(all)), view::machine_page(design, all.pairs, all.reducers), design);
  if (several && t.extension == "html") return;
  for (const job::RolledPair& r : all.pairs)
    write_with_job(t.path(r.pair->name + ".html"), view::roll_page(design, r), design);
  for (const job::RolledReducer& r : all.reducers) {
    write_with_job(t.path(r.reducer->name + ".html"), view::reducer_page(design, r), design);
    if (t.file.empty()) save(t.path(r.reducer->name + "-gaps.csv"), job::gaps_csv(design, r));
  }
}

/// The same of what stands in files, next to the exact curves. Whether they leave play everywhere.
bool print_written(const job::Design& design, const RolledJob& all, const RollOptions& options) {
  auto tree = nlohmann::ordered_json::parse(job::roll_json(design, all.pairs, all.reducers));
  std::string text;
  bool free = true;
  for (const job::RolledPair& r : all.pairs) {
    progress("reading the files of " + r.pair->name + " …");
    const std::vector<WrittenRoll> files = roll_written(design, *r.pair, options.written, options.positions);
    for (const WrittenRoll& w : files)
      free = free && w.result.play.min >= 0;
    tree["pairs"][r.pair->name]["written"] = written_json(design, files);
    text += job::roll_text(design, {r}, coloured()) + written_text(design, files);
  }
  progress("");
  text += job::roll_text(design, {}, coloured(), all.reducers);
  print(options.json ? tree.dump(2) + "\n" : text);
  return free;
}

void run_roll(const RollOptions& options, int& status) {
  const job::Design design = load(options.job);
  if (!options.written.empty()) check_written(design, options.pair, options.written);
  RolledJob all;
  for (const job::Pair* p : running_pairs(design, options.pair))
    all.pairs.push_back({p, job::rolled(*p, options.positions)});
  for (const job::Reducer* r : chosen_reducers(design, options.pair))
    all.reducers.push_back({r, job::rolled(*r, options.positions)});
  if (!all.mesh()) status = kVerdictAgainst;
  if (!options.out.empty()) write_rolled(design, all, options);
  if (!options.written.empty()) {
    if (!print_written(design, all, options)) status = kVerdictAgainst;
    return;
  }
  print(options.json ? job::roll_json(design, all.pairs, all.reducers)
                     : job::roll_text(design, all.pairs, coloured(), all.reducers));
}

}  // namespace

void add_roll(CLI::App& root, int& status) {
  const auto options = std::make_shared<RollOptions>();
  CLI::App* verb = root.add_subcommand("roll", "Prove that it meshes: turn the pair through by its real geometry");
  add_job(*verb, options->job, true);
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->add_option("--positions", options->positions, "Positions over one tooth pitch of the driver (default 360)")
      ->type_name("N");
  verb->add_option("--pair", options->pair, "Only this pair or reducer")->type_name("NAME");
  verb->add_option("-o,--out", options->out,
                   "Folder for PAIR.html (a page that turns), machine.html (all of them in one, in space), roll.json "
                   "and the gaps of a reducer's rollers (NAME-gaps.csv), or one such file; or a film: "
                   ".mp4, .webm, .gif");
  verb->add_option("--written", options->written,
                   "Also roll the STL, DXF and STEP files of this folder (spur and helical gears, rings, cycloidal "
                   "wheels), next to the exact curves")
      ->type_name("DIR");
  add_film_options(*verb, options->film);
  verb->footer(
      "Exit status 3 when a pair does not mesh.\nExample:\n  palio start spur --out vent.toml && palio roll vent.toml "
      "--out rolled");
  add_watch(*verb, options->watch);
  verb->callback([options, &status] {
    watched(options->job.path, options->watch, [&] { status = kDone, run_roll(*options, status); });
  });
}

}  // namespace palio::cli
