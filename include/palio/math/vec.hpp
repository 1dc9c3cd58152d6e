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
/// `v` turned counter-clockwise by `angle` [rad].
inline Vec2 turned(const Vec2& v, double angle) {
  const double c = std::cos(angle), s = std::sin(angle);
  return {c * v.x() - s * v.y(), s * v.x() + c * v.y()};
}

}  // namespace palio
