#include "film.hpp"

#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <limits>

#include <fmt/format.h>

#include "child.hpp"
#include "common.hpp"
#include "palio/error.hpp"

namespace palio::cli {

bool is_film(const std::string& extension) {
  return std::any_of(std::begin(kFilms), std::end(kFilms), [&](const char* f) { return extension == f; });
}

void add_film_options(CLI::App& verb, FilmOptions& o) {
  verb.add_option("--fps", o.fps, "Films: frames per second (default 30)")->check(CLI::Range(1, 120));
  verb.add_option("--size", o.size, "Films: width and height (default 1280x720, even numbers)")->type_name("WxH");
  verb.add_option("--duration", o.duration, "Films: seconds (default: one seamless loop)")
      ->check(CLI::Range(0.1, 600.0))
      ->check(finite());
  verb.add_option("--speed", o.speed,
                  "Films: r/min of the driver (default: slow motion, one tooth pitch in four seconds)")
      ->check(CLI::Range(0.001, 100000.0))
      ->check(finite());
  verb.add_option("--quality", o.quality, "Films in space: fine (shadows), or quick")
      ->transform(one_of({"fine", "quick"}));
  verb.add_option("--direction", o.direction, "Films: forward (driver counter-clockwise) or back")
      ->transform(one_of({"forward", "back"}));
}

std::vector<std::uint8_t> render_in_space(const view::SpaceScene& scene) {
  static const auto entry = reinterpret_cast<decltype(&palio_render)>(
      module_entry("palio_scene", "palio_render", "PALIO_SCENE", "take the page that turns (.html)"));
  std::vector<std::uint8_t> pixels;
  std::string error;
  if (!entry(&scene, &pixels, &error)) throw FileError(error);
  return pixels;
}

view::PictureSize parse_size(const std::string& text) {
  view::PictureSize size;
  char end = 0;
  if (std::sscanf(text.c_str(), "%dx%d%c", &size.width, &size.height, &end) != 2 || size.width < 200 ||
      size.height < 150 || size.width > 10000 || size.height > 10000) {
    throw Misuse(fmt::format("--size {}: give width and height as 1280x800, from 200x150 to 10000x10000", text));
  }
  return size;
}

view::FilmWay plan(const FilmOptions& o, int driver_teeth) {
  constexpr double kSlow = 4, kShortLoop = 2, kLongLoop = 6;  // seconds
  const double pitch_seconds = o.speed > 0 ? 60 / (o.speed * driver_teeth) : kSlow;
  view::FilmWay film;
  film.sense = o.direction == "back" ? -1 : 1;
  const auto frames_of = [&](double seconds) { return std::max(1, static_cast<int>(std::lround(seconds * o.fps))); };
  if (o.duration > 0) {
    film.pictures = frames_of(o.duration);
    // Without a speed asked for, one near slow motion that closes.
    film.pitches =
        o.speed > 0 ? film.pictures / (o.fps * pitch_seconds) : std::max(1.0, std::round(o.duration / kSlow));
  } else {
    // Of the whole numbers of pitches that take a few seconds the one that takes a whole number of frames most nearly.
    const int first = std::max(1, static_cast<int>(std::ceil(kShortLoop / pitch_seconds)));
    const int last = std::max(first, std::min(first + 200, static_cast<int>(kLongLoop / pitch_seconds)));
    double least = std::numeric_limits<double>::infinity();
    for (int n = first; n <= last; ++n) {
      const double exact = n * pitch_seconds * o.fps, off = std::abs(exact - frames_of(n * pitch_seconds)) / exact;
      if (off < least - 1e-12) least = off, film.pitches = n, film.pictures = frames_of(n * pitch_seconds);
    }
  }
  // Whole pitches have their pictures on rolled positions; else the nearest of many.
  const double per_pitch = film.pictures / film.pitches;
  constexpr int kMany = 240;
  film.positions = std::abs(per_pitch - std::round(per_pitch)) < 1e-9 && per_pitch >= 8 && per_pitch <= 4 * kMany
                       ? static_cast<int>(std::round(per_pitch))
                       : kMany;
  constexpr double kBlur = 0.4;  // of a pitch from picture to picture: beyond it the eye no longer follows a tooth
  if (film.pitches / film.pictures > kBlur) {
    std::cerr << fmt::format(
        "at {:.6g} r/min {:.3g} tooth pitches pass from picture to picture: the teeth blur; up to {:.3g} r/min they do "
        "not\n",
        o.speed, film.pitches / film.pictures, kBlur * o.fps * 60 / driver_teeth);
  }
  return film;
}

namespace {

volatile std::sig_atomic_t running = 0;  // the encoder, for the signal handler

/// Or it would go on with what it has and write its file after ours is gone.
void stop_encoder() {
  if (running <= 0) return;
  ::kill(static_cast<pid_t>(running), SIGKILL);
  ::waitpid(static_cast<pid_t>(running), nullptr, 0);
}

/// The program ffmpeg, reading raw pictures from its standard input; its complaints are kept.
class Encoder {
 public:
  Encoder(const std::vector<std::string>& arguments, const std::string& path) {
    int to[2], from[2];
    if (::pipe2(to, O_CLOEXEC) != 0 || ::pipe2(from, O_CLOEXEC) != 0)
      throw FileError(fmt::format("{}: no pipe to ffmpeg: {}", path, std::strerror(errno)));
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, to[0], STDIN_FILENO);
    posix_spawn_file_actions_adddup2(&actions, from[1], STDOUT_FILENO);
    posix_spawn_file_actions_adddup2(&actions, from[1], STDERR_FILENO);
    std::vector<char*> words;
    for (const std::string& a : arguments)
      words.push_back(const_cast<char*>(a.c_str()));  // NOLINT: exec's signature
    words.push_back(nullptr);
    // A signal between its start and its entry in the list would let it go on alone.
    const write::HeldSignals held;
    posix_spawnattr_t attributes;
    posix_spawnattr_init(&attributes);
    posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
    posix_spawnattr_setsigmask(&attributes, &held.before());
    const int failed = ::posix_spawnp(&child_, "ffmpeg", &actions, &attributes, words.data(), environ);
    posix_spawnattr_destroy(&attributes);
    posix_spawn_file_actions_destroy(&actions);
    ::close(to[0]);
    ::close(from[1]);
    in_ = to[1], complaints_ = from[0];
    if (failed == 0) {
      running = child_;
      discard_on_signal(stop_encoder);
      return;
    }
    ::close(in_);
    ::close(complaints_);
    throw FileError(fmt::format(
        "{}: films are made by the program ffmpeg, which {}; install the package ffmpeg, or ask for a page (.html)",
        path, failed == ENOENT ? "is not there" : std::string("cannot be started: ") + std::strerror(failed)));
  }
  Encoder(const Encoder&) = delete;
  Encoder& operator=(const Encoder&) = delete;
  ~Encoder() {
    if (child_ > 0) finish();
  }

  /// Whether it took all of it.
  bool write(const std::vector<std::uint8_t>& bytes) const { return write_all(in_, bytes.data(), bytes.size()); }

  /// Ends it. What it complained of; empty when all went well.
  std::string finish() {
    ::close(in_);
    std::string said = read_all(complaints_, 20000);
    ::close(complaints_);
    const int status = wait_for(child_);
    child_ = -1;
    running = 0;
    // On a full disk it may end as if nothing had happened, but not in silence.
    if (said.empty() && !(WIFEXITED(status) && WEXITSTATUS(status) == 0)) return "it stopped without a word";
    return said;
  }

 private:
  pid_t child_ = -1;
  int in_ = -1, complaints_ = -1;
};

std::vector<std::string> codec(const std::string& extension) {
  if (extension == "mp4")
    return {"-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-pix_fmt", "yuv420p", "-movflags", "+faststart"};
  if (extension == "webm")
    return {"-c:v", "libvpx-vp9", "-crf",     "32",        "-b:v", "0",        "-row-mt",
            "1",    "-deadline",  "realtime", "-cpu-used", "6",    "-pix_fmt", "yuv420p"};
  return {"-filter_complex", "split[a][b];[a]palettegen=max_colors=64[p];[b][p]paletteuse=dither=none", "-loop", "0"};
}

}  // namespace

void write_film(const view::Film& film, view::PictureSize size, int fps, const std::string& path) {
  namespace fs = std::filesystem;
  if (size.width % 2 != 0 || size.height % 2 != 0)
    throw Misuse(fmt::format("--size {}x{}: films need even numbers", size.width, size.height));
  const std::string extension = format_of(path), aside = write::begin_aside(path);
  // A name may begin like an option or a protocol: it is given as a file, and from the root on.
  std::vector<std::string> words{"ffmpeg",
                                 "-v",
                                 "error",
                                 "-nostdin",
                                 "-y",
                                 "-f",
                                 "rawvideo",
                                 "-pix_fmt",
                                 "bgr0",
                                 "-s",
                                 fmt::format("{}x{}", size.width, size.height),
                                 "-r",
                                 fmt::format("{}", fps),
                                 "-i",
                                 "pipe:0"};
  for (const std::string& c : codec(extension))
    words.push_back(c);
  for (const std::string& c : {std::string("-f"), extension, "file:" + fs::absolute(aside).string()})
    words.push_back(c);
  const auto before = std::signal(SIGPIPE, SIG_IGN);
  std::string complaint;
  try {
    Encoder encoder(words, path);
    bool whole = true;
    for (int i = 0; i < film.count && whole; ++i) {
      progress(fmt::format("{}: frame {} of {}", path, i + 1, film.count));
      whole = encoder.write(film.picture(i));
    }
    progress("");
    complaint = encoder.finish();
    if (!whole && complaint.empty()) complaint = "it did not take all pictures";
  } catch (...) {
    write::discard(aside);
    std::signal(SIGPIPE, before);
    throw;
  }
  std::signal(SIGPIPE, before);
  if (!complaint.empty()) {
    write::discard(aside);
    throw FileError(fmt::format("{}: ffmpeg could not make it, and nothing was written: {}", path, complaint));
  }
  write::finish(aside, path);
}

}  // namespace palio::cli
