// Rolling the files that were written.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "common.hpp"
#include "palio/roll/polygon.hpp"

namespace palio::cli {

struct WrittenRoll {
  std::string format;
  roll::CutResult result;
  double working_radius;  ///< of the driven [mm]
  double exact_backlash;  ///< circumferential, of the exact curves that were drawn [mm]
};

/// Before anything is rolled: the folder is there, and what was chosen can be rolled out of files. \throws Misuse
void check_written(const job::Design& design, const std::string& name, const std::string& folder);

/// Rolls what the files of a pair in `folder` hold: STL, DXF, STEP, whichever there are.
/// \throws Misuse, FileError
std::vector<WrittenRoll> roll_written(const job::Design& design, const job::Pair& pair, const std::string& folder,
                                      int positions);
std::string written_text(const job::Design& design, const std::vector<WrittenRoll>& all);
nlohmann::ordered_json written_json(const job::Design& design, const std::vector<WrittenRoll>& all);

}  // namespace palio::cli
