// The unit of a job's lengths. Inside, all lengths are millimetres.
#pragma once

#include <string_view>

namespace palio::job {

enum class Units { mm, inch };

/// Millimetres in one unit of the job: 1 or 25.4.
constexpr double mm_per(Units units) noexcept { return units == Units::inch ? 25.4 : 1.0; }
constexpr std::string_view symbol(Units units) noexcept { return units == Units::inch ? "in" : "mm"; }

}  // namespace palio::job
