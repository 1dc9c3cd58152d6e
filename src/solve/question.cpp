#include "question.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio::solve {
namespace {

/// The unit in which a want is told, against that of its reading.
/// \throws JobError where the two are of another sort
Want want_of(const job::Wanted& said, job::Units units) {
  Term term = [&] {
    try {
      return Term(said.path);
    } catch (const InvalidParameter& e) {
      throw job::JobError({{"bad-path", said.where, "want." + said.path, e.allowed() + "; " + e.remedy()}});
    }
  }();
  const std::string unit = term.unit(units);
  const std::optional<double> factor = job::unit_factor(said.unit, unit);
  if (!factor) throw job::JobError({{"bad-value", said.where, "want." + said.path, job::wrong_unit(said.said, unit)}});
  return {std::move(term), &said, said.low * *factor, said.high * *factor};
}

/// A number about where an unknown will be, to read a job with at all.
double some_number(const job::Sought& s) {
  if (!s.among.empty()) return s.among[s.among.size() / 2];
  constexpr double kUsualTeeth = 24;
  const double usual = s.whole() ? kUsualTeeth : 1;
  const double fallback = std::isfinite(s.least) && std::isfinite(s.greatest) ? 0.5 * (s.least + s.greatest) : usual;
  const double number = usual > s.least && usual < s.greatest ? usual : fallback;
  return s.whole() ? std::round(number) : number;
}

/// What holds by default in place of the unknowns; none where the job needs them.
std::vector<std::optional<double>> usual_numbers(const job::Values& values) {
  const std::vector<job::Sought>& sought = values.tables().sought;
  std::vector<std::optional<double>> usual(sought.size());
  std::vector<std::string> paths;
  paths.reserve(sought.size());
  for (const job::Sought& s : sought)
    paths.push_back(s.path);
  const auto read = [&](const job::Values& without, std::size_t from, std::size_t to) {
    try {
      const job::Design design = job::resolve(without);
      job::Inquiry inquiry(design);
      for (std::size_t i = from; i < to; ++i) {
        try {
          usual[i] = number_at(design, inquiry, paths[i]);
        } catch (const InvalidParameter&) {
          continue;  // nothing reports it
        }
      }
      return true;
    } catch (const job::JobError&) {
      return false;
    }
  };
  if (read(values.without(paths), 0, sought.size())) return usual;
  // One by one, the others somewhere.
  for (std::size_t i = 0; i < sought.size(); ++i) {
    std::vector<std::pair<std::string, double>> others;
    for (std::size_t k = 0; k < sought.size(); ++k) {
      if (k != i) others.emplace_back(paths[k], some_number(sought[k]));
    }
    read(values.with(others).without({paths[i]}), i, i + 1);
    if (!usual[i] && sought[i].key) usual[i] = sought[i].key->absent.number;
  }
  return usual;
}

}  // namespace

double Want::missed(double is) const {
  if (aims()) return 0;
  const double room = std::max(1.0, std::abs(is < low ? low : high));
  if (is < low) return (is - low) / room;
  return is > high ? (is - high) / room : 0;
}

Question::Question(const job::Values& values) : values_(values), ties_(values.tables()) {
  std::vector<std::pair<std::string, double>> some;
  for (const job::Sought& s : tables().sought)
    some.emplace_back(s.path, some_number(s));
  values_.with(some).tables().mistakes.stop();
  const std::vector<std::optional<double>> usual = usual_numbers(values_);
  for (std::size_t i = 0; i < usual.size(); ++i)
    unknowns_.emplace_back(tables().sought[i], tables().units, usual[i]);
  for (const job::Wanted& w : tables().wanted)
    wants_.push_back(want_of(w, tables().units));
}

std::vector<std::pair<std::string, double>> Question::named(const std::vector<double>& numbers) const {
  std::vector<std::pair<std::string, double>> all;
  for (std::size_t i = 0; i < numbers.size(); ++i)
    all.emplace_back(unknowns_[i].path(), numbers[i]);
  return all;
}

bool Question::complete(std::vector<double>& numbers) const {
  ties_.complete(numbers);
  for (std::size_t i = 0; i < numbers.size(); ++i) {
    if (free(i)) continue;
    const Unknown& u = unknowns_[i];
    const double room = kHolds * std::max(1.0, std::abs(numbers[i]));
    if (numbers[i] < u.least() - room || numbers[i] > u.greatest() + room) return false;
    if (u.continuous()) continue;
    const bool listed =
        std::any_of(u.among().begin(), u.among().end(), [&](double n) { return std::abs(n - numbers[i]) <= room; });
    if (!listed) return false;
  }
  return true;
}

void Question::keep(const std::exception_ptr& reason) const {
  const std::lock_guard lock(guard_);
  if (!reason_) reason_ = reason;
}

void Question::keep_of_path(const job::Where& where, const std::string& key, const std::string& message) const {
  const std::lock_guard lock(guard_);
  if (!of_a_path_) of_a_path_ = std::make_exception_ptr(job::JobError({{"bad-path", where, key, message}}));
}

std::string Question::mostly_refused() const {
  if (!reason_ || 2 * refused_ <= tried_) return "";
  try {
    std::rethrow_exception(reason_);
  } catch (const std::exception& e) {
    return e.what();
  }
}

void Question::refuse() const {
  if (of_a_path_) std::rethrow_exception(of_a_path_);
  if (reason_) std::rethrow_exception(reason_);
  throw job::JobError({{"no-job", {}, "", "no job can be made with any of these values"}});
}

std::optional<job::Design> Question::design(const std::vector<double>& numbers) const {
  ++tried_;
  try {
    return job::resolve(values_.with(named(numbers)));
  } catch (const job::JobError&) {
    ++refused_;
    keep(std::current_exception());
    return std::nullopt;
  }
}

std::optional<std::vector<double>> Question::readings(const job::Design& design) const {
  job::Inquiry inquiry(design);
  std::vector<double> all;
  for (const Want& w : wants_) {
    try {
      const auto is = w.term.of(design, inquiry);
      if (!is) return std::nullopt;
      all.push_back(*is);
    } catch (const InvalidParameter& e) {
      keep_of_path(w.said->where, "want." + w.said->path,
                   fmt::format("cannot be read: {}; {}", e.allowed(), e.remedy()));
      return std::nullopt;
    }
  }
  return all;
}

std::optional<Outcome> Question::outcome(const std::vector<double>& numbers, const std::vector<bool>& chosen) const {
  std::vector<double> all = numbers;
  const auto made = complete(all) ? design(all) : std::nullopt;
  if (!made) return std::nullopt;
  const auto is = readings(*made);
  if (!is) return std::nullopt;
  Outcome outcome;
  for (std::size_t i = 0; i < wants_.size(); ++i) {
    const Want& w = wants_[i];
    if (w.aims())
      outcome.aim += w.said->aim == job::Wanted::Aim::greatest ? (*is)[i] : -(*is)[i];
    else if (chosen[i])
      (w.equal() ? outcome.off : outcome.over).push_back(w.missed((*is)[i]));
  }
  return outcome;
}

}  // namespace palio::solve
