// Values of a job: numbers, and strings that carry a unit and arithmetic.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <variant>

#include "node.hpp"
#include "palio/values/settings.hpp"
#include "palio/values/units.hpp"

namespace palio::job {

/// What a string or number comes to, before its key says what it must be.
struct Measured {
  double value;      // in `unit` when there is one
  std::string unit;  // canonical: "mm", "in", "deg", "rad", "%", or empty
};

/// \throws std::string  what is wrong, as a clause
Measured measure(const Node& node, const std::map<std::string, double>& values);

/// Reads one node as its key demands.
/// \throws std::string  the message after the key's name: "is 2, but a whole number from 3 to 5000 is allowed; …"
Value read_value(const Bounds& key, const Node& node, Units units, const std::map<std::string, double>& values);

}  // namespace palio::job
