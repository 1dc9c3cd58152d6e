// The animation page: one self-contained HTML file that turns a rolled pair. No network, no library.
#pragma once

#include <string>
#include <vector>

#include "palio/readings/report.hpp"

namespace palio::view {

/// How finely solids are drawn: the greatest chord error as a share of the module. What is kept finely, what follows a
/// change at once quickly.
constexpr double kFineSolids = 0.004, kQuickSolids = 0.015;

/// The page of one pair. Outlines come from the exact curves (chords within 1e-4 modules), everything that moves or
/// is shown as a number from the roll's own positions. \param fineness  of a pair in space
std::string roll_page(const job::Design& design, const job::RolledPair& rolled, double fineness = kFineSolids);

/// What that page is given to draw and turn, as JSON.
std::string roll_data(const job::Design& design, const job::RolledPair& rolled, double fineness = kFineSolids);
/// Of a pair in space that is not rolled yet: as `roll_data`, without positions, the teeth where the even ratio puts
/// them.
std::string unrolled_data(const job::Design& design, const job::Pair& pair, double fineness);
/// What the page of a reducer is given, as JSON.
std::string reducer_data(const job::Design& design, const job::RolledReducer& rolled);

/// The page of `palio desk`: values, teeth and readings of a job that is served at the same address; asks for all it
/// shows.
std::string desk_page();

/// The page of `--watch`: what a job makes, served at the same address, loaded anew when it is made anew.
std::string watch_page(const std::string& heading);

/// The page of a reducer: turning, with a marked roller and a marked pin, contact normals, gaps of all rollers and the
/// play over a turn of the input.
std::string reducer_page(const job::Design& design, const job::RolledReducer& rolled);

/// The page of a whole machine: every part in its place in space, moved by what the rolls found, play and all; any
/// part is dragged by hand, and the others follow when their plays are taken up.
/// \param pairs, reducers  all that mesh, rolled
/// \param fineness  solids are drawn as finely where a few megabytes hold them
/// \throws InvalidParameter "of" where nothing meshes
std::string machine_page(const job::Design& design, const std::vector<job::RolledPair>& pairs,
                         const std::vector<job::RolledReducer>& reducers, double fineness = kFineSolids);
/// What that page is given, as JSON.
std::string machine_data(const job::Design& design, const std::vector<job::RolledPair>& pairs,
                         const std::vector<job::RolledReducer>& reducers, double fineness);

}  // namespace palio::view
