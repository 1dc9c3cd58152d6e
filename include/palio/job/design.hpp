// A job, resolved: immutable gears and pairs with every default filled in and every play worked out. Consumers take
// a Design; none reads the job's text again.
#pragma once

#include <array>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "palio/gear/teeth.hpp"
#include "palio/pair/crossed.hpp"
#include "palio/pair/parallel.hpp"
#include "palio/roll/roll.hpp"

namespace palio::job {

enum class Units { mm, inch };

/// Millimetres in one unit of the job: 1 or 25.4.
double mm_per(Units units) noexcept;
std::string_view symbol(Units units) noexcept;  ///< "mm", "in"

/// A gear of the design, placed. Gears whose axes are parallel stand in one group, with a plane and heights of its own.
struct Gear {
  std::string name;
  std::string kind;  ///< "spur", "helical", "double_helical", "internal", "rack"
  gear::Teeth teeth;
  double pressure_angle_deg;      ///< echoed as given, of the system it was given in
  double helix_angle_deg;         ///< echoed as given, without sign
  bool transverse_system;         ///< module, angle and coefficients were given in the transverse section
  std::optional<int> span_teeth;  ///< as asked
  std::optional<double> pin_diameter;
  Vec2 axis = Vec2::Zero();  ///< where its axis (a rack's reference line) stands in the group's plane, as mounted [mm]
  double height = 0;         ///< of its mid-face along the group's axis [mm]
  double phase = 0;          ///< at the start: turned so [rad]; a rack: moved so along its own −x [mm]
  double facing = 0;         ///< a rack: how far its frame is turned [rad]
  std::size_t group = 0;
  std::optional<double> speed_ratio;  ///< turns (rack: mm per radian) per turn of the first driver it hangs on, signed
};

/// Where the axes of a group of gears stand in space: z along them.
struct Group {
  Vec3 origin = Vec3::Zero();
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();  ///< columns: the group's x, y, z
};

/// A pair of the design. `running` (parallel axes) and `crossed` are absent when the two cannot mesh at all; the
/// mismatches then say why.
struct Pair {
  std::string name;
  std::size_t driver, driven;                                                  ///< places in Design::gears
  double reference_center_distance, center_distance, mounted_center_distance;  ///< [mm]
  double direction;                                                            ///< [rad]
  double axial_offset = 0;                                                     ///< [mm]
  double shaft_angle = 0;                                                      ///< signed [rad]
  std::optional<double> friction;
  std::optional<double> speed;  ///< of the driver [r/min]
  std::optional<pair::ParallelPair> running;
  std::optional<pair::CrossedPair> crossed;
  std::vector<Finding> mismatches;

  bool meshes() const noexcept { return running || crossed; }
};

struct Design {
  std::string title;
  Units units = Units::mm;
  std::vector<Gear> gears;
  std::vector<Pair> pairs;
  std::vector<Group> groups;

  const Gear& gear(const std::string& name) const;  ///< \throws std::out_of_range
};

/// Findings of the whole design, in the order of the job: pairs that cannot be, gears, pairs.
std::vector<Finding> findings(const Design& design);

/// A gear on its axis, ready to roll in the section at height `datum` of its group [mm].
roll::Member member(const Gear& gear, double datum = 0);
/// The two members of a pair: on parallel axes in the section at the driver's mid-face, on crossed ones each at its own.
std::array<roll::Member, 2> members(const Design& design, const Pair& pair);

/// The law a pair should follow: exact ratio, theoretical play at the mounted distance.
roll::Law law(const Design& design, const Pair& pair, int positions = 360);

/// The pair rolled as it is placed. The pair must be able to run (`running`).
roll::Result rolled(const Design& design, const Pair& pair, int positions = 360);

/// Where something stands in a job: line and column of a TOML file (JSON and --set have only the path).
struct Where {
  std::string source;  ///< file name, "<standard input>" or the option
  int line = 0, column = 0;
};

/// One mistake of meaning or spelling in a job.
struct Mistake {
  std::string id;  ///< stable, kebab-case
  Where where;
  std::string key;      ///< path of the key, "gear.motor_pinion.teeth"
  std::string message;  ///< what was given, what is allowed, what to do

  std::string text() const;
};

/// A job that cannot be taken as it is; carries all the mistakes found.
class JobError : public std::runtime_error {
 public:
  explicit JobError(std::vector<Mistake> mistakes);
  const std::vector<Mistake>& mistakes() const noexcept { return mistakes_; }

 private:
  std::vector<Mistake> mistakes_;
};

/// Reads a job from text and resolves it.
/// \param source     its name in messages; a name ending in ".json", or text that begins with "{", is read as JSON
/// \param overrides  "gear.NAME.KEY=VALUE", each replacing one value
/// \throws JobError with every mistake found
Design resolve(std::string_view text, const std::string& source, const std::vector<std::string>& overrides = {});

/// A commented job of one kind ("spur", "helical", "double_helical", "internal", "rack", "crossed", "greenhouse") in millimetres or inches, written from the key table.
/// \throws InvalidParameter "kind"
std::string starter(std::string_view kind, Units units);

/// The job reference (Markdown), written from the key table.
std::string reference();

}  // namespace palio::job
