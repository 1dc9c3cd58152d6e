// What a number measures; decides its unit wherever it is read or shown.
#pragma once

namespace palio {

/// `circle` is a diameter, which people are shown as diameter and radius; `per_inch` a diametral pitch;
/// `module_size` a module, in mm whatever the units of the job; `mass` is in kg and
/// `inertia` in kg times the job's unit of length squared; `hand` 1 for right, −1 for left.
enum class Quantity {
  number,
  count,
  ratio,
  length,
  circle,
  module_size,
  per_inch,
  angle,
  area,
  volume,
  mass,
  inertia,
  hand
};

}  // namespace palio
