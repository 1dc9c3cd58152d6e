#include "palio/solve/find.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <numeric>
#include <tuple>

#include <fmt/format.h>

#include "choices.hpp"
#include "palio/error.hpp"
#include "palio/readings/findings.hpp"
#include "parallel.hpp"
#include "question.hpp"

namespace palio::solve {
namespace {

/// A number with so many decimals at most is a round one; standard sizes need none.
constexpr std::size_t kMostDecimals = 9;

double rounded(double number, std::size_t decimals) {
  const double unit = std::pow(10.0, static_cast<double>(decimals));
  return std::round(number * unit) / unit;
}

std::size_t decimals_of(const Unknown& unknown, double number) {
  if (unknown.whole()) return 0;
  const job::Series series = job::standard_series(unknown.word());
  const auto has = [&](const std::vector<double>& list) {
    return std::find(list.begin(), list.end(), number) != list.end();
  };
  if (has(series.preferred)) return 0;
  if (has(series.second)) return 1;
  for (std::size_t d = 0; d < kMostDecimals; ++d) {
    if (std::abs(rounded(number, d) - number) < 1e-14 * std::max(1.0, std::abs(number))) return d;
  }
  return kMostDecimals;
}

/// One solution before it is told.
struct Numbers {
  std::vector<double> numbers;
  double aim = 0, missed = 0;
};

/// Whether all solutions are asked for, in round numbers, or only whether there is one.
enum class Ask { all, any };

class Finder {
 public:
  Finder(const Question& question, const FindRequest& request) : question_(question), request_(request) {
    for (std::size_t i = 0; i < question.unknowns().size(); ++i) {
      if (question.free(i)) (question.unknowns()[i].continuous() ? continuous_ : listed_).push_back(i);
    }
    for (const Want& w : question.wants()) {
      aims_ = aims_ || w.aims();
      equalities_ += w.equal() ? 1 : 0;
    }
  }

  Found run() {
    Found found;
    found.units = question_.tables().units;
    const std::vector<bool> all(question_.wants().size(), true);
    // Of choices that tooth counts alone decide those with the fewest teeth; more, where none of these can work.
    constexpr std::size_t kMostKept = 30000, kMore = 8;
    for (std::size_t kept = std::max<std::size_t>(400, 4 * request_.most);; kept *= kMore) {
      const Choices at = choices(question_, all, 0, kept);
      found.choices = at.count;
      std::vector<Numbers> solutions = solved(at.all, all, Ask::all);
      found.more_open = open_at(solutions);
      found.count = at.only_teeth ? at.count - at.all.size() + solutions.size() : solutions.size();
      const bool last = !at.only_teeth || at.count <= at.all.size() || kept * kMore > kMostKept;
      if (solutions.empty() && last) {
        contradict(found);
        return found;
      }
      if (solutions.empty()) continue;
      const std::vector<double> some = solutions.front().numbers;
      found.solutions.clear();
      tell(std::move(solutions), found);
      if (!last && !found.solutions.empty() && found.solutions[0].errors > 0) continue;
      find_idle(some, found);
      return found;
    }
  }

 private:
  /// More continuous unknowns than equalities, and nothing that says which is best.
  bool open_at(const std::vector<Numbers>& solutions) const {
    return !solutions.empty() && !aims_ && continuous_.size() > equalities_;
  }

  std::vector<double> numbers(const Choice& choice, const Place& place) const {
    std::vector<double> all(question_.unknowns().size());
    for (std::size_t i = 0; i < listed_.size(); ++i)
      all[listed_[i]] = choice[i];
    for (std::size_t i = 0; i < continuous_.size(); ++i)
      all[continuous_[i]] = question_.unknowns()[continuous_[i]].number(place[i]);
    question_.complete(all);
    return all;
  }

  Search search(std::size_t choices) const {
    Search s{continuous_.size(), aims_, {}, 24, 160, false};
    constexpr std::size_t kFew = 60, kMany = 2000;
    if (choices > kFew) s.starts = 6, s.grid = 96, s.brief = true;
    if (choices > kMany) s.starts = 3, s.grid = 48;
    Place seed;
    for (const std::size_t i : continuous_) {
      const Unknown& u = question_.unknowns()[i];
      seed.push_back(std::clamp(u.usual() ? u.coordinate(*u.usual()) : 0.5, 0.0, 1.0));
    }
    if (!seed.empty()) s.seeds = {seed};
    return s;
  }

  /// All choices with what is continuous solved for inside each.
  std::vector<Numbers> solved(const std::vector<Choice>& choices, const std::vector<bool>& wants, Ask ask) const {
    const Search how = search(choices.size());
    std::vector<std::vector<Numbers>> each(choices.size());
    std::size_t done = 0;
    std::mutex telling;
    std::atomic<bool> enough{false};
    for_each_index(choices.size(), [&](std::size_t i) {
      if (enough) return;
      const BlackBox box = [&](const Place& at) {
        if (request_.between) request_.between();
        return question_.outcome(numbers(choices[i], at), wants);
      };
      for (const Spot& spot : solve(box, how)) {
        Numbers n{numbers(choices[i], spot.at), spot.outcome.aim, 0};
        each[i].push_back(ask == Ask::all ? rounded_off(std::move(n), wants) : std::move(n));
      }
      if (ask == Ask::any && !each[i].empty()) enough = true;
      const std::lock_guard lock(telling);
      if (request_.progress) request_.progress(++done, choices.size());
    });
    std::vector<Numbers> all;
    for (std::vector<Numbers>& some : each)
      std::move(some.begin(), some.end(), std::back_inserter(all));
    return all;
  }

  bool holds(const Numbers& n, const std::vector<bool>& wants) const {
    const auto o = question_.outcome(n.numbers, wants);
    return o && o->holds() && (!aims_ || o->aim >= n.aim);
  }

  /// The same solution in rounder numbers, where they do as well; where there is more freedom than wants, in the
  /// roundest near it.
  Numbers rounded_off(Numbers n, const std::vector<bool>& wants) const {
    const bool free = !aims_ && continuous_.size() > equalities_;
    if (free && equalities_ > 0) n = with_round_ones(n, wants);
    for (const std::size_t i : continuous_) {
      for (std::size_t d = 0; d < kMostDecimals; ++d) {
        Numbers round = n;
        round.numbers[i] = rounded(n.numbers[i], d);
        question_.complete(round.numbers);
        constexpr double kNear = 1e-9;  // otherwise it would be another solution
        const bool near = std::abs(round.numbers[i] - n.numbers[i]) <= kNear * std::max(1.0, std::abs(n.numbers[i]));
        if (!(near || (free && equalities_ == 0))) continue;
        if (!holds(round, wants)) continue;
        n = std::move(round);
        break;
      }
    }
    return n;
  }

  /// With those that the wants leave open set to two decimals or so, and the others solved for anew.
  Numbers with_round_ones(const Numbers& n, const std::vector<bool>& wants) const {
    const std::size_t open = continuous_.size() - equalities_;
    for (std::size_t d = 1; d < 4; ++d) {
      std::vector<double> fixed = n.numbers;
      for (std::size_t k = 0; k < open; ++k)
        fixed[continuous_[k]] = rounded(fixed[continuous_[k]], d);
      const std::vector<std::size_t> rest(continuous_.begin() + static_cast<std::ptrdiff_t>(open), continuous_.end());
      Search how{rest.size(), false, {{}}, 2, 48, false};
      for (const std::size_t i : rest)
        how.seeds[0].push_back(std::clamp(question_.unknowns()[i].coordinate(n.numbers[i]), 0.0, 1.0));
      const auto with = [&](const Place& at) {
        std::vector<double> all = fixed;
        for (std::size_t k = 0; k < rest.size(); ++k)
          all[rest[k]] = question_.unknowns()[rest[k]].number(at[k]);
        question_.complete(all);
        return all;
      };
      const auto spots = solve([&](const Place& at) { return question_.outcome(with(at), wants); }, how);
      if (!spots.empty()) return {with(spots[0].at), spots[0].outcome.aim, 0};
    }
    return n;
  }

  /// Which wants cannot hold together, and what comes nearest to all.
  void contradict(Found& found) const {
    const std::size_t count = question_.wants().size();
    const auto possible = [&](const std::vector<bool>& wants) {
      constexpr std::size_t kKept = 400;
      try {
        return !solved(choices(question_, wants, 0, kKept).all, wants, Ask::any).empty();
      } catch (const InvalidParameter&) {
        return true;  // more choices than can be looked into: nothing says that these wants are what fails
      }
    };
    std::vector<bool> kept(count, true);
    for (std::size_t i = 0; i < count; ++i) {
      if (question_.wants()[i].aims()) continue;
      kept[i] = false;
      if (possible(kept)) kept[i] = true;
    }
    for (std::size_t i = 0; i < count; ++i) {
      const Want& w = question_.wants()[i];
      if (kept[i] && !w.aims()) found.contradiction.push_back(w.said->path);
    }
    if (found.contradiction.empty()) question_.refuse();
    found.refused = question_.mostly_refused();
    if (const auto nearest = nearest_of_all()) {
      found.nearest = told(*nearest);
      find_idle(nearest->numbers, found);
      // What the narrower search did not see is a solution all the same.
      const auto holds = [](const Solution::Want& w) { return w.holds; };
      if (found.nearest && std::all_of(found.nearest->wants.begin(), found.nearest->wants.end(), holds)) {
        found.solutions = {*found.nearest}, found.count = 1;
        found.nearest.reset(), found.contradiction.clear(), found.refused.clear();
        return;
      }
    }
    if (!found.nearest) question_.refuse();
  }

  /// Which unknowns can be anything else without a want noticing: most likely they are said again elsewhere.
  void find_idle(const std::vector<double>& at, Found& found) const {
    const auto readings = [&](const std::vector<double>& numbers) {
      std::vector<double> all = numbers;
      const auto design = question_.complete(all) ? question_.design(all) : std::nullopt;
      return design ? question_.readings(*design) : std::nullopt;
    };
    const auto here = readings(at);
    for (std::size_t i = 0; here && i < at.size(); ++i) {
      const Unknown& u = question_.unknowns()[i];
      if (!question_.free(i)) continue;
      bool looked = false, same = true;
      for (const double way : {0.03, -0.03, 0.2, -0.2}) {
        std::vector<double> other = at;
        if (u.continuous()) {
          const double place = u.coordinate(at[i]) + way;
          if (place < 0 || place > 1) continue;
          other[i] = u.number(place);
        } else {
          const auto it = std::find(u.among().begin(), u.among().end(), at[i]);
          const auto k = it - u.among().begin() + (way > 0 ? 1 : -1);
          if (k < 0 || k >= static_cast<std::ptrdiff_t>(u.among().size())) continue;
          other[i] = u.among()[static_cast<std::size_t>(k)];
        }
        const auto there = readings(other);
        if (!there) continue;
        looked = true;
        same = same && *there == *here;
      }
      if (looked && same) found.idle.push_back(u.path());
    }
  }

  std::optional<Numbers> nearest_of_all() const {
    const std::vector<bool> all(question_.wants().size(), true);
    std::vector<Choice> near;
    // Tooth counts that miss by more than others miss by are not looked at.
    for (const double room : {1e-6, 1e-5, 1e-4, 1e-3, 1e-2, 0.1, 1.0, 1e6}) {
      constexpr std::size_t kKept = 100000;
      Choices at = choices(question_, all, room, kKept);
      near = std::move(at.all);
      if (!near.empty() || !at.pruned) break;
    }
    constexpr std::size_t kMost = 20000;
    if (near.size() > kMost && !continuous_.empty()) near.resize(kMost);
    Search how = search(near.size());
    how.brief = false;  // what comes nearest may be far
    std::vector<std::optional<Numbers>> each(near.size());
    for_each_index(near.size(), [&](std::size_t i) {
      const BlackBox box = [&](const Place& at) { return question_.outcome(numbers(near[i], at), all); };
      if (const auto spot = solve::nearest(box, how))
        each[i] = Numbers{numbers(near[i], spot->at), spot->outcome.aim, spot->outcome.missed()};
    });
    std::optional<Numbers> best;
    for (std::optional<Numbers>& n : each) {
      constexpr double kTie = 1e-14;
      if (n && (!best || n->missed < best->missed * (1 - kTie))) best = std::move(n);
    }
    return best;
  }

  /// A solution with what becomes of its wants, its roundness and size.
  std::optional<Solution> told(const Numbers& n) const {
    const auto design = question_.design(n.numbers);
    const auto is = design ? question_.readings(*design) : std::nullopt;
    if (!is) return std::nullopt;
    Solution s;
    s.values = question_.named(n.numbers);
    for (std::size_t i = 0; i < n.numbers.size(); ++i)
      s.decimals += decimals_of(question_.unknowns()[i], n.numbers[i]);
    for (std::size_t i = 0; i < question_.wants().size(); ++i) {
      const Want& w = question_.wants()[i];
      const auto same = std::find_if(s.wants.begin(), s.wants.end(),
                                     [&](const Solution::Want& other) { return other.path == w.said->path; });
      if (same == s.wants.end())
        s.wants.push_back({w.said->path, (*is)[i], w.holds((*is)[i])});
      else
        same->holds = same->holds && w.holds((*is)[i]);
    }
    s.size = size_of(*design);
    for (const Finding& f : job::findings(*design)) {
      s.errors += f.kind().severity == Severity::error ? 1 : 0;
      s.warnings += f.kind().severity == Severity::warning ? 1 : 0;
    }
    return s;
  }

  static double size_of(const job::Design& design) {
    double sum = 0;
    for (const job::Gear& g : design.gears) {
      if (!g.teeth.is_rack()) sum += g.teeth.module() * g.teeth.count();
    }
    for (const job::Reducer& r : design.reducers)
      sum += r.made.spec().roller_circle_diameter + r.made.spec().roller_diameter;
    return sum / job::mm_per(design.units);
  }

  void tell(std::vector<Numbers> solutions, Found& found) const {
    // The findings of all of very many would take long: those that rank first by the rest are looked into.
    constexpr std::size_t kLooked = 6000;
    const auto before = [&](const Numbers& n) {
      double whole = 0;
      std::size_t decimals = 0;
      for (std::size_t i = 0; i < n.numbers.size(); ++i) {
        decimals += decimals_of(question_.unknowns()[i], n.numbers[i]);
        if (question_.unknowns()[i].whole()) whole += n.numbers[i];
      }
      return std::tuple(aims_ ? -n.aim : 0, decimals, whole);
    };
    if (solutions.size() > kLooked) {
      std::stable_sort(solutions.begin(), solutions.end(),
                       [&](const Numbers& a, const Numbers& b) { return before(a) < before(b); });
    }
    if (solutions.size() > std::max(kLooked, 4 * request_.most)) solutions.resize(std::max(kLooked, 4 * request_.most));
    std::vector<std::optional<Solution>> each(solutions.size());
    for_each_index(solutions.size(), [&](std::size_t i) { each[i] = told(solutions[i]); });
    std::vector<std::size_t> order(solutions.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    const auto rank = [&](std::size_t i) {
      constexpr double kAlike = 1e-10;  // of the aim: what a search leaves is no difference
      const double aim = aims_ ? -std::round(solutions[i].aim / kAlike) * kAlike : 0;
      return std::tuple(each[i]->errors > 0, aim, each[i]->decimals, each[i]->size);
    };
    order.erase(std::remove_if(order.begin(), order.end(), [&](std::size_t i) { return !each[i]; }), order.end());
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return rank(a) < rank(b); });
    for (const std::size_t i : order) {
      if (found.solutions.size() == request_.most) break;
      found.solutions.push_back(std::move(*each[i]));
    }
  }

  const Question& question_;
  const FindRequest& request_;
  std::vector<std::size_t> continuous_, listed_;  // places of unknowns
  bool aims_ = false;
  std::size_t equalities_ = 0;
};

void refuse_where(bool missing, const char* id, const char* key, const char* message) {
  if (missing) throw job::JobError({{id, {}, key, message}});
}

}  // namespace

Found find(const job::Values& values, const FindRequest& request) {
  const Question question(values);
  refuse_where(question.unknowns().empty(), "nothing-to-find", "",
               "nothing is left open in this job; write \"find\" in place of the values to be found");
  refuse_where(question.wants().empty(), "no-want", "want",
               "the job says nothing of what is wanted; add a table [want] with, say, pair.NAME.center_distance = 50");
  return Finder(question, request).run();
}

}  // namespace palio::solve
