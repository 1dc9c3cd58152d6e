// Plane vectors, on Eigen.
#pragma once

#include <Eigen/Core>
#include <Eigen/Geometry>
#include <cmath>

namespace palio {

using Vec2 = Eigen::Vector2d;
using Vec3 = Eigen::Vector3d;

/// The plane cross product a × b; positive when b lies counter-clockwise of a.
inline double cross(const Vec2& a, const Vec2& b) { return a.x() * b.y() - a.y() * b.x(); }
/// `v` turned a quarter turn counter-clockwise.
inline Vec2 quarter_turn(const Vec2& v) { return {-v.y(), v.x()}; }
/// The point at polar radius `r` and angle `angle` [rad].
inline Vec2 from_polar(double r, double angle) { return {r * std::cos(angle), r * std::sin(angle)}; }
/// `v` turned as +x is turned to `direction`, a unit vector.
inline Vec2 turned(const Vec2& v, const Vec2& direction) {
  return {direction.x() * v.x() - direction.y() * v.y(), direction.y() * v.x() + direction.x() * v.y()};
}
/// `v` turned counter-clockwise by `angle` [rad].
inline Vec2 turned(const Vec2& v, double angle) { return turned(v, Vec2(std::cos(angle), std::sin(angle))); }

}  // namespace palio
