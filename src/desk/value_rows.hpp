// The values of a job as the page lists them. Private to the desk.
#pragma once

#include <optional>
#include <string>

#include <nlohmann/json.hpp>

#include "palio/values/values.hpp"

namespace palio::desk {

using Json = nlohmann::ordered_json;

/// Every table that the text says, with all keys that its kind may have: as said, inherited, or by default.
Json value_rows(const job::Values& values, const std::string& text, const std::string& source);

/// What the page says of each key, whatever its value.
Json key_words(job::Units units);

/// A value that is one number, in the unit of the file; none where it is not, or not said.
std::optional<double> number_at(const job::Values& values, const std::string& path);

}  // namespace palio::desk
