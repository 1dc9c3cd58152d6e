// Which measurement is the wrong one, and by what mistake. Private to solve.
#pragma once

#include <optional>
#include <vector>

#include "fit.hpp"
#include "palio/solve/recover.hpp"

namespace palio::solve {

/// The measurement that is wrong, tried against the usual mistakes of a hand; none where the evidence does not separate
/// it from the next.
/// \param start    where most measurements agree
/// \param degrees  of freedom of the fit with all of them
std::optional<Recovered::Suspect> suspect_of(const Question& question, const std::vector<Taken>& taken,
                                             const std::vector<double>& start, std::size_t degrees);

}  // namespace palio::solve
