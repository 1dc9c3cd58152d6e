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

struct Node;

/// What a drawing says of a reading.
struct Expected {
  std::string path;  ///< "gear.NAME.span.length"
  double low, high;  ///< between which it lies; infinite where one side is open
  std::string unit;  ///< of both: "mm", "in", "deg"; empty: that of the reading in this job
  std::string said;  ///< as it was written
  Where where;
};

/// A value that the job leaves open, "find …": for `palio find` and `palio recover` to fill in.
struct Sought {
  std::string path;           ///< "gear.NAME.profile_shift", "shared.module", "values.NAME"
  const Key* key;             ///< its row of the table; none of [values]
  std::string said;           ///< as it was written
  double least, greatest;     ///< between which it lies, in the file's units; infinite where the key allows anything
  std::vector<double> among;  ///< what it may be, where it is one of a list or a series
  bool ranged;                ///< "find A..B"
  Where where;

  bool whole() const { return key && key->type == Type::whole; }
};

/// What `palio find` aims at.
struct Wanted : Expected {
  enum class Aim { range, greatest, least };
  Aim aim = Aim::range;

  explicit Wanted(Expected e, Aim a = Aim::range) : Expected(std::move(e)), aim(a) {}
};

/// A reading of a gear as it is, for `palio recover`.
struct Measurement {
  std::string of;                      ///< path of the reading: "gear.NAME.span"
  std::optional<double> teeth;         ///< spanned
  std::optional<double> pin_diameter;  ///< of over_pins and the like [unit of the file]
  std::optional<double> diameter;      ///< of a coupon's hole, as drawn [unit of the file]
  std::optional<double> prints;        ///< of which a pair was tried whether it turns
  double is = 0;                       ///< in `unit`
  std::string unit;                    ///< "mm", "in", "deg"; empty: that of the reading in this job
  double uncertainty = 0;              ///< one standard deviation, in the same unit; 0 where `by` says it
  std::string by;                      ///< the instrument; empty where there is none
  std::string said;                    ///< `is` as it was written
  Where where;

  /// Whether prints were counted that turn, of a pair of a coupon.
  bool counted() const { return of.size() > 6 && of.compare(of.size() - 6, 6, ".turns") == 0; }
};

/// An instrument's usual uncertainty: one standard deviation of a reading in a careful hand.
struct Instrument {
  std::string_view name;
  double length, angle;  ///< [mm], [degrees]; 0 where it measures no such thing
  std::string_view remark;
};
const std::vector<Instrument>& instruments();

/// All tables of a job, lengths in mm. What is wrong with a table is noted, and the table left without it.
struct Tables {
  std::string title;
  Units units = Units::mm;
  std::vector<Settings> gears;  ///< with [shared] and what they are like, without what means nothing for their kind
  std::vector<Settings> pairs, materials, frames, reducers;
  std::vector<Settings> shafts, carriers, trains;
  std::vector<Settings> planetaries;  ///< their pairs, carriers and shafts stand among those
  std::optional<Settings> process;
  std::vector<Expected> expected;       ///< [expect]
  std::vector<Wanted> wanted;           ///< [want]
  std::vector<Measurement> measured;    ///< [[measured]]
  std::vector<Sought> sought;           ///< "find …"; each is noted as a mistake too: a design needs a number
  std::map<std::string, double> named;  ///< [values]: lengths in the unit of the job, angles in degrees
  Mistakes mistakes;

  const Settings* gear(std::string_view name) const;
  /// All that have names.
  std::vector<const std::vector<Settings>*> with_names() const {
    return {&gears, &pairs, &shafts, &carriers, &trains, &planetaries, &frames, &reducers, &materials};
  }
  /// "gear", "pinion"; none where the job has no such thing.
  const Settings* thing(std::string_view head, std::string_view name) const;
  /// What to say of a name that no gear has: "is …, but the job's gears are …".
  std::string no_such_gear(const std::string& name) const;
  /// Millimetres in a message of the core, in the units of the job; what is said of modules stays.
  std::string in_job_units(const std::string& text) const;
  /// "12.5 mm", or the same in inches.
  std::string print(double mm) const;
};

/// What the pair of a planetary set with its first, second … sun or ring is called: "NAME_sun", "NAME_sun_2".
std::string planetary_pair(const std::string& set, const std::string& sort, std::size_t place);

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
  /// The same with several other numbers at once.
  Values with(const std::vector<std::pair<std::string, double>>& numbers) const;
  /// The same with overrides, as `read` takes them. \throws JobError where one has no place
  Values with_said(const std::vector<std::string>& overrides) const;
  /// The same without some keys: what then holds by default. A key that is not there is passed over.
  Values without(const std::vector<std::string>& paths) const;
  /// The job's text with these numbers in the places where it says "find": comments and order stay.
  /// \throws JobError where the text has no such place ("find" came from --set)
  std::string filled_in(const std::vector<std::pair<std::string, double>>& numbers) const;

  bool empty() const noexcept { return tables().gears.empty() && tables().reducers.empty(); }
  const Tables& tables() const noexcept;
  /// The whole job: as it was read, or with what was put in; what files carry along.
  std::string text() const;

 private:
  struct Data;
  /// A copy whose tree was changed, read again.
  Values changed(const std::function<void(Node&)>& change) const;
  explicit Values(std::shared_ptr<const Data> data) : data_(std::move(data)) {}
  std::shared_ptr<const Data> data_;
};

/// The same job with its lengths in other units, 12 digits of each; values with a unit of their own stay as they are,
/// expressions become numbers, comments stay. The text as it is when the units are the same.
/// \param is_length  whether a path of [expect] is told in the job's unit of length: there the unit is written beside
/// the
///                   number, which stays. None: [expect] is refused
/// \throws JobError where it has mistakes
std::string in_units(std::string_view text, const std::string& source, Units units,
                     const std::function<bool(const std::string&)>& is_length = {});

}  // namespace palio::job
