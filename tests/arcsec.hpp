// Seconds of arc in a radian.
#pragma once

#include "palio/angle.hpp"

namespace palio::test {

constexpr double kArcsec = 180 / kPi * 3600;

}  // namespace palio::test
