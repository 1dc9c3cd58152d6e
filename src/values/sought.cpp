#include "sought.hpp"

#include <cmath>
#include <limits>

#include <fmt/format.h>

#include "text.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

constexpr std::string_view kFind = "find";

/// One number of a range or list, as its key demands.
double number_of(const Key* key, const std::string& text, const Node& node, Units units,
                 const std::map<std::string, double>& named) {
  const Node part{text, node.where};
  if (key) {
    const Value v = read_value(*key, part, units, named);
    if (v.share || !v.text.empty()) throw fmt::format("is {}, but numbers are found, no words or shares", node.text());
    return is_length(key->type) ? v.number / mm_per(units) : v.number;  // as `Values::with` takes it
  }
  const Measured m = measure(part, named);
  if (!m.unit.empty() || !std::isfinite(m.value))
    throw fmt::format("is {}, but plain numbers in the file's units are allowed here", node.text());
  return m.value;
}

std::vector<double> series_of(const Key* key, const Node& node) {
  const Series series = key ? standard_series(key->path) : Series{};
  if (series.preferred.empty())
    throw fmt::format(
        "is {}, but there is no standard series of it (of module, diametral_pitch and pressure_angle there "
        "is); give a list, \"find 1, 1.25, 1.5\", or a range",
        node.text());
  return series.all();
}

}  // namespace

bool is_sought(const Node& node) {
  const auto* text = std::get_if<std::string>(&node.value);
  return text && (*text == kFind || text->rfind(std::string(kFind) + " ", 0) == 0);
}

Sought read_sought(const Key* key, const std::string& path, const Node& node, Units units,
                   const std::map<std::string, double>& named) {
  if (key && !is_number(key->type))
    throw fmt::format("is {}, but only numbers can be found; {} is allowed", node.text(),
                      allowed(*key, std::string(symbol(units))));
  constexpr double kOpen = std::numeric_limits<double>::infinity();
  const std::string said = std::get<std::string>(node.value), rest = trimmed(said.substr(kFind.size()));
  Sought sought{path, key, said, -kOpen, kOpen, {}, false, node.where};
  if (key && key->least) sought.least = *key->least;
  if (key && key->greatest) sought.greatest = *key->greatest;
  if (rest.empty()) {
    if (!key) throw fmt::format("is {}; of a number in [values] say between what: \"find 1..5\"", node.text());
    return sought;
  }
  if (rest == "standard") {
    sought.among = series_of(key, node);
    return sought;
  }
  if (const auto dots = rest.find(".."); dots != std::string::npos) {
    sought.least = number_of(key, trimmed(rest.substr(0, dots)), node, units, named);
    sought.greatest = number_of(key, trimmed(rest.substr(dots + 2)), node, units, named);
    sought.ranged = true;
    if (!(sought.least <= sought.greatest))
      throw fmt::format("is {}, but a range goes from the lesser to the greater: \"find {}..{}\"", node.text(),
                        sought.greatest, sought.least);
    return sought;
  }
  for (const std::string& part : split_at(rest, ','))
    sought.among.push_back(number_of(key, part, node, units, named));
  return sought;
}

}  // namespace palio::job
