// A design where the job is one: random ones are now and then refused.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "palio/design/design.hpp"

namespace palio::test {

inline std::optional<job::Design> try_job(const std::string& text, const std::vector<std::string>& set = {},
                                          const std::string& source = "v") {
  try {
    return job::resolve(text, source, set);
  } catch (const job::JobError&) {
    return std::nullopt;
  }
}

}  // namespace palio::test
