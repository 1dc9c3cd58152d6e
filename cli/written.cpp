// Rolling the files that were written, next to the exact curves.
#include "written.hpp"

#include <cmath>
#include <filesystem>
#include <memory>
#include <optional>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/write/read_back.hpp"

namespace palio::cli {
namespace {

constexpr double kChordError = 1e-7;

/// The teeth that a file holds, as a cut in the plane of the driver's mid-face.
std::optional<roll::Cut> cut_of(const job::Gear& g, double datum, const std::string& folder, const std::string& format) {
  const std::string path = within(folder, g.name + "." + format);
  if (!std::filesystem::exists(path)) return std::nullopt;
  const double width = g.axial * g.teeth.face_width();
  const auto turned_by = [&](double z) { return g.teeth.turn_at(z - width / 2); };
  roll::Cut cut{{}, g.axis, g.phase};
  double z = width / 2 + datum - g.height;
  if (format == "stl") {
    z += 1.37e-4 * width;  // off the rings of vertices
    cut.pieces = write::stl_section(write::read_file(path), z);
    cut.start += turned_by(width / 2 + datum - g.height) - turned_by(z);
  } else if (format == "dxf") {
    cut.pieces = write::dxf_outlines(write::read_file(path), kChordError);
    cut.start += turned_by(z);
  } else {
    static const auto read = reinterpret_cast<decltype(&palio_read_step_face)>(
        module_entry("palio_step", "palio_read_step_face", "PALIO_STEP", "leave STEP files out of the folder"));
    write::StepFace face;
    std::string error;
    const double least = g.radial * std::min(g.teeth.root_diameter(), g.teeth.tip_diameter()) / 2,
                 greatest = g.radial * std::max(g.teeth.root_diameter(), g.teeth.tip_diameter()) / 2;
    if (!read(path.c_str(), least, greatest, &face, &error)) throw FileError(error);
    cut.pieces = std::move(face.pieces);
    cut.start += turned_by(z) - turned_by(face.z);
  }
  if (cut.pieces.empty()) throw FileError(path + ": holds no outline at the height of the mesh");
  // Drawn larger for shrinkage: the roll is of the part at its own size.
  for (roll::Piece& p : cut.pieces) p.from /= g.radial, p.to /= g.radial;
  return cut;
}

}  // namespace

std::vector<WrittenRoll> roll_written(const job::Design& nominal, const job::Pair& pair, const std::string& folder, int positions) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  const job::Pair& drawn = design.pairs[static_cast<std::size_t>(&pair - nominal.pairs.data())];
  const job::Gear &g1 = design.gears[pair.driver], &g2 = design.gears[pair.driven];
  if (!drawn.plane() || g1.teeth.is_rack() || g2.teeth.is_rack() || g1.teeth.is_lantern() || g2.teeth.is_lantern()) {
    throw Misuse(fmt::format("--written: pair.{} is not a pair of toothed gears on parallel axes; files of such pairs only are rolled", pair.name));
  }
  std::vector<WrittenRoll> all;
  const roll::Law law = job::law(design, drawn, std::min(positions, 72));
  for (const char* format : {"stl", "dxf", "step"}) {
    const auto first = cut_of(g1, g1.height, folder, format), second = cut_of(g2, g1.height, folder, format);
    if (!first || !second) continue;
    const auto pitch = [](const job::Gear& g) { return 2 * kPi / g.teeth.count(); };
    all.push_back({format, roll::roll(*first, *second, law, pitch(g1), pitch(g2)), drawn.working_pitch_diameters()[1] / 2, drawn.circumferential_backlash()});
  }
  if (all.empty()) {
    throw Misuse(
        fmt::format("--written {}: holds no {}.stl, .dxf or .step with that of {}; write them with palio make --out {}", folder, g1.name, g2.name, folder));
  }
  return all;
}

std::string written_text(const job::Design& design, const std::vector<WrittenRoll>& all) {
  std::string text = "  as written, against the exact curves of what was drawn\n";
  const std::string u(job::symbol(design.units));
  for (const WrittenRoll& w : all) {
    const double k = w.working_radius / job::mm_per(design.units), arcsec = 180 / kPi * 3600;
    text += fmt::format("    {:<5} backlash {:.6f} {} to {:.6f} {} (exact {:.6f} {}), transmission error {:.3g}″ to {:.3g}″\n", w.format, w.result.play.min * k,
                        u, w.result.play.max * k, u, w.exact_backlash / job::mm_per(design.units), u, w.result.transmission_error.min * arcsec,
                        w.result.transmission_error.max * arcsec);
  }
  return text;
}

nlohmann::ordered_json written_json(const job::Design& design, const std::vector<WrittenRoll>& all) {
  nlohmann::ordered_json j = nlohmann::ordered_json::object();
  for (const WrittenRoll& w : all) {
    const double k = w.working_radius / job::mm_per(design.units), arcsec = 180 / kPi * 3600;
    j[w.format] = {{"circumferential_backlash", {{"min", w.result.play.min * k}, {"max", w.result.play.max * k}}},
                   {"exact_backlash", w.exact_backlash / job::mm_per(design.units)},
                   {"transmission_error_arcsec", {{"min", w.result.transmission_error.min * arcsec}, {"max", w.result.transmission_error.max * arcsec}}}};
  }
  return j;
}

}  // namespace palio::cli
