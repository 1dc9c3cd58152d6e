// A part's body as its sheet tells it: round walls in groups, what loops lie within. Private to the views.
#pragma once

#include <cmath>
#include <string>
#include <vector>

#include <Eigen/Geometry>

#include "palio/body/clear.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "sheet_pen.hpp"

namespace palio::view {

/// An upright round wall: a hole, or the outside of a post or a step.
struct RoundWall {
  Vec2 at;
  double radius, from, to;  // [mm]
  bool hole;
  std::string feature;
};

/// What a loop lies within, read off its exact curves.
struct Within {
  Eigen::AlignedBox2d box;
  double least = math::kInfinite, greatest = 0;  // from the origin [mm]
};

Within within(const body::Loop& loop);
Eigen::AlignedBox2d extent_of(const body::Body& body);

/// Round walls of one size, height and feature: one row of the table.
struct RoundWalls {
  RoundWall first;
  std::vector<Vec2> at;
  char letter = 0;  // by which the view names them
};

std::vector<body::Shape> shapes_of(const body::Body& body);
/// Walls that go on through several layers are one.
std::vector<RoundWall> round_walls(const body::Body& body, const std::vector<body::Shape>& shapes);
std::vector<RoundWalls> grouped(const std::vector<RoundWall>& cylinders);

/// Radius of the circle about the origin on which places stand evenly; 0: they do not.
double even_circle(std::vector<Vec2> at);

/// The pen in the hands of what tells of one part.
class PartPen : protected SheetPen {
 public:
  PartPen(const SheetPen& pen, const Part& part)
      : SheetPen(pen), part_(part), axle_(part.axle ? &design_.axles[*part.axle] : nullptr) {}

 protected:
  /// Of an axle with a fit the nominal size and its symbol.
  std::string diameter(double d) const {
    const auto limits = axle_ ? axle_->fit_limits() : std::nullopt;
    if (limits && std::abs(axle_->diameter + limits->middle() - d) < math::kAlike)
      return fmt::format("⌀{} {}", size(axle_->diameter), axle_->fit);
    return "⌀" + size(d);
  }

  const Part& part_;
  const job::Axle* axle_;  // that the part is, or has within; null: none
};

}  // namespace palio::view
