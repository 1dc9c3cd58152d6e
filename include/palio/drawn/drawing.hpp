// Closed outlines that others drew: read from DXF and SVG as lines and arcs, and as points along them.
#pragma once

#include <array>
#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "palio/curve/piece.hpp"
#include "palio/curve/profile.hpp"
#include "palio/math/vec.hpp"

namespace palio::drawn {

/// What a file draws a piece of an outline as.
enum class Stroke { chord, arc, spline };

/// Where a line or an arc begins: bulge is the tangent of a quarter of the arc's angle, positive counter-clockwise.
struct Corner {
  Vec2 p;            ///< [mm]
  double bulge = 0;  ///< of the piece up to the next corner; 0: a line
};

/// What a user unit of an SVG is that does not say it [mm].
inline constexpr double kSvgUnit = 25.4 / 96;

/// How far the arcs that stand for ellipses and splines may be from them [mm].
inline constexpr double kOffSpline = 1e-4;

/// A closed outline, counter-clockwise; the last point is joined to the first. Arcs and splines are cut into chords.
struct Loop {
  std::vector<Vec2> points;              ///< [mm]
  std::vector<Corner> corners;           ///< the same as lines and arcs: exact but for ellipses and splines
  std::array<std::size_t, 3> strokes{};  ///< how many pieces of each `Stroke` the file draws it of
  double area = 0;                       ///< [mm²]
  Vec2 centre = Vec2::Zero();            ///< of the area [mm]

  bool holds(const Vec2& point) const;  ///< whether the point lies within
  bool crosses_itself() const;          ///< or touches itself
  curve::Outline outline() const;       ///< of its lines and arcs; pieces of one circle are one arc
};

struct Drawing {
  std::vector<Loop> loops;               ///< the largest first
  std::size_t open = 0;                  ///< chains of lines that close to no loop
  bool unit_told = true;                 ///< whether the file says what its numbers are; else they are taken as mm
  std::vector<std::string> passed_over;  ///< sorts of things in the file that are no outline for us: "HATCH"
};

/// Straight pieces in any order, joined where their ends meet; those without length are passed over.
/// \throws FileError where there are too many
Drawing joined(const std::vector<curve::Piece>& pieces);

/// Closed polylines, lines, arcs, circles, ellipses and splines of an ASCII DXF; ends that meet are joined.
/// \param chord_error  how far the points' chords may be from arcs and splines [mm]
/// \throws FileError where a number is none, or nothing is drawn in it
Drawing read_dxf(std::string_view text, double chord_error);

/// Paths and basic shapes of an SVG, with the transformations they stand under; y is turned upwards.
/// \throws FileError as above, and where it is no XML
Drawing read_svg(std::string_view text, double chord_error);

/// A path by the letters of SVG path data, as "M0 0 L10 0 A 5 5 0 0 1 0 0 Z", one unit a millimetre, y upwards.
/// \throws FileError as above
Drawing read_path(const std::string& data, double chord_error);

}  // namespace palio::drawn
