// The data that a page carries, as its script reads it.
#pragma once

#include <string>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

namespace palio::test {

inline nlohmann::json data_of(const std::string& page) {
  const std::string mark = "type=\"application/json\">";
  const auto from = page.find(mark);
  REQUIRE(from != std::string::npos);
  const auto to = page.find("</script>", from);
  return nlohmann::json::parse(page.substr(from + mark.size(), to - from - mark.size()));
}

}  // namespace palio::test
