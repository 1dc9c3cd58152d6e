// Places where teeth meet that should not. Private to the pairs.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "palio/gear/teeth.hpp"

namespace palio::pair {

/// How deep something lies in material, negative outside [mm]; none: nowhere near it.
using Depth = std::optional<double>;

/// The boundary of material that lies on its left: segments one after the other, with places of each looked at once.
class Chain {
 public:
  explicit Chain(std::vector<curve::Segment> segments);
  /// A period with its neighbours: the spaces between them are whole.
  static Chain three_periods(const curve::Outline& outline);

  /// How deep a place lies in the material: its distance from the nearest place of the chain; negative outside.
  double depth_within(const Vec2& p) const;

 private:
  static constexpr int kPlaces = 24;
  struct Link {
    curve::Segment segment;
    std::array<Vec2, kPlaces + 1> places;
    Vec2 middle;
    double radius;  // all of the segment lies within so much of the middle
    double apart;   // its places are no further from each other
  };
  struct Near {
    double at;  // parameter
    curve::Jet jet;
  };
  static Near nearest(const Link& link, const Vec2& p, int best);

  std::vector<Link> links_;
};

/// How deep the edge of the mate's tip runs into the root curve of `own` while the flanks run in contact [mm, along the
/// normal of that curve]; negative when it stays clear.
Depth tip_digs(const gear::Teeth& own, const gear::Teeth& mate, double a, double alpha_w);

/// The same of two straight bevel gears at cone distance R [mm].
Depth bevel_tip_digs(const gear::BevelGear& own, const gear::BevelGear& mate, double shaft_angle, double R);

/// The tip edge of a mate on a crossed axis, as it stands when it is in contact with the flank of `own`: in own's
/// frame.
struct CrossedEdge {
  double center_distance, shaft_angle, motion_ratio;  ///< the mate turns by so much with a turn of own
  Vec3 contact;    ///< where the edge touches own's flank, or the flank drawn on below its base circle
  double tangent;  ///< own's tangent length there; below 0 beyond its base circle [mm]
  double own_low, own_high, mate_low, mate_high;  ///< both faces, along each axis from the common normal [mm]
};

/// The same of two gears on crossed axes: the deepest place of the whole edge over the way of a tooth [mm].
Depth crossed_tip_digs(const gear::CylindricalGear& own, const gear::CylindricalGear& mate, const CrossedEdge& edge);

/// Overlap of the tips of pinion and ring away from the mesh (theory 2.6 ii) [mm at the ring's tip circle]; negative
/// when they pass each other, −∞ when the tip circles do not cross.
double tip_fouling(const gear::CylindricalGear& pinion, const gear::CylindricalGear& ring, double a, double alpha_w);

}  // namespace palio::pair
