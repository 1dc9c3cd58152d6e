// Where a roll found contacts at the positions before. Private to the roll.
#pragma once

#include <algorithm>
#include <optional>
#include <vector>

#include "palio/curve/segment.hpp"

namespace palio::roll {

/// Two segments that may touch, each with its tooth.
struct Facing {
  const curve::Segment *driver, *driven;
  int driver_tooth, driven_tooth;

  bool operator==(const Facing& o) const noexcept {
    return driver == o.driver && driven == o.driven && driver_tooth == o.driver_tooth && driven_tooth == o.driven_tooth;
  }
};

/// Where segments were tangent at positions just before: the next search begins there. A place is two parameters, of
/// both curves in the plane, of the driver's patch in space.
class Trail {
 public:
  struct Place {
    double s, t;
  };
  /// As the two searches before lead one to expect; none where there was none.
  std::optional<Place> expected(const Facing& facing, double coordinate) {
    const Step* step = find(facing);
    if (!step) return std::nullopt;
    if (!step->twice) return step->last;
    const double on = (coordinate - step->coordinate) / (step->coordinate - step->before);
    return Place{step->last.s + on * (step->last.s - step->earlier.s),
                 step->last.t + on * (step->last.t - step->earlier.t)};
  }
  void keep(const Facing& facing, double coordinate, const Place& found) {
    Step* known = find(facing);
    if (!known) return steps_.push_back({facing, coordinate, 0, found, {}, false});
    if (coordinate == known->coordinate) return;
    *known = {facing, coordinate, known->coordinate, found, known->last, true};
  }

 private:
  struct Step {
    Facing facing;
    double coordinate, before;
    Place last, earlier;
    bool twice;
  };
  Step* find(const Facing& facing) {
    const auto it = std::find_if(steps_.begin(), steps_.end(), [&](const Step& s) { return s.facing == facing; });
    return it == steps_.end() ? nullptr : &*it;
  }
  std::vector<Step> steps_;
};

}  // namespace palio::roll
