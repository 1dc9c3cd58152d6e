// Whether the loops of a body keep clear of each other, and how thick the material between them is.
#pragma once

#include <string>
#include <vector>

#include "palio/body/layered.hpp"
#include "palio/math/extent.hpp"

namespace palio::body {

/// A loop as a polygon about its exact curve, a circle also as what it is: enough to tell inside from outside and to
/// measure distances, of circles to the polygon exactly, between others to a few thousandths of their size.
class Shape {
 public:
  explicit Shape(const curve::Outline& outline);

  double orientation() const noexcept { return orientation_; }  ///< +1: counter-clockwise, an outer loop; −1: a hole
  double least() const noexcept { return least_; }  ///< radius of the ring about the origin that holds it [mm]
  double greatest() const noexcept { return greatest_; }
  const std::vector<Vec2>& points() const noexcept { return points_; }
  bool around_origin() const noexcept { return around_; }
  double circle() const noexcept { return circle_; }  ///< its radius; 0 for what is no circle [mm]
  const Vec2& centre() const noexcept { return centre_; }

  bool holds(const Vec2& p) const;       ///< p lies inside
  double distance(const Vec2& p) const;  ///< from the line itself [mm]
  /// Between the two lines; 0 where they cross. Not looked for beyond `enough`, which is then returned [mm].
  double distance(const Shape& other, double enough = math::kInfinite) const;
  bool inside(const Shape& other) const;  ///< of two that keep clear

 private:
  std::vector<Vec2> points_;
  double orientation_, least_, greatest_;
  Vec2 centre_;
  double reach_;  // about centre_
  bool around_;
  double circle_ = 0;  // radius about centre_ of a full circle; 0: no circle
};

/// Features that come so near each other count as touching: a wall so thin is none [mm].
inline constexpr double kTouches = 1e-3;

/// Two features of which one runs into the other.
struct Collision {
  std::string first, second;  ///< features; the second is the one to move
  double depth;               ///< how far one reaches beyond the other's edge; 0 where they only touch [mm]
};

/// Everything that collides: within layers and where layers meet. Two loops that come closer than `least` count as
/// touching.
std::vector<Collision> collisions(const Body& body, double least = kTouches);

/// The material between two loops of a layer, at its thinnest.
struct ThinWall {
  std::string first, second;
  double thickness;  ///< [mm]
};

/// Walls thinner than `limit` [mm], each pair of features once, the thinnest place of each.
std::vector<ThinWall> thin_walls(const Body& body, double limit);

}  // namespace palio::body
