// What a printed coupon says of the machine that made it: a [process] table, and how many prints will turn.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/values/values.hpp"

namespace palio::solve {

/// A number and its standard deviation.
struct Estimate {
  double value, uncertainty;
};

/// What was found of the making. Lengths in the units of the job.
struct Process {
  struct Hole {
    double diameter;     ///< as drawn
    Estimate allowance;  ///< by how much it comes out smaller
    int readings;
    double contradiction;  ///< by how many of its uncertainties a reading of it is off at most
  };
  struct Size {
    std::string of;
    double nominal, is, fitted, sigmas;  ///< as drawn, as measured, as the fit has it
  };
  struct Turned {
    std::string pair;
    double play;  ///< circumferential, as designed
    double prints, turned;
    double share;  ///< of prints that will turn at that play, by the fit
  };
  struct PlayFor {
    double share, play;  ///< so much play lets this share of prints turn
  };

  std::vector<Hole> holes;  ///< by diameter
  std::vector<Size> sizes;
  std::optional<Estimate> surface_offset;
  std::optional<Estimate> shrinkage;  ///< radial; none where the sizes are too alike to tell it from the offset
  std::vector<Turned> turned;         ///< by play
  std::optional<Estimate> needed;     ///< the play at which half of the prints turn
  std::vector<PlayFor> plays;         ///< for 50, 90, 95 and 99 % of prints
  bool contradiction = false;         ///< readings of one thing, or of all sizes, that cannot all be right
  job::Units units = job::Units::mm;
};

/// Whether a job's measurements are of a coupon: holes as drawn and found, pairs that turn or not.
bool is_coupon(const job::Values& values);

/// \throws JobError where a measurement says too little, or of a thing the coupon has not
Process recover_process(const job::Values& values);

/// The table, to stand in a job.
std::string process_toml(const Process& process, const std::string& source);
std::string process_text(const Process& process);
std::string process_json(const Process& process);

}  // namespace palio::solve
