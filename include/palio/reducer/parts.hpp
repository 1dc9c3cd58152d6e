// What a reducer is made of, as bodies in their own frames, and where each part stands and how it moves.
#pragma once

#include "palio/body/layered.hpp"
#include "palio/reducer/reducer.hpp"

namespace palio::reducer {

enum class PartKind { disc, ring, roller, shaft, flange };

struct Part {
  std::string name;     ///< "disc", "disc_2", "ring", "roller_7", "shaft", "flange"
  std::string alike{};  ///< name of the part of the same shape that comes first; empty: this one
  PartKind kind{};
  std::size_t number = 0;  ///< of the disc or roller
  body::Body body{};       ///< z = 0 at its lower face; a disc's centre at the origin, a lobe root on +x
  /// At φ = 0: where its own origin stands, turned by `turn` about z; `flipped`: turned over about its x axis before
  /// that.
  Vec3 at = Vec3::Zero();
  double turn = 0;
  bool flipped = false;
  double turns_per_input = 0;  ///< about its own axis
  double orbit = 0;            ///< its origin goes round the reducer's axis with the input, at this radius [mm]
};

/// Ring with rollers (one piece: without), shaft with offset journals, discs with holes and bore, flange with output
/// pins; each with a mark on +x of the home position.
std::vector<Part> parts(const Reducer& r);

}  // namespace palio::reducer
