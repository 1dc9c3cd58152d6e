// Films of what turns: pairs in the plane and in space, reducers.
#include <chrono>
#include <cmath>
#include <iostream>

#include <fmt/format.h>

#include "common.hpp"
#include "film.hpp"
#include "palio/readings/report.hpp"

namespace palio::cli {
namespace {

/// Says beforehand how long the film will take, from its first picture.
void film_in_space(const job::Design& design, const job::Pair& pair, const view::FilmWay& f, view::PictureSize size,
                   const FilmOptions& options, const std::string& path) {
  // Positions of the roll on the frames.
  const job::RolledPair on_frames{&pair, job::rolled(pair, f.positions)};
  const auto film = [&](bool quick) { return view::space_film(design, on_frames, f, size, quick, render_in_space); };
  const auto seconds = [&](bool quick) {
    const auto start = std::chrono::steady_clock::now();
    film(quick).picture(0);
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count() * f.pictures;
  };
  const bool quick = options.quality == "quick";
  std::cerr << fmt::format("{}: {} pictures in space, about {:.0f} s", path, f.pictures, seconds(quick));
  if (!quick) std::cerr << fmt::format("; with --quality quick about {:.0f} s", seconds(true));
  std::cerr << "\n";
  write_film(film(quick), size, options.fps, path);
}

}  // namespace

void film_of_reducer(const job::Design& design, const job::Reducer& reducer, const FilmOptions& film,
                     const std::string& path) {
  constexpr double kSeconds = 12, kTurns = 3;
  const view::PictureSize size = parse_size(film.size);
  const double seconds = film.duration > 0 ? film.duration : kSeconds,
               turns = film.speed > 0 ? film.speed / 60 * seconds : kTurns;
  const int pictures = static_cast<int>(std::lround(seconds * film.fps));
  write_film(view::reducer_film(design, reducer, pictures, film.direction == "back" ? -turns : turns, size), size,
             film.fps, path);
}

void film_of_pair(const job::Design& design, const job::Pair& p, const FilmOptions& film, const std::string& path) {
  const view::PictureSize size = parse_size(film.size);
  const gear::Teeth& turning =
      design.gears[design.gears[p.driver].teeth.is_rack() ? p.driven : p.driver].teeth;  // of a rack pair the round one
  const view::FilmWay way = plan(film, turning.count());
  if (p.in_space()) return film_in_space(design, p, way, size, film, path);
  write_film(view::pair_film(design, p, way, size), size, film.fps, path);
}

}  // namespace palio::cli
