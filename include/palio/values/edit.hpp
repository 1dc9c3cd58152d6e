// Changes to a job's text in its places: what is not changed keeps its bytes, comments and order.
#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace palio::job {

/// The text with one value changed, or added to its table where it was left out.
/// \param source  its name in messages; a name ending in ".json", or text that begins with "{", is taken as JSON
/// \param path    "gear.NAME.KEY", "pair.NAME.KEY", "shared.KEY", "process.KEY", "title" …
/// \param said    the value as --set takes it: "19", "3/8 in", "true", "[1, 2]"
/// \throws JobError where the text is no job, or the path has no place in it
std::string with_value(std::string_view text, const std::string& source, const std::string& path,
                       const std::string& said);

/// The text without a value: what then holds by default. Unchanged where the value is not said.
/// \throws JobError as above
std::string without_value(std::string_view text, const std::string& source, const std::string& path);

/// The text with another thing of the same sort behind all others: a gear that is like the old one, of the others a
/// copy of what is said. \param thing  "gear.pinion", "pair.stage" … \throws JobError where it is not in the text, or
/// the new name is
std::string with_copy(std::string_view text, const std::string& source, const std::string& thing,
                      const std::string& name);

/// The text with more tables behind all others. \param more  TOML, as "[shaft.middle]\ngears = […]\n"
/// \throws JobError where one of them is there already, or has no name that a job could take
std::string with_tables(std::string_view text, const std::string& source, std::string_view more);

/// The text without a thing. What names it keeps its words.
/// \throws JobError where it is not in the text, or written in more than one place
std::string without_thing(std::string_view text, const std::string& source, const std::string& thing);

/// Every value of the text by its path, as it is written, in the order of the file. Tables and lists of tables are told
/// by what they hold, other lists as a whole; texts without their quotes.
/// \throws JobError where the text is no job
std::vector<std::pair<std::string, std::string>> said_values(std::string_view text, const std::string& source);

}  // namespace palio::job
