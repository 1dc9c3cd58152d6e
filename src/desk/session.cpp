#include "palio/desk/session.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/error.hpp"
#include "palio/readings/findings.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/readings/vary.hpp"
#include "palio/solve/find.hpp"
#include "palio/values/edit.hpp"
#include "palio/view/page.hpp"
#include "things.hpp"
#include "value_rows.hpp"

namespace palio::desk {
namespace {

constexpr int kPagePositions = 90;  // over one tooth pitch, of a page in space
constexpr std::string_view kMachine = "machine";

/// What a curve runs over: about the value, as far as its key goes.
job::VaryKey range_about(const job::Key* key, const std::string& path, double value) {
  constexpr int kSteps = 25;
  job::VaryKey range{path, 0, 0, kSteps};
  if (key && key->type == job::Type::whole) {
    constexpr int kAside = 6;
    range.from = value - kAside, range.to = value + kAside, range.steps.reset();
  } else {
    const double aside = value == 0 ? 0.5 : 0.4 * std::abs(value);
    range.from = value - aside, range.to = value + aside;
  }
  if (!key) return range;
  const double hair = key->above_least ? 1e-3 * (range.to - range.from) : 0;
  if (key->least) range.from = std::max(range.from, *key->least + hair);
  if (key->greatest) range.to = std::min(range.to, *key->greatest);
  return range;
}

Json readings_of(const job::Design& design) {
  Json all = Json::array();
  for (const job::ReportTable& table : job::report_tables(design, false)) {
    Json rows = Json::array();
    for (const job::ReportRow& r : table.rows)
      rows.push_back(
          {{"key", r.key}, {"label", r.label}, {"symbol", r.symbol}, {"group", r.group}, {"value", r.value}});
    all.push_back({{"path", table.path}, {"rows", rows}});
  }
  return all;
}

/// What `units` is to be: none where it is no word for them.
std::optional<job::Units> units_said(const std::optional<std::string>& said) {
  if (!said || *said == "mm" || *said == "\"mm\"") return job::Units::mm;
  if (*said == "in" || *said == "\"in\"") return job::Units::inch;
  return std::nullopt;
}

/// The pair of a path, where it meshes.
const job::Pair* pair_at(const job::Design& design, const std::string& path) {
  const auto it = std::find_if(design.pairs.begin(), design.pairs.end(),
                               [&](const job::Pair& p) { return p.meshes() && "pair." + p.name == path; });
  return it == design.pairs.end() ? nullptr : &*it;
}

std::vector<Turning> turning_of(const job::Design& design) {
  std::vector<Turning> all;
  for (const job::Pair& p : design.pairs) {
    if (p.meshes()) all.push_back({"pair." + p.name, p.plane()});
  }
  for (const job::Reducer& r : design.reducers)
    all.push_back({"reducer." + r.name});
  if (all.size() > 1) all.push_back({std::string(kMachine)});
  return all;
}

/// JSON: of a pair in the plane rolled, of one in space its teeth alone; "null" of what has neither.
std::string picture_of(const job::Design& design, const std::string& pair, int positions) {
  const job::Pair* p = pair_at(design, pair);
  if (!p) return "null";
  return p->in_space() ? view::unrolled_data(design, *p, view::kQuickSolids)
                       : view::roll_data(design, {p, job::rolled(*p, positions)});
}

struct AllRolled {
  std::vector<job::RolledPair> pairs;
  std::vector<job::RolledReducer> reducers;
};

AllRolled all_rolled(const job::Design& design) {
  AllRolled all;
  for (const job::Pair& p : design.pairs) {
    if (p.meshes()) all.pairs.push_back({&p, job::rolled(p, kPagePositions)});
  }
  for (const job::Reducer& r : design.reducers)
    all.reducers.push_back({&r, job::rolled(r, kPagePositions)});
  return all;
}

/// What is made of the pair, the reducer or the machine that a path names.
/// \throws InvalidParameter "of" where there is none such
template <class OfPair, class OfReducer, class OfMachine>
std::string of_turning(const job::Design* design, const std::string& turning, const OfPair& of_pair,
                       const OfReducer& of_reducer, const OfMachine& of_machine) {
  if (design) {
    if (const job::Pair* p = pair_at(*design, turning)) return of_pair(*p);
    for (const job::Reducer& r : design->reducers) {
      if ("reducer." + r.name == turning) return of_reducer(r);
    }
    if (turning == kMachine) return of_machine(all_rolled(*design));
  }
  throw InvalidParameter("of", turning, "a pair that meshes, a reducer or the machine is allowed",
                         "choose one of them");
}

/// What the page in space of one of them is given, rolled.
std::string space_data(const job::Design* design, const std::string& turning) {
  return of_turning(
      design, turning,
      [&](const job::Pair& p) {
        return view::roll_data(*design, {&p, job::rolled(p, kPagePositions)}, view::kQuickSolids);
      },
      [&](const job::Reducer& r) {
        return view::reducer_data(*design, {&r, job::rolled(r, kPagePositions)});
      },
      [&](const AllRolled& all) { return view::machine_data(*design, all.pairs, all.reducers, view::kQuickSolids); });
}

struct Overtaken {};

/// What long work tells, given what to call between its pieces; a change meanwhile ends it. \param changed  whether one
/// has come \param revision  of what is looked at
std::string unless_overtaken(int revision, const std::function<bool()>& changed,
                             const std::function<Json(const job::Between& between)>& work) {
  try {
    return work([&] {
             if (changed()) throw Overtaken();
           })
        .dump();
  } catch (const Overtaken&) {
    return Json{{"overtaken", true}, {"revision", revision}}.dump();
  }
}

}  // namespace

Session::Session(std::string text, std::string source) : source_(std::move(source)) {
  job::Values::read(text, source_);
  kept_ = text;
  steps_.push_back({std::move(text), ""});
  look();
}

int Session::revision() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return revision_;
}
std::string Session::text() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return steps_[at_].text;
}
std::string Session::source() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return source_;
}
bool Session::sound() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return mistakes_.empty();
}
bool Session::kept() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return steps_[at_].text == kept_;
}
void Session::keep() { keep(source()); }
void Session::keep(std::string source) {
  const std::lock_guard<std::mutex> guard(lock_);
  source_ = std::move(source);
  kept_ = steps_[at_].text;
  ++revision_;
}
Session::Built Session::built() const {
  const std::lock_guard<std::mutex> guard(lock_);
  return built_;
}

namespace {

using Told = std::pair<std::string, std::string>;  // where a mistake is, and what it is

/// What stands against what is done with a job: nothing where it can be done.
std::vector<Told> standing_against(const std::function<void()>& done) {
  std::vector<Told> all;
  try {
    done();
  } catch (const job::JobError& e) {
    for (const job::Mistake& m : e.mistakes())
      all.emplace_back(m.key, m.message);
  } catch (const InvalidParameter& e) {
    all.emplace_back(e.name(), e.what());
  } catch (const std::exception& e) {
    all.emplace_back("", e.what());
  }
  return all;
}

/// The value that a message says would do: "gear.a.profile_shift = 0.12 would do".
std::optional<std::pair<std::string, std::string>> named_in(const std::string& message) {
  // By hand: a name in a message may be as long as it likes, which recursion would not stand.
  const std::size_t end = message.rfind(" would do"), equal = message.rfind(" = ", end);
  if (end == std::string::npos || equal == std::string::npos || equal == 0) return std::nullopt;
  const std::size_t blank = message.rfind(' ', equal - 1), begin = blank == std::string::npos ? 0 : blank + 1;
  const std::string path = message.substr(begin, equal - begin), number = message.substr(equal + 3, end - equal - 3);
  if (path.find('.') == std::string::npos || number.empty() ||
      number.find_first_not_of("0123456789.eE+-") != std::string::npos)
    return std::nullopt;
  return std::pair(path, number);
}

}  // namespace

/// Reads the text as it stands. What cannot be built leaves the last design that could.
void Session::look() {
  mistakes_.clear();
  for (auto& [path, words] : standing_against([this] {
         values_ = job::Values::read(steps_[at_].text, source_);
         readable_ = steps_[at_].text;
         built_ = {std::make_shared<const job::Design>(job::resolve(*values_)), revision_};
       }))
    mistakes_.push_back({std::move(path), std::move(words), {}});
  if (!mistakes_.empty()) try_mends();
}

/// Of the first few mistakes: the value that is named in the message, and the key left out, as far as one mistake goes
/// with it and none comes.
void Session::try_mends() {
  constexpr std::size_t kMost = 3;
  const std::string& text = steps_[at_].text;
  for (std::size_t i = 0; i < std::min(kMost, mistakes_.size()); ++i) {
    Mistake& m = mistakes_[i];
    const auto mends = [&](const std::string& path, const std::optional<std::string>& said) {
      const std::vector<Told> after = standing_against([&] {
        const std::string other =
            said ? job::with_value(text, source_, path, *said) : job::without_value(text, source_, path);
        job::resolve(job::Values::read(other, source_));
      });
      const auto there_before = [&](const Told& t) {
        return std::any_of(mistakes_.begin(), mistakes_.end(),
                           [&](const Mistake& b) { return &b != &m && b.path == t.first && b.words == t.second; });
      };
      if (std::all_of(after.begin(), after.end(), there_before)) m.mends.emplace_back(path, said);
    };
    if (const auto named = named_in(m.words)) mends(named->first, named->second);
    if (!m.path.empty()) mends(m.path, std::nullopt);
  }
}

void Session::enter(Step step, bool again) {
  if (step.text == steps_[at_].text) return;
  const bool goes_on = again && at_ > 0 && steps_[at_].path == step.path;
  steps_.resize(at_ + (goes_on ? 0 : 1));
  steps_.push_back(std::move(step));
  at_ = steps_.size() - 1;
  ++revision_;
  look();
}

void Session::set(const std::string& path, const std::optional<std::string>& said, bool again) {
  const std::lock_guard<std::mutex> guard(lock_);
  const std::string& text = steps_[at_].text;
  if (const auto units = path == "units" ? units_said(said) : std::nullopt; units && mistakes_.empty())
    return enter({job::told_in(text, source_, *units), path}, again);
  std::string made = said ? job::with_value(text, source_, path, *said) : job::without_value(text, source_, path);
  enter({std::move(made), path}, again);
}

void Session::copy(const std::string& thing, const std::string& name) {
  const std::lock_guard<std::mutex> guard(lock_);
  enter({job::with_copy(steps_[at_].text, source_, thing, name), ""}, false);
}

void Session::add(const std::string& sort, const std::string& name) {
  const std::lock_guard<std::mutex> guard(lock_);
  if (!values_) throw InvalidParameter("sort", sort, "the job has mistakes", "mend them first");
  enter({job::with_tables(steps_[at_].text, source_, new_thing(*values_, built_.design.get(), sort, name)), ""}, false);
}

void Session::remove(const std::string& thing) {
  const std::lock_guard<std::mutex> guard(lock_);
  enter({job::without_thing(steps_[at_].text, source_, thing), ""}, false);
}

void Session::take(std::string text, bool kept) {
  const std::lock_guard<std::mutex> guard(lock_);
  if (kept) kept_ = text;
  enter({std::move(text), ""}, false);
}

bool Session::undo() {
  const std::lock_guard<std::mutex> guard(lock_);
  if (at_ == 0) return false;
  --at_, ++revision_;
  look();
  return true;
}

bool Session::redo() {
  const std::lock_guard<std::mutex> guard(lock_);
  if (at_ + 1 == steps_.size()) return false;
  ++at_, ++revision_;
  look();
  return true;
}

std::string Session::state() const {
  Json told;
  Built now;
  {
    const std::lock_guard<std::mutex> guard(lock_);
    now = built_;
    told["revision"] = revision_;
    told["name"] = source_;
    told["kept"] = steps_[at_].text == kept_;
    told["can_undo"] = at_ > 0;
    told["can_redo"] = at_ + 1 < steps_.size();
    told["sound"] = mistakes_.empty();
    told["mistakes"] = Json::array();
    for (const Mistake& m : mistakes_) {
      Json mends = Json::array();
      for (const auto& [path, said] : m.mends)
        mends.push_back({{"path", path}, {"said", said ? Json(*said) : Json(nullptr)}});
      told["mistakes"].push_back({{"path", m.path}, {"message", m.words}, {"mends", mends}});
    }
    told["values"] = values_ ? value_rows(*values_, readable_, source_) : Json::array();
    told["addable"] = Json::array();
    for (const Addable& a : values_ ? addable(*values_) : std::vector<Addable>())
      told["addable"].push_back({{"sort", a.sort}, {"name", a.name}});
  }
  told["readings"] = Json::array();
  told["turning"] = Json::array();
  if (!now.design) return told.dump();
  const job::Design& design = *now.design;
  told["title"] = design.title;
  told["units"] = job::symbol(design.units);
  told["readings"] = readings_of(design);
  for (const Turning& t : turning_of(design))
    told["turning"].push_back({{"path", t.path}, {"plane", t.plane}});
  return told.dump();
}

std::string Session::keys() const {
  const Built now = built();
  return key_words(now.design ? now.design->units : job::Units::mm).dump();
}

std::vector<Turning> Session::turning() const {
  const Built now = built();
  return now.design ? turning_of(*now.design) : std::vector<Turning>();
}

std::string Session::picture(const std::string& pair, int positions) const {
  const Built now = built();
  return fmt::format("{{\"revision\":{},\"data\":{}}}", now.revision,
                     now.design ? picture_of(*now.design, pair, positions) : "null");
}

std::string Session::kept_state(const std::string& pair, int positions) const {
  std::string text;
  {
    const std::lock_guard<std::mutex> guard(lock_);
    text = kept_;
  }
  const job::Design design = job::resolve(text, source());
  const std::vector<Turning> turning = turning_of(design);
  const auto it = std::find_if(turning.begin(), turning.end(), [&](const Turning& t) { return t.path == pair; });
  return fmt::format("{{\"readings\":{},\"data\":{}}}", readings_of(design).dump(),
                     it == turning.end() ? "null"
                     : it->plane         ? picture_of(design, pair, positions)
                                         : space_data(&design, pair));
}

namespace {

/// What leaves a value open: a number that others name has no bounds of its own, so it is looked for around what it is.
std::string open_word(const std::shared_ptr<const job::Design>& design, const std::string& value) {
  constexpr std::string_view kValues = "values.";
  const auto here = design && value.rfind(kValues, 0) == 0 ? number_at(design->values, value) : std::optional<double>();
  if (!here) return "find";
  constexpr double kTimes = 10, kAboutNothing = 100;
  const auto [low, high] =
      *here == 0 ? std::pair(-kAboutNothing, kAboutNothing) : std::minmax({*here / kTimes, *here * kTimes});
  return fmt::format("find {}..{}", low, high);
}

/// What was found for a wish.
Json wish_told(const solve::Found& found, const std::string& value, const std::string& reading) {
  Json told{{"value", value}, {"reading", reading}, {"number", nullptr}};
  const auto number_in = [&](const solve::Solution& s) {
    const auto it = std::find_if(s.values.begin(), s.values.end(), [&](const auto& v) { return v.first == value; });
    return it == s.values.end() ? Json(nullptr) : Json(it->second);
  };
  if (found.solutions.empty()) {
    if (found.nearest) {
      told["nearest"] = {{"number", number_in(*found.nearest)}};
      for (const solve::Solution::Want& w : found.nearest->wants) {
        if (w.path == reading) told["nearest"]["is"] = w.is;
      }
    }
    told["why"] = found.refused;
    return told;
  }
  const solve::Solution& best = found.solutions.front();
  told["number"] = number_in(best);
  if (told["number"].is_number()) told["said"] = fmt::format("{}", told["number"].get<double>());
  told["errors"] = best.errors, told["warnings"] = best.warnings;
  return told;
}

}  // namespace

std::string Session::find(const std::string& value, const std::string& reading, const std::string& wanted) const {
  const int begun = revision();  // before its text: a change between the two is one
  const std::string open = job::with_value(text(), source(), value, open_word(built().design, value)),
                    asked = job::with_value(open, source(), "want." + reading, wanted);
  return unless_overtaken(
      begun, [&] { return revision() != begun; },
      [&](const job::Between& between) {
        solve::FindRequest request;
        request.most = 1, request.between = between;
        return wish_told(solve::find(job::Values::read(asked, source()), request), value, reading);
      });
}

std::string Session::page(const std::string& turning, bool quick) const {
  const Built now = built();
  const double fineness = quick ? view::kQuickSolids : view::kFineSolids;
  return of_turning(
      now.design.get(), turning,
      [&](const job::Pair& p) {
        return view::roll_page(*now.design, {&p, job::rolled(p, kPagePositions)}, fineness);
      },
      [&](const job::Reducer& r) {
        return view::reducer_page(*now.design, {&r, job::rolled(r, kPagePositions)});
      },
      [&](const AllRolled& all) { return view::machine_page(*now.design, all.pairs, all.reducers, fineness); });
}

std::string Session::space_picture(const std::string& turning) const {
  const Built now = built();
  return fmt::format("{{\"revision\":{},\"data\":{}}}", now.revision, space_data(now.design.get(), turning));
}

std::string Session::verdict() const {
  const Built now = built();
  return unless_overtaken(
      now.revision, [&] { return built().revision != now.revision; },
      [&](const job::Between& between) {
        Json told = now.design ? Json::parse(job::verdict_json(*now.design, between)) : Json::object();
        told["revision"] = now.revision;
        return told;
      });
}

namespace {

/// What a varied value shows of one reading.
Json curve_told(const job::Varied& varied) {
  Json told{{"unit", varied.units.at(0)}, {"limits", Json::array()}};
  for (const job::VaryRow& row : varied.rows) {
    told["at"].push_back(row.at.at(0));
    told["is"].push_back(row.values.empty() || !row.values[0] ? Json(nullptr) : Json(*row.values[0]));
  }
  for (const job::VaryLimit& l : varied.limits)
    told["limits"].push_back({{"at", l.at}, {"above", l.above}, {"what", l.what}});
  return told;
}

}  // namespace

std::string Session::curve(const std::string& value, const std::string& reading) const {
  const Built now = built();
  if (!now.design) throw InvalidParameter("value", value, "the job has mistakes", "mend them first");
  const std::optional<double> here = number_at(now.design->values, value);
  if (!here) throw InvalidParameter("value", value, "a value that is a number is allowed", "choose one that is");
  job::VaryRequest request;
  const auto parts = job::parts_of_path(value);
  const auto point = value.find('.');
  const auto section = job::section_named(value.substr(0, point));
  const std::string word = parts ? parts->word : value.substr(point + 1);
  request.keys.push_back(
      range_about(section ? job::find_key(*section, job::without_numbers(word)) : nullptr, value, *here));
  request.shows.push_back(reading);
  return unless_overtaken(
      now.revision, [&] { return built().revision != now.revision; },
      [&](const job::Between& between) {
        request.between = between;
        Json told{{"revision", now.revision}, {"value", value}, {"reading", reading}, {"here", *here}};
        told.update(curve_told(job::vary(now.design->values, request)));
        return told;
      });
}

}  // namespace palio::desk
