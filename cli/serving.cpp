#include "serving.hpp"

#include <fcntl.h>
#include <spawn.h>
#include <unistd.h>

#include <filesystem>

#include "common.hpp"
#include "palio/error.hpp"

namespace palio::cli {

void open_browser(const std::string& address) {
  sigset_t none;
  sigemptyset(&none);
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
  posix_spawn_file_actions_t quiet;
  posix_spawn_file_actions_init(&quiet);
  for (const int out : {1, 2})
    posix_spawn_file_actions_addopen(&quiet, out, "/dev/null", O_WRONLY, 0);
  std::string program = "xdg-open", argument = address;
  char* const arguments[] = {program.data(), argument.data(), nullptr};
  pid_t child = 0;
  posix_spawnp(&child, program.c_str(), &quiet, &attributes, arguments, environ);
  posix_spawn_file_actions_destroy(&quiet);
  posix_spawnattr_destroy(&attributes);
}

std::unique_ptr<serve::Server> serve_at(int port, const serve::Answering& answer, const serve::News& news) {
  using Serve = serve::Server* (*)(int, const serve::Answering*, const serve::News*, std::string*);
  const auto serve = reinterpret_cast<Serve>(
      module_entry("palio_serve", "palio_serve", "PALIO_DESK", "report, draw and vary the job instead"));
  std::string error;
  std::unique_ptr<serve::Server> server(serve(port, &answer, &news, &error));
  if (!server) throw Misuse("--port: " + error);
  return server;
}

Ends::Ends() {
  sigemptyset(&ends_);
  for (const int signal : {SIGINT, SIGTERM, SIGHUP})
    sigaddset(&ends_, signal);
  pthread_sigmask(SIG_BLOCK, &ends_, &before_);
}

Ends::~Ends() {
  // One that comes twice (timeout and Ctrl-C send it to the process and to its group) is answered once: the tool is on
  // its way out, and whenever the second one comes, it must not cut that short.
  if (!came_) pthread_sigmask(SIG_SETMASK, &before_, nullptr);
}

bool Ends::come_within(int milliseconds) {
  constexpr int kThousand = 1000;
  constexpr long kNanos = 1000000;
  const timespec time{milliseconds / kThousand, (milliseconds % kThousand) * kNanos};
  came_ = came_ || sigtimedwait(&ends_, nullptr, &time) >= 0;
  return came_;
}

std::optional<std::string> text_now(const std::string& path) {
  std::error_code gone;
  if (!std::filesystem::is_regular_file(path, gone)) return std::nullopt;
  try {
    return write::read_file(path);
  } catch (const FileError&) {
    return std::nullopt;
  }
}

}  // namespace palio::cli
