// Outlines out of files, for rolling what was written: read from the bytes alone, not from the curves they were made
// of.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "palio/curve/piece.hpp"

namespace palio::write {

/// The corners of a triangle, counter-clockwise seen from outside [mm].
using Triangle = std::array<Vec3, 3>;

/// The triangles of a binary or ASCII STL file.
/// \throws FileError when the text is no STL file
std::vector<Triangle> stl_triangles(std::string_view bytes);

/// Where a plane at height `z` [mm] cuts them.
std::vector<curve::Piece> section(const std::vector<Triangle>& triangles, double z);

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
