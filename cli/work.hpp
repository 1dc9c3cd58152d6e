// Long work beside what a page asks for: it says how far it is, and can be stopped.
#pragma once

#include <atomic>
#include <functional>
#include <mutex>
#include <string>
#include <thread>

#include <nlohmann/json.hpp>

namespace palio::cli {

/// One piece of work at a time, on a thread of its own; what `progress` says there is kept.
class Work {
 public:
  using Task = std::function<nlohmann::ordered_json()>;

  /// \param news  told, from any thread, that something is new
  explicit Work(std::function<void()> news) : news_(std::move(news)) {}
  Work(const Work&) = delete;
  Work& operator=(const Work&) = delete;
  ~Work() { end(); }

  /// \throws InvalidParameter where one is under way
  void begin(Task task);
  /// It ends where it next says how far it is; what was begun of a file goes.
  void stop() { stopped_ = true; }
  /// Stops it and waits for that.
  void end();

  /// `step`, greater with every change; `state` "none", "busy", "done", "stopped" or "failed", `words`: how far it is,
  /// or why it failed; `made` as the task told it.
  nlohmann::ordered_json told() const;

 private:
  void run(const Task& task);
  void say(const std::string& state, const std::string& words, nlohmann::ordered_json made);

  std::function<void()> news_;
  mutable std::mutex lock_;
  long step_ = 0;  // one more with every change
  std::string state_ = "none", words_;
  nlohmann::ordered_json made_;
  std::atomic<bool> stopped_ = false;
  std::thread thread_;
};

}  // namespace palio::cli
