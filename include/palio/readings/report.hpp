// The report of a design, and of a roll: every value declared once (key, label, symbol, unit), shown as a table for
// people or as JSON for scripts.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "palio/readings/findings.hpp"
#include "palio/roll/roll.hpp"

namespace palio::job {

/// All dependent dimensions and findings as JSON: lengths in the job's units, angles in degrees, full precision.
/// \param rolled  false: without what has to be found by rolling (the axial shifts of bevel pairs), which takes its
/// time
std::string report_json(const Design& design, bool rolled = true);

/// The same for people: circles as diameter and radius, a unit beside every number.
/// \param colour  whether to mark severities for a terminal
std::string report_text(const Design& design, bool colour);

/// What stands at the head of it, at most ten lines: what is wrong with the number to change to, then ratio, play and
/// speeds of each pair.
std::string verdict_text(const Design& design, bool colour);
/// \param between  called before each piece of what this takes
std::string verdict_json(const Design& design, const Between& between = {});

/// The value of one report key of a gear or pair as text with its unit, for drawings; empty when it has none.
std::string report_value(const Design& design, const std::string& subject, const std::string& key);

/// What the report says in one line: a reading's key, label and symbol, its heading, its value with its unit.
struct ReportRow {
  std::string label, value, key{}, symbol{}, group{};
};
/// Of one gear, under the headings of the report in their order.
std::vector<ReportRow> report_rows(const Design& design, const Gear& gear);
/// Of one thing.
struct ReportTable {
  std::string path;  ///< "gear.motor_pinion"; a row's reading is this path and its key
  std::vector<ReportRow> rows;
};
/// Of all things of a job, in the order of the report.
/// \param rolled  as of `report_json`
std::vector<ReportTable> report_tables(const Design& design, bool rolled = true);

struct RolledPair {
  const Pair* pair;
  roll::Result result;
};

struct RolledReducer {
  const Reducer* reducer;
  reducer::Rolled result;
};

/// The gap of every roller at every position of the roll, for each disc as it rests at either end of its room: a table
/// with the header input_deg,disc,at,turn_deg,output_deg,gap_0,…
std::string gaps_csv(const Design& design, const RolledReducer& rolled);

std::string roll_json(const Design& design, const std::vector<RolledPair>& rolled,
                      const std::vector<RolledReducer>& reducers = {});
std::string roll_text(const Design& design, const std::vector<RolledPair>& rolled, bool colour,
                      const std::vector<RolledReducer>& reducers = {});

/// A finding in words: cause and remedy with its numbers in the units of the design.
std::string message(const Finding& finding, Units units);

}  // namespace palio::job
