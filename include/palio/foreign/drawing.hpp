// Outlines that others drew or measured: read from DXF, SVG and STL as closed loops of points.
#pragma once

#include <array>
#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "palio/math/vec.hpp"

namespace palio::foreign {

/// What a file draws a piece of an outline as.
enum class Stroke { chord, arc, spline };

/// A closed outline, counter-clockwise; the last point is joined to the first. Arcs and splines are cut into chords.
struct Loop {
  std::vector<Vec2> points;              ///< [mm]
  std::array<std::size_t, 3> strokes{};  ///< how many pieces of each `Stroke` the file draws it of
  double area = 0;                       ///< [mm²]
  Vec2 centre = Vec2::Zero();            ///< of the area [mm]

  bool holds(const Vec2& point) const;  ///< whether the point lies within
};

struct Drawing {
  std::vector<Loop> loops;               ///< the largest first
  std::size_t open = 0;                  ///< chains of lines that close to no loop
  bool unit_told = true;                 ///< whether the file says what its numbers are; else they are taken as mm
  std::vector<std::string> passed_over;  ///< sorts of things in the file that are no outline for us: "HATCH"
};

/// Closed polylines, lines, arcs, circles, ellipses and splines of an ASCII DXF; ends that meet are joined.
/// \param chord_error  how far the points' chords may be from arcs and splines [mm]
/// \throws FileError where a number is none, or nothing is drawn in it
Drawing read_dxf(std::string_view text, double chord_error);

/// Paths and basic shapes of an SVG, with the transformations they stand under; y is turned upwards.
/// \throws FileError as above, and where it is no XML
Drawing read_svg(std::string_view text, double chord_error);

/// The middle section of an STL, across the axis along which it shows teeth (z, then x, then y).
/// \throws FileError where it is no STL, or nothing closes in its section
Drawing read_stl(std::string_view bytes);

/// By the extension: "dxf", "svg" or "stl". The chord error is a millionth of a millimetre.
/// \throws FileError; \throws InvalidParameter "format" for any other
Drawing read(std::string_view bytes, const std::string& format);
bool can_read(const std::string& format);

}  // namespace palio::foreign
