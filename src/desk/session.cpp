#include "palio/desk/session.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "palio/error.hpp"
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

/// JSON; "null" of what is not in the plane.
std::string picture_of(const job::Design& design, const std::string& pair, int positions) {
  const job::Pair* p = pair_at(design, pair);
  return p && p->plane() ? view::roll_data(design, {p, job::rolled(*p, positions)}) : "null";
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

/// Reads the text as it stands. What cannot be built leaves the last design that could.
void Session::look() {
  mistakes_.clear();
  try {
    values_ = job::Values::read(steps_[at_].text, source_);
    readable_ = steps_[at_].text;
    built_ = {std::make_shared<const job::Design>(job::resolve(*values_)), revision_};
  } catch (const job::JobError& e) {
    for (const job::Mistake& m : e.mistakes())
      mistakes_.emplace_back(m.key, m.message);
  } catch (const InvalidParameter& e) {
    mistakes_.emplace_back(e.name(), e.what());
  } catch (const std::exception& e) {
    mistakes_.emplace_back("", e.what());
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
    for (const auto& [path, words] : mistakes_)
      told["mistakes"].push_back({{"path", path}, {"message", words}});
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
  return fmt::format("{{\"readings\":{},\"data\":{}}}", readings_of(design).dump(),
                     picture_of(design, pair, positions));
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

}  // namespace

std::string Session::find(const std::string& value, const std::string& reading, const std::string& wanted) const {
  const std::string open = job::with_value(text(), source(), value, open_word(built().design, value)),
                    asked = job::with_value(open, source(), "want." + reading, wanted);
  solve::FindRequest request;
  request.most = 1;
  const solve::Found found = solve::find(job::Values::read(asked, source()), request);
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
    return told.dump();
  }
  const solve::Solution& best = found.solutions.front();
  told["number"] = number_in(best);
  if (told["number"].is_number()) told["said"] = fmt::format("{}", told["number"].get<double>());
  told["errors"] = best.errors, told["warnings"] = best.warnings;
  return told.dump();
}

std::string Session::page(const std::string& turning) const {
  const Built now = built();
  if (now.design) {
    if (const job::Pair* p = pair_at(*now.design, turning))
      return view::roll_page(*now.design, {p, job::rolled(*p, kPagePositions)});
    for (const job::Reducer& r : now.design->reducers) {
      if ("reducer." + r.name == turning) return view::reducer_page(*now.design, {&r, job::rolled(r, kPagePositions)});
    }
    if (turning == kMachine) {
      std::vector<job::RolledPair> pairs;
      std::vector<job::RolledReducer> reducers;
      for (const job::Pair& p : now.design->pairs) {
        if (p.meshes()) pairs.push_back({&p, job::rolled(p, kPagePositions)});
      }
      for (const job::Reducer& r : now.design->reducers)
        reducers.push_back({&r, job::rolled(r, kPagePositions)});
      return view::machine_page(*now.design, pairs, reducers);
    }
  }
  throw InvalidParameter("of", turning, "a pair that meshes, a reducer or the machine is allowed",
                         "choose one of them");
}

std::string Session::verdict() const {
  struct Overtaken {};
  const Built now = built();
  Json told = Json::object();
  try {
    if (now.design)
      told = Json::parse(job::verdict_json(*now.design, [&] {
        if (built().revision != now.revision) throw Overtaken();
      }));
  } catch (const Overtaken&) {
    told["overtaken"] = true;
  }
  told["revision"] = now.revision;
  return told.dump();
}

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
  const job::Varied varied = job::vary(now.design->values, request);
  Json told{{"revision", now.revision},
            {"value", value},
            {"reading", reading},
            {"unit", varied.units.at(0)},
            {"here", *here}};
  for (const job::VaryRow& row : varied.rows) {
    told["at"].push_back(row.at.at(0));
    told["is"].push_back(row.values.empty() || !row.values[0] ? Json(nullptr) : Json(*row.values[0]));
  }
  told["limits"] = Json::array();
  for (const job::VaryLimit& l : varied.limits)
    told["limits"].push_back({{"at", l.at}, {"above", l.above}, {"what", l.what}});
  return told.dump();
}

}  // namespace palio::desk
