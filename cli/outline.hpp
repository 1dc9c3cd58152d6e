// Outlines of others on the command line.
#pragma once

#include <string>

#include "common.hpp"
#include "palio/foreign/teeth.hpp"

namespace palio::cli {

/// Whether a path is taken as an outline (by its extension), not as a job.
bool is_outline(const std::string& path);

/// The teeth in the file. \throws FileError naming the file, also where it has no teeth
foreign::Toothed load_outline(const std::string& path);

}  // namespace palio::cli
