#include "palio/readings/mark.hpp"

#include <cmath>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/gear/finding.hpp"
#include "palio/overloaded.hpp"
#include "palio/values/keys.hpp"
#include "quantities.hpp"
#include "things.hpp"
#include "worked.hpp"

namespace palio::job {

double length(const Trace& trace) {
  return std::visit(overloaded{[](const MarkLine& l) { return (l.to - l.from).norm(); },
                               [](const MarkArc& a) { return a.radius * std::abs(a.to - a.from); }},
                    trace);
}

Vec2 along(const Trace& trace, double share) {
  return std::visit(overloaded{[&](const MarkLine& l) -> Vec2 { return l.from + share * (l.to - l.from); },
                               [&](const MarkArc& a) -> Vec2 {
                                 return a.centre + from_polar(a.radius, a.from + share * (a.to - a.from));
                               }},
                    trace);
}

Vec2 direction(const Trace& trace, double share) {
  return std::visit(overloaded{[](const MarkLine& l) -> Vec2 { return (l.to - l.from).normalized(); },
                               [&](const MarkArc& a) -> Vec2 {
                                 const double forward = a.to < a.from ? -1 : 1;
                                 return from_polar(forward, a.from + share * (a.to - a.from) + kPi / 2);
                               }},
                    trace);
}

bool is_circle(const Trace& trace) {
  constexpr double kRounding = 1e-12;  // of a turn: turned about, its ends keep apart but for that
  const auto* arc = std::get_if<MarkArc>(&trace);
  return arc && std::abs(arc->to - arc->from) > 2 * kPi * (1 - kRounding);
}

namespace {

/// Of a circle its diameter.
double drawn_length(const Trace& trace) {
  return is_circle(trace) ? 2 * std::get<MarkArc>(trace).radius : length(trace);
}

/// What the mark measures, where the plane shown has another length than the reading.
std::string measured(const Design& design, const Reading& r, const Entry& entry, const Mark& mark) {
  const bool is_length = r.quantity == Quantity::length || r.quantity == Quantity::circle;
  if (!is_length || entry.numbers.size() != 1 || mark.measured.size() != 1) return "";
  const double drawn = drawn_length(mark.measured.front()), told = std::abs(entry.numbers.front());
  constexpr double kSeen = 5e-5;  // [mm] half of the last place that is told
  return std::abs(drawn - told) < kSeen ? "" : shown(drawn, Quantity::length, design.units, true);
}

/// What stands beside it.
std::string beside(const Design& design, const Reading& r, const Entry& entry, const Mark& mark) {
  if (!entry.numbers.empty()) {
    std::string text;
    for (const double number : entry.numbers)
      text += (text.empty() ? "" : ", ") + shown(number, r.quantity, design.units, true);
    if (r.quantity == Quantity::module_size) text += " = pitch / π";
    return text;
  }
  if (!entry.children.empty()) return shown(drawn_length(mark.measured.front()), Quantity::length, design.units, true);
  return value_text(entry, design.units);
}

/// In which reading a finding is to be seen.
struct SeenAt {
  FindingId finding;
  std::string_view reading;
};
constexpr SeenAt kSeenAt[] = {{FindingId::pointed_tip, "tip_thickness"},
                              {FindingId::thin_tip, "tip_thickness"},
                              {FindingId::tip_bottoms, "tip_clearance"},
                              {FindingId::small_tip_clearance, "tip_clearance"},
                              {FindingId::contact_ratio_below_one, "transverse_contact_ratio"},
                              {FindingId::contact_ratio_low, "transverse_contact_ratio"},
                              {FindingId::negative_play, "circumferential_backlash"},
                              {FindingId::no_play, "circumferential_backlash"},
                              {FindingId::span_off_involute, "span"},
                              {FindingId::tip_shortening, "tip_diameter"}};

/// The readings that a word may mean: its own, that of a key ("module": normal_module), of the trade's other word for a
/// key, or that in which a finding is to be seen.
std::vector<std::string> readings_of(const std::string& word) {
  std::vector<std::string> all;
  const auto key = [&](const std::string& name) {
    for (const std::string& reading :
         {name, name + "_deg", "circumferential_" + name, "normal_" + name, "normal_" + name + "_deg"})
      all.push_back(reading);
  };
  key(word);
  for (const Section section : {Section::gear, Section::pair}) {
    if (const OtherWord other = other_word(section, word)) key(std::string(other.key->path));
  }
  for (const SeenAt& s : kSeenAt) {
    for (const FindingKind& k : finding_kinds()) {
      if (k.id == s.finding && k.text_id == word) all.emplace_back(s.reading);
    }
  }
  return all;
}

/// One reading of the first gear or pair that has it and a place for it.
std::optional<Marked> marked(const Design& design, const Reading& r, const std::string& thing) {
  for (const Worked& w : worked(design, r, thing)) {
    const std::string path = w.thing + "." + std::string(r.key);
    const auto [entry, mark] = seen_at(design, path);
    if (!mark) continue;
    Marked made{};
    made.path = path;
    made.of = r.of, made.name = w.thing.substr(w.thing.find('.') + 1);
    made.label = r.label, made.symbol = r.symbol, made.meaning = r.meaning;
    made.value = value_text(entry, design.units), made.worked = w.text;
    made.drawn = beside(design, r, entry, *mark), made.measured = measured(design, r, entry, *mark);
    made.mark = *mark;
    return made;
  }
  return std::nullopt;
}

}  // namespace

Marked marked(const std::string& word, const Design& design) {
  const auto [thing, last] = thing_and_word(word);
  const std::string_view of = std::string_view(thing).substr(0, thing.find('.'));
  const bool of_other = !thing.empty() && of != name(ReadingOf::gear) && of != name(ReadingOf::pair);
  bool is_reading = false;
  for (const std::string& name : readings_of(of_other ? word : last)) {
    for (const Reading& r : readings()) {
      const bool meant = r.key == name || (!r.symbol.empty() && r.symbol == name);
      if (!meant) continue;
      is_reading = true;
      if (r.of != ReadingOf::gear && r.of != ReadingOf::pair) continue;
      if (!thing.empty() && job::name(r.of) != of) continue;
      if (auto made = marked(design, r, thing)) return *std::move(made);
    }
  }
  if (is_reading && !thing.empty()) reading_json(design, word);  // says so where the job has no such thing
  std::string examples;
  for (const Reading& r : readings()) {
    constexpr std::size_t kFew = 160;
    if (r.of != ReadingOf::gear || examples.size() > kFew || design.gears.empty()) continue;
    const std::string path = "gear." + design.gears.front().name + "." + std::string(r.key);
    if (entry_of(design, path) && mark_of(design, path))
      examples += (examples.empty() ? "" : ", ") + std::string(r.key);
  }
  throw InvalidParameter(
      "word", "\"" + word + "\"",
      is_reading ? "in this job it has no one place on teeth that a section could show"
                 : "a picture marks a reading of a gear or a pair",
      examples.empty() ? "leave out --out" : "leave out --out, or ask for one that has: " + examples);
}

}  // namespace palio::job
