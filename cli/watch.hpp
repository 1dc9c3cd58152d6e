// Work that is done again whenever the job's file changes.
#pragma once

#include <functional>
#include <string>

#include "common.hpp"

namespace palio::cli {

struct WatchOptions {
  bool wanted = false, no_browser = false;
};

/// Declares --watch and --no-browser.
void add_watch(CLI::App& verb, WatchOptions& options);

/// Does the work; with --watch again at every change of the file, until Ctrl-C: mistakes are told, and waited for to be
/// mended. Pages and pictures that it writes are also shown at an address of this machine, where they load themselves
/// anew. \param job  path of the job file; \throws Misuse where that cannot be watched
void watched(const std::string& job, const WatchOptions& options, const std::function<void()>& work);

}  // namespace palio::cli
