// A closed outline of exact segments, and what can be measured on it without sampling it for a consumer.
#pragma once

#include <vector>

#include "palio/curve/segment.hpp"

namespace palio::curve {

/// A closed outline: one period, repeated `count` times about the origin, material on the left.
///
/// A gear's period runs from the middle of a tooth space over the tooth to the middle of the next space; a ring's too,
/// but clockwise, since its material lies outside; a bore's is its whole circle. Every segment begins where the one
/// before it ends. The teeth of a rack are an open outline: its periods follow each other by `shift`.
struct Outline {
  std::vector<Segment> period;
  int count = 1;
  bool clockwise = false;     ///< each period follows the one before it clockwise
  Vec2 shift = Vec2::Zero();  ///< from one period to the next, where they follow each other in a straight line [mm]

  /// Angle from one tooth to the next, 2π/count [rad].
  double pitch() const noexcept;
  /// How far period `copy` is turned [rad].
  double turn(int copy) const noexcept { return clockwise ? -copy * pitch() : copy * pitch(); }
  /// Segment `index` of period `copy`.
  Segment segment(int copy, std::size_t index) const;
};

/// The same outline the other way round: the material changes sides.
Outline reversed(const Outline& outline);

/// The same outline mirrored at the x axis, the material still on its left; of one whole period.
Outline mirrored(const Outline& outline);

/// The same outline moved; straight and elliptic pieces and arcs only, of one whole period.
Outline moved(Outline outline, const Vec2& way);

/// The same outline turned about the origin [rad].
Outline turned(Outline outline, double angle);

/// The same outline larger about the origin, by `factor` above 0.
Outline scaled(Outline outline, double factor);

/// A circle as an outline: counter-clockwise, or clockwise when it bounds a hole.
Outline circle(double radius, Role role, bool hole, const Vec2& centre = Vec2::Zero());

/// Area enclosed, ½∮(x dy − y dx) by Gauss–Kronrod on the exact curves [mm²]; negative for a hole.
double signed_area(const Outline& outline);

/// ∮ p/3 · (x dy − y dx): the first moment of the area about the origin [mm³]; nothing where periods turn it away.
Vec2 first_moment(const Outline& outline);

/// ∮ |p|²/4 · (x dy − y dx): the polar moment of the area about the origin [mm⁴]; negative for a hole.
double polar_moment(const Outline& outline);

}  // namespace palio::curve
