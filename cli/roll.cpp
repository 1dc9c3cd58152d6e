#include <chrono>
#include <cmath>
#include <iostream>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "film.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/page.hpp"
#include "written.hpp"

namespace palio::cli {
namespace {

/// Says beforehand how long the film will take, from its first picture.
void film_in_space(const job::Design& design, const job::RolledPair& rolled, const view::FilmWay& f,
                   view::PictureSize size, const FilmOptions& options, const std::string& path) {
  // Positions of the roll on the frames.
  const job::RolledPair on_frames{rolled.pair, job::rolled(*rolled.pair, f.positions)};
  const auto film = [&](bool quick) { return view::space_film(design, on_frames, f, size, quick, render_in_space); };
  const auto seconds = [&](bool quick) {
    const auto start = std::chrono::steady_clock::now();
    film(quick).frame(0);
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() * f.frames;
  };
  const bool quick = options.quality == "quick";
  std::cerr << fmt::format("{}: {} pictures in space, about {:.0f} s", path, f.frames, seconds(quick));
  if (!quick) std::cerr << fmt::format("; with --quality quick about {:.0f} s", seconds(true));
  std::cerr << "\n";
  write_film(film(quick), size, options.fps, path);
}

}  // namespace

void add_roll(CLI::App& root, int& status) {
  struct Options {
    JobOptions job;
    bool json = false;
    int positions = 360;
    std::string pair, out, written;
    FilmOptions film;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("roll", "Prove that it meshes: turn the pair through by its real geometry");
  add_job(*verb, options->job, true);
  verb->add_flag("--json", options->json, "For scripts: JSON at full precision");
  verb->add_option("--positions", options->positions, "Positions over one tooth pitch of the driver (default 360)")
      ->type_name("N");
  verb->add_option("--pair", options->pair, "Only this pair or reducer")->type_name("NAME");
  verb->add_option("--out", options->out,
                   "Folder for PAIR.html (a page that turns), roll.json and the gaps of a reducer's rollers "
                   "(NAME-gaps.csv), or one such file; or a film: "
                   ".mp4, .webm, .gif");
  verb->add_option("--written", options->written,
                   "Also roll the STL, DXF and STEP files of this folder (spur and helical gears, rings, cycloidal "
                   "wheels), next to the exact curves")
      ->type_name("DIR");
  add_film_options(*verb, options->film);
  verb->footer(
      "Exit status 3 when a pair does not mesh.\nExample:\n  palio start spur --out vent.toml && palio roll vent.toml "
      "--out rolled");
  verb->callback([options, &status] {
    const job::Design design = load(options->job);
    if (!options->written.empty()) check_written(design, options->pair, options->written);
    std::vector<job::RolledPair> rolled;
    for (const job::Pair* p : running_pairs(design, options->pair)) {
      rolled.push_back({p, job::rolled(*p, options->positions)});
      if (rolled.back().result.verdict != roll::Verdict::meshes) status = kVerdictAgainst;
    }
    std::vector<job::RolledReducer> reducers;
    for (const job::Reducer* r : chosen_reducers(design, options->pair)) {
      reducers.push_back({r, job::rolled(*r, options->positions)});
      if (reducers.back().result.verdict != roll::Verdict::meshes) status = kVerdictAgainst;
    }
    if (!options->out.empty()) {
      const Target t = target(options->out, {"html", "json", "mp4", "webm", "gif"});
      const bool page = t.extension == "html" || is_film(t.extension);
      if (page && rolled.size() + reducers.size() > 1)
        throw Misuse("--out with one page or film, but several pairs: choose one with --pair, or give a folder");
      if (is_film(t.extension) && rolled.empty()) {
        // Three turns of the input: lobes pass, and the output is seen to go back.
        const view::PictureSize size = parse_size(options->film.size);
        const double seconds = options->film.duration > 0 ? options->film.duration : 12;
        const double turns = options->film.speed > 0 ? options->film.speed / 60 * seconds : 3;
        write_film(view::reducer_film(design, *reducers.front().reducer,
                                      static_cast<int>(std::lround(seconds * options->film.fps)),
                                      options->film.direction == "back" ? -turns : turns, size),
                   size, options->film.fps, t.file);
      } else if (is_film(t.extension)) {
        const job::Pair& p = *rolled.front().pair;
        const view::PictureSize size = parse_size(options->film.size);
        const view::FilmWay f =
            plan(options->film, design.gears[p.driver].teeth.is_rack() ? design.gears[p.driven].teeth.count()
                                                                       : design.gears[p.driver].teeth.count());
        if (p.in_space()) {
          film_in_space(design, rolled.front(), f, size, options->film, t.file);
        } else {
          write_film(view::pair_film(design, p, f, size), size, options->film.fps, t.file);
        }
      } else {
        if (t.extension != "html") save(t.path("roll.json"), job::roll_json(design, rolled, reducers));
        if (t.extension != "json") {
          for (const job::RolledPair& r : rolled) {
            write_with_job(t.path(r.pair->name + ".html"), view::roll_page(design, r), design);
          }
          for (const job::RolledReducer& r : reducers) {
            write_with_job(t.path(r.reducer->name + ".html"), view::reducer_page(design, r), design);
            if (t.file.empty()) save(t.path(r.reducer->name + "-gaps.csv"), job::gaps_csv(design, r));
          }
        }
      }
    }
    if (options->written.empty())
      return print(options->json ? job::roll_json(design, rolled, reducers)
                                 : job::roll_text(design, rolled, coloured(), reducers));
    auto tree = nlohmann::ordered_json::parse(job::roll_json(design, rolled, reducers));
    std::string text;
    for (const job::RolledPair& r : rolled) {
      progress("reading the files of " + r.pair->name + " …");
      const std::vector<WrittenRoll> files = roll_written(design, *r.pair, options->written, options->positions);
      for (const WrittenRoll& w : files) {
        if (w.result.play.min < 0) status = kVerdictAgainst;
      }
      tree["pairs"][r.pair->name]["written"] = written_json(design, files);
      text += job::roll_text(design, {r}, coloured()) + written_text(design, files);
    }
    progress("");
    text += job::roll_text(design, {}, coloured(), reducers);
    print(options->json ? tree.dump(2) + "\n" : text);
  });
}

}  // namespace palio::cli
