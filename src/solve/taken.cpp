// From what a job says of a measurement to a number that can be held against a reading.
#include "taken.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/values/spelling.hpp"

namespace palio::solve {

void refuse(const job::Measurement& m, std::size_t index, const char* key, const std::string& message) {
  throw job::JobError({{"bad-value", m.where, fmt::format("measured.{}.{}", index, key), message}});
}

namespace {

/// Readings that are a table of which one number is read.
bool has_length(const std::string& what) {
  return what == "span" || what == "over_pins" || what == "between_pins" || what == "over_balls" ||
         what == "between_balls";
}

/// That there is such a reading at all; whether this job has it shows when it is asked for.
void check_path(const job::Measurement& m, std::size_t index, const std::string& word) {
  const std::string head = m.of.substr(0, m.of.find('.'));
  const auto section = job::section_named(head);
  std::vector<std::string> known;
  for (const job::Reading& r : job::readings())
    known.emplace_back(r.key);
  if (std::find(known.begin(), known.end(), word) != known.end()) return;
  if (section && job::find_key(*section, word)) return;
  const job::Known near = job::known_words(known, word, word.size() / 2 + 1);
  refuse(m, index, "of",
         fmt::format("is \"{}\", but there is no such reading; {}", m.of,
                     near.nearest.empty() ? "palio report --json lists them" : job::did_you_mean(near.nearest)));
}

/// How sure an instrument is, in the unit of a reading.
double sigma_of(const job::Measurement& m, std::size_t index, const std::string& unit) {
  for (const job::Instrument& i : job::instruments()) {
    if (i.name != m.by) continue;
    const double sigma = unit == "°" ? i.angle : unit == "mm" ? i.length : unit == "in" ? i.length / 25.4 : 0;
    if (sigma > 0) return sigma;
    refuse(m, index, "by",
           fmt::format("is \"{}\", which measures no {}; give uncertainty", m.by,
                       unit.empty()  ? "plain number"
                       : unit == "°" ? "angle"
                                     : "length"));
  }
  refuse(m, index, "by", "is missing");
}

}  // namespace

InUnit in_unit(const job::Measurement& m, std::size_t index, const std::string& unit) {
  const std::optional<double> factor = job::unit_factor(m.unit, unit);
  if (!factor) refuse(m, index, "is", job::wrong_unit(m.said, unit));
  return {m.is * *factor, m.uncertainty > 0 ? m.uncertainty * *factor : sigma_of(m, index, unit)};
}

Taken taken_of(const job::Measurement& m, std::size_t index, job::Units units) {
  const job::PathParts parts = job::parts_of_path(m.of).value_or(job::PathParts{"", "", m.of});
  const std::string &what = parts.word, thing = parts.thing(), base = what.substr(0, what.find('.'));
  check_path(m, index, base);
  const bool table = has_length(what);
  const std::string path = table ? m.of + ".length" : m.of;
  Taken t{Term(path), {}, m.is, 0, &m};
  if (m.teeth) {
    if (base != "span") refuse(m, index, "teeth", "is for a span; leave it out");
    t.during.emplace_back(thing + ".span_teeth", *m.teeth);
  } else if (base == "span") {
    refuse(m, index, "teeth", "is missing: over how many teeth was the span taken?");
  }
  if (m.pin_diameter) {
    if (!has_length(base) || base == "span") refuse(m, index, "pin_diameter", "is for pins and balls; leave it out");
    t.during.emplace_back(thing + ".pin_diameter", *m.pin_diameter);
  } else if (has_length(base) && base != "span") {
    refuse(m, index, "pin_diameter", "is missing: of the pins or balls that were used");
  }
  const std::string unit = t.term.unit(units);
  const InUnit read = in_unit(m, index, unit);
  t.is = read.is, t.sigma = read.sigma;
  return t;
}

}  // namespace palio::solve
