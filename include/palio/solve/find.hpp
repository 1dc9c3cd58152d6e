// A job turned round: values written "find" are found so that what [want] says of its readings holds.
#pragma once

#include <cstddef>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "palio/values/values.hpp"

namespace palio::solve {

struct FindRequest {
  std::size_t most = 10;                                   ///< solutions told, the best of all that were found
  std::function<void(std::size_t, std::size_t)> progress;  ///< how many whole-number choices are done, of how many;
                                                           ///< from several threads, one at a time
  std::function<void()> between;  ///< called before each design, from several threads; what it throws ends the search
};

/// One choice of values.
struct Solution {
  struct Want {
    std::string path;
    double is;  ///< in the units of the job
    bool holds;
  };
  std::vector<std::pair<std::string, double>> values;  ///< by path, in the units of the file
  std::vector<Want> wants;                             ///< each path once, in the order of the file
  std::size_t decimals = 0;              ///< that its numbers need, 0 for standard sizes; a hint of how round they are
  double size = 0;                       ///< reference circles and roller circles, added up [unit of the file]
  std::size_t errors = 0, warnings = 0;  ///< findings of the job it makes
};

struct Found {
  std::vector<Solution> solutions;         ///< best first: without errors, then by the aim, roundness, size
  std::size_t count = 0;                   ///< of all solutions that were found
  std::size_t choices = 0;                 ///< of whole numbers and lists that were looked into
  bool more_open = false;                  ///< more continuous values than wants: a round choice of many
  std::vector<std::string> idle;           ///< values left open that change nothing of what is wanted
  std::vector<std::string> contradiction;  ///< wants that cannot hold together, where there is no solution
  std::optional<Solution> nearest;         ///< what comes nearest to all wants then
  std::string refused;                     ///< why most of the values that were tried make no job then; else empty
  job::Units units = job::Units::mm;
};

/// Finds them. Whole numbers and lists are gone through completely, with bounds that prune; continuous values are
/// solved for inside, to 1e-12 of each want. A value that is given is never changed.
/// \throws JobError where the job has other mistakes, nothing to find or no wants, or no job can be made at all
/// \throws InvalidParameter "find"  where there are too many choices; says how many and what would narrow them
Found find(const job::Values& values, const FindRequest& request = {});

/// For people: a table, best first.
std::string find_text(const Found& found);
/// For scripts: `solutions`, `contradiction`, `nearest`.
std::string find_json(const Found& found);

}  // namespace palio::solve
