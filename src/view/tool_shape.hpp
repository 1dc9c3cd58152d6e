// The tool that cuts a gear, as an outline, and how it moves past it. Private to the views.
#pragma once

#include <vector>

#include "palio/gear/teeth.hpp"

namespace palio::view {

/// Points of the tool in its own frame, and its place against the gear in the frame of the gear.
struct CuttingTool {
  bool rack;                  ///< otherwise a pinion cutter
  std::vector<Vec2> outline;  ///< closed [mm]; a rack's teeth point towards −x, its datum line on the y axis
  double distance;            ///< of the datum line, or the cutter's axis, from the gear's axis [mm]
  double rolling_radius;      ///< rack: moved by so much along y per radian of the gear [mm]
  double ratio;               ///< cutter: turns of it per turn of the gear
  double reach;               ///< turn of the gear from first to last touch, to either side [rad]
  double deviation;           ///< of the outline from the exact tool [mm]
};

/// \throws InvalidParameter "tool" for a root that no tool makes, and for racks
CuttingTool cutting_tool(const gear::Teeth& teeth);

/// The tool's outline in the frame of the gear when the gear has turned by `turn` [rad] past the middle.
std::vector<Vec2> tool_at(const CuttingTool& tool, double turn);

}  // namespace palio::view
