#pragma once

#include <string>

#include "palio/design/design.hpp"

namespace palio::make {

/// "{gear}_{module}_{teeth}" filled in; empty fields take their separators with them.
/// \param gear  none for plates, parts of reducers and the whole
/// \throws InvalidParameter "name"
std::string file_name(const std::string& pattern, const job::Design& design, const std::string& part,
                      const job::Gear* gear);

}  // namespace palio::make
