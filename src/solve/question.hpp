// What a job leaves open and what it wants, as one function of numbers. Private to solve.
#pragma once

#include <atomic>
#include <mutex>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/readings/reading.hpp"
#include "search.hpp"
#include "term.hpp"
#include "ties.hpp"
#include "unknown.hpp"

namespace palio::solve {

/// What is wanted of a term, in the unit of its reading.
struct Want {
  Term term;
  const job::Wanted* said;
  double low, high;  // equal where one number is wanted

  bool aims() const { return said->aim != job::Wanted::Aim::range; }
  bool equal() const { return !aims() && low == high; }
  /// How far a value misses it, of its own scale; 0 where it holds.
  double missed(double is) const;
  bool holds(double is) const { return std::abs(missed(is)) <= (equal() ? kHolds : kWithin); }
};

class Question {
 public:
  /// \throws JobError
  explicit Question(const job::Values& values);

  const job::Values& values() const noexcept { return values_; }
  const std::vector<Unknown>& unknowns() const noexcept { return unknowns_; }
  const std::vector<Want>& wants() const noexcept { return wants_; }
  const job::Tables& tables() const noexcept { return values_.tables(); }
  /// Whether an unknown is to be looked for; the others follow from these.
  bool free(std::size_t unknown) const { return !ties_.tied(unknown); }
  /// Fills in what follows. False where one of those leaves what it may be.
  bool complete(std::vector<double>& numbers) const;

  /// The job with these numbers, one for each unknown; none where it cannot be made.
  std::optional<job::Design> design(const std::vector<double>& numbers) const;
  /// What becomes of each want; none where a reading of one is not there.
  std::optional<std::vector<double>> readings(const job::Design& design) const;
  /// \param chosen  which wants count
  std::optional<Outcome> outcome(const std::vector<double>& numbers, const std::vector<bool>& chosen) const;
  std::vector<std::pair<std::string, double>> named(const std::vector<double>& numbers) const;

  /// The first reason why no job could be made, where most of all that was tried came to nothing; else empty.
  std::string mostly_refused() const;
  /// The first reason why nothing could be made or read; thrown where that is all there is.
  [[noreturn]] void refuse() const;

  /// A reason why something could not be made or read, for `refuse`.
  void keep(const std::exception_ptr& reason) const;
  /// The same of a reading that is not there, which says more than that some job could not be made.
  void keep_of_path(const job::Where& where, const std::string& key, const std::string& message) const;

 private:
  job::Values values_;
  Ties ties_;
  std::vector<Unknown> unknowns_;
  std::vector<Want> wants_;
  mutable std::mutex guard_;
  mutable std::exception_ptr reason_, of_a_path_;
  mutable std::atomic<std::size_t> tried_{0}, refused_{0};
};

}  // namespace palio::solve
