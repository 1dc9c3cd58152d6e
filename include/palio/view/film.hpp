// Pictures one after the other, for films.
#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "palio/view/draw.hpp"

namespace palio::view {

/// A film: picture `i` of `count` as 32-bit pixels (blue, green, red, unused), row by row.
struct Film {
  int count;
  std::function<std::vector<std::uint8_t>(int)> picture;
};

/// How a film of a pair runs: `pictures` over `pitches` of the driver, each at the nearest of `positions` to a
/// pitch that are rolled. A whole number of pitches ends where it began.
struct FilmWay {
  int pictures = 0;
  double pitches = 0;
  int positions = 120;
  int sense = 1;  ///< −1 turns it back

  /// The position of picture i, from the start on, of those all along the way.
  int at(int i) const;
};

/// A pair on parallel axes turning.
Film pair_film(const job::Design& design, const job::Pair& pair, const FilmWay& film, PictureSize size);

/// A reducer over `turns` turns of its input.
Film reducer_film(const job::Design& design, const job::Reducer& reducer, int pictures, double turns, PictureSize size);

/// Pixels of a picture as a PNG file.
std::string png_of(const std::vector<std::uint8_t>& pixels, PictureSize size);

/// The tool cutting a gear. \throws InvalidParameter "tool"
Film tool_film(const job::Design& design, const job::Gear& gear, int pictures, PictureSize size);

}  // namespace palio::view
