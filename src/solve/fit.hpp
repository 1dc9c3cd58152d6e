// Measurements against a job with values left open. Private to solve.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include <Eigen/Dense>

#include "question.hpp"

namespace palio::solve {

/// One measurement, in the unit of its reading.
struct Taken {
  Term term;                                           // of the number that was read
  std::vector<std::pair<std::string, double>> during;  // what the job has to say so that it is this reading
  double is, sigma;
  const job::Measurement* said;
};

/// How misses add up: by their squares; or as where any measurement may be grossly wrong, so that a few do not drag the
/// others along.
enum class Loss { squares, robust };

/// What a fit came to.
struct Fitted {
  std::vector<double> numbers;  // of each unknown
  std::vector<double> readings;
  double chi2;
  double loss;  ///< what was made least: chi2, or the robust sum
};

/// Of how many sound sets of measurements with so many degrees of freedom the fit is worse: a share. 1 of none.
double chance_of(double chi2, std::size_t degrees);

class Fit {
 public:
  /// \param fixed  unknowns held at a number
  Fit(const Question& question, std::vector<Taken> taken, std::map<std::size_t, double> fixed = {});

  const std::vector<Taken>& taken() const { return taken_; }
  /// Unknowns that are fitted.
  const std::vector<std::size_t>& free() const { return free_; }

  /// From a start that is near, or from all over.
  std::optional<Fitted> from(const std::vector<double>& numbers, Loss loss = Loss::squares) const;
  std::optional<Fitted> anywhere(Loss loss = Loss::squares) const;
  /// Of each measurement in units of its uncertainty, per plausible change of each free unknown.
  Eigen::MatrixXd slopes(const std::vector<double>& numbers) const;
  /// The same of other readings.
  static Eigen::MatrixXd slopes(const Question& question, const std::vector<Taken>& taken,
                                const std::vector<std::size_t>& free, const std::vector<double>& numbers);
  /// What a value may plausibly be off by before anything is measured.
  static double plausible(const Unknown& unknown, double number);

 private:
  std::optional<std::vector<double>> readings(const std::vector<double>& numbers) const;
  /// Numbers to begin from: a size with a default at that of the other numbers, or where it is measured itself at that.
  std::vector<double> begun(std::vector<double> numbers, bool as_measured) const;
  double loss_at(const std::vector<double>& numbers) const;
  std::optional<Fitted> settled(std::vector<double> numbers, Loss loss) const;

  const Question& question_;
  std::vector<Taken> taken_;
  std::map<std::size_t, double> fixed_;
  std::vector<std::size_t> free_;
};

/// What a list of terms comes to on the job with these numbers; each under its own `during`.
std::optional<std::vector<double>> read_all(const Question& question, const std::vector<Taken>& taken,
                                            const std::vector<double>& numbers);

}  // namespace palio::solve
