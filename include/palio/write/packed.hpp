// 3MF and GLB: triangles with names, places, colours and, in GLB, a turning motion. A module of its own carries the
// libraries; it is loaded when such a file is asked for.
#pragma once

#include <Eigen/Geometry>
#include <optional>
#include <string>
#include <vector>

#include "palio/write/formats.hpp"

namespace palio::write {

/// A part with its triangles in its own frame.
struct PackedPart {
  std::string name;
  body::TriangleMesh mesh;
  Placement placement;
  std::string colour = "#9a9a9e";
  double shine = 0;   ///< 0 dull … 1 bright
  double turns = 0;   ///< about its own axis in one loop of the motion; signed
  double slides = 0;  ///< a rack: along its own −x [mm]
  double orbit = 0;   ///< its origin goes round `orbit_axis` so often, turning evenly
  Vec2 orbit_axis = Vec2::Zero();
  bool swings = false;  ///< goes so far in the first half of the loop, and back in the second
};

/// 3MF core: one object a part, in mm, placed; the same bytes for the same input.
std::string threemf(const std::vector<PackedPart>& parts, const Stamp& stamp);

/// Binary glTF 2.0 in metres, y up: a node for each part with its origin on its axis, and a motion that ends as it
/// began. \param loop_seconds  length of the motion; parts without turns stand still
std::string glb(const std::vector<PackedPart>& parts, const Stamp& stamp, double loop_seconds);

/// What points lie within; empty where there are none.
Eigen::AlignedBox3d box_of(const std::vector<Vec3>& points);

/// Side by side on a bed of `width` × `depth` [mm], each part standing on z = 0 with its lower face, rows from the
/// front. \throws InvalidParameter "bed" when a part does not fit, or not all do
std::vector<Placement> nested(const std::vector<body::TriangleMesh>& meshes, double width, double depth, double gap);

/// Moves a whole up or down so that its lowest point lies on z = 0, the bed; its parts stay as they stand to each
/// other.
void stand_on_bed(std::vector<PackedPart>& parts);

}  // namespace palio::write

/// Entry for loading at run time: "3mf" or "glb" into `bytes`; on failure returns false and sets `error`.
extern "C" bool palio_pack(const char* format, const std::vector<palio::write::PackedPart>* parts,
                           const palio::write::Stamp* stamp, double loop_seconds, std::string* bytes,
                           std::string* error);
