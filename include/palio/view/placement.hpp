// The parts of a design, and where each stands in the whole.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/write/formats.hpp"

namespace palio::view {

/// A part's own frame (teeth from z = 0) at the start of the motion: the driver's mid-face at z = 0.
write::Placement placement(const job::Design& design, const job::Gear& gear);
write::Placement placement(const job::Design& design, const job::Frame& frame);

/// How a part of a reducer moves with a turn of its input.
struct ReducerMotion {
  std::size_t reducer;                                     ///< in Design::reducers
  enum class With { nothing, input, output, crank } with;  ///< a disc turns on the crank that the input is
  double turns;                                            ///< about its own axis
  double orbit;  ///< its axis goes round the reducer's at this radius; 0: it stays [mm]
  Vec2 axis;     ///< of the reducer [mm]
  int loop;      ///< turns of the input after which all is as it was
};

/// Something that is made: a gear, an axle, a plate or a part of a reducer, with its body in the design's state.
struct Part {
  std::string name;
  const job::Gear* gear;  ///< none for the others
  body::Solid body;
  write::Placement placement;
  std::size_t group;
  double module;  ///< of its teeth, a plate's: of the first gear [mm]
  job::Material material;
  std::optional<std::size_t> member{};  ///< that it turns with, a place in job::Machine::members; none: it stands still
  int sense = 1;                        ///< −1: its own z axis points against that of its member
  std::optional<std::size_t> carrier{};  ///< that it rides on, a place in job::Machine::carriers
  bool inclined = false;                 ///< its axis is not parallel to its carrier's
  std::string alike{};                   ///< an earlier part of the same shape: its files serve for this one
  std::optional<ReducerMotion> motion{};
  std::optional<std::size_t> axle{};  ///< an axle, or gears in one piece: a place in Design::axles

  /// Its axes, turned as it stands at the start.
  Eigen::Matrix3d axes() const;
  /// Of its material [kg/m³]; where none is given, that of a common plastic.
  double density() const { return material.density > 0 ? material.density : kPlastic; }
  static constexpr double kPlastic = 1200;
};

/// Gears in the order of the job, each with all its planets, those in one piece as that; axles, plates, the parts of
/// reducers.
std::vector<Part> parts(const job::Design& design);
/// The same of gears alone, each by itself.
std::vector<Part> gears_alone(const job::Design& design);

}  // namespace palio::view
