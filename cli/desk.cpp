// palio desk: a job alive in the person's own browser. The page asks, this answers from a session; the job file stays
// the one truth: written when asked to, followed when an editor writes it.
#include "palio/desk/session.hpp"

#include <algorithm>
#include <condition_variable>
#include <filesystem>
#include <memory>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "common.hpp"
#include "film.hpp"
#include "palio/error.hpp"
#include "palio/serve/serve.hpp"
#include "palio/view/page.hpp"
#include "serving.hpp"
#include "work.hpp"

namespace palio::cli {
namespace {

using Json = nlohmann::ordered_json;
using serve::Answer;
using serve::Request;

constexpr int kPositions = 90;    // of a picture, over one tooth pitch
constexpr int kLookAtFile = 300;  // [ms]

/// What another program wrote meanwhile, or there is no file yet: nothing is written until the person says so.
struct Conflict {
  std::string why;
};

/// What files can be made of: formats, and what the verbs draw and sheet, and roll make.
std::vector<std::string> kinds_of_file() {
  std::vector<std::string> kinds = format_names();
  kinds.insert(kinds.end(), {"pictures", "sheets"});
  kinds.insert(kinds.end(), std::begin(kFilms), std::end(kFilms));
  return kinds;
}

/// A film of "pair.NAME" or "reducer.NAME". \return its path
std::string film_of(const job::Design& design, const std::string& turning, const std::string& format,
                    const std::string& folder) {
  FilmOptions film;
  film.quality = "quick";
  for (const job::Pair& p : design.pairs) {
    if ("pair." + p.name != turning) continue;
    std::string path = within(folder, p.name + "." + format);
    film_of_pair(design, p, film, path);
    return path;
  }
  for (const job::Reducer& r : design.reducers) {
    if ("reducer." + r.name != turning) continue;
    std::string path = within(folder, r.name + "." + format);
    film_of_reducer(design, r, film, path);
    return path;
  }
  throw InvalidParameter("film", turning, "a film shows one pair or reducer", "choose one below the picture");
}

/// All that was wanted, made into a folder; what was made, and where.
Json made(const job::Design& design, const std::vector<std::string>& wanted, const std::string& turning,
          const std::string& folder) {
  const Target place = target(folder, {});
  make::Request request;
  std::vector<make::File> files;
  const auto add = [&](std::vector<make::File> more) { files.insert(files.end(), more.begin(), more.end()); };
  for (const std::string& kind : wanted) {
    if (kind == "pictures")
      add(draw_files(design, place, "png", {}));
    else if (kind == "sheets")
      add(sheet_files(design, "", {}, place));
    else if (is_film(kind))
      add({{film_of(design, turning, kind, place.folder), kind, ""}});
    else
      request.formats.push_back(kind);
  }
  if (!request.formats.empty()) add(make_files(design, request, place));
  Json told{{"folder", place.folder}, {"files", Json::array()}};
  for (const make::File& f : files)
    told["files"].push_back(std::filesystem::path(f.path).filename().string());
  return told;
}

class Desk {
 public:
  /// \param path  of the job file; empty: none yet
  Desk(const std::string& text, std::string path)
      : session_(text, path.empty() ? "a new job" : path),
        path_(std::move(path)),
        in_file_(path_.empty() ? "" : text) {}

  /// Never throws: what is asked wrongly is answered.
  Answer answer(const Request& request) {
    try {
      return request.method == "GET" ? shown(request) : changed(request);
    } catch (const job::JobError& e) {
      return refused(422, e.mistakes().empty() ? e.what() : e.mistakes().front().message,
                     e.mistakes().empty() ? "" : e.mistakes().front().key);
    } catch (const InvalidParameter& e) {
      return refused(422, e.what(), e.name());
    } catch (const Misuse& e) {
      return refused(422, e.what(), "");
    } catch (const Conflict& e) {
      return refused(409, e.why, "");
    } catch (const nlohmann::json::exception&) {
      return refused(400, "this is no question that the desk understands", "");
    } catch (const std::exception& e) {
      return refused(500, e.what(), "");
    }
  }

  std::string news(long& seen) {
    std::unique_lock<std::mutex> guard(lock_);
    changed_.wait_for(guard, std::chrono::seconds(1), [&] { return count_ > seen || over_; });
    if (count_ <= seen) return "";
    seen = count_;
    return Json{{"revision", session_.revision()}, {"other", other_.has_value()}, {"work", work_.told()}}.dump();
  }

  /// Takes over what an editor wrote; beside changes of our own it is only told.
  void follow_file() {
    const std::string path = this->path();
    std::optional<std::string> now = path.empty() ? std::nullopt : text_now(path);
    if (!now) return;
    std::string& text = *now;
    {
      const std::lock_guard<std::mutex> guard(lock_);
      if (text == in_file_ || (other_ && *other_ == text)) return;
      if (!session_.kept()) {
        other_ = text, ++count_;
        changed_.notify_all();
        return;
      }
      in_file_ = text, other_.reset();
    }
    session_.take(std::move(text), true);
    tell();
  }

  void end() {
    work_.end();
    const std::lock_guard<std::mutex> guard(lock_);
    over_ = true;
    changed_.notify_all();
  }

  std::string path() {
    const std::lock_guard<std::mutex> guard(lock_);
    return path_;
  }
  const desk::Session& session() const { return session_; }

 private:
  static Answer refused(int status, const std::string& why, const std::string& path) {
    return {status, "application/json", Json{{"error", why}, {"path", path}}.dump()};
  }
  static std::string given(const Request& request, const std::string& name) {
    const auto it = request.query.find(name);
    return it == request.query.end() ? "" : it->second;
  }

  Answer shown(const Request& request) {
    if (request.path == "/") return {200, "text/html; charset=utf-8", view::desk_page()};
    if (request.path == "/page")
      return {200, "text/html; charset=utf-8", session_.page(given(request, "of"), given(request, "drawn") == "quick")};
    if (request.path == "/picture") return {200, "application/json", session_.space_picture(given(request, "of"))};
    if (request.path == "/now") return now(given(request, "of"));
    if (request.path == "/keys") return {200, "application/json", session_.keys()};
    if (request.path == "/work") return {200, "application/json", work_.told().dump()};
    if (request.path == "/verdict") return {200, "application/json", session_.verdict()};
    if (request.path == "/curve")
      return {200, "application/json", session_.curve(given(request, "value"), given(request, "reading"))};
    if (request.path == "/find")
      return {200, "application/json",
              session_.find(given(request, "value"), given(request, "reading"), given(request, "wanted"))};
    if (request.path == "/kept")
      return {200, "application/json", session_.kept_state(given(request, "of"), kPositions)};
    if (request.path == "/job") return {200, "text/plain; charset=utf-8", session_.text()};
    return refused(404, "the desk has nothing there", "");
  }

  Answer changed(const Request& request) {
    const Json said = Json::parse(request.body);
    if (request.path == "/set") {
      const Json& value = said.at("said");
      session_.set(said.at("path").get<std::string>(),
                   value.is_null() ? std::nullopt : std::optional(value.get<std::string>()),
                   said.value("again", false));
    } else if (request.path == "/undo") {
      session_.undo();
    } else if (request.path == "/redo") {
      session_.redo();
    } else if (request.path == "/copy") {
      session_.copy(said.at("thing").get<std::string>(), said.at("name").get<std::string>());
    } else if (request.path == "/add") {
      session_.add(said.at("sort").get<std::string>(), said.value("name", ""));
    } else if (request.path == "/remove") {
      session_.remove(said.at("thing").get<std::string>());
    } else if (request.path == "/make") {
      make(said.at("formats").get<std::vector<std::string>>(), said.value("of", ""));
      return {200, "application/json", work_.told().dump()};
    } else if (request.path == "/stop") {
      work_.stop();
      return {200, "application/json", work_.told().dump()};
    } else if (request.path == "/start") {
      session_.take(job::starter(said.at("kind").get<std::string>(), job::Units::mm), false);
    } else if (request.path == "/save") {
      save(said.value("name", ""), said.value("over", false));
    } else if (request.path == "/take") {
      take_other();
    } else {
      return refused(404, "the desk has nothing there", "");
    }
    tell();
    return now(said.value("of", ""));
  }

  /// All the page needs after a change. What is long already is put together as text.
  Answer now(std::string of) {
    // The first that turns, where the page asks for none or for one that is gone.
    const std::vector<desk::Turning> turning = session_.turning();
    if (std::none_of(turning.begin(), turning.end(), [&](const desk::Turning& t) { return t.path == of; }))
      of = turning.empty() ? "" : turning.front().path;
    Json told{{"of", of}};
    {
      const std::lock_guard<std::mutex> guard(lock_);
      told["file"] = path_.empty() ? Json(nullptr) : Json(path_);
      told["other"] = other_.has_value();
      if (path_.empty()) told["starters"] = job::starter_names();
    }
    const std::string head = told.dump();
    return {200, "application/json",
            fmt::format("{},\"state\":{},\"picture\":{}}}", head.substr(0, head.size() - 1), session_.state(),
                        session_.picture(of, kPositions))};
  }

  /// Begins to make files of the design as it stands, in a folder beside the job, named after it.
  /// \param wanted  formats, "pictures", "sheets", and kinds of film of what turns
  void make(const std::vector<std::string>& wanted, const std::string& turning) {
    const auto design = session_.design();
    if (!session_.sound() || !design)
      throw InvalidParameter("make", "a job with a mistake", "files are made of a job that can be read",
                             "mend or undo it first");
    const std::vector<std::string> known = kinds_of_file();
    for (const std::string& kind : wanted) {
      if (std::find(known.begin(), known.end(), kind) == known.end())
        throw InvalidParameter("formats", kind, fmt::format("{} are allowed", fmt::join(known, ", ")),
                               "choose among them");
    }
    for (const job::Pair& p : design->pairs)
      running_pairs(*design, p.name);
    const std::string path = this->path();
    const std::string folder =
        (std::filesystem::path(path).parent_path() / folder_of(path.empty() ? "-" : path, *design)).string();
    work_.begin([design, wanted, turning, folder] { return made(*design, wanted, turning, folder); });
  }

  void save(const std::string& name, bool over) {
    if (!session_.sound())
      throw InvalidParameter("save", "a job with a mistake", "a job is kept when it can be read",
                             "mend or undo it first");
    namespace fs = std::filesystem;
    std::string path = this->path();
    if (!name.empty()) {
      const fs::path asked(name);
      const std::string ending = fs::path(path).extension() == ".json" ? ".json" : ".toml";
      if (asked.filename() != asked || asked.extension() != ending || name.front() == '.')
        throw InvalidParameter("name", name,
                               fmt::format("the name of a file beside the job's is allowed, ending in {}", ending),
                               "write it so");
      path = (fs::path(path).parent_path() / asked).string();
      if (fs::exists(path) && !over) throw Conflict{fmt::format("{} is there already", name)};
    }
    if (path.empty()) throw InvalidParameter("name", "empty", "a new job wants a name", "give one, as vent.toml");
    const std::string text = session_.text();
    {
      const std::lock_guard<std::mutex> guard(lock_);
      if (name.empty() && !over && fs::exists(path) && write::read_file(path) != in_file_)
        throw Conflict{"another program has written the file meanwhile"};
      write::write_file(path, text);
      path_ = path, in_file_ = text, other_.reset();
    }
    session_.keep(path);
  }

  void take_other() {
    std::string text;
    {
      const std::lock_guard<std::mutex> guard(lock_);
      if (!other_) return;
      text = in_file_ = *other_;
      other_.reset();
    }
    session_.take(std::move(text), true);
  }

  void tell() {
    const std::lock_guard<std::mutex> guard(lock_);
    ++count_;
    changed_.notify_all();
  }

  desk::Session session_;
  std::mutex lock_;
  std::condition_variable changed_;
  std::string path_, in_file_;        // the job file, and what it last held as far as we know
  std::optional<std::string> other_;  // what another program wrote beside unsaved changes
  long count_ = 1;                    // of news
  bool over_ = false;
  Work work_{[this] { tell(); }};  // the last: it ends before what it tells goes
};

/// What was not saved is kept beside the job. None where nothing was left.
std::optional<std::string> keep_unsaved(Desk& desk) {
  if (desk.session().kept()) return std::nullopt;
  std::filesystem::path path(desk.path().empty() ? "desk.toml" : desk.path());
  path.replace_extension();
  path += ".unsaved.toml";
  write::write_file(path.string(), desk.session().text());
  return path.string();
}

void run_desk(const std::string& job, int port, bool browser) {
  if (job == "-") throw Misuse("a desk writes its job: give the file's name, or none to begin a new one");
  Ends ends;  // from here on Ctrl-C ends it in peace, however early it comes
  const auto [text, source] =
      job.empty() ? std::pair(job::starter("spur", job::Units::mm), std::string()) : job_text({job, {}, "nominal"});
  Desk desk(text, source);
  const serve::Answering answer = [&](const Request& request) { return desk.answer(request); };
  const serve::News news = [&](long& seen) { return desk.news(seen); };
  const std::unique_ptr<serve::Server> server = serve_at(port, answer, news);
  print(fmt::format("The desk is at {}\nIt can be reached from this machine alone. Ctrl-C ends it.\n",
                    server->address()));
  if (browser) open_browser(server->address());
  while (!ends.come_within(kLookAtFile))
    desk.follow_file();
  desk.end();
  server->stop();
  const auto kept = keep_unsaved(desk);
  print(kept ? fmt::format("\nThe desk has ended. What was not saved is in {}\n", *kept)
             : std::string("\nThe desk has ended.\n"));
}

}  // namespace

void add_desk(CLI::App& root, int&) {
  struct Options {
    std::string job;
    int port = 0;
    bool no_browser = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("desk", "Change numbers in a page of your own browser while the teeth turn");
  verb->add_option("JOB", options->job, "Job file, which the page writes when you save; left out: begin a new one");
  verb->add_option("--port", options->port, "Port to listen on (default: one that is free)")
      ->check(CLI::Range(1024, 65535));
  verb->add_flag("--no-browser", options->no_browser, "Only print the address");
  verb->footer("Example:\n  palio start spur --out vent.toml && palio desk vent.toml");
  verb->callback([options] { run_desk(options->job, options->port, !options->no_browser); });
}

}  // namespace palio::cli
