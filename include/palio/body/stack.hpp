// Several bodies on one axis made as one, with a rod through them.
#pragma once

#include <string>
#include <vector>

#include "palio/body/layered.hpp"

namespace palio::body {

struct Stacked {
  std::string name;  ///< for messages
  Body body;
  double z = 0;     ///< height of its own z = 0 [mm]
  double turn = 0;  ///< about the axis [rad]
};

/// A groove around a rod.
struct Neck {
  double from, to;  ///< along it [mm]
  double diameter;  ///< of its bottom [mm]
};

/// A cylinder from one height to another, with grooves around it.
/// \param diameter, from, to  [mm]
/// \param necks  within it, upwards, none beside another
/// \throws InvalidParameter "diameter" (not above 0), "ends" (nothing between), "ring" (a groove that is none)
Body rod(double diameter, double from, double to, const std::vector<Neck>& necks = {});

/// All as one body. With a rod their bores are filled, and it goes through wherever they leave the middle open, between
/// them and beyond; without one they have to touch each other, and keep bores that are circles of one size.
/// \param diameter  of the rod; 0: none [mm]
/// \param necks  of the rod, where it stands out beyond the bodies
/// \param from, to  its ends [mm]
/// \throws InvalidParameter "one_piece" where bodies overlap along the axis, stand apart without a rod, have bores that
///   differ, or run into each other where they meet; "ends" where the rod ends within
Body stacked(std::vector<Stacked> bodies, double diameter, double from, double to, const std::vector<Neck>& necks = {});

}  // namespace palio::body
