// A worn or unknown gear found again from what was measured of it: weighted least squares over the values left open.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "palio/values/values.hpp"

namespace palio::solve {

/// The usual mistakes of a hand that measures.
enum class Slip { span_miscounted, radius_for_diameter, digits_swapped, wrong_unit, worn, unexplained };
/// "span_miscounted" …
std::string name(Slip slip);

struct Recovered {
  struct Value {
    std::string path;
    double value;                       ///< in the units of the file
    std::optional<double> uncertainty;  ///< one standard deviation; none where the measurements leave it open
    bool chosen = false;                ///< one of a list: its least squares were the least
  };
  struct Reading {
    std::string of;
    double is, fitted, residual;  ///< in the units of the job
    double sigmas;                ///< the residual in units of its uncertainty
  };
  struct Suspect {
    std::size_t index;  ///< of the measurement, from 0
    std::string of;
    Slip explained_as;
    double would_be;  ///< what it would read without that mistake
  };
  struct Settling {
    std::string path;
    double uncertainty;  ///< of the value it leaves most open then, in shares of what is plausible
  };
  struct Snap {
    std::string path;
    double from, to, chi2_more;
  };

  std::vector<Value> values;      ///< where a measurement is named as wrong, by the others alone
  std::vector<Reading> measured;  ///< in the order of the file
  double chi2 = 0;                ///< of all measurements at these values
  std::size_t degrees_of_freedom = 0;
  double chance = 1;           ///< of a worse fit by sound measurements of these uncertainties
  bool contradiction = false;  ///< the measurements cannot all be right
  std::optional<Suspect> suspect;
  std::vector<std::string> undetermined;  ///< values that the measurements leave open
  std::vector<std::string> combinations;  ///< along what they may change together: "module +1, pressure_angle −3.2"
  std::vector<Settling> would_settle;     ///< single further measurements that would fix all of them, the best first
  std::vector<Snap> snaps;                ///< standard sizes near by
  job::Units units = job::Units::mm;

  /// The values as they are put into the job.
  std::vector<std::pair<std::string, double>> numbers() const;
};

/// \param as_new  with those standard sizes put in that cost little, and the rest fitted again
/// \throws JobError where the job has other mistakes, nothing left open or nothing measured, or no job can be made
Recovered recover(const job::Values& values, bool as_new = false);

std::string recover_text(const Recovered& recovered);
std::string recover_json(const Recovered& recovered);

}  // namespace palio::solve
