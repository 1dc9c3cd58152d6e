// The animation page: one self-contained HTML file that turns a rolled pair. No network, no library.
#pragma once

#include <string>

#include "palio/readings/report.hpp"

namespace palio::view {

/// The page of one pair. Outlines come from the exact curves (chords within 1e-4 modules), everything that moves or
/// is shown as a number from the roll's own positions.
std::string roll_page(const job::Design& design, const job::RolledPair& rolled);

/// The page of a reducer: turning, with a marked roller and a marked pin, contact normals, gaps of all rollers and the
/// play over a turn of the input.
std::string reducer_page(const job::Design& design, const job::RolledReducer& rolled);

}  // namespace palio::view
