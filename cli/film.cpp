#include "film.hpp"

#include <sys/wait.h>

#include <algorithm>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <filesystem>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/error.hpp"

namespace palio::cli {

bool is_film(const std::string& extension) {
  return std::any_of(std::begin(kFilms), std::end(kFilms), [&](const char* f) { return extension == f; });
}

void add_film_options(CLI::App& verb, FilmOptions& o) {
  verb.add_option("--fps", o.fps, "Films: frames per second (default 30)")->check(CLI::Range(1, 120));
  verb.add_option("--size", o.size, "Films: width and height (default 1280x720, even numbers)")->type_name("WxH");
  verb.add_option("--duration", o.duration, "Films: seconds (default: one seamless loop)")->check(CLI::Range(0.1, 600.0));
  verb.add_option("--speed", o.speed, "Films: r/min of the driver (default: slow motion, one tooth pitch in four seconds)")->check(CLI::Range(0.001, 100000.0));
  verb.add_option("--quality", o.quality, "Films in space: fine (shadows), or quick")->check(CLI::IsMember({"fine", "quick"}));
  verb.add_option("--direction", o.direction, "Films: forward (driver counter-clockwise) or back")->check(CLI::IsMember({"forward", "back"}));
}

std::vector<std::uint8_t> render_in_space(const view::SpaceScene& scene) {
  static const auto entry =
      reinterpret_cast<decltype(&palio_render)>(module_entry("palio_scene", "palio_render", "PALIO_SCENE", "take the page that turns (.html)"));
  std::vector<std::uint8_t> pixels;
  std::string error;
  if (!entry(&scene, &pixels, &error)) throw FileError(error);
  return pixels;
}

view::PictureSize parse_size(const std::string& text) {
  view::PictureSize size;
  char end = 0;
  if (std::sscanf(text.c_str(), "%dx%d%c", &size.width, &size.height, &end) != 2 || size.width < 200 || size.height < 150 || size.width > 10000 ||
      size.height > 10000) {
    throw Misuse(fmt::format("--size {}: give width and height as 1280x800, from 200x150 to 10000x10000", text));
  }
  return size;
}

FilmPlan plan(const FilmOptions& o, int driver_teeth) {
  // Seconds for one pitch; a film of a given duration shows as many whole pitches as fit, and at least one.
  const double pitch_seconds = o.speed > 0 ? 60 / (o.speed * driver_teeth) : 4;
  const double wanted = o.duration > 0 ? o.duration : std::max(pitch_seconds, o.speed > 0 ? 2.0 : 4.0);
  const int teeth = std::max(1, static_cast<int>(std::lround(wanted / pitch_seconds)));
  const double seconds = o.duration > 0 ? o.duration : teeth * pitch_seconds;
  const int per_pitch = std::max(8, static_cast<int>(std::lround(seconds * o.fps / teeth)));
  return {per_pitch * teeth, teeth, o.direction == "back" ? -1 : 1};
}

void write_film(const view::Film& film, view::PictureSize size, int fps, const std::string& path) {
  namespace fs = std::filesystem;
  if (size.width % 2 != 0 || size.height % 2 != 0) throw Misuse(fmt::format("--size {}x{}: films need even numbers", size.width, size.height));
  if (std::system("command -v ffmpeg >/dev/null 2>&1") != 0) {
    throw FileError(fmt::format("{}: films are made by the program ffmpeg, which is not there; install the package ffmpeg, or ask for a page (.html)", path));
  }
  const std::string extension = fs::path(path).extension().string(), aside = path + ".part" + extension;
  std::string quoted = "'";
  for (const char c : aside) quoted += c == '\'' ? std::string("'\\''") : std::string(1, c);
  quoted += "'";
  const std::string codec = extension == ".mp4"    ? "-c:v libx264 -preset veryfast -crf 20 -pix_fmt yuv420p -movflags +faststart"
                            : extension == ".webm" ? "-c:v libvpx-vp9 -crf 32 -b:v 0 -row-mt 1 -deadline realtime -cpu-used 6 -pix_fmt yuv420p"
                                                   : "-filter_complex \"split[a][b];[a]palettegen=max_colors=64[p];[b][p]paletteuse=dither=none\" -loop 0";
  const std::string command =
      fmt::format("ffmpeg -v error -y -f rawvideo -pix_fmt bgr0 -s {}x{} -r {} -i - {} {}", size.width, size.height, fps, codec, quoted);
  const auto before = std::signal(SIGPIPE, SIG_IGN);
  std::FILE* pipe = popen(command.c_str(), "w");
  if (!pipe) throw FileError(fmt::format("{}: ffmpeg could not be started", path));
  bool whole = true;
  for (int i = 0; i < film.count && whole; ++i) {
    progress(fmt::format("{}: frame {} of {}", path, i + 1, film.count));
    const std::vector<std::uint8_t> pixels = film.frame(i);
    whole = std::fwrite(pixels.data(), 1, pixels.size(), pipe) == pixels.size();
  }
  progress("");
  const int status = pclose(pipe);
  std::signal(SIGPIPE, before);
  if (!whole || !WIFEXITED(status) || WEXITSTATUS(status) != 0) {
    std::error_code ignored;
    fs::remove(aside, ignored);
    throw FileError(fmt::format("{}: ffmpeg stopped with an error (above); nothing was written", path));
  }
  fs::rename(aside, path);
}

}  // namespace palio::cli
