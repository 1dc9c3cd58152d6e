// Limits of holes and shafts by their symbol.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace palio::job {

/// By how much a hole or a shaft is larger than its nominal size, at least and at most [mm].
struct FitLimits {
  double least, greatest;
  double middle() const { return (least + greatest) / 2; }
};

/// The symbols that are known, separated by blanks: "D10 … H7 … P7".
std::string_view hole_fits();

/// The sizes up to and with which limits are the same [mm].
std::vector<double> fit_sizes();

/// Limits in the manner of ISO 286 for holes up to 120 mm: tolerance grades and fundamental deviations as commonly
/// tabulated, K to P with the rule for what a hole adds to the shaft's deviation. Not compared with the printed
/// standard. \param diameter  nominal [mm] \returns none for other symbols, and for sizes outside of the table
std::optional<FitLimits> hole_limits(std::string_view symbol, double diameter);

/// The same of shafts: "d9 … h6 … p6".
std::string_view shaft_fits();

/// Limits in the manner of ISO 286 for shafts up to 120 mm, from the same tables.
/// \param diameter  nominal [mm] \returns none for other symbols, and for sizes outside of the table
std::optional<FitLimits> shaft_limits(std::string_view symbol, double diameter);

/// "8 H7" as "8" and "H7"; none where no fit stands at the end.
std::optional<std::pair<std::string, std::string>> size_and_fit(std::string_view said);

}  // namespace palio::job
