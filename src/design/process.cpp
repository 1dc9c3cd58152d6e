#include "palio/design/process.hpp"

#include <algorithm>

#include "palio/angle.hpp"

namespace palio::job {

std::string_view name(As as) noexcept { return as == As::nominal ? "nominal" : as == As::drawn ? "drawn" : "made"; }

bool Process::corrects(std::string_view effect) const {
  return std::find(corrected.begin(), corrected.end(), effect) != corrected.end();
}

double Process::hole_smaller_by(double diameter) const {
  if (hole_allowance.empty()) return 0;
  const auto above = std::find_if(hole_allowance.begin(), hole_allowance.end(),
                                  [&](const auto& row) { return row.first >= diameter; });
  if (above == hole_allowance.begin()) return above->second;
  if (above == hole_allowance.end()) return hole_allowance.back().second;
  const auto below = above - 1;
  return below->second + (above->second - below->second) * (diameter - below->first) / (above->first - below->first);
}

Process::Change Process::change(As as) const {
  Change c;
  if (as == As::nominal) return c;
  // Drawn: the corrected effects the other way round. Made: what is left of the others.
  const double sign = as == As::drawn ? -1 : 1;
  const auto acts = [&](std::string_view effect) { return corrects(effect) == (as == As::drawn); };
  if (acts("surface")) c.teeth += sign * surface_offset;
  if (acts("kerf")) c.teeth -= sign * kerf / 2, c.walls -= sign * kerf / 2;
  if (acts("holes")) c.holes = -sign;
  if (as == As::drawn && corrects("first_layer")) c.inset = inset;
  if (acts("shrinkage")) {
    c.radial = as == As::drawn ? 1 / (1 - shrinkage_radial) : 1 - shrinkage_radial;
    c.axial = as == As::drawn ? 1 / (1 - shrinkage_axial) : 1 - shrinkage_axial;
  }
  return c;
}

const std::vector<Process>& presets() {
  static const std::vector<Process> all = [] {
    Process print, mill, wire, laser, mould;
    print.preset = "print", print.hole_allowance = {{3, 0.30}, {10, 0.20}, {30, 0.15}}, print.press = -0.05,
    print.slide = 0.10, print.free = 0.30;
    print.center_distance_tolerance = 0.10, mill.center_distance_tolerance = 0.02,
    wire.center_distance_tolerance = 0.01;
    laser.center_distance_tolerance = 0.05, mould.center_distance_tolerance = 0.05;
    print.inset = 0.15, print.inset_up_to = 0.3, print.smallest_radius = 0.2, print.least_wall = 0.8;
    mill.preset = "mill", mill.press = -0.02, mill.slide = 0.02, mill.free = 0.10, mill.smallest_radius = 0.5,
    mill.least_wall = 0.5;
    wire.preset = "wire", wire.press = -0.01, wire.slide = 0.01, wire.free = 0.05, wire.kerf = 0.30,
    wire.smallest_radius = 0.15, wire.least_wall = 0.3;
    laser.preset = "laser", laser.press = -0.05, laser.slide = 0.05, laser.free = 0.20, laser.kerf = 0.15,
    laser.smallest_radius = 0.08, laser.least_wall = 0.8;
    mould.preset = "mould", mould.press = -0.03, mould.slide = 0.05, mould.free = 0.15,
    mould.shrinkage_radial = mould.shrinkage_axial = 0.018;
    mould.draft = 0.5 * kPi / 180, mould.smallest_radius = 0.2, mould.least_wall = 0.8;
    return std::vector<Process>{print, mill, wire, laser, mould};
  }();
  return all;
}

}  // namespace palio::job
