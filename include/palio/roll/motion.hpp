// A motion with one parameter, and the chart of the plane in which it is a plain shift.
#pragma once

#include "palio/angle.hpp"
#include "palio/curve/segment.hpp"

namespace palio::roll {

/// A point in the chart of a motion, with derivatives by the parameter of the curve it lies on.
///
/// The label tells the track a point runs on (a circle about the axis, a line along the slide): the motion leaves it
/// unchanged. The place tells where on that track it is: moving by q adds q to the place. In this chart two curves
/// touch under the motion where their labels and their slopes agree, whatever surface or motion lies underneath.
struct ChartJet {
  double label, place;    ///< [mm, coordinate of the motion]
  double label1, place1;  ///< first derivatives
  double label2, place2;  ///< second derivatives
};

/// How a member moves: a turn about a fixed axis [rad], or a slide along a straight line [mm]; in the plane, or a turn
/// on a sphere about the common apex of two axes.
///
/// The sphere is drawn in the plane by the stereographic projection about the world's axis, tan(δ/2) e^{i az}; a
/// member's own frame is the same projection about its own axis. A turn of the sphere is then a conformal map of the
/// plane, w = (z + T)/(1 − T̄ z), which takes a curve's derivatives along and keeps its normals. Only lengths need care:
/// `scale` says what a length of the plane is on the sphere.
///
/// A slide runs along the member's own −x, so that a rack (teeth towards its own +y) is to its mate what an external
/// gear of infinite radius would be: the chart keeps its orientation.
class Motion {
 public:
  /// The member's own origin stands at `centre`; the coordinate is the angle turned.
  static Motion rotation(const Vec2& centre) { return {Kind::rotation, centre, 0}; }
  /// The member's own frame is turned by `turn` and stands at `origin`; the coordinate is the distance moved
  /// along its own −x.
  static Motion translation(const Vec2& origin, Angle turn) { return {Kind::translation, origin, turn.radians()}; }

  /// The member's own axis passes through the apex, `tilt` from the world's axis towards the azimuth `direction`;
  /// lengths are those on the sphere of that radius [mm]. The coordinate is the angle turned.
  static Motion on_sphere(Angle tilt, Angle direction, double radius);

  const Vec2& origin() const noexcept { return origin_; }
  bool turns() const noexcept { return kind_ != Kind::translation; }
  bool on_sphere() const noexcept { return kind_ == Kind::sphere; }

  /// From the member's own frame into the world, at coordinate q.
  curve::Jet carry(const curve::Jet& own, double q) const { return carry(own, q, direction(q)); }
  /// The same with `direction(q)` worked out before, for many points.
  curve::Jet carry(const curve::Jet& own, double q, const Vec2& direction) const;
  /// Of the own frame's x axis in the world at coordinate q; on the sphere before the tilt.
  Vec2 direction(double q) const;
  /// A world jet in the chart, all but the place (left 0): what finding a tangency needs, without the price of an
  /// angle.
  ChartJet slopes(const curve::Jet& world) const;
  /// A world jet in the chart. Angles come out within half a turn of `near`, so that a curve near there stays whole.
  ChartJet chart(const curve::Jet& world, double near) const;
  /// How far the member's own frame is turned at coordinate q [rad].
  double turned(double q) const noexcept { return turns() ? q : turn_; }
  /// Label only.
  double label(const Vec2& world) const;
  /// How fast a world point moves per unit of the coordinate [mm].
  Vec2 velocity(const Vec2& world) const;
  /// The place of a world point, within half a turn of `near`.
  double place(const Vec2& world, double near) const;
  /// A direction at a point, from the member's own frame into the world, at coordinate q; unit length.
  Vec2 carry_direction(const Vec2& point, const Vec2& direction, double q) const;
  /// Length per length of the plane at a world point [mm]; 1 but on the sphere.
  double scale(const Vec2& world) const noexcept;
  /// A label as a length across the tracks [mm].
  double height(double label) const noexcept;
  /// By how much own lengths exceed world ones within `radius` of a world point, at most; infinite where the pole is
  /// near.
  double stretch(const Vec2& world, double radius) const noexcept;

 private:
  enum class Kind { rotation, translation, sphere };
  Motion(Kind kind, const Vec2& origin, double turn) : kind_(kind), origin_(origin), turn_(turn) {}
  curve::Jet own(const curve::Jet& world) const;

  Kind kind_;
  Vec2 origin_;
  double turn_;  // of a slide; of the sphere its radius
};

}  // namespace palio::roll
