// Plane outlines and triangles as files. Each says how far it is from the exact curves.
#pragma once

#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include "palio/body/mesh.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/write/file.hpp"
#include "palio/write/stock.hpp"

namespace palio::write {

/// A body standing somewhere: turned about z by `turn` [rad], then set upright in `axes` (columns), then moved by `at`
/// [mm].
struct Placement {
  Vec3 at = Vec3::Zero();
  double turn = 0;
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();

  /// What turns a point before it is moved.
  Eigen::Matrix3d turned_axes() const {
    Eigen::Matrix3d about_z = Eigen::Matrix3d::Identity();
    about_z(0, 0) = about_z(1, 1) = std::cos(turn), about_z(1, 0) = std::sin(turn), about_z(0, 1) = -about_z(1, 0);
    return axes * about_z;
  }
  /// Where points of the body come to stand.
  std::vector<Vec3> of(std::vector<Vec3> points) const {
    const Eigen::Matrix3d m = turned_axes();
    for (Vec3& p : points)
      p = m * p + at;
    return points;
  }
  /// The same of a plane file, which knows no axes.
  Vec2 of(const Vec2& p) const { return turned(p, turn) + at.head<2>(); }
};

/// The bytes of a file, and how far what stands in it is from the exact curves or surfaces at most [mm].
struct Written {
  std::string bytes;
  double deviation;
};

/// Binary STL in mm. The header holds title, part, version and deviation, rounding to 32 bits included.
Written stl(const body::TriangleMesh& mesh, const Stamp& stamp);

/// The meshes of several placed parts in one.
body::TriangleMesh merged(const std::vector<body::TriangleMesh>& meshes, const std::vector<Placement>& placements);

/// A loop for DXF and SVG, with where it stands.
struct PlacedLoop {
  curve::BulgedLoop loop;
  std::string part, feature;  ///< together the name of its layer, where that is nothing else
  Placement placement;
  std::string on_layer{};
  bool open = false;  ///< ends at its last point

  std::string layer() const { return on_layer.empty() ? part + "_" + feature : on_layer; }
};

/// What loops lie within [mm]; both at the origin where there are none.
struct Corners {
  Vec2 low, high;
};
Corners corners_of(const std::vector<PlacedLoop>& loops);

/// What stands on a sheet of stock beside the loops.
struct SheetOfStock {
  double width, depth;        ///< the drawing is as large; its origin the lower left corner [mm]
  std::vector<Label> labels;  ///< on a layer "label", to be engraved
};

/// DXF (AC1021): a circle or one polyline with bulges per loop, and the extents of all, in the stamp's unit; comment
/// lines hold the stamp.
std::string dxf(const std::vector<PlacedLoop>& loops, const Stamp& stamp,
                const std::optional<SheetOfStock>& sheet = std::nullopt);

/// A loop for DXF with splines.
struct PlacedOutline {
  curve::Outline outline;
  std::string part;
  Placement placement;
};

/// DXF with an entity for each curve: lines, arcs, and one spline for each flank or root within `tolerance` [mm]; a
/// layer for each part and role ("drum_wheel_flank").
Written dxf_of_curves(const std::vector<PlacedOutline>& outlines, const Stamp& stamp, double tolerance);

/// SVG 1:1 with arcs and full digits, in the stamp's unit; its metadata holds the stamp. The loops of each part are a
/// group that has its name as title.
std::string svg(const std::vector<PlacedLoop>& loops, const Stamp& stamp,
                const std::optional<SheetOfStock>& sheet = std::nullopt);

/// CSV of points on the exact curves, chords within `chord_error` [mm]: loop,segment,role,x,y in the stamp's unit.
/// The deviation is that of the chords between the points.
Written csv(const std::vector<curve::Outline>& outlines, double chord_error, const Stamp& stamp);
/// The same of an outline of directions (stereographic projection), on the sphere of that radius [mm]: header
/// `loop,segment,role,x,y,z`.
Written csv_of_directions(const curve::Outline& outline, double radius, double chord_error, const Stamp& stamp);

}  // namespace palio::write
