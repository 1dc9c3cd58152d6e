// A check of a parameter in one line. For the core's own files.
#pragma once

#include <string>

#include <fmt/format.h>

#include "palio/error.hpp"

namespace palio {

/// \throws InvalidParameter unless it holds
inline void require(bool holds, const char* name, const std::string& given, const std::string& allowed,
                    const char* remedy) {
  if (!holds) throw InvalidParameter(name, given, allowed, remedy);
}

inline std::string mm(double length) { return fmt::format("{:.6g} mm", length); }

}  // namespace palio
