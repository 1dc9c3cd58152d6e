// Parallels of outlines: every curve of a tooth has a parallel of its own kind.
//
// The involute of a circle: its normals touch the base circle, so points at distance δ along them lie on the involute
// of the same circle that starts δ/r_b further round. A root that a tool's round of radius ρ leaves is the envelope of
// that round; its parallel is the envelope of the round of radius ρ − δ about the same path. Circles, lines and the
// ellipse of a round seen askew are plain. Derivation and the case of twisted teeth: docs/theory/process.md.
#pragma once

#include "palio/curve/profile.hpp"

namespace palio::curve {

/// How the section lies to the surfaces that pass through it.
struct Askew {
  double cos_base_helix = 1;  ///< cos β_b: a flank at normal distance δ stands δ/cos β_b away in the section
  double slope = 0;           ///< of sliding bodies (racks): way along x per height
};

/// The outline at normal distance `offset` [mm] from the surfaces that this one is the section of: positive out of the
/// material. Where two curves met at an edge, their parallels are cut off or drawn on until they meet again.
/// A cycloid that folds before that is joined by the round about the edge; a round that vanishes is left out.
/// Exact for spur teeth and racks of any helix angle, and for helical flanks and rack-generated roots; other roots and
/// chamfers of helical teeth are offset in the section by offset/cos β_b, as their flanks are.
/// \throws InvalidParameter "surface_offset" where a curve would turn inside out or vanish
Outline parallel(const Outline& outline, double offset, const Askew& askew = {});

}  // namespace palio::curve
