// STEP files (ISO 10303-214). The only part of palio that needs the B-rep kernel; a module of its own.
#pragma once

#include <string>
#include <vector>

#include "palio/body/solid.hpp"
#include "palio/write/formats.hpp"

namespace palio::write {

struct StepPart {
  std::string name;
  body::Solid body;
  Placement placement;
  bool plane = false;         ///< only the lower face of a body of layers: a planar region
  std::string assembly = {};  ///< the sub-assembly of the whole that it belongs to; empty: none
  std::string alike = {};     ///< an earlier part with the same solid: one product stands in both places
  double volume = 0;          ///< of this solid, measured before within the same tolerance [mm³]; 0: it is measured
};

struct StepMade {
  double deviation;  ///< largest distance of a written flank or root from the exact curve [mm]
  double volume;     ///< of the solids built (none for plane regions), by the kernel [mm³]
};

/// Writes solids: flanks and roots extruded from one high-degree spline each, arcs as cylinders, planar ends.
/// Each spline stays within `tolerance` [mm]. The date in the header is that of SOURCE_DATE_EPOCH when it is set.
/// \throws FileError, NoConvergence (a spline that cannot be had within the tolerance)
StepMade write_step(const std::vector<StepPart>& parts, const Stamp& stamp, double tolerance, const std::string& path);

}  // namespace palio::write

/// Entry for loading at run time: calls write_step; on failure returns false and sets `error`.
/// Removes what the module began to write and did not finish; may be called in a signal handler.
extern "C" void palio_step_discard_all();
extern "C" bool palio_write_step(const std::vector<palio::write::StepPart>* parts, const palio::write::Stamp* stamp,
                                 double tolerance, const char* path, palio::write::StepMade* made, std::string* error);
