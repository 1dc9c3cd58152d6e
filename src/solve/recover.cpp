#include "palio/solve/recover.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "fit.hpp"
#include "palio/error.hpp"
#include "suspects.hpp"
#include "taken.hpp"

namespace palio::solve {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

/// What the measurements say of each free unknown near a fit.
class Certainty {
 public:
  Certainty(const MatrixXd& slopes, std::size_t unknowns) {
    MatrixXd padded = MatrixXd::Zero(std::max(slopes.rows(), static_cast<Eigen::Index>(unknowns)),
                                     static_cast<Eigen::Index>(unknowns));
    padded.topRows(slopes.rows()) = slopes;
    if (unknowns == 0) return;
    const Eigen::JacobiSVD<MatrixXd> svd(padded, Eigen::ComputeThinV | Eigen::ComputeThinU);
    ways_ = svd.matrixV();
    sharpness_ = svd.singularValues();
  }

  /// A direction is left open where its standard deviation is beyond this share of what is plausible.
  static constexpr double kOpen = 0.3;
  /// Less of a direction than this is no part of it.
  static constexpr double kPart = 0.03;

  /// How many directions the measurements say anything of, however little: as many are fitted.
  std::size_t rank() const {
    constexpr double kFlat = 1e-7;
    if (sharpness_.size() == 0) return 0;
    const double least = kFlat * sharpness_.maxCoeff();
    return static_cast<std::size_t>(
        std::count_if(sharpness_.data(), sharpness_.data() + sharpness_.size(), [&](double s) { return s > least; }));
  }
  /// The largest standard deviation of any direction, in shares of what is plausible.
  double worst() const {
    const double least = sharpness_.size() > 0 ? sharpness_.minCoeff() : 1;
    return least > 0 ? 1 / least : std::numeric_limits<double>::infinity();
  }
  bool open(std::size_t unknown) const {
    for (Eigen::Index w = 0; w < sharpness_.size(); ++w) {
      if (is_open(w) && std::abs(ways_(static_cast<Eigen::Index>(unknown), w)) > kPart) return true;
    }
    return false;
  }
  /// One standard deviation, in shares of what is plausible; by the directions that are not left open.
  double deviation(std::size_t unknown) const {
    double sum = 0;
    for (Eigen::Index w = 0; w < sharpness_.size(); ++w) {
      if (is_open(w)) continue;
      const double part = ways_(static_cast<Eigen::Index>(unknown), w) / sharpness_[w];
      sum += part * part;
    }
    return std::sqrt(sum);
  }
  std::vector<VectorXd> open_ways() const {
    std::vector<VectorXd> all;
    for (Eigen::Index w = 0; w < sharpness_.size(); ++w) {
      if (is_open(w)) all.emplace_back(ways_.col(w));
    }
    return all;
  }

 private:
  bool is_open(Eigen::Index way) const { return sharpness_[way] * kOpen < 1; }

  MatrixXd ways_;
  VectorXd sharpness_;
};

class Recovery {
 public:
  Recovery(const Question& question, std::vector<Taken> taken) : question_(question), taken_(std::move(taken)) {}

  Recovered run(bool as_new) {
    const Fit all(question_, taken_);
    auto best = all.anywhere();
    if (!best) question_.refuse();
    // A gross mistake drags the fit far off: where most measurements agree is a better place to begin.
    std::vector<double> agreed = best->numbers;
    constexpr double kGross = 400;
    if (best->chi2 > kGross) {
      auto robust = all.anywhere(Loss::robust);
      const auto from_best = all.from(best->numbers, Loss::robust);
      if (from_best && (!robust || from_best->loss < robust->loss)) robust = from_best;
      if (robust) agreed = robust->numbers;
      if (auto again = all.from(agreed); again && again->chi2 < best->chi2) best = std::move(again);
    }
    Recovered found;
    found.units = question_.tables().units;
    const std::size_t rank = Certainty(all.slopes(best->numbers), all.free().size()).rank();
    found.degrees_of_freedom = taken_.size() > rank ? taken_.size() - rank : 0;
    found.chance = chance_of(best->chi2, found.degrees_of_freedom);
    // One in a hundred sound sets of measurements is called wrong so.
    constexpr double kTooRare = 0.01;
    // With nothing left over to check by, all are met, or no gear at all is so.
    constexpr double kMet = 1;
    found.contradiction = found.degrees_of_freedom > 0 ? found.chance < kTooRare : best->chi2 > kMet;
    if (found.contradiction && found.degrees_of_freedom > 0)
      found.suspect = suspect_of(question_, taken_, agreed, found.degrees_of_freedom);
    std::vector<Taken> sound = taken_;
    if (found.suspect) sound.erase(sound.begin() + static_cast<std::ptrdiff_t>(found.suspect->index));
    const Fit fit(question_, std::move(sound));
    if (found.suspect) best = fit.from(agreed);
    if (best) tell(fit, *best, as_new, found);
    if (!best || found.measured.empty()) question_.refuse();
    return found;
  }

 private:
  double plausible(std::size_t unknown, const std::vector<double>& numbers) const {
    return Fit::plausible(question_.unknowns()[unknown], numbers[unknown]);
  }

  /// Values, readings, what is open and what is near, by a fit of the sound measurements.
  void tell(const Fit& fit, const Fitted& fitted, bool as_new, Recovered& found) const {
    const Certainty sure(fit.slopes(fitted.numbers), fit.free().size());
    if (!found.contradiction || found.suspect) find_snaps(fitted, sure, fit, found);
    const Fitted now = as_new ? as_new_of(fitted, fit, found) : fitted;
    const auto is = read_all(question_, taken_, now.numbers);
    if (!is) return;
    tell_values(now, fit, sure, found);
    tell_readings(*is, found);
    tell_open(now, fit, sure, found);
  }

  void tell_values(const Fitted& best, const Fit& fit, const Certainty& sure, Recovered& found) const {
    for (std::size_t i = 0; i < question_.unknowns().size(); ++i) {
      const Unknown& u = question_.unknowns()[i];
      const auto it = std::find(fit.free().begin(), fit.free().end(), i);
      const auto k = static_cast<std::size_t>(it - fit.free().begin());
      Recovered::Value value{u.path(), best.numbers[i], std::nullopt, !u.continuous()};
      if (it != fit.free().end() && !sure.open(k)) value.uncertainty = sure.deviation(k) * plausible(i, best.numbers);
      found.values.push_back(value);
      if (it != fit.free().end() && sure.open(k)) found.undetermined.push_back(u.path());
    }
  }

  void tell_readings(const std::vector<double>& fitted, Recovered& found) const {
    for (std::size_t i = 0; i < taken_.size(); ++i) {
      const double residual = taken_[i].is - fitted[i];
      found.measured.push_back({taken_[i].said->of, taken_[i].is, fitted[i], residual, residual / taken_[i].sigma});
      found.chi2 += residual * residual / (taken_[i].sigma * taken_[i].sigma);
    }
  }

  /// Which standard sizes are near, and what each costs.
  void find_snaps(const Fitted& best, const Certainty& sure, const Fit& fit, Recovered& found) const {
    for (std::size_t k = 0; k < fit.free().size(); ++k) {
      const std::size_t i = fit.free()[k];
      const Unknown& u = question_.unknowns()[i];
      const double from = best.numbers[i];
      const auto to = standard_near(u.word(), from);
      constexpr double kFar = 0.06;  // of what is plausible: beyond it is no snap but another size
      const double far =
          std::max(kFar * plausible(i, best.numbers), 4 * sure.deviation(k) * plausible(i, best.numbers));
      if (!to || std::abs(*to - from) > far || *to == from) continue;
      const auto snapped = Fit(question_, fit.taken(), {{i, *to}}).from(best.numbers);
      if (snapped) found.snaps.push_back({u.path(), from, *to, std::max(0.0, snapped->chi2 - best.chi2)});
    }
  }

  static std::optional<double> standard_near(const std::string& key, double number) {
    job::Series series = job::standard_series(key);
    if (key == "profile_shift") series = {{0}, {}};
    if (key == "addendum") series = {{0.8, 1}, {}};
    if (key == "dedendum") series = {{1, 1.157, 1.2, 1.25, 1.4}, {}};
    return series.nearest(number);
  }

  /// With the standard sizes put in that cost little, one after the other.
  Fitted as_new_of(const Fitted& best, const Fit& fit, const Recovered& found) const {
    std::map<std::size_t, double> fixed;
    Fitted now = best;
    constexpr double kLittle = 4;  // of χ²: two standard deviations
    for (const Recovered::Snap& snap : found.snaps) {
      for (std::size_t i = 0; i < question_.unknowns().size(); ++i) {
        if (question_.unknowns()[i].path() != snap.path) continue;
        auto with = fixed;
        with[i] = snap.to;
        const auto fitted = Fit(question_, fit.taken(), with).from(now.numbers);
        if (fitted && fitted->chi2 - best.chi2 <= kLittle * static_cast<double>(with.size()))
          fixed = std::move(with), now = *fitted;
      }
    }
    return now;
  }

  /// What is left open, along what, and which single further measurement would settle it.
  void tell_open(const Fitted& best, const Fit& fit, const Certainty& sure, Recovered& found) const {
    for (const VectorXd& way : sure.open_ways()) {
      std::string words;
      Eigen::Index most = 0;
      way.cwiseAbs().maxCoeff(&most);
      const double unit = way[most] * plausible(fit.free()[static_cast<std::size_t>(most)], best.numbers);
      for (std::size_t k = 0; k < fit.free().size(); ++k) {
        if (std::abs(way[static_cast<Eigen::Index>(k)]) < Certainty::kPart) continue;
        const double change = way[static_cast<Eigen::Index>(k)] * plausible(fit.free()[k], best.numbers) / unit;
        words +=
            fmt::format("{}{} {:+.4g}", words.empty() ? "" : ", ", question_.unknowns()[fit.free()[k]].path(), change);
      }
      found.combinations.push_back(words);
    }
    if (found.undetermined.empty()) return;
    const MatrixXd have = fit.slopes(best.numbers);
    for (const Taken& more : candidates()) {
      const MatrixXd row = Fit::slopes(question_, {more}, fit.free(), best.numbers);
      MatrixXd both(have.rows() + 1, have.cols());
      both << have, row;
      const Certainty then(both, fit.free().size());
      constexpr double kMargin = 0.5;  // the measurement itself may move the fit to where it says less
      if (then.worst() < kMargin * Certainty::kOpen) found.would_settle.push_back({more.term.said(), then.worst()});
    }
    std::stable_sort(found.would_settle.begin(), found.would_settle.end(),
                     [](const auto& a, const auto& b) { return a.uncertainty < b.uncertainty; });
    const auto same = [](const auto& a, const auto& b) { return a.path == b.path; };
    found.would_settle.erase(std::unique(found.would_settle.begin(), found.would_settle.end(), same),
                             found.would_settle.end());
  }

  /// What else a hand could measure of this job, with a caliper.
  std::vector<Taken> candidates() const {
    std::vector<std::string> paths;
    for (const job::Settings& g : question_.tables().gears) {
      for (const char* what : {"tip_diameter", "root_diameter", "span.length", "over_pins.length", "over_balls.length",
                               "between_balls.length", "helix_angle_deg", "pressure_angle_deg", "normal_base_pitch"})
        paths.push_back("gear." + g.name + "." + what);
    }
    for (const job::Settings& p : question_.tables().pairs) {
      for (const char* what :
           {"center_distance", "mounted_center_distance", "circumferential_backlash", "normal_backlash"})
        paths.push_back("pair." + p.name + "." + what);
    }
    std::vector<Taken> all;
    for (const std::string& path : paths) {
      const bool had = std::any_of(taken_.begin(), taken_.end(), [&](const Taken& t) { return t.term.said() == path; });
      const std::string unit = job::reading_unit(path, question_.tables().units);
      constexpr double kCaliper = 0.02, kProtractor = 0.1;
      const double sigma = unit == "°" ? kProtractor : unit == "in" ? kCaliper / 25.4 : kCaliper;
      if (!had) all.push_back({Term(path), {}, 0, sigma, nullptr});
    }
    return all;
  }

  const Question& question_;
  std::vector<Taken> taken_;
};

}  // namespace

std::vector<std::pair<std::string, double>> Recovered::numbers() const {
  std::vector<std::pair<std::string, double>> all;
  for (const Value& v : values)
    all.emplace_back(v.path, v.value);
  return all;
}

namespace {

/// That no more teeth are spanned than there are, where the job says how many there are.
void check_spanned(const job::Tables& tables, std::size_t index) {
  const job::Measurement& m = tables.measured[index];
  const auto parts = job::parts_of_path(m.of);
  const job::Settings* gear = m.teeth && parts && parts->head == "gear" ? tables.gear(parts->name) : nullptr;
  const job::Value* teeth = gear ? gear->find("teeth") : nullptr;
  if (teeth && teeth->number > 0 && *m.teeth >= teeth->number)
    refuse(m, index, "teeth", fmt::format("is {:g}, but {} has {:g} in all", *m.teeth, gear->name, teeth->number));
}

}  // namespace

Recovered recover(const job::Values& values, bool as_new) {
  const Question question(values);
  const job::Tables& tables = values.tables();
  if (tables.sought.empty())
    throw job::JobError({{"nothing-to-find",
                          {},
                          "",
                          "nothing is left open in this job; write \"find\" in place of the values to be recovered"}});
  if (tables.measured.empty())
    throw job::JobError({{"nothing-measured",
                          {},
                          "measured",
                          "the job holds no measurement; add tables [[measured]] with of, is and by (palio start "
                          "measurements writes some)"}});
  std::vector<Taken> taken;
  for (std::size_t i = 0; i < tables.measured.size(); ++i)
    check_spanned(tables, i);
  for (std::size_t i = 0; i < tables.measured.size(); ++i)
    taken.push_back(taken_of(tables.measured[i], i, tables.units));
  return Recovery(question, std::move(taken)).run(as_new);
}

}  // namespace palio::solve
