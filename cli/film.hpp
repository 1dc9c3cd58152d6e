// Films through the ffmpeg program.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

#include "palio/design/design.hpp"
#include "palio/view/film.hpp"
#include "palio/view/space_scene.hpp"

namespace palio::cli {

inline const char* const kFilms[] = {"mp4", "webm", "gif"};
bool is_film(const std::string& extension);

struct FilmOptions {
  int fps = 30;
  std::string size = "1280x720", direction = "forward", quality = "fine";
  double duration = 0;  // s; 0: one loop
  double speed = 0;     // r/min of the driver; 0: slow motion, a pitch in four seconds
};

void add_film_options(CLI::App& verb, FilmOptions& options);
/// "1280x720". \throws Misuse
view::PictureSize parse_size(const std::string& text);

/// A pair's film: as long and as fast as asked. What is left open is chosen so that it loops: whole pitches. Where
/// teeth would blur it is said on standard error.
view::FilmWay plan(const FilmOptions& options, int driver_teeth);

/// Pictures in space, by the module that is loaded for them. \throws FileError
std::vector<std::uint8_t> render_in_space(const view::SpaceScene& scene);

/// The film of a pair, by its kind. \throws FileError, Misuse
void film_of_pair(const job::Design& design, const job::Pair& pair, const FilmOptions& film, const std::string& path);
/// Three turns of the input: lobes pass, and the output is seen to go back. \throws FileError, Misuse
void film_of_reducer(const job::Design& design, const job::Reducer& reducer, const FilmOptions& film,
                     const std::string& path);

/// Pipes the film through ffmpeg into `path`, aside first. \throws FileError, Misuse
void write_film(const view::Film& film, view::PictureSize size, int fps, const std::string& path);

}  // namespace palio::cli
