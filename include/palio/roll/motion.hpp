// A motion with one parameter, and the chart of the plane in which it is a plain shift.
#pragma once

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

/// How a member moves: a turn about a fixed axis [rad], or a slide along a straight line [mm].
///
/// A slide runs along the member's own −x, so that a rack (teeth towards its own +y) is to its mate what an external gear
/// of infinite radius would be: the chart keeps its orientation.
class Motion {
 public:
  /// The member's own origin stands at `centre`; the coordinate is the angle turned.
  static Motion rotation(const Vec2& centre) { return {Kind::rotation, centre, 0}; }
  /// The member's own frame is turned by `turn` [rad] and stands at `origin`; the coordinate is the distance moved along
  /// its own −x.
  static Motion translation(const Vec2& origin, double turn) { return {Kind::translation, origin, turn}; }

  const Vec2& origin() const noexcept { return origin_; }
  bool turns() const noexcept { return kind_ == Kind::rotation; }

  /// From the member's own frame into the world, at coordinate q.
  curve::Jet carry(const curve::Jet& own, double q) const;
  /// A world jet in the chart, all but the place (left 0): what finding a tangency needs, without the price of an angle.
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

 private:
  enum class Kind { rotation, translation };
  Motion(Kind kind, const Vec2& origin, double turn) : kind_(kind), origin_(origin), turn_(turn) {}

  Kind kind_;
  Vec2 origin_;
  double turn_;
};

}  // namespace palio::roll
