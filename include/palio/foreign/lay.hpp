// An outline of others laid on exact teeth, or on another such outline, where it fits best; and how far it is off.
#pragma once

#include <optional>
#include <vector>

#include "palio/curve/profile.hpp"
#include "palio/foreign/teeth.hpp"

namespace palio::foreign {

/// Along the outline that it is laid on: how far off all that lies near there is, along the normal.
struct Station {
  Vec2 p, normal;                           ///< [mm]; the normal points out of the material
  double along;                             ///< arc length from where the outline begins [mm]
  curve::Role role;                         ///< flank, tip, root; on outlines of others by the radius
  std::optional<double> least, mean, most;  ///< [mm], positive: more material; none where nothing lies near
};

struct Laid {
  Vec2 centre;        ///< the point of the foreign outline that comes to stand on the axis [mm, as in the file]
  double turn;        ///< by which it is turned then [rad]
  double scale;       ///< by which it is made larger then: 1 unless another scale explains what is off
  double best_scale;  ///< the one that would fit best
  Off flank, whole;   ///< at that scale, of the flanks and of everything
  Off as_drawn;       ///< of the flanks at scale 1
  std::vector<Station> stations;  ///< along one tooth, space to space; the foreign outline's teeth all on it
  int worst_tooth;  ///< of the foreign outline: counted counter-clockwise from the one that lies nearest +x
};

/// What may be said of the scale beforehand.
struct Laying {
  std::optional<double> scale;  ///< held; none: fitted, and taken where it leaves less than a fifth of what is off
  bool rough = false;           ///< by a few thousand points only: to choose among outlines
};

/// Lays teeth on the exact outline of gears of as many teeth.
/// \param exact  of a gear or ring about the origin (`gear::Teeth::outline`)
/// \throws InvalidParameter "teeth" where the counts differ
Laid lay(const Toothed& foreign, const curve::Outline& exact, const Laying& laying = {});

/// Lays them on those of another outline; a tooth in the middle of its range is drawn.
Laid lay(const Toothed& foreign, const Toothed& other, const Laying& laying = {});

}  // namespace palio::foreign
