// Outlines out of files, for rolling what was written: read from the bytes alone, not from the curves they were made
// of.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "palio/curve/piece.hpp"

namespace palio::write {

/// Where a plane at height `z` [mm] cuts the triangles of a binary or ASCII STL file.
/// \throws FileError when the text is no STL file
std::vector<curve::Piece> stl_section(std::string_view bytes, double z);

/// The closed polylines of a DXF file in mm, arcs cut into chords within `chord_error` [mm].
/// \throws FileError when there is none, or the file does not say its unit
std::vector<curve::Piece> dxf_outlines(std::string_view text, double chord_error);

/// What the STEP module finds in a file: the boundary of the highest flat face across z whose outer edge reaches from
/// `least` to `greatest` [mm] from the axis.
struct StepFace {
  std::vector<curve::Piece> pieces;
  double z;
};

}  // namespace palio::write

/// Entry of the STEP module for loading at run time; on failure returns false and sets `error`.
extern "C" bool palio_read_step_face(const char* path, double least, double greatest, palio::write::StepFace* face,
                                     std::string* error);
