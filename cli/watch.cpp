#include "watch.hpp"

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <ctime>
#include <filesystem>
#include <iostream>
#include <mutex>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/error.hpp"
#include "palio/view/page.hpp"
#include "palio/write/embed.hpp"
#include "serving.hpp"

namespace palio::cli {

namespace {

constexpr int kLookEvery = 250;  // [ms]
constexpr const char* kHtml = "text/html; charset=utf-8";

/// The pages and pictures of the last time that the work went well, and what went wrong since.
class Shown {
 public:
  explicit Shown(std::string heading) : heading_(std::move(heading)) {}

  void now(const std::vector<std::string>& paths, const std::string& error) {
    const std::lock_guard<std::mutex> guard(lock_);
    if (error.empty()) {
      views_.clear();
      for (const std::string& path : paths) {
        const std::string ending = format_of(path);
        if (ending == "html" || ending == "png" || ending == "svg") views_.push_back(path);
      }
      const std::time_t time = std::time(nullptr);
      char clock[16] = {};
      std::strftime(clock, sizeof clock, "%H:%M:%S", std::localtime(&time));
      at_ = clock;
    }
    error_ = error, ++count_;
    changed_.notify_all();
  }
  bool any() {
    const std::lock_guard<std::mutex> guard(lock_);
    return !views_.empty();
  }

  serve::Answer answer(const serve::Request& request) {
    if (request.path == "/") return {200, kHtml, view::watch_page(heading_)};
    const auto of = request.query.find("of");
    if (request.path != "/view" || of == request.query.end()) return {404, "text/plain", "nothing is here\n"};
    try {
      return view_of(of->second);
    } catch (const std::exception& e) {
      return {500, "text/plain; charset=utf-8", std::string(e.what()) + "\n"};
    }
  }

  std::string news(long& seen) {
    std::unique_lock<std::mutex> guard(lock_);
    changed_.wait_for(guard, std::chrono::seconds(1), [&] { return count_ > seen; });
    if (count_ <= seen) return "";
    seen = count_;
    nlohmann::ordered_json told{{"at", at_}, {"error", error_}, {"views", nlohmann::ordered_json::array()}};
    for (const std::string& path : views_)
      told["views"].push_back(std::filesystem::path(path).filename().string());
    return told.dump();
  }

 private:
  serve::Answer view_of(const std::string& name) {
    std::string path;
    {
      const std::lock_guard<std::mutex> guard(lock_);
      const auto it = std::find_if(views_.begin(), views_.end(), [&](const std::string& p) {
        return std::filesystem::path(p).filename().string() == name;
      });
      if (it == views_.end()) return {404, "text/plain", "nothing is here\n"};
      path = *it;
    }
    const std::string bytes = write::read_file(path), ending = format_of(path);
    if (ending == "html") return {200, kHtml, bytes};
    return {
        200, kHtml,
        fmt::format("<!doctype html><meta charset=\"utf-8\"><title>{0}</title><style>body{{margin:0;height:100vh;"
                    "display:flex;align-items:center;justify-content:center;background:#fbfaf6}}"
                    "img{{max-width:100%;max-height:100%}}</style><img alt=\"{0}\" src=\"data:image/{1};base64,{2}\">",
                    write::xml_escaped(name), ending == "svg" ? "svg+xml" : "png", write::base64(bytes))};
  }

  std::mutex lock_;
  std::condition_variable changed_;
  std::string heading_, at_, error_;
  std::vector<std::string> views_;
  long count_ = 0;
};

/// Once. What went wrong, for people; empty where nothing did.
std::string done(const std::function<void()>& work) {
  try {
    work();
    return "";
  } catch (const std::exception& e) {
    progress("");
    return e.what();
  }
}

}  // namespace

void add_watch(CLI::App& verb, WatchOptions& options) {
  verb.add_flag(
      "--watch", options.wanted,
      "Do it again whenever the job's file changes, until Ctrl-C; pages and pictures are shown in your browser "
      "too, where they load themselves anew");
  verb.add_flag("--no-browser", options.no_browser, "Of --watch: only print the address");
}

void watched(const std::string& job, const WatchOptions& options, const std::function<void()>& work) {
  if (!options.wanted) return work();
  if (job == "-") throw Misuse("--watch looks at a file: give the job's name instead of -");
  write::read_file(job);  // what cannot be read now is no file to wait for
  Ends ends;
  Shown shown(std::filesystem::path(job).filename().string());
  const serve::Answering answer = [&](const serve::Request& request) { return shown.answer(request); };
  const serve::News news = [&](long& seen) { return shown.news(seen); };
  std::unique_ptr<serve::Server> server;
  std::optional<std::string> last;
  do {
    const std::optional<std::string> text = text_now(job);
    if (!text || text->empty() || text == last) continue;
    if (last) print(fmt::format("\n── {} has changed\n", job));
    last = text;
    written_paths().clear();
    const std::string wrong = done(work);
    if (!wrong.empty()) std::cerr << plain(wrong) << "\n" << std::flush;
    shown.now(written_paths(), wrong);
    if (server || !shown.any()) continue;
    server = serve_at(0, answer, news);
    print(fmt::format("What it makes is shown at {}\nIt can be reached from this machine alone. Ctrl-C ends it.\n",
                      server->address()));
    if (!options.no_browser) open_browser(server->address());
  } while (!ends.come_within(kLookEvery));
  if (server) server->stop();
}

}  // namespace palio::cli
