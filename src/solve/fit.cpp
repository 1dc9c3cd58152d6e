#include "fit.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <boost/math/distributions/chi_squared.hpp>

#include "palio/error.hpp"

namespace palio::solve {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

/// Measurements that one job can say all of: no two ask for another number at the same place.
std::vector<std::vector<std::size_t>> together(const std::vector<Taken>& taken) {
  std::vector<std::vector<std::size_t>> groups;
  std::vector<std::map<std::string, double>> said;
  for (std::size_t i = 0; i < taken.size(); ++i) {
    std::size_t g = 0;
    for (; g < groups.size(); ++g) {
      const bool clash = std::any_of(taken[i].during.begin(), taken[i].during.end(), [&](const auto& d) {
        const auto it = said[g].find(d.first);
        return it != said[g].end() && it->second != d.second;
      });
      if (!clash) break;
    }
    if (g == groups.size()) groups.emplace_back(), said.emplace_back();
    groups[g].push_back(i);
    said[g].insert(taken[i].during.begin(), taken[i].during.end());
  }
  return groups;
}

/// Places all over what an unknown may plausibly be.
double start_of(const Unknown& unknown, std::size_t start, std::size_t which) {
  const double value = spread(start, which);
  const std::string key = unknown.word();
  constexpr double kLeastModule = 0.2, kGreatestModule = 12;
  if (key == "module") return kLeastModule * std::pow(kGreatestModule / kLeastModule, value);
  if (key == "pressure_angle") return 14 + 12 * value;
  if (key.find("shift") != std::string::npos) return -0.8 + 2 * value;
  if (key.find("allowance") != std::string::npos) return -0.3 * value;
  return unknown.number(value);
}

}  // namespace

double chance_of(double chi2, std::size_t degrees) {
  if (degrees == 0) return 1;
  return boost::math::cdf(boost::math::complement(boost::math::chi_squared(static_cast<double>(degrees)), chi2));
}

std::optional<std::vector<double>> read_all(const Question& question, const std::vector<Taken>& taken,
                                            const std::vector<double>& numbers) {
  std::vector<double> all = numbers;
  if (!question.complete(all)) return std::nullopt;
  std::vector<double> readings(taken.size());
  for (const std::vector<std::size_t>& group : together(taken)) {
    auto said = question.named(all);
    for (const std::size_t i : group)
      said.insert(said.end(), taken[i].during.begin(), taken[i].during.end());
    try {
      const job::Design design = job::resolve(question.values().with(said));
      job::Inquiry inquiry(design);
      for (const std::size_t i : group) {
        const auto is = taken[i].term.of(design, inquiry);
        if (!is) return std::nullopt;
        readings[i] = *is;
      }
    } catch (const job::JobError&) {
      question.keep(std::current_exception());
      return std::nullopt;
    } catch (const InvalidParameter& e) {
      const job::Measurement* first = taken[group[0]].said;
      question.keep_of_path(first ? first->where : job::Where{}, "measured",
                            std::string(e.given()) + ": " + e.allowed() + "; " + e.remedy());
      return std::nullopt;
    }
  }
  return readings;
}

Fit::Fit(const Question& question, std::vector<Taken> taken, std::map<std::size_t, double> fixed)
    : question_(question), taken_(std::move(taken)), fixed_(std::move(fixed)) {
  for (std::size_t i = 0; i < question.unknowns().size(); ++i) {
    if (question.free(i) && question.unknowns()[i].continuous() && fixed_.count(i) == 0) free_.push_back(i);
  }
}

double Fit::plausible(const Unknown& unknown, double number) {
  const std::string key = unknown.word();
  if (key.find("angle") != std::string::npos) return 5;
  if (key.find("shift") != std::string::npos) return 1;
  if (key.find("allowance") != std::string::npos || key.find("backlash") != std::string::npos) return 0.5;
  return 0.5 * std::max(std::abs(number), 0.1);
}

std::optional<std::vector<double>> Fit::readings(const std::vector<double>& numbers) const {
  return read_all(question_, taken_, numbers);
}

MatrixXd Fit::slopes(const Question& question, const std::vector<Taken>& taken, const std::vector<std::size_t>& free,
                     const std::vector<double>& numbers) {
  constexpr double kStep = 1e-5;  // of what is plausible
  const auto rows = static_cast<Eigen::Index>(taken.size());
  MatrixXd j = MatrixXd::Zero(rows, static_cast<Eigen::Index>(free.size()));
  const auto here = read_all(question, taken, numbers);
  if (!here) return j;
  for (std::size_t k = 0; k < free.size(); ++k) {
    const double step = kStep * plausible(question.unknowns()[free[k]], numbers[free[k]]);
    std::vector<double> up = numbers, down = numbers;
    up[free[k]] += step, down[free[k]] -= step;
    const auto above = read_all(question, taken, up), below = read_all(question, taken, down);
    const std::vector<double>&plus = above ? *above : *here, &minus = below ? *below : *here;
    const double across = kStep * ((above ? 1 : 0) + (below ? 1 : 0));
    for (Eigen::Index i = 0; i < rows && across > 0; ++i) {
      const auto n = static_cast<std::size_t>(i);
      j(i, static_cast<Eigen::Index>(k)) = (plus[n] - minus[n]) / across / taken[n].sigma;
    }
  }
  return j;
}

MatrixXd Fit::slopes(const std::vector<double>& numbers) const { return slopes(question_, taken_, free_, numbers); }

/// Gauss and Newton to the last digits, by the shortest step where something is left open, halved where it leads
/// astray. The robust sum by weights that fall with the miss (Cauchy's).
std::optional<Fitted> Fit::settled(std::vector<double> numbers, Loss loss) const {
  constexpr double kGross = 3;  // from so many standard deviations on a miss counts for less
  const auto missed = [&](const std::vector<double>& is) {
    VectorXd r(static_cast<Eigen::Index>(is.size()));
    for (std::size_t i = 0; i < is.size(); ++i)
      r[static_cast<Eigen::Index>(i)] = (is[i] - taken_[i].is) / taken_[i].sigma;
    return r;
  };
  const auto sum = [&](const VectorXd& r) {
    if (loss == Loss::squares) return r.squaredNorm();
    return kGross * kGross * (1 + (r / kGross).array().square()).log().sum();
  };
  auto is = readings(numbers);
  if (!is) return std::nullopt;
  VectorXd r = missed(*is);
  constexpr int kMostSteps = 60;
  for (int step = 0; step < kMostSteps && !free_.empty(); ++step) {
    VectorXd weights = VectorXd::Ones(r.size());
    if (loss == Loss::robust) weights = (1 + (r / kGross).array().square()).rsqrt().matrix();
    Eigen::CompleteOrthogonalDecomposition<MatrixXd> by;
    constexpr double kFlat = 1e-7;  // of the steepest: what changes less is left open
    by.setThreshold(kFlat);
    by.compute(weights.asDiagonal() * slopes(numbers));
    const VectorXd change = by.solve(weights.cwiseProduct(r));
    bool better = false;
    double share = 1;
    for (int halving = 0; halving < 12 && !better; ++halving, share *= 0.5) {
      std::vector<double> next = numbers;
      for (std::size_t k = 0; k < free_.size(); ++k) {
        const Unknown& u = question_.unknowns()[free_[k]];
        next[free_[k]] -= share * change[static_cast<Eigen::Index>(k)] * plausible(u, numbers[free_[k]]);
        next[free_[k]] = std::clamp(next[free_[k]], u.least(), u.greatest());
      }
      auto there = readings(next);
      if (!there) continue;
      const VectorXd then = missed(*there);
      const double gain = sum(r) - sum(then);
      if (gain <= 0) continue;
      better = true;
      constexpr double kLittle = 1e-13;
      numbers = std::move(next), is = std::move(there), r = then;
      if (gain < kLittle * (1 + sum(r))) step = kMostSteps;
    }
    if (!better) break;
  }
  question_.complete(numbers);
  return Fitted{std::move(numbers), std::move(*is), r.squaredNorm(), sum(r)};
}

std::optional<Fitted> Fit::from(const std::vector<double>& numbers, Loss loss) const {
  std::vector<double> start = numbers;
  for (const auto& [unknown, number] : fixed_)
    start[unknown] = number;
  return settled(std::move(start), loss);
}

std::optional<Fitted> Fit::anywhere(Loss loss) const {
  const auto& unknowns = question_.unknowns();
  // Choices of lists, and places all over of what is continuous.
  std::vector<std::size_t> lists;
  for (std::size_t i = 0; i < unknowns.size(); ++i) {
    if (question_.free(i) && !unknowns[i].continuous() && fixed_.count(i) == 0) lists.push_back(i);
  }
  double count = 1;
  for (const std::size_t i : lists)
    count *= static_cast<double>(unknowns[i].among().size());
  constexpr double kMostChoices = 2000;
  if (count > kMostChoices)
    throw InvalidParameter("find",
                           std::to_string(static_cast<long long>(count)) + " choices of whole numbers and lists",
                           "2000 are fitted at most", "narrow them: \"find 16..18\", say");
  std::vector<double> start(unknowns.size(), 0);
  for (std::size_t i = 0; i < unknowns.size(); ++i)
    start[i] = unknowns[i].usual().value_or(unknowns[i].number(0.5));
  // Places all over are looked at, and those gone down from that begin best.
  const std::size_t places = free_.empty() ? 0 : count > 60 ? 6 : 16 * free_.size();
  const std::size_t most = count > 60 ? 2 : 6;
  std::optional<Fitted> best;
  for (std::size_t choice = 0; choice < static_cast<std::size_t>(count); ++choice) {
    std::size_t rest = choice;
    std::vector<double> numbers = start;
    for (const std::size_t i : lists) {
      numbers[i] = unknowns[i].among()[rest % unknowns[i].among().size()];
      rest /= unknowns[i].among().size();
    }
    std::vector<std::pair<double, std::vector<double>>> starts;
    for (std::size_t s = 0; s <= places; ++s) {
      std::vector<double> at = numbers;
      for (std::size_t k = 0; s > 0 && k < free_.size(); ++k)
        at[free_[k]] = start_of(unknowns[free_[k]], s, k);
      at = begun(std::move(at), s % 2 == 0);  // what is measured may be the mistake
      const double missed = loss_at(at);
      if (std::isfinite(missed)) starts.emplace_back(missed, std::move(at));
    }
    std::stable_sort(starts.begin(), starts.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t s = 0; s < std::min(most, starts.size()); ++s) {
      auto fitted = from(starts[s].second, loss);
      if (!fitted) continue;
      constexpr double kSame = 1e-6;
      const bool again = best && std::abs(fitted->loss - best->loss) < kSame * best->loss;
      if (!best || fitted->loss < best->loss) best = std::move(fitted);
      // A fit as good as sound measurements give is no side valley; nor is one that is come to again.
      if (best->chi2 < 2.0 * static_cast<double>(taken_.size()) || again) break;
    }
  }
  return best;
}

std::vector<double> Fit::begun(std::vector<double> numbers, bool as_measured) const {
  for (const auto& [unknown, number] : fixed_)
    numbers[unknown] = number;
  for (const std::size_t i : free_) {
    const Unknown& u = question_.unknowns()[i];
    const auto measured =
        std::find_if(taken_.begin(), taken_.end(), [&](const Taken& t) { return t.term.said() == u.path(); });
    if (as_measured && measured != taken_.end()) {
      numbers[i] = std::clamp(measured->is, u.least(), u.greatest());
    } else if (u.length() && u.usual()) {
      try {
        const job::Design design = job::resolve(question_.values().with(question_.named(numbers)).without({u.path()}));
        job::Inquiry inquiry(design);
        if (const auto usual = number_at(design, inquiry, u.path())) numbers[i] = *usual;
      } catch (const job::JobError&) {
        continue;  // no such job: it stays where it is
      } catch (const InvalidParameter&) {
        continue;
      }
    }
  }
  return numbers;
}

double Fit::loss_at(const std::vector<double>& numbers) const {
  const auto is = readings(numbers);
  if (!is) return std::numeric_limits<double>::infinity();
  double sum = 0;
  for (std::size_t i = 0; i < is->size(); ++i) {
    // Far from any fit: what counts is how many are about right, and of their own size.
    const double off = ((*is)[i] - taken_[i].is) / std::max(0.02 * std::abs(taken_[i].is), taken_[i].sigma);
    sum += std::log1p(off * off);
  }
  return sum;
}

}  // namespace palio::solve
