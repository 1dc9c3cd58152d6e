// A job, resolved: immutable gears and pairs with every default filled in and every play worked out. Consumers take
// a Design; none reads the job's text again.
#pragma once

#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "palio/gear/cylindrical.hpp"
#include "palio/pair/parallel.hpp"
#include "palio/roll/roll.hpp"

namespace palio::job {

enum class Units { mm, inch };

/// Millimetres in one unit of the job: 1 or 25.4.
double mm_per(Units units) noexcept;
std::string_view symbol(Units units) noexcept;  ///< "mm", "in"

/// A gear of the design, placed.
struct Gear {
  std::string name;
  std::string kind;  ///< "spur"
  gear::CylindricalGear teeth;
  double pressure_angle_deg;      ///< echoed as given
  std::optional<int> span_teeth;  ///< as asked
  std::optional<double> pin_diameter;
  Vec2 axis = Vec2::Zero();  ///< where it stands when the pairs are as mounted [mm]
  double phase = 0;          ///< turned so at the start [rad]
};

/// A pair of the design. `running` is absent when the two cannot mesh at all; `findings` then says why.
struct Pair {
  std::string name;
  std::size_t driver, driven;                                                  ///< places in Design::gears
  double reference_center_distance, center_distance, mounted_center_distance;  ///< [mm]
  double direction;                                                            ///< [rad]
  std::optional<pair::ParallelPair> running;
  std::vector<Finding> mismatches;
};

struct Design {
  std::string title;
  Units units = Units::mm;
  std::vector<Gear> gears;
  std::vector<Pair> pairs;

  const Gear& gear(const std::string& name) const;  ///< \throws std::out_of_range
};

/// Findings of the whole design, in the order of the job: pairs that cannot be, gears, pairs.
std::vector<Finding> findings(const Design& design);

/// A gear on its axis, ready to roll.
roll::Member member(const Gear& gear);

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

/// A commented job of one kind ("spur") in millimetres or inches, written from the key table.
/// \throws InvalidParameter "kind"
std::string starter(std::string_view kind, Units units);

/// The job reference (Markdown), written from the key table.
std::string reference();

}  // namespace palio::job
