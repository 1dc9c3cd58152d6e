// What can be added to a job where there is none of it yet. Private to the desk.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::desk {

/// A sort of thing with a name that is free for the next one; without a name what stands in a job once.
struct Addable {
  std::string sort, name;
};
std::vector<Addable> addable(const job::Values& values);

/// The tables of a new thing in TOML: with members of the job that it can be made of, as far as there are any.
/// \param design  the last one that could be built; may be none
/// \throws InvalidParameter where there is no such sort
std::string new_thing(const job::Values& values, const job::Design* design, std::string_view sort,
                      const std::string& name);

}  // namespace palio::desk
