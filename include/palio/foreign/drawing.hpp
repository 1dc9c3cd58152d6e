// Outlines that others drew or measured: read from DXF, SVG and STL as closed loops of points.
#pragma once

#include <string>
#include <string_view>

#include "palio/drawn/drawing.hpp"

namespace palio::foreign {

using drawn::Drawing;
using drawn::Loop;
using drawn::read_dxf;
using drawn::read_svg;
using drawn::Stroke;

/// The middle section of an STL, across the axis along which it shows teeth (z, then x, then y).
/// \throws FileError where it is no STL, or nothing closes in its section
Drawing read_stl(std::string_view bytes);

/// By the extension: "dxf", "svg" or "stl". The chord error is a millionth of a millimetre.
/// \throws FileError; \throws InvalidParameter "format" for any other
Drawing read(std::string_view bytes, const std::string& format);
bool can_read(const std::string& format);

}  // namespace palio::foreign
