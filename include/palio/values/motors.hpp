// Faces by which small motors are bolted on, by flange size.
#pragma once

#include <string_view>
#include <vector>

namespace palio::job {

struct MotorFace {
  std::string_view size;   ///< of the flange: "17"
  double pilot;            ///< diameter of the boss about the shaft [mm]
  double circle;           ///< diameter of the circle of the screws [mm]
  int count;               ///< of screws
  std::string_view screw;  ///< "M3"
  double hole;             ///< through which they go [mm]
};

/// Square flanges of stepper and servo motors (boundary dimensions in the manner of NEMA ICS 16; through holes of the
/// middle row of ISO 273). As commonly tabulated; not compared with the printed standards.
const std::vector<MotorFace>& motor_faces();

/// Null where the table has none of that size.
const MotorFace* motor_face(std::string_view size);

}  // namespace palio::job
