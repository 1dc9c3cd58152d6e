// Plane parts as they lie on a sheet of stock to be cut out: bridges that hold them, and names on them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/curve/flatten.hpp"
#include "palio/curve/profile.hpp"
#include "palio/math/vec.hpp"

namespace palio::write {

/// What keeps a part in its sheet until it is broken out.
struct Tabs {
  int count = 0;     ///< of each part, spread evenly along its outline
  double width = 0;  ///< that the cut leaves out [mm]
};

/// The open chains that a closed loop falls into where tabs are left, one after the other. They stand on tips and on
/// what is no tooth, on roots where the tips are too narrow; flanks stay cut.
/// \throws InvalidParameter "tabs" where there is no room for so many, or so wide ones
std::vector<curve::BulgedLoop> with_tabs(const curve::BulgedLoop& loop, const Tabs& tabs);

/// A line of text on a sheet.
struct Label {
  std::string text;
  Vec2 from = Vec2::Zero();  ///< the lower left corner of its capitals [mm]
  double width = 0;          ///< of the whole line [mm]
  double height = 0;         ///< of its capitals [mm]
};

/// A line of text where a region has room for it, as large as it may be, along x after the region is turned.
/// \param loops  that bound the region  \param turn  of the region [rad]
/// \param greatest  height of capitals [mm]; less than a millimetre is not written
/// \return in the turned region's frame; none where there is no room
std::optional<Label> label_within(const std::vector<curve::Outline>& loops, double turn, const std::string& text,
                                  double greatest);

}  // namespace palio::write
