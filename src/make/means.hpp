// What is handed over to the making. Private to it.
#pragma once

#include "palio/error.hpp"
#include "palio/make/make.hpp"

namespace palio::make {

/// What writes STEP. \throws InvalidParameter "format"  where nothing was handed over that does
inline const Means::Step& step_of(const Means& means) {
  if (!means.step) throw InvalidParameter("format", "step", "its module is not there", "choose other formats");
  return means.step;
}

}  // namespace palio::make
