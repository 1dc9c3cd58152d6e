// Chords, circular arcs and splines in place of an exact curve, each with the deviation it really has.
#pragma once

#include <vector>

#include "palio/curve/profile.hpp"

namespace palio::curve {

/// Parameters that cut a segment into chords, and the largest distance between curve and chords.
struct Chords {
  std::vector<double> at;  ///< from segment.from to segment.to, both included
  double deviation;        ///< [mm], measured on the chords returned
};

/// Cuts a segment into as few chords as keep within `chord_error` of it.
///
/// The cuts follow the square root of the curvature, which shares the error evenly; then every chord is measured
/// (src/curve/flatten.cpp says how) and the number raised until all hold.
/// \param chord_error  the largest distance allowed [mm], above 0
/// \param least        the least number of chords
/// \throws InvalidParameter "chord_error"
Chords flatten(const Segment& segment, double chord_error, int least = 1);

/// The largest distance between the curve and the chord over [a, b] [mm].
double chord_deviation(const Segment& segment, double a, double b);

/// A circular arc or straight piece of an outline, in the bulge notation of plane polylines.
struct BulgedPoint {
  Vec2 p;        ///< where the piece begins [mm]
  double bulge;  ///< tan(quarter of the arc's angle), positive when it turns counter-clockwise, 0 for a line
  Role role;     ///< of the piece that begins here
};

/// A closed chain of tangent arcs (biarcs) along one outline.
struct BulgedLoop {
  std::vector<BulgedPoint> points;
  double deviation = 0;  ///< largest distance from the exact outline [mm], measured
};

/// Follows an outline with biarcs within `tolerance` [mm]; circles and lines come out exactly.
/// \throws InvalidParameter "chord_error"
BulgedLoop biarcs(const Outline& outline, double tolerance);

/// A B-spline copy of a segment over its own parameter (clamped, in Bézier spans of one degree).
struct SplineCopy {
  int degree = 0;
  std::vector<Vec2> poles;     ///< spans · degree + 1 of them [mm]
  std::vector<double> breaks;  ///< parameter at the ends of the spans, increasing
  std::vector<double> knots;   ///< the full knot vector, with multiplicities
  double deviation = 0;  ///< largest distance from the exact curve, across it [mm], measured between the nodes too
};

/// Interpolates a segment at Chebyshev nodes, raising degree and spans until it is within `tolerance` [mm].
/// The copy runs in the direction of the segment. Ends are met exactly (to rounding).
/// \throws NoConvergence when 64 spans of degree 9 do not suffice
SplineCopy spline_copy(const Segment& segment, double tolerance);

/// The point of a spline copy at parameter `t`, by de Casteljau on the span that holds it.
Vec2 point(const SplineCopy& spline, double t);

}  // namespace palio::curve
