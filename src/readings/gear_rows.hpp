// What the tables of gear readings share. Private to the readings.
#pragma once

#include <cmath>

#include "palio/overloaded.hpp"
#include "readings.hpp"

namespace palio::job::gear_rows {

using gear::BevelGear;
using gear::CycloidalTeeth;
using gear::CylindricalGear;
using gear::Rack;
using At = GearAt;
using Row = ReadingRow<At>;
using Q = Quantity;

inline constexpr std::string_view kTeeth = "teeth", kCircles = "circles", kThickness = "thickness and gauging";

/// Coefficients are told in the modules they were given in.
inline double in_given_modules(const At& a, double coefficient) {
  return a.gear.transverse_system ? coefficient * std::cos(a.teeth().helix_angle().radians()) : coefficient;
}

/// +1; of a ring, whose teeth point inwards, −1.
inline double outward(const At& a) { return a.teeth().internal() ? -1 : 1; }

inline double module_in_plane(const At& a) {
  return a.sort & kInvolute ? a.teeth().transverse_module() : a.teeth().module();
}

inline bool straight(const At& a) { return a.teeth().is_bevel() || a.teeth().helix_angle().radians() == 0; }

inline const gear::ClockGear& clock(const At& a) { return a.teeth().cycloidal().clock(); }

inline const gear::CycloidalSpec& cycloid(const At& a) { return a.teeth().cycloidal().true_form().spec(); }

/// The tables, in the order of the report.
std::vector<Row> teeth_rows();
std::vector<Row> circle_rows();
std::vector<Row> thickness_rows();

}  // namespace palio::job::gear_rows
