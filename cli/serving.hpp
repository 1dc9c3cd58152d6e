// A page served to the person's own browser, for as long as the program runs. What desk and watch share.
#pragma once

#include <csignal>
#include <memory>
#include <optional>
#include <string>

#include "palio/serve/serve.hpp"

namespace palio::cli {

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
  bool come_within(int milliseconds);

 private:
  sigset_t ends_{}, before_{};
  bool came_ = false;
};

/// What is in a file; none where it is not there, or is being replaced just now.
std::optional<std::string> text_now(const std::string& path);

}  // namespace palio::cli
