// Outlines of others on exact teeth, and two jobs side by side, to be looked at.
#pragma once

#include <string>

#include "palio/foreign/recovered.hpp"
#include "palio/view/draw.hpp"

namespace palio::view {

/// One tooth with what lies off it, drawn many times larger than it is, and the same as a chart along the outline.
/// \param format  "png", "svg" or "pdf"
std::string draw_laid(const foreign::Told& told, const std::string& format, PictureSize size = {});

/// A page with a picture that can be moved and looked into, beside what is told of it.
/// \param svg   the picture (`draw_laid`, `draw_overlay`)
/// \param text  what is told, line by line
std::string side_by_side_page(const std::string& heading, const std::string& svg, const std::string& text);

}  // namespace palio::view
