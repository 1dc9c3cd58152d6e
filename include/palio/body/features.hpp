// What stands around the teeth: bore, hubs, web, spokes, holes; and the body that they make together.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/angle.hpp"
#include "palio/body/core.hpp"
#include "palio/body/layered.hpp"
#include "palio/math/vec.hpp"

namespace palio::body {

/// A slot in the bore's wall. Angles count from the middle of a tooth.
struct Keyway {
  double width = 0, height = 0;     ///< height: from the opposite wall of the bore to its bottom [mm]
  std::vector<double> angles{0.0};  ///< [rad]
};

/// The bore of a D-shaft: `height` from the opposite wall to the flat [mm]; of a double D from flat to flat.
struct Flat {
  double height = 0, angle = 0;  ///< [mm, rad]
  bool twice = false;            ///< a double D: another one opposite
};

/// A bore with straight walls all round, hexagon or square; `angle` points at the middle of a flat.
struct Sided {
  int sides = 6;
  double across_flats = 0, angle = 0;  ///< [mm, rad]
};

/// A bore with straight-sided serrations, as small motors of robots and pumps carry them: their tips stand on the inner
/// circle, their bottoms on the outer one; `angle` points at a bottom.
struct Serration {
  int teeth = 0;
  double inner_diameter = 0, outer_diameter = 0, angle = 0;  ///< [mm, rad]

  /// How far the straight walls, gone on with, pass the axis [mm].
  double wall_distance() const;
  /// All walls moved outwards by so much [mm].
  Serration widened(double by) const;
};

/// A bore whose wall has a shape of its own, as that of an involute spline.
struct ShapedBore {
  std::string feature;  ///< the key that asks for it
  std::string label;    ///< on drawings: "spline 14 × 1, 30°"
  int teeth = 0;
  double inner_diameter = 0, outer_diameter = 0;  ///< as designed [mm]
  double wider = 0;                               ///< every wall moved outwards by so much [mm]
  std::function<curve::Outline(double)> wall{};   ///< clockwise, every wall moved outwards by so much

  curve::Outline outline() const { return wall(wider); }
};

/// A wider piece of the bore at one of its ends: a bearing's seat, a counterbore. What stands behind it is a shoulder.
struct Step {
  bool top = true;                 ///< begins at the end towards +z
  double diameter = 0, depth = 0;  ///< depth from that end of the body, hubs with it [mm]
  bool seat = false;               ///< of a bearing
};

struct Hub {
  bool top = true;  ///< stands out towards +z
  double diameter = 0, length = 0;
};

enum class Faces { both, top, bottom };

/// A recess between rim and hub that leaves a plate of `thickness`: from both sides alike, or from one.
struct Web {
  double thickness = 0, inner_diameter = 0, outer_diameter = 0;  ///< [mm]
  Faces faces = Faces::both;
};

/// Windows that leave arms of even width; the first arm lies on +x.
struct Spokes {
  int count = 0;
  double width = 0, inner_diameter = 0, outer_diameter = 0, fillet_radius = 0;  ///< [mm]
};

/// Round holes through everything along the axis: on a circle about it, or (of a rack) in a row.
struct Holes {
  struct Row {
    Vec2 middle = Vec2::Zero();  ///< of all of them, in the plane of the outline [mm]
    double spacing = 0;          ///< between neighbours [mm]
  };
  int count = 0;
  double circle_diameter = 0, diameter = 0, angle = 0;  ///< [mm, rad]
  std::optional<Row> row{};                             ///< in place of circle and angle

  /// The middle of one of them, counted from 0.
  Vec2 place(int i) const {
    if (row) return row->middle + Vec2((i - (count - 1) / 2.0) * row->spacing, 0);
    return from_polar(circle_diameter / 2, angle + 2 * kPi * i / count);
  }
};

/// Along outlines of one's own: right through everything along the axis, or as deep as a pocket.
struct Cutout {
  std::vector<curve::Outline> loops;  ///< clockwise; what is left standing within a pocket counter-clockwise
  double depth = 0;  ///< from the teeth's face, what stands beyond it is cut too; 0: right through [mm]
  bool top = true;   ///< a pocket from the face towards +z

  /// The height of a pocket's floor, of teeth from 0 to `width` [mm].
  double floor(double width) const { return top ? width - depth : depth; }
  /// Whether it goes through what is at that height, there or beyond the teeth [mm].
  bool at(double z, double width) const { return depth == 0 || (top ? z > floor(width) : z < floor(width)); }
};
/// All walls moved into the material by `by`, outer edges inwards [mm]. \param feature  the key that asks for it
/// \throws InvalidParameter `feature` where the outline cannot be moved so
curve::Outline drawn_in(const curve::Outline& outline, double by, const char* feature);
Cutout drawn_in(Cutout cutout, double by);
Cutout scaled(Cutout cutout, double radial, double axial);

/// A pocket for a nut, open at the end of its hub: what it takes of the hub, play with it [mm].
struct NutPocket {
  double across_flats = 0, thickness = 0;  ///< thickness: along the screw
};

/// A round hole across the axis through a hub's wall: from the bore outwards, or all the way through.
struct CrossHole {
  double diameter = 0, angle = 0, height = 0;  ///< height: of its axis above the teeth's lower face [mm, rad, mm]
  bool through = false;                        ///< a pin's, through both walls; otherwise a set screw's
  std::optional<NutPocket> nut{};
  std::string label{};  ///< what goes through it, where that has a name: "M3"

  const char* key() const { return through ? "cross_pin" : "set_screw"; }
};

/// Dots engraved into the top face: one on a tooth, a pair beside a space, and a text of dots along the rim.
struct Marks {
  double depth = 0;            ///< [mm]
  std::vector<double> teeth;   ///< polar angles of teeth to be marked [rad]
  std::vector<double> spaces;  ///< of spaces
  std::string text;            ///< digits, ".", "m" and "z"
};

/// All lengths in mm. The round bore itself is the core's.
struct Features {
  std::optional<Keyway> keyway;
  std::optional<Flat> flat;
  std::optional<Sided> sided;
  std::optional<Serration> serration;
  std::optional<ShapedBore> shaped;
  /// Whether the bore's own wall turns the shaft: a flat, flat walls all round, serrations or a spline.
  bool turns_by_wall() const { return flat || sided || serration || shaped; }
  double bore_chamfer = 0;  ///< 45°, at both ends of a plain round bore
  std::vector<Step> steps;
  /// Of a bearing, of two alike the first; null where there is none.
  const Step* seat() const;
  std::vector<Hub> hubs;
  std::optional<Web> web;
  std::optional<Spokes> spokes;
  std::vector<Holes> holes;
  std::vector<Cutout> cutouts;
  std::vector<CrossHole> cross_holes;
  std::optional<Marks> marks;
  int sector_teeth = 0;             ///< 0: all of them
  double sector_back_diameter = 0;  ///< of the round back of a sector gear
  double first_layer_inset = 0;     ///< the lowest layer is drawn in by so much …
  double first_layer_height = 0;    ///< … up to this height
};

/// Every wall but the teeth moved into the material by `by` (negative: out of it): outer edges inwards, holes wider
/// [mm]. The round bore, which is the core's, is not among them.
Features drawn_in(Features features, double by);

/// All of it larger: across the axis by `radial`, along it by `axial`.
Features scaled(Features features, double radial, double axial);

/// The least and greatest heights of a body: the teeth's face and the hubs.
struct Heights {
  double bottom, top;
};
/// \param width  how far the core runs [mm]
/// \param plate  thickness of plates beyond it at either end [mm]
Heights heights(const Features& features, double width, double plate = 0);

/// Keyways by bore: width and depth in the hub (t₂) in the manner of ISO 773 for plain parallel keys. The numbers are
/// the series in common use; they were not compared with the printed standard.
struct KeySize {
  double over, up_to, width, depth;  ///< bore above `over` up to `up_to` [mm]
};
const std::vector<KeySize>& key_sizes();
/// None for bores outside the table.
std::optional<Keyway> standard_keyway(double bore_diameter);

/// The body around a core in its own frame: the core from z = 0 to its width.
/// \param first_layer  the core as the lowest layer shows it, where `first_layer_inset` asks for it
/// \throws InvalidParameter naming the feature ("keyway", "web" …): one that is out of range, or that runs into
/// another,
///   with both names and by how much
Body body(const Core& core, const Features& features, const Core* first_layer = nullptr);

}  // namespace palio::body
