// Forces in a reducer that carries a load: from the directions of contact and one coefficient of friction.
#pragma once

#include "palio/reducer/reducer.hpp"

namespace palio::reducer {

/// How the load is shared cannot follow from rigid parts alone: each roller and each pin takes its share in proportion
/// to its lever about the disc's axis, as if the disc turned a little against springs. Bearings carry without friction.
struct Efficiency {
  double forward;   ///< power out by power in, the input driving; over a turn at constant output torque
  double backward;  ///< the output driving, at constant output torque; 0 or below: it holds by itself
};
/// \param friction  of rollers against the disc and pins in their holes; rollers on pins slide on those
/// \throws InvalidParameter "friction" below 0
Efficiency efficiency(const Reducer& r, double friction);

/// Out of balance of the discs alone, spread evenly, `mass` each [kg].
struct Unbalance {
  double force;   ///< mass times eccentricity left over [kg·mm]
  double couple;  ///< about the middle of the stack, force arms times lengths [kg·mm²]
};
Unbalance unbalance(const Spec& spec, int discs, double mass);

}  // namespace palio::reducer
