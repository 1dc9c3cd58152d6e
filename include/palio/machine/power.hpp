// Torque and power through a machine: what every mesh carries and loses.
//
// A mesh of member a with b, both relative to carrier c, carries a tooth force that turns a by z₁ λ and b by ±z₂ λ; the
// carrier takes what is over. With losses the side that is driven gets η of it. Which side that is, is decided by the
// *rolling* power T_a (n_a − n_c), not by that of the shafts. docs/theory/machine.md.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "palio/machine/speeds.hpp"

namespace palio::machine {

struct Mesh {
  std::string name;
  std::size_t a, b;
  long long teeth_a, teeth_b;
  bool opposite;                       ///< external teeth
  std::optional<std::size_t> carrier;  ///< that both axes ride on, or b's alone
  double efficiency = 1;               ///< of a driving b, both relative to the carrier, above 0 to 1
  double efficiency_backwards = 1;     ///< of b driving a; 0 or less: it locks itself
  bool inclined = false;               ///< b's axis is inclined to the carrier's: its turns count against the carrier

  Tie tie() const;
};

struct Flow {
  std::vector<double> turns;   ///< of each member per turn of the input
  std::vector<double> torque;  ///< outer torque on each member [of the input's]: the input's 1, the output's below 0 …
  std::vector<double> power;   ///< … times its turns: what goes in there
  /// What each member carries: the sum of all that turns it one way, as much as turns it the other [of the input's].
  std::vector<double> carried;
  struct Through {
    double rolling;  ///< power that rolls through the mesh, relative to its carrier [of the input's]
    double lost;     ///< of it
    bool from_a;     ///< which side drives
  };
  std::vector<Through> meshes;
  double efficiency;    ///< what comes out at the output, of the input; 0 or less: the machine locks itself
  double circulating;   ///< the greatest rolling power of a mesh, of the input: above 1 power goes round inside
  bool shared = false;  ///< branches carry the load together: how it is shared out, stiffness decides; here evenly
};

/// \param input, output  where power goes in and comes out; all members but these and the held ones are free of outer
///   torque
/// \throws InvalidParameter "input" where the input is locked or the output loose, naming what to do
Flow flow(std::size_t members, const std::vector<Mesh>& meshes, std::size_t input, std::size_t output,
          const std::vector<std::size_t>& held = {});

}  // namespace palio::machine
