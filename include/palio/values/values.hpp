// The first stage of a job: what its text says, typed, each value with its place. A Design is built from it.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/values/mistake.hpp"
#include "palio/values/settings.hpp"
#include "palio/values/units.hpp"

namespace palio::job {

/// What a drawing says of a reading.
struct Expected {
  std::string path;  ///< "gear.NAME.span.length"
  double low, high;  ///< between which it lies; infinite where one side is open
  std::string unit;  ///< of both: "mm", "in", "deg"; empty: that of the reading in this job
  std::string said;  ///< as it was written
  Where where;
};

/// All tables of a job, lengths in mm. What is wrong with a table is noted, and the table left without it.
struct Tables {
  std::string title;
  Units units = Units::mm;
  std::vector<Settings> gears;  ///< with [shared] and what they are like, without what means nothing for their kind
  std::vector<Settings> pairs, materials, frames, reducers;
  std::optional<Settings> process;
  std::vector<Expected> expected;       ///< [expect]
  std::map<std::string, double> named;  ///< [values]: lengths in the unit of the job, angles in degrees
  Mistakes mistakes;

  const Settings* gear(std::string_view name) const;
  /// What to say of a name that no gear has: "is …, but the job's gears are …".
  std::string no_such_gear(const std::string& name) const;
  /// Millimetres in a message of the core, in the units of the job; what is said of modules stays.
  std::string in_job_units(const std::string& text) const;
  /// "12.5 mm", or the same in inches.
  std::string print(double mm) const;
};

/// The values of a job. Copies share what they hold; none changes.
class Values {
 public:
  Values();
  /// \param source     its name in messages; a name ending in ".json", or text that begins with "{", is read as JSON
  /// \param overrides  "gear.NAME.KEY=VALUE", each replacing one value
  /// \throws JobError where the text is no job at all, or an override has no place; other mistakes are in the tables
  static Values read(std::string_view text, const std::string& source, const std::vector<std::string>& overrides = {});

  /// The same with another number.
  /// \param path    "gear.NAME.KEY", "pair.NAME.KEY", "shared.KEY", "values.NAME" …
  /// \param number  in the unit of the file (angles in degrees)
  /// \throws JobError where the job has no such gear, pair …
  Values with(const std::string& path, double number) const;

  bool empty() const noexcept { return tables().gears.empty() && tables().reducers.empty(); }
  const Tables& tables() const noexcept;
  /// The whole job: as it was read, or with what was put in; what files carry along.
  std::string text() const;

 private:
  struct Data;
  explicit Values(std::shared_ptr<const Data> data) : data_(std::move(data)) {}
  std::shared_ptr<const Data> data_;
};

/// The same job with its lengths in other units, 12 digits of each; values with a unit of their own stay as they are,
/// expressions become numbers, comments are lost. The text as it is when the units are the same.
/// \param is_length  whether a path of [expect] is told in the job's unit of length: there the unit is written beside
/// the
///                   number, which stays. None: [expect] is refused
/// \throws JobError where it has mistakes
std::string in_units(std::string_view text, const std::string& source, Units units,
                     const std::function<bool(const std::string&)>& is_length = {});

}  // namespace palio::job
