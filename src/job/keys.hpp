// Every key of the job file, declared once: the reader, its messages, the starter files and docs/job-reference.md all
// come from this table.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace palio::job {

enum class Section { top, shared, gear, pair, process, frame, material, reducer };

enum class Type {
  whole,            // a whole number
  plain,            // a number without a unit
  length,           // a length in the file's units
  millimetres,      // a length in mm, whatever the file's units
  per_inch,         // teeth per inch, whatever the file's units
  angle,            // degrees
  length_or_share,  // a length, or a share of the module as "4 %"
  share,            // "teeth", "even" or a fraction 0…1
  text,
  choice,              // one of `choices`
  choices,             // a list of them
  flag,                // true or false
  fraction,            // 0.006, or "0.6 %"
  angles,              // a list of angles
  names,               // a list of texts
  length_by_diameter,  // a length, or a table from diameters to lengths
  table,               // holds other keys or names
};

enum class Readiness { ready, later };  // `later`: named in the project's interface, not yet made by this version

struct Key {
  Section section;        // keys of `gear` may also stand in [shared], unless `own`
  std::string_view path;  // "teeth", "bore.diameter"
  Type type;
  std::optional<double> least, greatest;  // allowed, in the unit of the type
  bool above_least;                       // least itself is not allowed
  std::string_view choices;               // separated by blanks
  std::string_view when_absent;           // what holds when it is left out
  std::string_view meaning;               // one line
  Readiness readiness = Readiness::ready;
  bool own = false;  // never inherited from [shared]
};

const std::vector<Key>& keys();
const Key* find_key(Section section, std::string_view path);
/// Whether `path` begins a longer key ("bore" of "bore.diameter").
bool is_group(Section section, std::string_view path);
/// The known key nearest in spelling; empty when none is near.
std::string nearest(Section section, std::string_view path);
/// "a whole number from 3 up", in words.
std::string allowed(const Key& key, std::string_view length_unit);

/// What practice also calls a key, and what its number has to be multiplied by.
struct TradeWord {
  Section section;
  std::string_view word, key;
  double factor = 1;
  std::string_view remark{};  // what else to know
};
/// None where the word is not known to be another one for a key.
const TradeWord* trade_word(Section section, std::string_view word);

/// Of the reference profiles (ISO 53 and common usage): what they set.
struct ReferenceProfile {
  std::string_view name;
  double pressure_angle, addendum, dedendum, tool_tip_radius;  // degrees, modules
};
const std::vector<ReferenceProfile>& reference_profiles();

}  // namespace palio::job
