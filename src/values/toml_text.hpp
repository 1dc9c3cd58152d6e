// Names and values as TOML has them. Private to the values.
#pragma once

#include <string>

#include "node.hpp"

namespace palio::job {

std::string quoted(const std::string& text);
/// A name on the left of "=": quoted where it needs to be.
std::string key_text(const std::string& name);
/// A value on one line.
std::string inlined(const Node& node);

}  // namespace palio::job
