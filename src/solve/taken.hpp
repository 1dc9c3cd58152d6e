// A measurement, made ready to be held against a reading. Private to solve.
#pragma once

#include <string>

#include "fit.hpp"
#include "palio/values/values.hpp"

namespace palio::solve {

/// \throws JobError at a key of one measurement
[[noreturn]] void refuse(const job::Measurement& m, std::size_t index, const char* key, const std::string& message);

/// What was read and one standard deviation of it, in the unit of a reading. \throws JobError where it was told in
/// another sort of unit, or the instrument measures no such thing
struct InUnit {
  double is, sigma;
};
InUnit in_unit(const job::Measurement& m, std::size_t index, const std::string& unit);

/// \throws JobError where there is no such reading, or the measurement says too little or too much for it
Taken taken_of(const job::Measurement& m, std::size_t index, job::Units units);

}  // namespace palio::solve
