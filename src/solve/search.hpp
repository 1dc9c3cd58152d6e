// Continuous unknowns of a black box: all places where its conditions hold, or the best of them. It knows no gears.
// Private to solve.
#pragma once

#include <functional>
#include <optional>
#include <vector>

namespace palio::solve {

/// What the black box says at a place.
struct Outcome {
  std::vector<double> off;   ///< how far each equality is missed, of its own scale
  std::vector<double> over;  ///< by how much each range is left, of its own scale; 0 within
  double aim = 0;            ///< what is to be as great as possible

  bool holds() const;
  /// The sum of squares of all that is missed.
  double missed() const;
};

/// Equalities hold to this, of their scale; ranges to what rounding leaves.
inline constexpr double kHolds = 1e-12, kWithin = 1e-14;

/// Coordinates from 0 to 1; none where there is no such thing.
using Place = std::vector<double>;
using BlackBox = std::function<std::optional<Outcome>(const Place&)>;

struct Spot {
  Place at;
  Outcome outcome;
};

struct Search {
  std::size_t dimensions;
  bool aims = false;         ///< whether there is something to be made as great as possible
  std::vector<Place> seeds;  ///< where to begin, besides places all over
  std::size_t starts = 24;   ///< how many of those, for each dimension
  std::size_t grid = 160;    ///< of one dimension: how many places are looked at before the finer search
  bool brief = false;        ///< one of very many: given up where a few places show that nothing comes near
};

/// The i-th of numbers from 0 to 1 that lie evenly however many are taken, another row for each dimension (Halton).
double spread(std::size_t i, std::size_t dimension);

/// All places where everything holds, far enough apart to be told from each other; with an aim the best alone. Of one
/// unknown every sign change and every touching of the first equality between the places of the grid is found; of
/// several what the searches from all starts lead to. None where nothing holds.
std::vector<Spot> solve(const BlackBox& box, const Search& search);

/// The place where least is missed; none where the box says nothing anywhere.
std::optional<Spot> nearest(const BlackBox& box, const Search& search);

}  // namespace palio::solve
