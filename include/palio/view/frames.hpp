// Pictures one after the other, for films.
#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "palio/view/draw.hpp"

namespace palio::view {

/// A film: frame `i` of `count` as 32-bit pixels (blue, green, red, unused), row by row.
struct Film {
  int count;
  std::function<std::vector<std::uint8_t>(int)> frame;
};

/// A pair on parallel axes turning over `teeth` pitches of the driver: so many that the picture repeats itself as far as
/// the teeth go. `sense` −1 turns it back.
Film pair_film(const job::Design& design, const job::Pair& pair, int frames, int teeth, int sense, PictureSize size);

/// A reducer over `turns` turns of its input.
Film reducer_film(const job::Design& design, const job::Reducer& reducer, int frames, double turns, PictureSize size);

/// Pixels of a frame as a PNG file.
std::string png_of(const std::vector<std::uint8_t>& pixels, PictureSize size);

/// The tool cutting a gear. \throws InvalidParameter "tool"
Film tool_film(const job::Design& design, const job::Gear& gear, int frames, PictureSize size);

}  // namespace palio::view
