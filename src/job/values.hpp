// Reported values before they become text or JSON. Private to the reports.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include <nlohmann/json.hpp>

#include "palio/job/design.hpp"
#include "palio/quantity.hpp"

namespace palio::job {

using Json = nlohmann::ordered_json;

/// Declares one reported value.
struct ReportKey {
  std::string_view key, label, symbol;
  Quantity quantity;
};

/// A reported value: numbers in mm, rad or plain; nested tables and lists of them. `null` for the infinite.
struct Entry {
  const ReportKey* key;
  std::vector<double> numbers;  // one, or a list
  bool list = false;
  std::string text;             // instead of numbers
  std::vector<Entry> children;  // a table, or for `rows` a list of lists
  bool flag = false, is_flag = false, rows = false;
};

const ReportKey& report_key(std::string_view key);

/// Entries: one number, a list, a text, yes or no, a table.
Entry one(std::string_view key, double value);
Entry many(std::string_view key, std::vector<double> values);
Entry words(std::string_view key, std::string text);
Entry flag(std::string_view key, bool value);
Entry group(std::string_view key, std::vector<Entry> children);

/// "12.3456 mm" in the units of the design; circles as "⌀ 12.3456 mm (r 6.1728 mm)".
std::string shown(double value, Quantity quantity, Units units, bool short_form = false);

/// With so many places, and no minus before what rounds to nothing.
std::string fixed(double value, int places);
/// A small error with three digits; what is below the last bits of a rolled angle or length is told as nothing.
std::string small_error(double value);

/// A number for JSON in the units of the design; null when it is not finite.
Json number(double value, Quantity quantity, Units units);
Json to_json(const Entry& entry, Units units);
Json to_json(const std::vector<Entry>& entries, Units units);
/// A line of a table for people.
std::string row(std::string_view label, std::string_view sign, std::string_view value);
std::string table_text(const std::vector<Entry>& entries, Units units);

/// What the making leaves of the play, where it changes teeth and the files do not make up for it [mm].
std::optional<double> play_as_made(const Design& design, const Pair& pair);

/// Speed of a gear [r/min; of a rack mm per radian of the turns of what drives it, times r/min], where a pair of its
/// mechanism says its driver's; signed.
std::optional<double> speed(const Design& design, std::size_t gear);

std::vector<Entry> entries(const Design& design, const Gear& gear);
/// Bore, mass and what else is known of a part besides its teeth.
void part(const Design& design, const Gear& gear, std::vector<Entry>& all);
std::vector<Entry> bevel_entries(const Design& design, const Gear& gear);
/// What a pair of bevel gears has in place of distances.
void bevel_entries(const Design& design, const Pair& pair, bool rolled, std::vector<Entry>& all);
std::vector<Entry> cycloidal_entries(const Design& design, const Gear& gear);
void cycloidal_entries(const Design& design, const Pair& pair, std::vector<Entry>& all);
/// \param rolled  with what has to be found by rolling
std::vector<Entry> entries(const Design& design, const Pair& pair, bool rolled);
std::vector<Entry> entries(const Design& design, const Frame& frame);
std::vector<Entry> entries(const Design& design, const Reducer& reducer);

/// A word, coloured for a terminal when asked.
std::string painted(std::string_view word, std::string_view verdict, bool colour);

}  // namespace palio::job
