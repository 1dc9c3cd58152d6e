// Every key of the job file, declared once: the reader, its messages, the starter files and docs/job-reference.md all
// come from this table.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "palio/values/kind.hpp"
#include "palio/values/units.hpp"

namespace palio::job {

enum class Section { top, shared, gear, pair, process, frame, material, reducer, shaft, carrier, train, planetary };

/// All that have keys of their own, in the order of the reference: [shared] has those of a gear.
const std::vector<Section>& sections();
/// What it is called: "job" for the top, "gear" for [shared] too, else the head of its tables.
std::string_view name(Section section) noexcept;
/// Whether its tables have names, as [gear.NAME]: a job may have many of them.
bool has_names(Section section) noexcept;
/// The section whose tables have that head; none where no table has it.
std::optional<Section> section_named(std::string_view head) noexcept;

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
  lengths,             // a list of lengths in the file's units
  names,               // a list of texts
  length_by_diameter,  // a length, or a table from diameters to lengths
  table,               // holds other keys or names
};

/// Whether a key of the type holds one number.
bool is_number(Type type) noexcept;
/// The unit in which its values are told: that of the file, "mm", "°"; empty of plain numbers and words.
std::string unit_of(Type type, Units units);
/// Whether that number is a length in the unit of the file.
inline bool is_length(Type type) noexcept { return type == Type::length || type == Type::length_or_share; }

struct Settings;

/// What holds where a key is left out: a number, a word, a rule that works the number out from the table it is left out
/// of, or words for what the whole job decides.
struct Absent {
  using Rule = double (*)(const Settings&);

  std::string words;               // as the reference says it
  std::optional<double> number{};  // in the unit of the type
  Rule rule = nullptr;

  Absent(double n);                         // NOLINT(google-explicit-constructor)
  Absent(std::string_view w) : words(w) {}  // NOLINT(google-explicit-constructor)
  Absent(const char* w) : words(w) {}       // NOLINT(google-explicit-constructor)
  Absent(double n, std::string_view w) : words(w), number(n) {}
  Absent(std::string_view w, Rule r) : words(w), rule(r) {}
};

/// What a key may hold.
struct Bounds {
  Type type = Type::plain;
  std::optional<double> least{}, greatest{};  // in the unit of the type
  bool above_least = false;                   // least itself is not allowed
  std::string_view choices{};                 // separated by blanks
};

/// What practice also calls a key, and what its number has to be multiplied by.
struct TradeWord {
  std::string word;
  double factor = 1;
  std::string_view remark{};  // what else to know
};

struct Key : Bounds {
  Section section;        // keys of `gear` may also stand in [shared], unless `is_own`
  std::string_view path;  // "teeth", "bore.diameter"
  Absent absent;
  std::string_view meaning;  // one line
  Kinds kinds = Kinds::all();
  std::string_view pushes_out{};  // keys, and groups with a point at the end, that give way to it in a layer below
  std::vector<TradeWord> others{};
  bool is_own = false;  // never inherited from [shared]

  Key(Section in, std::string_view name, const Bounds& range, Absent otherwise, std::string_view what)
      : Bounds(range), section(in), path(name), absent(std::move(otherwise)), meaning(what) {}
  Key& of(Kinds those) { return kinds = those, *this; }
  Key& own() { return is_own = true, *this; }
  Key& drops(std::string_view keys) { return pushes_out = keys, *this; }
  /// Other words that mean the same number, separated by blanks.
  Key& also(std::string_view words);
  Key& also(std::string_view word, double factor, std::string_view remark);
};

/// What is bought or agreed on: modules (ISO 54), diametral pitches, pressure angles; empty where a key has no series.
struct Series {
  std::vector<double> preferred, second;  // in the unit of the key

  /// Both, sorted.
  std::vector<double> all() const;
  /// None where there are none.
  std::optional<double> nearest(double number) const;
};
Series standard_series(std::string_view key_path);

/// In the order of the reference.
const std::vector<Key>& keys();
const Key* find_key(Section section, std::string_view path);
/// Whether `path` begins a longer key ("bore" of "bore.diameter").
bool is_group(Section section, std::string_view path);
/// Whether a group may be given several times, as a list of tables ("hubs").
bool is_list(std::string_view path);
/// The known key nearest in spelling; empty when none is near.
std::string nearest(Section section, std::string_view path);
/// "a whole number from 3 up", in words.
std::string allowed(const Bounds& key, std::string_view length_unit);
/// Pinions of clocks have leaves: "gear.a.leaves" as the key table has it, "gear.a.teeth"; other paths as they are.
std::string leaves_as_teeth(std::string path);
/// "hubs.0.diameter" as the key table has it: "hubs.diameter".
std::string without_numbers(const std::string& path);
/// "gear.pinion.span.length": of what, its name, and the rest.
struct PathParts {
  std::string head, name, word;
  std::string thing() const { return head + "." + name; }
};
/// None where a path has fewer than three names.
std::optional<PathParts> parts_of_path(const std::string& path);
/// The words of a list with blanks between them.
std::vector<std::string> words_of(std::string_view list);
/// Whether a word is one of them.
bool among(std::string_view list, std::string_view word);

/// The key that practice calls by another word, and how; none where the word is not known to be one.
struct OtherWord {
  const Key* key = nullptr;
  const TradeWord* word = nullptr;
  explicit operator bool() const noexcept { return key != nullptr; }
};
OtherWord other_word(Section section, std::string_view word);

/// Of the reference profiles (ISO 53 and common usage): what they set.
struct ReferenceProfile {
  std::string_view name;
  double pressure_angle, addendum, dedendum, tool_tip_radius;  // degrees, modules
};
const std::vector<ReferenceProfile>& reference_profiles();

}  // namespace palio::job
