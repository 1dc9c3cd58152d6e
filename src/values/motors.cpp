#include "palio/values/motors.hpp"

#include <algorithm>

namespace palio::job {

const std::vector<MotorFace>& motor_faces() {
  // Circles of the screws: squares of 23, 26, 31, 47.14, 47.14 and 69.6 mm, from corner to corner.
  static const std::vector<MotorFace> all{{"11", 22, 32.53, 4, "M2.5", 2.9}, {"14", 22, 36.77, 4, "M3", 3.4},
                                          {"17", 22, 43.84, 4, "M3", 3.4},   {"23", 38.1, 66.67, 4, "M5", 5.5},
                                          {"24", 38.1, 66.67, 4, "M5", 5.5}, {"34", 73.02, 98.43, 4, "M6", 6.6}};
  return all;
}

const MotorFace* motor_face(std::string_view size) {
  const auto it =
      std::find_if(motor_faces().begin(), motor_faces().end(), [&](const MotorFace& f) { return f.size == size; });
  return it == motor_faces().end() ? nullptr : &*it;
}

}  // namespace palio::job
