// What many tests fill in the same way.
#pragma once

#include <string>

#include "palio/roll/roll.hpp"
#include "palio/write/file.hpp"

namespace palio::test {

inline write::Stamp stamp(const std::string& part) {
  write::Stamp s;
  s.title = "Roof vent";
  s.part = part;
  s.version = "0.0-test";
  return s;
}

/// \param play  by theory, in the driven's coordinate
inline roll::Law law(double ratio, double play, int positions) {
  roll::Law law;
  law.ratio = ratio;
  law.theoretical_play = play;
  law.positions = positions;
  return law;
}

}  // namespace palio::test
