// What is handed over to the making. Private to it.
#pragma once

#include <algorithm>
#include <optional>

#include "palio/error.hpp"
#include "palio/make/make.hpp"
#include "palio/write/formats.hpp"

namespace palio::make {

/// What writes STEP. \throws InvalidParameter "format"  where nothing was handed over that does
inline const Means::Step& step_of(const Means& means) {
  if (!means.step) throw InvalidParameter("format", "step", "its module is not there", "choose other formats");
  return means.step;
}

/// How near chords come where nothing was asked for [mm].
inline double chord_error(double asked, double module) { return asked > 0 ? asked : std::min(0.005, module / 300); }
/// The same of splines of solids [mm].
inline double spline_tolerance(double module) { return 1e-7 * std::max(1.0, module / 5); }

/// Write a file where it says, and note in it what was written.
void save_stl(const body::TriangleMesh& mesh, const write::Stamp& stamp, const Means& means, File& file);
void save_step(const std::vector<write::StepPart>& solids, const write::Stamp& stamp, double tolerance,
               const Means& means, File& file);
/// DXF or SVG, as the file's format says.
void save_loops(const std::vector<write::PlacedLoop>& loops, const write::Stamp& stamp, const Means& means, File& file,
                const std::optional<write::SheetOfStock>& sheet = std::nullopt);

/// \throws InvalidParameter "only"  where one of the names asked for is none of those there are
/// \param allowed  what to say then
void check_only(const std::vector<std::string>& only, const std::vector<std::string>& known,
                const std::string& allowed);

}  // namespace palio::make
