// Values of a job: numbers, and strings that carry a unit and arithmetic.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <variant>

#include "keys.hpp"
#include "node.hpp"

namespace palio::job {

/// What a string or number comes to, before its key says what it must be.
struct Measured {
  double value;      // in `unit` when there is one
  std::string unit;  // canonical: "mm", "in", "deg", "rad", "%", or empty
};

/// \throws std::string  what is wrong, as a clause
Measured measure(const Node& node, const std::map<std::string, double>& values);

/// A checked value of a key: lengths in mm, angles in degrees, shares as fractions.
struct Value {
  double number = 0;
  std::string text;                                    // texts and choices
  bool share = false;                                  // length_or_share given as a share
  std::vector<double> numbers;                         // lists of angles [degrees]
  std::vector<std::string> texts;                      // lists of names and choices
  std::vector<std::pair<double, double>> by_diameter;  // [mm], sorted
  Where where;
};

/// Reads one node as its key demands.
/// \throws std::string  the message after the key's name: "is 2, but a whole number from 3 to 5000 is allowed; …"
Value read_value(const Range& key, const Node& node, Units units, const std::map<std::string, double>& values);

}  // namespace palio::job
