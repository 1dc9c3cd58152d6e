// In which order the members of a planetary set are put together.
#pragma once

#include <string>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::job {

/// Ways for one member to come to its place while others stand already.
struct WayIn {
  bool from_below = false, from_above = false;  ///< along the axis, helical teeth turning as they go
  /// A planet stands in the middle first, in the ring's opening, and is then moved outwards into its teeth.
  bool outwards = false;
  /// A planet comes from outside, across the axis.
  bool inwards = false;

  bool any() const noexcept { return from_below || from_above || outwards || inwards; }
};

struct AssemblyStep {
  std::size_t member;  ///< a central one, or a planet with all its copies, one after the other
  WayIn way;           ///< the first one: nothing is in its way
};

struct Assembly {
  std::vector<AssemblyStep> steps;  ///< the first one first; of an impossible one those that go before
  std::vector<std::size_t> stuck;   ///< that no order brings to their places; empty: it can be done
  bool any_order = false;           ///< each of them can be the last one
};

/// Of a carrier on whose axes planets stand side by side, with what they mesh with; the carrier's own body is left
/// aside. Found by taking apart: whoever can go goes, and never stands in the way of those that stay.
Assembly assembly(const Design& design, const Carrier& carrier);

/// "along the axis, from below or above"
std::string in_words(const WayIn& way);

}  // namespace palio::job
