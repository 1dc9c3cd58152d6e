// How fast everything in a machine turns, exactly: speeds are fractions, found once for all ties together.
//
// A tie says that a sum of whole multiples of turns is nothing: a mesh of z₁ and z₂ teeth whose axes ride on a carrier
// c is z₁ (n₁ − n_c) ± z₂ (n₂ − n_c) = 0. A rack counts pitches in place of turns: it is a gear of one tooth.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

namespace palio::machine {

/// A number without rounding, as a text ("-37/14") and as nearly as a double has it.
struct Fraction {
  std::string text;
  double value;
};
bool operator==(const Fraction& a, const Fraction& b);

/// One multiple of a member's turns.
struct Term {
  std::size_t member;
  long long times;
};

/// A sum that is nothing. Several terms of one member add up.
struct Tie {
  std::string name;  ///< of the mesh, for messages
  std::vector<Term> terms;
};

/// Meshing teeth about axes that stand still, or ride on a carrier.
/// \param opposite  external teeth turn each other the other way; false: internal, the same way
/// \param carrier   relative to which both turn
Tie mesh(std::string name, std::size_t a, long long teeth_a, std::size_t b, long long teeth_b, bool opposite,
         std::optional<std::size_t> carrier = std::nullopt);

/// The same of a gear whose axis is inclined to its carrier's (a bevel planet): its turns count against the carrier.
Tie inclined_mesh(std::string name, std::size_t central, long long teeth_central, std::size_t planet,
                  long long teeth_planet, bool opposite, std::size_t carrier);

/// What becomes of all members when one is turned and some are held.
struct Motion {
  std::size_t freedom;  ///< ways in which the machine can still move with those held, before one is turned
  bool locked;          ///< the member to be turned cannot be
  /// Turns of each for one turn of that member; none where it may turn or not (it is loose).
  std::vector<std::optional<Fraction>> turns;
};

class Speeds {
 public:
  /// \throws InvalidParameter "tie" where one names a member that there is not
  Speeds(std::size_t members, std::vector<Tie> ties);

  /// Ways in which the machine can move with some members held.
  std::size_t freedom(const std::vector<std::size_t>& held = {}) const;

  /// \throws InvalidParameter "input" where it is held
  Motion turned(std::size_t input, const std::vector<std::size_t>& held = {}) const;

  /// Of a locked input: the ties any one of which, left out, would let it turn; so the meshes of a loop that cannot.
  std::vector<std::size_t> locking(std::size_t input, const std::vector<std::size_t>& held = {}) const;

 private:
  std::size_t members_;
  std::vector<Tie> ties_;
};

}  // namespace palio::machine
