#include "work.hpp"

#include <chrono>

#include "common.hpp"
#include "palio/error.hpp"

namespace palio::cli {
namespace {

struct Stopped {};

}  // namespace

void Work::begin(Task task) {
  {
    const std::lock_guard<std::mutex> guard(lock_);
    if (state_ == "busy")
      throw InvalidParameter("make", "asked for", "something is being made already", "wait for it, or stop it");
    ++step_, state_ = "busy", words_ = "begun", made_ = nullptr;
  }
  if (thread_.joinable()) thread_.join();
  stopped_ = false;
  thread_ = std::thread([this, task = std::move(task)] { run(task); });
}

void Work::end() {
  stop();
  if (thread_.joinable()) thread_.join();
}

nlohmann::ordered_json Work::told() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return {{"step", step_}, {"state", state_}, {"words", words_}, {"made", made_}};
}

void Work::run(const Task& task) {
  using Clock = std::chrono::steady_clock;
  constexpr auto kSeldom = std::chrono::milliseconds(150);  // a page that is told more often only flickers
  Clock::time_point last = Clock::now() - kSeldom;
  const ProgressHeard heard([&](const std::string& text) {
    if (stopped_) throw Stopped();
    if (text.empty() || Clock::now() - last < kSeldom) return;
    last = Clock::now();
    say("busy", text, nullptr);
  });
  try {
    say("done", "", task());
  } catch (const Stopped&) {
    say("stopped", "", nullptr);
  } catch (const std::exception& e) {
    say("failed", e.what(), nullptr);
  }
}

void Work::say(const std::string& state, const std::string& words, nlohmann::ordered_json made) {
  {
    const std::lock_guard<std::mutex> guard(lock_);
    ++step_, state_ = state, words_ = words, made_ = std::move(made);
  }
  news_();
}

}  // namespace palio::cli
