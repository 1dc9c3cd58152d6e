#include "common.hpp"

#include <dlfcn.h>
#include <unistd.h>

#include <algorithm>
#include <cctype>
#include <cerrno>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <mutex>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/version.hpp"
#include "palio/write/embed.hpp"

namespace palio::cli {

CLI::Validator one_of(const std::vector<std::string>& words) { return CLI::IsMember(words, CLI::ignore_case); }

CLI::Validator finite() {
  return CLI::Validator(
      [](std::string& text) {
        char* end = nullptr;
        const double value = std::strtod(text.c_str(), &end);
        return std::isfinite(value) ? std::string() : fmt::format("{} is not finite; give a number", text);
      },
      "");
}

CLI::Validator positive() {
  return CLI::Validator(
      [](std::string& text) {
        char* end = nullptr;
        const double value = std::strtod(text.c_str(), &end);
        const bool fine = end != text.c_str() && *end == 0 && std::isfinite(value) && value > 0;
        return fine ? std::string() : fmt::format("{} is not allowed; give a number above 0", text);
      },
      "");
}

void add_job(CLI::App& verb, JobOptions& options, bool states) {
  verb.add_option("JOB", options.path, "Job file (TOML or JSON), or - for standard input")->required();
  verb.add_option("--set", options.overrides,
                  "Override one value for this run, as gear.motor_pinion.teeth=19 (repeatable)")
      ->allow_extra_args(false)
      ->type_name("KEY=VALUE");
  if (states) {
    verb.add_option("--as", options.as,
                    "The part as designed (nominal, default), or as it comes out of the job's [process] (made)")
        ->transform(one_of({"nominal", "made"}))
        ->type_name("STATE");
  }
}

namespace {

constexpr std::size_t kLongestJob = 4 << 20;  // bytes

}  // namespace

std::pair<std::string, std::string> job_text(const JobOptions& options) {
  if (options.path == "-") {
    std::string text;
    char block[1 << 16];
    while (text.size() <= kLongestJob && (std::cin.read(block, sizeof block) || std::cin.gcount() > 0))
      text.append(block, static_cast<std::size_t>(std::cin.gcount()));
    if (text.size() > kLongestJob)
      throw Misuse(fmt::format("<standard input>: is longer than the {} bytes that a job may have", kLongestJob));
    return {text, "<standard input>"};
  }
  try {
    return {write::read_file(options.path, kLongestJob), options.path};
  } catch (const FileError& e) {
    throw Misuse(
        fmt::format("{}; give the path of a job, or begin one with: palio start spur --out job.toml", e.what()));
  }
}

job::Values load_values(const JobOptions& options) {
  const auto [text, source] = job_text(options);
  return job::Values::read(text, source, options.overrides);
}

job::Design load(const JobOptions& options) {
  job::Design design = job::resolve(load_values(options));
  if (options.as == "nominal") return design;
  if (!design.process.given)
    throw Misuse("--as made: the job has no [process]; write one, with preset = \"print\", say");
  return job::as(design, job::As::made);
}

int tell_errors(const job::Design& design) {
  int status = kDone;
  for (const Finding& f : job::findings(design)) {
    if (f.kind().severity != Severity::error) continue;
    std::cerr << fmt::format("error {} ({})\n    {}\n", f.subject, f.kind().text_id, job::message(f, design.units));
    status = kVerdictAgainst;
  }
  if (status != kDone) std::cerr << "so this job cannot work; its files are written all the same\n";
  return status;
}

namespace {

bool& forced() {
  static bool force = false;
  return force;
}

/// How a run is told of.
struct Manner {
  bool quiet = false;
  std::string color = "auto";
};
Manner& manner() {
  static Manner all;
  return all;
}

/// Whether a file is one that palio made: each sort carries a mark near its beginning or its end. A job does not: it
/// may have been written by hand.
bool carries_mark(const std::string& path, const std::string& bytes) {
  if (std::filesystem::path(path).extension() == ".toml") return false;
  constexpr std::size_t kNear = 200000;
  const std::string_view all(bytes), head = all.substr(0, kNear),
                                     tail = all.size() > kNear ? all.substr(all.size() - kNear) : std::string_view();
  for (const std::string_view mark :
       {"palio-job ", "palio 0.", "\"palio\":", ", by palio: one period", "palio-film", "loop,segment,role,",
        "input_deg,disc,at,", "number,name,part_number,what,material,quantity,", ",findings\n", "warnings,problem\n",
        "warnings;problem\n", "warnings\tproblem\n", "   (lengths in ", "  positions over "}) {
    if (head.find(mark) != std::string_view::npos || tail.find(mark) != std::string_view::npos) return true;
  }
  return false;
}

}  // namespace

void add_force(CLI::App& verb) {
  verb.add_flag("--force", forced(), "Overwrite files that palio did not make, and jobs");
}

void check_replaceable(const std::string& path) {
  if (forced() || !std::filesystem::exists(path)) return;
  if (std::filesystem::is_directory(path)) throw Misuse(fmt::format("{}: is a folder; give the name of a file", path));
  if (std::filesystem::file_size(path) == 0 || carries_mark(path, write::read_file(path))) return;
  throw Misuse(fmt::format(
      "{}: is there already, and palio cannot tell that it made it; give another name, or --force to overwrite it",
      path));
}

std::vector<std::string>& written_paths() {
  static std::vector<std::string> all;
  return all;
}

void save(const std::string& path, std::string_view bytes) {
  {
    static std::mutex lock;  // a desk and the demo write from several threads
    const std::lock_guard<std::mutex> hold(lock);
    written_paths().push_back(path);
  }
  if (!forced() && std::filesystem::is_regular_file(path) && std::filesystem::file_size(path) == bytes.size() &&
      write::read_file(path) == bytes)
    return;
  check_replaceable(path);
  write::write_file(path, bytes);
}

std::string plain(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const auto c = static_cast<unsigned char>(text[i]);
    const bool c1 =
        c == 0xC2 && i + 1 < text.size() && static_cast<unsigned char>(text[i + 1]) < 0xA0;  // U+0080 to U+009F
    if (c1)
      out += fmt::format("\\u{:04x}", static_cast<unsigned char>(text[++i]));
    else if ((c < 32 && c != '\n' && c != '\t') || c == 127)
      out += fmt::format("\\u{:04x}", c);
    else
      out += text[i];
  }
  return out;
}

std::string format_of(const std::string& path) {
  std::string extension = std::filesystem::path(path).extension().string();
  std::transform(extension.begin(), extension.end(), extension.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return extension.empty() ? "" : extension.substr(1);
}

Target target(const std::string& out, const std::vector<std::string>& extensions) {
  namespace fs = std::filesystem;
  Target t{out.empty() ? "." : out, "", ""};
  const fs::path path(out);
  if (!out.empty() && path.has_extension() && !fs::is_directory(path)) {
    t.extension = format_of(out);
    if (std::find(extensions.begin(), extensions.end(), t.extension) == extensions.end()) {
      std::string known;
      for (const std::string& e : extensions)
        known += (known.empty() ? "." : ", .") + e;
      throw Misuse(fmt::format("--out {}: no file of this kind is written here; give a folder{}", out,
                               known.empty() ? "" : ", or a file ending in " + known));
    }
    t.file = out;
    t.folder = path.has_parent_path() ? path.parent_path().string() : ".";
  }
  std::error_code error;
  fs::create_directories(t.folder, error);
  if (error) throw FileError(fmt::format("{}: cannot make this folder: {}", t.folder, error.message()));
  return t;
}

std::string Target::path(const std::string& name) const { return file.empty() ? within(folder, name) : file; }

void add_manner(CLI::App& verb) {
  verb.add_flag("-q,--quiet", manner().quiet, "No progress, and no list of what was written");
  verb.add_option("--color", manner().color, "auto (on a terminal, default) or never")
      ->transform(one_of({"auto", "never"}));
}

bool coloured() {
  if (manner().color == "never" || std::getenv("NO_COLOR")) return false;
  const char* terminal = std::getenv("TERM");
  return ::isatty(STDOUT_FILENO) != 0 && !(terminal && std::string_view(terminal) == "dumb");
}

void print(const std::string& text) {
  const bool written = std::fwrite(text.data(), 1, text.size(), stdout) == text.size();
  if (std::fflush(stdout) != 0 || !written)
    throw FileError(fmt::format("standard output: cannot write: {}", std::strerror(errno)));
}

namespace {

thread_local std::function<void(const std::string&)> hears_progress;

}  // namespace

ProgressHeard::ProgressHeard(std::function<void(const std::string&)> hears) { hears_progress = std::move(hears); }
ProgressHeard::~ProgressHeard() { hears_progress = nullptr; }

void progress(const std::string& text) {
  if (hears_progress) return hears_progress(text);
  const char* terminal = std::getenv("TERM");
  if (manner().quiet || ::isatty(STDERR_FILENO) == 0 || (terminal && std::string_view(terminal) == "dumb")) return;
  std::cerr << "\r\033[K" << text << std::flush;
}

void write_with_job(const std::string& path, const std::string& bytes, const job::Design& design) {
  save(path, write::with_job(bytes, format_of(path), design.values.text()));
}

void* module_entry(const std::string& module, const char* entry, const std::string& option,
                   const std::string& otherwise) {
  std::error_code error;
  const auto self = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
  // The module of this version: libpalio_step.so.0.1.
  const std::string_view version = kVersion;
  const std::string file = fmt::format("lib{}.so.{}", module, version.substr(0, version.find_last_of('.')));
  void* loaded = nullptr;
  std::string tried;
  for (const std::string& place :
       {(self / "../lib" / file).string(), (self / "../lib/x86_64-linux-gnu" / file).string(),
        (self / "../lib/aarch64-linux-gnu" / file).string(), file}) {
    loaded = dlopen(place.c_str(), RTLD_NOW | RTLD_LOCAL);
    if (loaded) break;
    const std::string why = dlerror();
    if (why.find("cannot open shared object file") == std::string::npos) tried += "\n  " + why;
  }
  if (!loaded) {
    std::string package = module;
    std::replace(package.begin(), package.end(), '_', '-');
    const std::string where = option.empty()
                                  ? "it comes with palio; install that again"
                                  : fmt::format("install {} (from source: build with {}=ON)", package, option);
    throw FileError(fmt::format("the module {} cannot be loaded; {}, or {}{}", file, where, otherwise, tried));
  }
  void* found = dlsym(loaded, entry);
  if (!found)
    throw FileError(fmt::format("the module {} has no entry {}; it belongs to another version of palio", file, entry));
  return found;
}

std::vector<const job::Pair*> running_pairs(const job::Design& design, const std::string& name) {
  if (design.pairs.empty() && design.reducers.empty()) {
    throw Misuse("the job has no pair; write a table [pair.NAME] with driver and driven");
  }
  std::vector<const job::Pair*> pairs;
  std::string known;
  for (const job::Pair& p : design.pairs) {
    known += (known.empty() ? "" : ", ") + p.name;
    if (name.empty() || p.name == name) pairs.push_back(&p);
  }
  for (const job::Reducer& r : design.reducers)
    known += (known.empty() ? "" : ", ") + r.name;
  if (pairs.empty() && chosen_reducers(design, name).empty())
    throw Misuse(fmt::format("--pair {}: the job's pairs are {}", name, known));
  for (const job::Pair* p : pairs) {
    if (p->meshes()) continue;
    std::string why;
    for (const Finding& f : p->mismatches())
      why += "\n  " + job::message(f, design.units);
    throw Misuse(fmt::format("pair.{}: these gears cannot be a pair:{}", p->name, why));
  }
  return pairs;
}

std::vector<const job::Reducer*> chosen_reducers(const job::Design& design, const std::string& name) {
  std::vector<const job::Reducer*> all;
  for (const job::Reducer& r : design.reducers) {
    if (name.empty() || r.name == name) all.push_back(&r);
  }
  return all;
}

std::string within(const std::string& folder, const std::string& path) {
  return (std::filesystem::path(folder) / path).lexically_normal().string();
}

namespace {

/// The box that a file's shape lies in.
std::string extent_words(const Vec3& size) {
  std::string text = fmt::format("{:.2f} x {:.2f}", size.x(), size.y());
  if (size.z() > 0) text += fmt::format(" x {:.2f}", size.z());
  return text + " mm";
}

std::string bytes_words(std::size_t bytes) {
  constexpr double kStep = 1000;
  double size = static_cast<double>(bytes);
  if (size < kStep) return fmt::format("{} bytes", bytes);
  const char* unit = "kB";
  size /= kStep;
  if (size >= kStep) unit = "MB", size /= kStep;
  return fmt::format("{:.3g} {}", size, unit);
}

}  // namespace

void tell_beside(const std::string& line) {
  if (!manner().quiet) print(line + "\n");
}

void tell(std::vector<make::File> files, bool json) {
  for (make::File& f : files) {
    std::error_code none;
    const auto bytes = std::filesystem::file_size(f.path, none);
    if (f.bytes == 0 && !none) f.bytes = bytes;
  }
  if (json) {
    nlohmann::ordered_json root;
    root["files"] = nlohmann::ordered_json::array();
    for (const make::File& f : files) {
      nlohmann::ordered_json j{{"path", f.path}, {"format", f.format}, {"part", f.part}};
      if (f.deviation) j["deviation"] = *f.deviation;
      if (f.triangles > 0) j["triangles"] = f.triangles;
      if (f.volume) j["volume"] = *f.volume;
      if (!f.meaning.empty()) j["meaning"] = f.meaning;
      if (f.bytes > 0) j["bytes"] = f.bytes;
      j["parts"] = f.parts;
      if (f.loops > 0) j["loops"] = f.loops;
      if (f.chains > 0) j["chains"] = f.chains;
      if (f.extent) j["extent"] = {f.extent->x(), f.extent->y(), f.extent->z()};
      root["files"].push_back(j);
    }
    return print(root.dump(2) + "\n");
  }
  if (manner().quiet) return;
  std::string text;
  for (const make::File& f : files) {
    std::vector<std::string> said;
    if (f.parts > 1) said.push_back(fmt::format("{} parts", f.parts));
    if (f.extent) said.push_back(extent_words(*f.extent));
    if (f.loops > 0) said.push_back(fmt::format("{} closed loop{}", f.loops, f.loops > 1 ? "s" : ""));
    if (f.chains > 0) said.push_back(fmt::format("{} cut{} between tabs", f.chains, f.chains > 1 ? "s" : ""));
    if (f.triangles > 0) said.push_back(fmt::format("{} triangles", f.triangles));
    if (f.volume) said.push_back(fmt::format("{:.3f} mm³", *f.volume));
    if (f.deviation) said.push_back(fmt::format("within {:.3g} mm of the exact curves", *f.deviation));
    if (said.empty() && !f.meaning.empty()) said.emplace_back(f.meaning);
    if (f.bytes > 0) said.push_back(bytes_words(f.bytes));
    text += fmt::format("{}{}{}\n", f.path, said.empty() ? "" : "   ", fmt::join(said, ", "));
  }
  print(text);
}

}  // namespace palio::cli
