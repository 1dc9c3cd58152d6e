// A reading's formula with the numbers of a job put in. Private to the readings.
#pragma once

#include <string>
#include <vector>

#include "palio/readings/reading.hpp"

namespace palio::job {

struct Worked {
  std::string thing;  // "gear.motor_pinion"
  std::string text;  // "d_b = 25.5000 mm cos 20.0000°  →  ⌀ 23.9622 mm …"; the value alone where no formula is given
};

/// Of every thing that has the reading, or of `only` one.
std::vector<Worked> worked(const Design& design, const Reading& reading, const std::string& only = "");

}  // namespace palio::job
