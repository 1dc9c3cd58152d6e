// A picture of solids in space, by following rays. A module of its own carries the ray library; it is loaded when such
// a picture is asked for.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "palio/readings/report.hpp"
#include "palio/view/film.hpp"
#include "palio/view/placement.hpp"

namespace palio::view {

struct SpacePart {
  std::vector<Vec3> vertices;  ///< in the world [mm]
  std::vector<std::array<std::uint32_t, 3>> triangles;
  std::array<double, 3> color;  ///< red, green, blue, 0…1
  double shine = 0;             ///< 0 dull … 1 bright
};

/// Everything in front of this plane is taken away; what it cuts through shows its inside.
struct CutPlane {
  Vec3 at, normal;  ///< the normal points to the side that is taken away
};

struct SpaceScene {
  std::vector<SpacePart> parts;
  std::vector<Vec3> dots;  ///< marked even where a part hides them
  double dot_pixels = 4;
  Vec3 eye, target;
  double field = 28;  ///< of view, upwards [°]
  PictureSize size;
  int samples = 2;  ///< rays to a pixel, along each side
  std::optional<CutPlane> cut;
  int occlusion = 4;  ///< rays that find how open a place lies; 0: none, and no shadows
};

/// Renders one picture: 32-bit pixels (blue, green, red, unused), row by row.
std::vector<std::uint8_t> render(const SpaceScene& scene);

/// Parts in place, seen "iso" (from above and beside), "front" (along the axis of the first) or as a "section" (cut
/// along that axis, through the axes where several stand in a row). The picture is filled as far as the size allows.
/// \param from  in place of the side that the view has: the direction to the eye
SpaceScene parts_in_space(const std::vector<Part>& parts, const std::string& view, PictureSize size, bool quick,
                          std::optional<Vec3> from = {});

/// The solids of a pair at a position of the roll, seen so that the mesh shows.
/// \param driver, driven  coordinates
SpaceScene pair_in_space(const job::Design& design, const job::Pair& pair, double driver, double driven,
                         const std::vector<roll::Contact>& contacts, PictureSize size, bool quick);

/// The film of a crossed pair; `render` is the module's.
Film space_film(const job::Design& design, const job::RolledPair& rolled, const FilmWay& film, PictureSize size,
                bool quick, const std::function<std::vector<std::uint8_t>(const SpaceScene&)>& render);

}  // namespace palio::view

/// Entry for loading at run time: calls render; on failure returns false and sets `error`.
extern "C" bool palio_render(const palio::view::SpaceScene* scene, std::vector<std::uint8_t>* pixels,
                             std::string* error);
