#include "palio/readings/vary.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>
#include <map>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/overloaded.hpp"
#include "palio/readings/reading.hpp"
#include "palio/readings/report.hpp"
#include "palio/values/keys.hpp"
#include "parallel.hpp"
#include "quantities.hpp"

namespace palio::job {
namespace {

double number_in(const std::string& text, const std::string& whole) {
  double value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) {
    throw InvalidParameter("KEY=FROM:TO[:STEPS]", "\"" + whole + "\"", fmt::format("\"{}\" is no number", text),
                           "write gear.NAME.profile_shift=0:0.6:31, say");
  }
  return value;
}

/// "gear.NAME.KEY", "pair.NAME.KEY", "shared.KEY", "process.KEY": the key's own path and section.
struct Path {
  Section section;
  std::string name, path;
};

Path split(const std::string& key) {
  const auto dot = key.find('.'), second = key.find('.', dot + 1);
  const auto section = section_named(key.substr(0, dot));
  if ((section == Section::shared || section == Section::process) && dot != std::string::npos)
    return {*section, "", key.substr(dot + 1)};
  if (section && has_names(*section) && second != std::string::npos) {
    return {*section, key.substr(dot + 1, second - dot - 1), leaves_as_teeth(key.substr(second + 1))};
  }
  throw InvalidParameter(
      "key", "\"" + key + "\"",
      "a key reads gear.NAME.KEY, pair.NAME.KEY, reducer.NAME.KEY, shared.KEY, process.KEY or values.NAME",
      "see palio explain keys");
}

/// The name of a number of [values]: "shaft" of "values.shaft".
std::optional<std::string> named_number(const std::string& key) {
  constexpr std::string_view kValues = "values.";
  return key.rfind(kValues, 0) == 0 ? std::optional(key.substr(kValues.size())) : std::nullopt;
}

const Key& known_key(const std::string& key) {
  static const Key any(Section::top, "values", Bounds{}, 0.0, "a number that other values name");
  if (named_number(key)) return any;
  const Path p = split(key);
  const Key* found = find_key(p.section, without_numbers(p.path));
  if (!found) {
    const std::string near = nearest(p.section, p.path);
    throw InvalidParameter("key", "\"" + key + "\"", "no job has this key",
                           near.empty() ? "see palio explain keys" : fmt::format("did you mean \"{}\"?", near));
  }
  if (found->type == Type::text || found->type == Type::choice || found->type == Type::table) {
    throw InvalidParameter("key", "\"" + key + "\"", "this key holds no number",
                           "vary a number: profile_shift, teeth, module, center_distance …");
  }
  return *found;
}

/// One design after the other from the same values.
class Varying {
 public:
  Varying(const Values& values, const VaryRequest& request) : values_(values), request_(request) {
    for (const VaryKey& k : request.keys) {
      const auto name = named_number(k.key);
      if (name && values.tables().named.count(*name) == 0) {
        std::string known;
        for (const auto& [there, number] : values.tables().named)
          known += (known.empty() ? "" : ", ") + there;
        throw InvalidParameter(
            "key", "\"" + k.key + "\"", "the job has no number of that name",
            known.empty() ? "write it in [values], and in the keys that are to follow it" : "there are " + known);
      }
    }
    for (const VaryKey& k : request.keys)
      whole_.push_back(known_key(k.key).type == Type::whole);
    base_ = resolve(values);
    Inquiry inquiry(base_);
    for (const std::string& hold : request.holds)
      prepare(hold, inquiry);
    shows_ = request.shows;
    if (shows_.empty()) {
      // What is usual is shown where the job has it.
      for (const std::string& show : usual(base_)) {
        if (has(inquiry, show)) shows_.push_back(show);
      }
    }
    for (const std::string& show : shows_) {
      try {
        inquiry.number(show);
      } catch (const InvalidParameter& e) {
        throw InvalidParameter("--show", e.given(), e.allowed(), e.remedy());
      }
    }
  }

  const std::vector<std::string>& shows() const { return shows_; }
  Units units() const { return base_.units; }
  bool whole(std::size_t i) const { return whole_[i]; }

  VaryRow row(const std::vector<double>& at, bool keep) const {
    VaryRow row{at, {}, {}, "", {}};
    try {
      Design design = changed(at);
      Inquiry inquiry(design);
      for (const std::string& show : shows_)
        row.values.push_back(value(inquiry, show));
      row.findings = worded(inquiry.findings());
      if (keep) row.design = std::move(design);
    } catch (const JobError& e) {
      if (e.mistakes().front().id == "bad-set") throw;  // no such gear, pair …: not so anywhere
      row.impossible = e.mistakes().front().key + " " + e.mistakes().front().message;
      row.values.resize(shows_.size());
    }
    return row;
  }

  /// All that is reported where the one key has a value.
  std::string reported(double value) const { return report_json(changed({value}), false); }

  /// Errors and warnings where the one key has a value, or "impossible": what a limit is looked for with, without the
  /// report.
  std::vector<std::string> doubts(double value) const {
    try {
      return worded(findings(changed({value})));
    } catch (const JobError&) {
      return {"impossible"};
    }
  }

 private:
  Design changed(const std::vector<double>& at) const {
    Values values = values_;
    for (std::size_t i = 0; i < at.size(); ++i)
      values = values.with(request_.keys[i].key, whole_[i] ? std::round(at[i]) : at[i]);
    for (const Held& h : held_) {
      double value = h.value;
      for (std::size_t i = 0; i < at.size(); ++i) {
        if (h.other == request_.keys[i].key) value -= at[i];
      }
      values = values.with(h.key, known_key(h.key).type == Type::whole ? std::round(value) : value);
    }
    Design design = resolve(values);
    // Rolling a reducer that no key or value is about would only take time.
    const auto about = [](const std::string& path) { return path.rfind("reducer.", 0) == 0; };
    if (std::none_of(request_.keys.begin(), request_.keys.end(), [&](const VaryKey& k) { return about(k.key); }) &&
        std::none_of(shows_.begin(), shows_.end(), about)) {
      design.reducers.clear();
    }
    return design;
  }

  static bool has(Inquiry& inquiry, const std::string& path) {
    try {
      inquiry.number(path);
      return true;
    } catch (const InvalidParameter&) {
      return false;
    }
  }

  /// None where this job has no such reading, or none that is a finite number.
  static std::optional<double> value(Inquiry& inquiry, const std::string& path) {
    try {
      return inquiry.number(path);
    } catch (const InvalidParameter&) {
      return std::nullopt;
    }
  }

  static std::vector<std::string> worded(const std::vector<Finding>& found) {
    std::vector<std::string> all;
    for (const Finding& f : found) {
      if (f.kind().severity != Severity::note)
        all.push_back(fmt::format("{} {} {}", name(f.kind().severity), f.kind().text_id, f.subject));
    }
    return all;
  }

  struct Held {
    std::string key;
    double value;       // kept, or kept as the sum with `other`
    std::string other;  // a varied key
  };

  static double present(const std::string& key, Inquiry& inquiry) {
    const auto present = value(inquiry, key);
    if (!present) {
      throw InvalidParameter(
          "--hold", "\"" + key + "\"", "the job's report has no present value of it to keep",
          "hold gear.NAME.tip_diameter, gear.NAME.reference_diameter, pair.NAME.center_distance or a sum KEY+KEY");
    }
    return *present;
  }

  void prepare(const std::string& hold, Inquiry& inquiry) {
    const auto plus = hold.find('+');
    if (plus == std::string::npos) {
      known_key(hold);
      held_.push_back({hold, present(hold, inquiry), ""});
      return;
    }
    const std::string first = hold.substr(0, plus), second = hold.substr(plus + 1);
    for (const std::string& k : {first, second})
      known_key(k);
    const bool first_varies = varies(first), second_varies = varies(second);
    if (first_varies == second_varies) {
      throw InvalidParameter("--hold", "\"" + hold + "\"",
                             "of a sum that is kept, one key is varied and the other gives way", "vary one of the two");
    }
    held_.push_back({first_varies ? second : first, present(first, inquiry) + present(second, inquiry),
                     first_varies ? first : second});
  }

  bool varies(const std::string& key) const {
    return std::any_of(request_.keys.begin(), request_.keys.end(), [&](const VaryKey& k) { return k.key == key; });
  }

  /// What people look at first: how the pairs run, and the tips of the gears.
  static std::vector<std::string> usual(const Design& design) {
    std::vector<std::string> all;
    for (const Pair& p : design.pairs) {
      const std::string start = "pair." + p.name + ".";
      if (!p.meshes()) continue;
      const auto add = [&](const std::string& key) { all.push_back(start + key); };
      p.visit(overloaded{[&](const pair::ParallelPair& theory) {
                           add(theory.overlap_ratio() > 0 ? "total_contact_ratio" : "transverse_contact_ratio");
                         },
                         [&](const pair::CycloidalPair&) { add("angle_error_deg"); },
                         [&](const pair::CrossedPair&) { add("contact_ratio"); },
                         [&](const pair::BevelPair&) { add("contact_ratio_heel"), add("contact_ratio_toe"); }});
      if (!p.bevel()) all.push_back(start + "center_distance");
      all.push_back(start + "circumferential_backlash");
      if (all.size() >= 6) break;
    }
    for (const Reducer& r : design.reducers) {
      const std::string start = "reducer." + r.name + ".";
      for (const char* key : {"angular_backlash_deg.min", "angular_backlash_deg.max", "undercut_margin",
                              "min_concave_radius", "wall_hole_to_lobe"}) {
        if (all.size() < 6) all.push_back(start + key);
      }
      if (r.made.spec().friction && all.size() < 6) all.push_back(start + "efficiency");
    }
    for (const Gear& g : design.gears) {
      if (all.size() >= 6) break;
      all.push_back("gear." + g.name + ".tip_thickness");
    }
    return all;
  }

  const Values& values_;
  const VaryRequest& request_;
  std::vector<bool> whole_;
  Design base_;
  std::vector<Held> held_;
  std::vector<std::string> shows_;
};

/// Whether no value that is shown, no doubt and nothing else that is reported differs between the rows.
bool nothing_changes(const Varying& job, const std::vector<VaryRow>& rows) {
  if (rows.size() < 2) return false;
  const auto alike = [&](const VaryRow& r) {
    return r.impossible.empty() && r.values == rows.front().values && r.findings == rows.front().findings;
  };
  if (!std::all_of(rows.begin(), rows.end(), alike)) return false;
  // The whole report takes its time: row by row, until one differs.
  const std::string first = job.reported(rows.front().at[0]);
  return std::all_of(rows.begin() + 1, rows.end(), [&](const VaryRow& r) { return job.reported(r.at[0]) == first; });
}

constexpr int kMostSteps = 2001;
constexpr std::size_t kMostPlaces = 40000, kMostOnPage = 2500;  // a page carries the teeth of every place

/// What a key takes of values where STEPS is left out: of several keys fewer, their product is worked out.
int usual_steps(std::size_t keys) {
  constexpr int kUsual[] = {21, 21, 7, 5};
  return kUsual[keys - 1];
}

std::vector<double> values_of(const VaryKey& k, bool whole, std::size_t keys) {
  std::vector<double> at;
  if (whole && !k.steps && std::abs(k.to - k.from) + 1 > kMostSteps) {
    throw InvalidParameter("STEPS", "left out",
                           fmt::format("{} from {} to {} would be {:.0f} jobs, and {} are worked out at most", k.key,
                                       k.from, k.to, std::abs(k.to - k.from) + 1, kMostSteps),
                           "give a smaller range, or STEPS");
  }
  const int all = static_cast<int>(std::lround(std::abs(k.to - k.from))) + 1;
  const int steps = k.steps.value_or(whole && (keys < 3 || all <= 12) ? all : usual_steps(keys));
  for (int i = 0; i < steps; ++i) {
    double v = steps == 1 ? k.from : k.from + (k.to - k.from) * i / (steps - 1);
    if (whole) v = static_cast<double>(std::lround(v));
    if (at.empty() || v != at.back()) at.push_back(v);
  }
  return at;
}

std::vector<std::string> doubts(const VaryRow& row) {
  return row.impossible.empty() ? row.findings : std::vector<std::string>{"impossible"};
}

bool holds(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}

/// Where a doubt sets in or goes between two rows, looked for on the job itself.
class Limits {
 public:
  explicit Limits(const Varying& job) : job_(job) {}

  /// All that set in or go between these two rows, added to `limits`.
  void between(const VaryRow& first, const VaryRow& second, std::vector<VaryLimit>& limits) {
    const double lo = first.at[0], hi = second.at[0];
    const auto before = doubts(first), after = doubts(second);
    for (const std::string& d : changed(first, second, before, after)) {
      if (job_.whole(0))
        by_whole_numbers(d, lo, hi, before, after, limits);
      else
        limits.push_back(by_halving(d, lo, hi, holds(before, d)));
    }
  }

 private:
  /// The doubts of one row and not of the other; of whole numbers also what comes and goes between them.
  std::vector<std::string> changed(const VaryRow& first, const VaryRow& second, const std::vector<std::string>& before,
                                   const std::vector<std::string>& after) {
    std::vector<std::string> all;
    const auto add = [&](const std::vector<std::string>& these, const std::vector<std::string>& others) {
      for (const std::string& d : these) {
        if (!holds(others, d) && !holds(all, d)) all.push_back(d);
      }
    };
    add(before, after), add(after, before);
    if (!job_.whole(0)) return all;
    const int way = second.at[0] > first.at[0] ? 1 : -1;
    for (double v = first.at[0] + way; v != second.at[0]; v += way)
      add(doubts_at(v), {});
    return all;
  }

  /// Whole number by whole number: between two rows it may come, go and come again.
  void by_whole_numbers(const std::string& d, double lo, double hi, const std::vector<std::string>& before,
                        const std::vector<std::string>& after, std::vector<VaryLimit>& limits) {
    const int way = hi > lo ? 1 : -1;
    bool there = holds(before, d);
    for (double v = lo; v != hi; v += way) {
      const bool next = v + way == hi ? holds(after, d) : holds(doubts_at(v + way), d);
      if (next != there) limits.push_back({there ? v : v + way, (way > 0) == next, d});
      there = next;
    }
  }

  VaryLimit by_halving(const std::string& d, double lo, double hi, bool there_before) {
    const bool rises = hi > lo;
    for (int k = 0; k < 30; ++k) {
      const double middle = 0.5 * (lo + hi);
      (holds(doubts_at(middle), d) == there_before ? lo : hi) = middle;
    }
    return {0.5 * (lo + hi), rises != there_before, d};
  }

  const std::vector<std::string>& doubts_at(double v) {
    const auto it = known_.find(v);
    return it != known_.end() ? it->second : known_.emplace(v, job_.doubts(v)).first->second;
  }

  const Varying& job_;
  std::map<double, std::vector<std::string>> known_;  // between the rows: several often set in together
};

}  // namespace

VaryKey parse_vary_key(const std::string& text) {
  const auto equal = text.find('=');
  const auto refuse = [&](const char* why) -> VaryKey {
    throw InvalidParameter("KEY=FROM:TO[:STEPS]", "\"" + text + "\"", why,
                           "write gear.NAME.profile_shift=0:0.6:31, say");
  };
  if (equal == std::string::npos || equal == 0) return refuse("a key, = and the range are needed");
  VaryKey k;
  k.key = text.substr(0, equal);
  std::vector<std::string> parts{""};
  for (const char c : text.substr(equal + 1)) {
    if (c == ':')
      parts.emplace_back();
    else
      parts.back() += c;
  }
  if (parts.size() < 2 || parts.size() > 3) return refuse("the range reads FROM:TO or FROM:TO:STEPS");
  k.from = number_in(parts[0], text), k.to = number_in(parts[1], text);
  if (parts.size() == 3) {
    const double steps = number_in(parts[2], text);
    if (steps != std::round(steps) || steps < 2 || steps > kMostSteps)
      return refuse("STEPS is a whole number from 2 to 2001");
    k.steps = static_cast<int>(steps);
  }
  return k;
}

Varied vary(const Values& values, const VaryRequest& request, bool keep_designs) {
  if (request.keys.empty() || request.keys.size() > 4) {
    throw InvalidParameter("KEY=FROM:TO[:STEPS]", fmt::format("{} of them", request.keys.size()),
                           "one key makes a chart, two make a map, up to four a page with sliders", "give one to four");
  }
  const Varying job(values, request);
  Varied varied;
  for (const VaryKey& k : request.keys)
    varied.keys.push_back(k.key);
  varied.shows = job.shows();
  for (const std::string& show : varied.shows)
    varied.units.push_back(reading_unit(show, job.units()));
  std::size_t places = 1;
  std::string product;
  for (std::size_t i = 0; i < request.keys.size(); ++i) {
    varied.steps.push_back(values_of(request.keys[i], job.whole(i), request.keys.size()));
    places *= varied.steps.back().size();
    product += fmt::format("{}{}", product.empty() ? "" : " × ", varied.steps.back().size());
  }
  const std::size_t most = keep_designs && request.keys.size() > 1 ? kMostOnPage : kMostPlaces;
  if (places > most)
    throw InvalidParameter("STEPS", fmt::format("{} = {} places", product, places),
                           fmt::format("up to {} are worked out{}", most, keep_designs ? " for a page" : ""),
                           "give fewer steps, KEY=FROM:TO:STEPS");
  varied.rows.resize(places);
  for_each_index(places, [&](std::size_t place) {
    if (request.between) request.between();
    std::vector<double> at(request.keys.size());
    std::size_t rest = place;
    for (std::size_t i = at.size(); i-- > 0; rest /= varied.steps[i].size())
      at[i] = varied.steps[i][rest % varied.steps[i].size()];
    varied.rows[place] = job.row(at, keep_designs);
  });
  if (request.keys.size() > 1) return varied;
  if (nothing_changes(job, varied.rows)) varied.without_effect = varied.keys[0];
  std::vector<std::vector<VaryLimit>> between(varied.rows.size() - 1);
  for_each_index(between.size(), [&](std::size_t i) {
    if (request.between) request.between();
    Limits(job).between(varied.rows[i], varied.rows[i + 1], between[i]);
  });
  for (const std::vector<VaryLimit>& some : between)
    varied.limits.insert(varied.limits.end(), some.begin(), some.end());
  return varied;
}

}  // namespace palio::job
