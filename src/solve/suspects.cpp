#include "suspects.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "parallel.hpp"

namespace palio::solve {
namespace {

/// What a measurement would have been without a mistake, and how well all fit then.
struct Theory {
  std::size_t index;
  Slip slip;
  double would_be;
  double score;  // χ², and what the freedom of the theory itself costs: the less the better
};

/// A mistake that leaves another number open costs as much as that number could explain by chance; so do digits, of
/// which there are several to swap.
constexpr double kOfWorn = 8, kOfUnexplained = 10, kOfDigits = 3;
/// The next measurement's best theory has to be worse by so much.
constexpr double kApart = 5;
/// With the mistake taken back the rest has to fit as sound measurements do, save one in a thousand.
constexpr double kFits = 1e-3;

bool fits(double chi2, std::size_t degrees) { return chance_of(chi2, degrees) > kFits; }

bool is_span(const Taken& t) { return t.term.said().find(".span.") != std::string::npos; }

/// Sizes that lose material.
bool wears(const Taken& t) {
  for (const char* what : {".span.", ".over_pins.", ".over_balls.", ".tip_diameter", ".outer_tip_diameter"}) {
    if (t.term.said().find(what) != std::string::npos) return true;
  }
  return false;
}
/// Plays and openings that grow.
bool opens(const Taken& t) {
  for (const char* what : {"backlash", ".between_pins.", ".between_balls."}) {
    if (t.term.said().find(what) != std::string::npos) return true;
  }
  return false;
}

/// All numbers with two neighbouring digits of this one swapped.
std::vector<double> swapped(double number) {
  std::string digits = fmt::format("{:.10g}", number);
  std::vector<double> all;
  for (std::size_t i = 0; i + 1 < digits.size(); ++i) {
    std::size_t next = i + 1;
    if (digits[next] == '.' && next + 1 < digits.size()) ++next;
    if (!std::isdigit(static_cast<unsigned char>(digits[i])) ||
        !std::isdigit(static_cast<unsigned char>(digits[next])) || digits[i] == digits[next])
      continue;
    std::string other = digits;
    std::swap(other[i], other[next]);
    all.push_back(std::stod(other));
  }
  // A trailing 0 is not written: "12.50" as 12.5.
  if (digits.find('.') != std::string::npos) {
    std::string other = digits + "0";
    std::swap(other[other.size() - 2], other[other.size() - 1]);
    all.push_back(std::stod(other));
  }
  return all;
}

class Court {
 public:
  Court(const Question& question, const std::vector<Taken>& taken, const std::vector<double>& start,
        std::size_t degrees)
      : question_(question), taken_(taken), degrees_(degrees), start_(start) {
    const Fit all(question, taken);
    const auto is = read_all(question, taken, start);
    const auto count = static_cast<Eigen::Index>(taken.size());
    missed_ = Eigen::VectorXd::Zero(count);
    for (std::size_t i = 0; is && i < taken.size(); ++i)
      missed_[static_cast<Eigen::Index>(i)] = ((*is)[i] - taken[i].is) / taken[i].sigma;
    // What no change of the unknowns can take up.
    const Eigen::JacobiSVD<Eigen::MatrixXd> svd(all.slopes(start), Eigen::ComputeThinU);
    constexpr double kFlat = 1e-7;
    Eigen::Index rank = 0;
    while (rank < svd.singularValues().size() && svd.singularValues()[rank] > kFlat * svd.singularValues()[0])
      ++rank;
    const Eigen::MatrixXd taken_up = svd.matrixU().leftCols(rank);
    left_ = Eigen::MatrixXd::Identity(count, count) - taken_up * taken_up.transpose();
  }

  std::optional<Recovered::Suspect> verdict() {
    std::vector<std::optional<Theory>> best_of(taken_.size());
    for_each_index(taken_.size(), [&](std::size_t i) {
      for (const Theory& t : theories(i)) {
        if (!best_of[i] || t.score < best_of[i]->score) best_of[i] = t;
      }
    });
    const Theory* first = nullptr;
    double next = std::numeric_limits<double>::infinity();
    for (const auto& t : best_of) {
      if (!t) continue;
      if (!first || t->score < first->score) {
        if (first) next = std::min(next, first->score);
        first = &*t;
      } else {
        next = std::min(next, t->score);
      }
    }
    if (!first || next - first->score < kApart) return std::nullopt;
    return Recovered::Suspect{first->index, taken_[first->index].said->of, first->slip, first->would_be};
  }

 private:
  std::vector<Theory> theories(std::size_t i) const {
    std::vector<Theory> all;
    const auto with_number = [&](Slip slip, double would_be) {
      if (!likely(i, (taken_[i].is - would_be) / taken_[i].sigma)) return;
      std::vector<Taken> changed = taken_;
      changed[i].is = would_be;
      if (const auto fitted = fit(std::move(changed)); fitted && fits(fitted->chi2, degrees_))
        all.push_back({i, slip, would_be, fitted->chi2 + (slip == Slip::digits_swapped ? kOfDigits : 0)});
    };
    const Taken& t = taken_[i];
    if (is_span(t)) {
      for (const double more : {-1.0, 1.0})
        miscounted(i, more, all);
    }
    const std::string unit = t.term.unit(question_.tables().units);
    if (unit == "mm" || unit == "in") {
      with_number(Slip::radius_for_diameter, 2 * t.is);
      with_number(Slip::wrong_unit, 25.4 * t.is);
      with_number(Slip::wrong_unit, t.is / 25.4);
    }
    // In the digits as they were written, in the unit they were written in.
    const double unit_factor = t.said->is != 0 ? t.is / t.said->is : 1;
    for (const double other : swapped(t.said->is))
      with_number(Slip::digits_swapped, other * unit_factor);
    left_out(i, all);
    return all;
  }

  /// As if over one tooth more or fewer than was said.
  void miscounted(std::size_t i, double more, std::vector<Theory>& all) const {
    std::vector<Taken> changed = taken_;
    for (auto& [path, number] : changed[i].during) {
      if (path.find("span_teeth") != std::string::npos) number += more;
      if (number < 1) return;
    }
    const auto before = read_all(question_, {taken_[i], changed[i]}, start_);
    if (!before || !likely(i, ((*before)[1] - (*before)[0]) / taken_[i].sigma)) return;
    const auto fitted = fit(std::move(changed));
    if (!fitted || !fits(fitted->chi2, degrees_)) return;
    // What the right span reads then.
    const auto right = read_all(question_, {taken_[i]}, fitted->numbers);
    if (right) all.push_back({i, Slip::span_miscounted, (*right)[0], fitted->chi2});
  }

  /// As if it said nothing: worn, where it lost what wear takes, or wrong in some other way.
  void left_out(std::size_t i, std::vector<Theory>& all) const {
    if (degrees_ < 1) return;
    const auto n = static_cast<Eigen::Index>(i);
    constexpr double kNothing = 1e-9;
    if (left_(n, n) > kNothing && !likely(i, -(left_ * missed_)[n] / left_(n, n))) return;
    std::vector<Taken> rest = taken_;
    rest.erase(rest.begin() + static_cast<std::ptrdiff_t>(i));
    const auto fitted = fit(std::move(rest));
    if (!fitted || !fits(fitted->chi2, degrees_ - 1)) return;
    const auto right = read_all(question_, {taken_[i]}, fitted->numbers);
    if (!right) return;
    const double lost = (*right)[0] - taken_[i].is;
    constexpr double kMostWear = 0.1;  // of the size; a play may be anything
    const bool worn =
        (wears(taken_[i]) && lost > 0 && lost < kMostWear * std::abs((*right)[0])) || (opens(taken_[i]) && lost < 0);
    all.push_back(
        {i, worn ? Slip::worn : Slip::unexplained, (*right)[0], fitted->chi2 + (worn ? kOfWorn : kOfUnexplained)});
  }

  /// Whether all may fit where one miss is greater by so much: in the linear, and far from strictly.
  bool likely(std::size_t i, double more) const {
    Eigen::VectorXd then = missed_;
    then[static_cast<Eigen::Index>(i)] += more;
    constexpr double kLoose = 100;
    return (left_ * then).squaredNorm() < kLoose + 10 * static_cast<double>(degrees_);
  }

  std::optional<Fitted> fit(std::vector<Taken> taken) const { return Fit(question_, std::move(taken)).from(start_); }

  const Question& question_;
  const std::vector<Taken>& taken_;
  std::size_t degrees_;
  std::vector<double> start_;  // where most measurements agree
  Eigen::VectorXd missed_;     // there, in units of the uncertainties
  Eigen::MatrixXd left_;       // of a vector of misses, what is left after a fit in the linear
};

}  // namespace

std::string name(Slip slip) {
  switch (slip) {
    case Slip::span_miscounted: return "span_miscounted";
    case Slip::radius_for_diameter: return "radius_for_diameter";
    case Slip::digits_swapped: return "digits_swapped";
    case Slip::wrong_unit: return "wrong_unit";
    case Slip::worn: return "worn";
    case Slip::unexplained: return "unexplained";
  }
  return "";
}

std::optional<Recovered::Suspect> suspect_of(const Question& question, const std::vector<Taken>& taken,
                                             const std::vector<double>& start, std::size_t degrees) {
  return Court(question, taken, start, degrees).verdict();
}

}  // namespace palio::solve
