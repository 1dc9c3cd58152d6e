// What a body is built around: the outline that runs along it, or to an apex.
#pragma once

#include <functional>
#include <optional>

#include "palio/curve/profile.hpp"

namespace palio::body {

/// An outline that runs along the axis from z = 0, and what features must know of it. Lengths in mm.
struct Core {
  curve::Outline outline;  ///< at mid-height
  double width = 0;        ///< how far it runs
  bool slides = false;     ///< it follows a straight line, not a circle
  bool ring = false;       ///< it bounds an opening, in a body of `outer_radius`
  /// How far the section at a height over the middle stands turned [rad] (sliding: moved [mm]); empty: upright.
  std::function<double(double)> turn{};
  std::optional<double> gap{};  ///< of halves that mirror each other: how wide the groove between them is
  double bore_radius = 0;       ///< of the round bore; 0: none
  double outer_radius = 0;      ///< of a ring, or of the plates that hold pins
  double root_radius = 0;       ///< inside it (of a ring: outside it) all is material
  double reference_radius = 0;  ///< where marks on its teeth stand
  double module = 0;            ///< what marks and grooves are sized by
  /// Pins between two plates in place of an outline.
  struct Pins {
    double radius, circle_radius, plate;
  };
  std::optional<Pins> pins{};

  double plate() const noexcept { return pins ? pins->plate : 0; }
};

/// Surfaces ruled to an apex, between two ends. An outline is one of directions, in the stereographic projection about
/// the axis; an end at R is a cone across the pitch cone there, or a sphere about the apex. Lengths in mm, angles in
/// rad.
struct ConicalCore {
  int count = 0;                           ///< of its periods
  double inner = 0, outer = 0;             ///< cone distances of the ends
  double pitch_cone = 0;                   ///< its angle to the axis
  bool spheres = false;                    ///< the ends are spheres
  double height = 0, depth = 0;            ///< of the teeth over and under the pitch cone at the outer end
  double tip_radius = 0, root_radius = 0;  ///< at the outer end
  double module = 0, bore_radius = 0;
  std::optional<double> rim{};                       ///< behind the roots; none: what is usual
  bool one_form = true;                              ///< sections differ in size alone, and have the same corners
  std::function<curve::Outline(double)> section{};   ///< at a cone distance
  std::function<double(double, double)> distance{};  ///< from the apex, of the end at R, in a direction at δ: (δ, R)
  std::function<double(double)> tip_angle{}, root_angle{};  ///< δ of tips and roots in the section at R
};

}  // namespace palio::body
