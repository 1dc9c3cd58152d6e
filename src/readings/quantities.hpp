// Reported values before they become text or JSON. Private to the reports.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include <nlohmann/json.hpp>

#include "palio/design/design.hpp"
#include "palio/quantity.hpp"
#include "palio/readings/mark.hpp"
#include "palio/utf8.hpp"

namespace palio::job {

using Json = nlohmann::ordered_json;

/// What one reported value is called.
struct ReportKey {
  std::string_view key, label, symbol;
  Quantity quantity;
};

/// A reported value: numbers in mm, rad or plain; nested tables and lists of them. `null` for the infinite.
struct Entry {
  const ReportKey* key = nullptr;
  std::vector<double> numbers{};  // one, or a list
  std::optional<double> given{};  // an angle as it was given [degrees], told in place of the number
  bool list = false;
  std::string text{};             // instead of numbers
  std::vector<Entry> children{};  // a table, or for `rows` a list of lists
  bool flag = false, is_flag = false, rows = false;
  std::string name{};  // in a table by names
  bool by_name = false;
  std::string_view group{};  // under which heading a table shows it
};

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
std::string row(std::string_view label, std::string_view sign, std::string_view value, std::size_t width = 44);
/// Its value alone, as the table shows it.
std::string value_text(const Entry& entry, Units units);
/// All entries under the headings of their groups, values in one column.
std::string table_text(const std::vector<Entry>& entries, Units units, bool colour);

/// All readings of a thing.
std::vector<Entry> entries(const Design& design, const Gear& gear);
/// \param rolled  with what takes several rolls
std::vector<Entry> entries(const Design& design, const Pair& pair, bool rolled);
std::vector<Entry> entries(const Design& design, const Frame& frame);
std::vector<Entry> entries(const Design& design, const Reducer& reducer);

/// One reading by its path; none where the thing has none such.
std::optional<Entry> entry_of(const Design& design, const std::string& path);

/// A reading, and where it is to be seen, if it has a place on the teeth.
struct Seen {
  Entry entry;
  std::optional<Mark> mark;
};
/// \throws InvalidParameter "path"  where the job has no such reading
Seen seen_at(const Design& design, const std::string& path);

/// A word, coloured for a terminal when asked.
std::string painted(std::string_view word, std::string_view verdict, bool colour);

}  // namespace palio::job
