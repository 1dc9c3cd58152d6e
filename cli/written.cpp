// Rolling the files that were written, next to the exact curves.
#include "written.hpp"

#include <fcntl.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <cmath>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <memory>
#include <optional>

#include <fmt/format.h>

#include "child.hpp"
#include "palio/error.hpp"
#include "palio/foreign/drawing.hpp"
#include "palio/write/read_back.hpp"

namespace palio::cli {
namespace {

constexpr double kChordError = 1e-7;

/// Reads a STEP face in a process of its own: the kernel's reader may fall over what strangers wrote, and take this one
/// along.
write::StepFace step_face_in_child(const std::string& path, double least, double greatest) {
  static const auto read = reinterpret_cast<decltype(&palio_read_step_face)>(
      module_entry("palio_step", "palio_read_step_face", "PALIO_STEP", "leave STEP files out of the folder"));
  constexpr unsigned kSeconds = 120;
  constexpr rlim_t kMemory = rlim_t{6} << 30;
  int ends[2];
  if (::pipe2(ends, O_CLOEXEC) != 0)
    throw FileError(fmt::format("{}: no pipe to read it through: {}", path, std::strerror(errno)));
  const pid_t child = ::fork();
  if (child < 0) throw FileError(fmt::format("{}: no process to read it in: {}", path, std::strerror(errno)));
  if (child == 0) {
    for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGSEGV, SIGABRT})
      std::signal(signal, SIG_DFL);
    const rlimit memory{kMemory, kMemory}, core{0, 0};
    ::setrlimit(RLIMIT_AS, &memory);
    ::setrlimit(RLIMIT_CORE, &core);
    ::alarm(kSeconds);
    write::StepFace face{};
    std::string error;
    const bool good = read(path.c_str(), least, greatest, &face, &error);
    std::string bytes(1, good ? 'y' : 'n');
    if (good) {
      bytes.append(reinterpret_cast<const char*>(&face.z), sizeof face.z);
      for (const curve::Piece& p : face.pieces) {
        const double v[4] = {p.from.x(), p.from.y(), p.to.x(), p.to.y()};
        bytes.append(reinterpret_cast<const char*>(v), sizeof v);
      }
    } else {
      bytes += error;
    }
    ::_exit(write_all(ends[1], bytes.data(), bytes.size()) ? 0 : 1);
  }
  ::close(ends[1]);
  const std::string bytes = read_all(ends[0]);
  ::close(ends[0]);
  const int status = wait_for(child);
  if (!WIFEXITED(status) || WEXITSTATUS(status) != 0 || bytes.empty()) {
    throw FileError(
        fmt::format("{}: the B-rep kernel {} over this file; it is broken, or no STEP file: make it again", path,
                    WIFSIGNALED(status) && WTERMSIG(status) == SIGALRM ? fmt::format("sat more than {} s", kSeconds)
                                                                       : std::string("fell")));
  }
  if (bytes[0] != 'y') throw FileError(bytes.substr(1));
  write::StepFace face{};
  std::memcpy(&face.z, bytes.data() + 1, sizeof face.z);
  for (std::size_t at = 1 + sizeof face.z; at + 4 * sizeof(double) <= bytes.size(); at += 4 * sizeof(double)) {
    double v[4];
    std::memcpy(v, bytes.data() + at, sizeof v);
    face.pieces.push_back({Vec2(v[0], v[1]), Vec2(v[2], v[3])});
  }
  return face;
}

bool can_be_rolled(const job::Design& design, const job::Pair& pair) {
  const gear::Teeth &g1 = design.gears[pair.driver].teeth, &g2 = design.gears[pair.driven].teeth;
  return pair.plane() && g1.is_one_loop() && g2.is_one_loop();
}

/// The teeth that a file holds, as a cut in the plane of the driver's mid-face.
std::optional<roll::Cut> cut_of(const job::Gear& g, double datum, const std::string& folder,
                                const std::string& format) {
  const std::string path = within(folder, g.name + "." + format);
  if (!std::filesystem::exists(path)) return std::nullopt;
  const double width = g.axial * g.teeth.face_width();
  const auto turned_by = [&](double z) { return g.teeth.turn_at(z - width / 2); };
  roll::Cut cut{{}, g.axis, g.phase};
  double z = width / 2 + datum - g.height;
  if (format == "stl") {
    z += 1.37e-4 * width;  // off the rings of vertices
    cut.pieces = write::section(write::stl_triangles(write::read_file(path)), z);
    cut.start += turned_by(width / 2 + datum - g.height) - turned_by(z);
  } else if (format == "dxf") {
    const foreign::Drawing drawing = foreign::read_dxf(write::read_file(path), kChordError);
    if (!drawing.unit_told) throw FileError(path + ": does not say whether it is in mm or inches ($INSUNITS)");
    for (const foreign::Loop& loop : drawing.loops) {
      // Any but the largest is a hole in it.
      const bool hole = &loop != &drawing.loops.front();
      for (std::size_t i = 0; i < loop.points.size(); ++i) {
        const Vec2 &a = loop.points[i], &b = loop.points[(i + 1) % loop.points.size()];
        cut.pieces.push_back(hole ? curve::Piece{b, a} : curve::Piece{a, b});
      }
    }
    cut.start += turned_by(z);
  } else {
    const double least = g.radial * std::min(g.teeth.root_diameter(), g.teeth.tip_diameter()) / 2,
                 greatest = g.radial * std::max(g.teeth.root_diameter(), g.teeth.tip_diameter()) / 2;
    write::StepFace face = step_face_in_child(path, least, greatest);
    cut.pieces = std::move(face.pieces);
    cut.start += turned_by(z) - turned_by(face.z);
  }
  if (cut.pieces.empty()) throw FileError(path + ": holds no outline at the height of the mesh");
  for (const curve::Piece& p : cut.pieces) {
    if (!p.from.allFinite() || !p.to.allFinite()) throw FileError(path + ": holds places that are no numbers");
  }
  // Drawn larger for shrinkage: the roll is of the part at its own size.
  for (curve::Piece& p : cut.pieces)
    p.from /= g.radial, p.to /= g.radial;
  return cut;
}

}  // namespace

void check_written(const job::Design& design, const std::string& name, const std::string& folder) {
  if (!std::filesystem::is_directory(folder))
    throw Misuse(
        fmt::format("--written {}: is no folder; write files into it with palio make --out {}", folder, folder));
  std::string not_rolled;
  for (const job::Pair* p : running_pairs(design, name)) {
    if (!can_be_rolled(design, *p)) not_rolled += (not_rolled.empty() ? "" : ", ") + p->name;
  }
  for (const job::Reducer* r : chosen_reducers(design, name))
    not_rolled += (not_rolled.empty() ? "" : ", ") + r->name;
  if (not_rolled.empty()) return;
  throw Misuse(
      fmt::format("--written: files are rolled of toothed gears on parallel axes; not of {} (racks, lanterns, bevel "
                  "and crossed gears, reducers): choose "
                  "others with --pair",
                  not_rolled));
}

std::vector<WrittenRoll> roll_written(const job::Design& nominal, const job::Pair& pair, const std::string& folder,
                                      int positions) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  const job::Pair& drawn = design.pairs[static_cast<std::size_t>(&pair - nominal.pairs.data())];
  const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  std::vector<WrittenRoll> all;
  const roll::Law law = drawn.law(std::min(positions, 72));
  for (const char* format : {"stl", "dxf", "step"}) {
    const auto first = cut_of(g1, g1.height, folder, format), second = cut_of(g2, g1.height, folder, format);
    if (!first || !second) continue;
    const auto pitch = [](const job::Gear& g) { return 2 * kPi / g.teeth.count(); };
    all.push_back({format, roll::roll(*first, *second, law, pitch(g1), pitch(g2)),
                   drawn.working_pitch_diameters()[1] / 2, drawn.circumferential_backlash()});
  }
  if (all.empty()) {
    throw Misuse(
        fmt::format("--written {}: holds no {}.stl, .dxf or .step with that of {}; write them with palio make --out {}",
                    folder, g1.name, g2.name, folder));
  }
  return all;
}

std::string written_text(const job::Design& design, const std::vector<WrittenRoll>& all) {
  std::string text = "  as written, against the exact curves of what was drawn\n";
  const std::string u(job::symbol(design.units));
  for (const WrittenRoll& w : all) {
    const double k = w.working_radius / job::mm_per(design.units), arcsec = 180 / kPi * 3600;
    text += fmt::format(
        "    {:<5} backlash {:.6f} {} to {:.6f} {} (exact {:.6f} {}), transmission error {:.3g}″ to {:.3g}″\n",
        w.format, w.result.play.min * k, u, w.result.play.max * k, u, w.exact_backlash / job::mm_per(design.units), u,
        w.result.transmission_error.min * arcsec, w.result.transmission_error.max * arcsec);
  }
  return text;
}

nlohmann::ordered_json written_json(const job::Design& design, const std::vector<WrittenRoll>& all) {
  nlohmann::ordered_json j = nlohmann::ordered_json::object();
  for (const WrittenRoll& w : all) {
    const double k = w.working_radius / job::mm_per(design.units), arcsec = 180 / kPi * 3600;
    j[w.format] = {
        {"circumferential_backlash", {{"min", w.result.play.min * k}, {"max", w.result.play.max * k}}},
        {"exact_backlash", w.exact_backlash / job::mm_per(design.units)},
        {"transmission_error_arcsec",
         {{"min", w.result.transmission_error.min * arcsec}, {"max", w.result.transmission_error.max * arcsec}}}};
  }
  return j;
}

}  // namespace palio::cli
