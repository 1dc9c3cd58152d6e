// What to change so that a finding goes: a number found by trying it on the job itself.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/readings/findings.hpp"

namespace palio::job {

/// The nearest value of the key most to the point that makes a finding go and brings no new error: searched outwards
/// from what the job has, then halved between the last that failed and the first that did, rounded, and tried once more
/// as it is told. A search costs some twenty designs.
struct Remedy {
  std::string path;  ///< "gear.drum_wheel.addendum"
  double value;      ///< in the units of the key: of the job, modules, degrees
  bool clean;        ///< brings no new warning either
};

/// What a report begins with.
struct Verdict {
  std::size_t errors = 0, warnings = 0, notes = 0;
  struct Doubt {
    Finding finding;
    std::optional<Remedy> remedy;  ///< none where no single number helps
  };
  std::vector<Doubt> doubts;  ///< errors first, then warnings; the first few
};

/// \param found  the design's findings
/// \param most     how many doubts are looked into
/// \param between  called before each design that is tried
Verdict verdict(const Design& design, std::vector<Finding> found, std::size_t most = 3, const Between& between = {});

}  // namespace palio::job
