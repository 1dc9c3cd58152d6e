// Work that is done again whenever the job's file changes.
#pragma once

#include <csignal>
#include <functional>
#include <memory>
#include <string>

#include "common.hpp"
#include "palio/serve/serve.hpp"

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

/// Shows an address in the person's browser, where the desktop has one to show it.
void open_browser(const std::string& address);

/// Of a page that is served at a secret address of this machine. \throws Misuse "--port" where it is taken
std::unique_ptr<serve::Server> serve_at(int port, const serve::Answering& answer, const serve::News& news);

/// Ctrl-C and its like, waited for in this thread rather than in one that answers.
class Ends {
 public:
  Ends();
  ~Ends();
  Ends(const Ends&) = delete;
  Ends& operator=(const Ends&) = delete;
  /// Whether one comes within so many milliseconds.
  bool come_within(int milliseconds) const;

 private:
  sigset_t ends_{}, before_{};
};

}  // namespace palio::cli
