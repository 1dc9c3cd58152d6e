// Values that a job leaves open. Private to the values.
#pragma once

#include <map>
#include <string>

#include "node.hpp"
#include "palio/values/values.hpp"

namespace palio::job {

/// Whether a node reads "find" or "find …".
bool is_sought(const Node& node);

/// What it leaves open.
/// \param key  its row of the table; none for a number of [values], which takes a range or a list
/// \throws std::string  the message after the key's name
Sought read_sought(const Key* key, const std::string& path, const Node& node, Units units,
                   const std::map<std::string, double>& named);

}  // namespace palio::job
