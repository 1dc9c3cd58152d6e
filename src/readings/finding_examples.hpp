// A job for every finding that has it. Private to the readings.
#pragma once

#include <string>
#include <vector>

#include "palio/gear/finding.hpp"

namespace palio::job {

/// What makes a finding: a starter with values changed, or a job of its own.
struct FindingExample {
  FindingId id;
  std::string_view starter;  ///< empty: `text` is the whole job
  std::string_view text;     ///< changes as --set takes them, separated by blanks

  std::vector<std::string> changes() const;
};

/// Null for what no job has, as the job itself is refused.
const FindingExample* example_of(FindingId id);

/// How it is seen: commands for a shell, or the job.
std::string shown(const FindingExample& example);

}  // namespace palio::job
