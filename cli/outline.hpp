// Outlines of others on the command line.
#pragma once

#include <string>
#include <vector>

#include "common.hpp"
#include "palio/foreign/teeth.hpp"

namespace palio::cli {

/// Whether a path is taken as an outline (by its extension), not as a job.
bool is_outline(const std::string& path);

/// All that have teeth in the file, the largest first. \throws FileError naming the file, also where none has
std::vector<foreign::Toothed> load_outlines(const std::string& path);
/// The largest of them.
foreign::Toothed load_outline(const std::string& path);

}  // namespace palio::cli
