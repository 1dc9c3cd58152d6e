// Readings: every value that is reported, declared once with its words, its formula and the function that computes it
// from a design. Asking for one computes one.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/design/design.hpp"
#include "palio/quantity.hpp"

namespace palio::job {

enum class ReadingOf { gear, pair, frame, reducer, shaft, train, planetary };
inline constexpr std::array kReadingOf{ReadingOf::gear,  ReadingOf::pair,  ReadingOf::frame,    ReadingOf::reducer,
                                       ReadingOf::shaft, ReadingOf::train, ReadingOf::planetary};
/// What it is called in paths and words.
constexpr std::string_view name(ReadingOf of) noexcept {
  switch (of) {
    case ReadingOf::gear: return "gear";
    case ReadingOf::pair: return "pair";
    case ReadingOf::frame: return "frame";
    case ReadingOf::reducer: return "reducer";
    case ReadingOf::shaft: return "shaft";
    case ReadingOf::train: return "train";
    case ReadingOf::planetary: return "planetary";
  }
  return "";
}
/// None where nothing that has readings is called so.
constexpr std::optional<ReadingOf> reading_of(std::string_view head) noexcept {
  for (const ReadingOf of : kReadingOf) {
    if (name(of) == head) return of;
  }
  return std::nullopt;
}

/// What it takes: a formula, a roll (milliseconds), or several rolls in space (tenths of a second).
enum class ReadingCost { formula, roll, rolls };

/// What is said of a reading. Deeper values of it (of "span": "teeth", "length") have a line of their own.
struct Reading {
  ReadingOf of;
  std::string_view key, label, symbol;
  Quantity quantity;
  std::string_view group;  ///< "teeth", "circles", "thickness and gauging", "body", "mesh", "play" …
  std::string kinds;       ///< that have it, in words; empty: all
  std::string_view meaning, formula;
  ReadingCost cost;
};

/// All of them, in the order of the report.
const std::vector<Reading>& readings();

/// The headings that readings stand under, in their order.
const std::vector<std::string_view>& reading_groups();

/// What stands below some readings: "span.length", "unbalance.couple_g_mm2".
struct DeeperReading {
  std::string_view key, label, symbol;
  Quantity quantity;
  std::string_view meaning;
};
const std::vector<DeeperReading>& deeper_readings();

/// One reading by its path: "gear.NAME.tip_diameter", "pair.NAME.tip_clearance.0", "gear.NAME.span.length". As JSON of
/// its own: a number in the units of the job (angles in degrees), a text in quotes, a list, a table; "null" where there
/// is no finite one. \throws InvalidParameter "path"  where the job has none there; says what is near
std::string reading_json(const Design& design, const std::string& path);

/// The same for people who pipe it on: a text without quotes, yes and no as true and false.
std::string reading_text(const Design& design, const std::string& path);

/// Several readings of one design, and its findings: what more than one of them takes (a roll, a body) is worked out
/// once. The design must outlive it.
class Inquiry {
 public:
  explicit Inquiry(const Design& design);
  ~Inquiry();
  Inquiry(const Inquiry&) = delete;
  Inquiry& operator=(const Inquiry&) = delete;

  /// \throws InvalidParameter as `reading_json`; none where the reading is not finite, or no number.
  std::optional<double> number(const std::string& path);
  const std::vector<Finding>& findings();

 private:
  struct Known;
  std::unique_ptr<Known> known_;
};

/// The same where it is one number; none where it is not finite, or no number.
std::optional<double> reading_number(const Design& design, const std::string& path);

/// Of a path its last named key's unit: "mm", "°", "mm³"; empty for plain numbers.
std::string reading_unit(const std::string& path, Units units);

/// The same job with its lengths told in other units, those of [expect], [want] and [[measured]] too: `in_units` by
/// what their readings are measured in. \throws JobError where the job has mistakes
std::string told_in(std::string_view text, const std::string& source, Units units);

/// By what a number told in a unit ("mm", "in", "deg"; empty: that of the reading) is multiplied to stand in the unit
/// of a reading. None where the two are of another sort.
std::optional<double> unit_factor(const std::string& told_in, const std::string& of_reading);
/// What is said where there is none: "is 3 deg, but this reading is told in mm; …".
std::string wrong_unit(const std::string& said, const std::string& of_reading);

/// The readings' reference (Markdown).
std::string readings_page();

}  // namespace palio::job
