// The lobed disc of a cycloidal speed reducer; derivations in docs/theory/cycloid.md.
#pragma once

#include <optional>

#include "palio/curve/profile.hpp"

namespace palio::gear {

/// The lobed disc of a reducer: N rollers of radius R_r on radius R, eccentricity E, N − 1 lobes. All lengths in mm.
struct LobedDiscSpec {
  int rollers = 0;
  double roller_circle_diameter = 0, roller_diameter = 0, eccentricity = 0;
};
struct LobedDiscSizes {
  double ratio;             ///< −(N − 1): output turns against the input, the ring held
  double max_eccentricity;  ///< R/N
  double max_roller_radius_no_undercut;
  double min_convex_radius;                  ///< of the disc's edge; below 0: undercut
  std::optional<double> min_concave_radius;  ///< none where the edge is nowhere hollow
  double adjacent_roller_gap;                ///< between neighbouring rollers
  double root_diameter, crest_diameter;
};
class LobedDisc {
 public:
  /// \throws InvalidParameter "rollers", "eccentricity", "roller_diameter", "roller_circle_diameter": beyond its limit,
  /// which is named
  explicit LobedDisc(const LobedDiscSpec& spec);
  const LobedDiscSizes& sizes() const noexcept { return sizes_; }
  /// A lobe's root on +x.
  const curve::Outline& outline() const noexcept { return outline_; }
  /// At input angle φ: the disc's centre, and how far it is turned.
  Vec2 centre(double input) const;
  double turned(double input) const;

 private:
  LobedDiscSpec spec_;
  LobedDiscSizes sizes_{};
  curve::Outline outline_;
};
/// The limits alone, for any numbers: what an error names.
LobedDiscSizes lobed_disc_limits(const LobedDiscSpec& spec);

}  // namespace palio::gear
