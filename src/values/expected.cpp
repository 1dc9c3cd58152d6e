#include "expected.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <regex>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "text.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

constexpr const char* kForms =
    "a number, \"11.598 ± 0.01\", \"at least 2\", \"at most 3\" or [least, greatest] is allowed";

constexpr const char *kAtLeast = "at least ", *kAtMost = "at most ";

/// What a number without a tolerance leaves open: half a unit of its last decimal; of a whole number, or of what has to
/// be worked out, nothing.
double left_open(const std::string& text) {
  static const std::regex number(R"([-+]?\d*\.(\d+)\s*(mm|cm|in|inch|inches|"|deg|°|)?)");
  std::smatch parts;
  return std::regex_match(text, parts, number) ? 0.5 * std::pow(10.0, -static_cast<double>(parts[1].length())) : 0;
}

struct Range {
  double low, high;
  std::string unit;
};

/// Whether a number is meant as a drawing gives it, or exactly.
enum class Sense { drawing, exact };

/// \throws std::string what is wrong
Range bounds_of_text(const std::string& text, const Where& where, const std::map<std::string, double>& named,
                     Sense sense) {
  const SaidParts said = parts_of_said(text);
  const auto number = [&](const std::string& part) { return measure(Node{part, where}, named); };
  const Measured m = number(said.first);
  constexpr double kOpen = std::numeric_limits<double>::infinity();
  if (said.words == kAtLeast) return {m.value, kOpen, m.unit};
  if (said.words == kAtMost) return {-kOpen, m.value, m.unit};
  if (said.sign.empty()) {
    const double shown = left_open(said.first) * (said.first.find("cm") == std::string::npos ? 1 : 10);
    const double open = sense == Sense::exact ? 0 : shown;
    return {m.value - open, m.value + open, m.unit};
  }
  const Measured room = number(said.second);
  if (m.unit != room.unit)
    throw fmt::format("is \"{}\", in which one number has a unit and the other has not, or another; give both the same",
                      text);
  if (!(room.value >= 0)) throw fmt::format("is \"{}\", but a tolerance is 0 or more", text);
  return {m.value - room.value, m.value + room.value, m.unit};
}

/// \throws std::string what is wrong
Range bounds_of(const Node& node, const std::map<std::string, double>& named, Sense sense) {
  if (const auto* text = std::get_if<std::string>(&node.value)) return bounds_of_text(*text, node.where, named, sense);
  if (const List* list = std::get_if<List>(&node.value)) {
    if (list->size() != 2) throw fmt::format("is {}, but {}", node.text(), kForms);
    const Measured low = measure((*list)[0], named), high = measure((*list)[1], named);
    if (low.unit != high.unit || !(low.value <= high.value))
      throw fmt::format("is {}, but a range is [least, greatest], both with the same unit or none", node.text());
    return {low.value, high.value, low.unit};
  }
  if (!std::holds_alternative<double>(node.value) && !std::holds_alternative<std::int64_t>(node.value))
    throw fmt::format("is {}, but {}", node.text(), kForms);
  const Measured m = measure(node, named);
  const bool decimals = sense == Sense::drawing && std::holds_alternative<double>(node.value);
  const double open = decimals ? left_open(fmt::format("{}", m.value)) : 0;
  return {m.value - open, m.value + open, m.unit};
}

/// \throws std::string what is wrong
Expected expected_of(const Node& node, const std::string& path, const std::map<std::string, double>& named,
                     Sense sense) {
  const Range b = bounds_of(node, named, sense);
  if (b.unit == "%") throw std::string("is in per cent; give the plain number");
  if (!std::isfinite(b.low) && !std::isfinite(b.high)) throw std::string("is not finite");
  const double factor = b.unit == "rad" ? 180 / kPi : 1;
  const List* range = std::get_if<List>(&node.value);
  return {path,
          b.low * factor,
          b.high * factor,
          b.unit == "rad" ? "deg" : b.unit,
          range ? fmt::format("{} to {}", (*range)[0].text(), (*range)[1].text()) : node.text(),
          node.where};
}

/// Every path of a table within tables, handed to `take`, which may throw what is wrong.
template <class Take>
void each_path(const Node& node, const std::string& table, const std::string& path, Mistakes& mistakes,
               const Take& take) {
  for (const auto& [name, child] : *node.table()) {
    const std::string full = path.empty() ? name : path + "." + name;
    if (child.table()) {
      each_path(child, table, full, mistakes, take);
      continue;
    }
    try {
      take(full, child);
    } catch (const std::string& why) {
      mistakes.note("bad-value", child.where, table + "." + full, why);
    }
  }
}

bool is_table(const Node& node, const std::string& name, const char* what, Mistakes& mistakes) {
  if (node.table()) return true;
  mistakes.note("wrong-type", node.where, name,
                fmt::format("is {}, but a table is allowed: [{}] with a path and {}", node.text(), name, what));
  return false;
}

bool says_in_words(const Node& node) {
  const auto* text = std::get_if<std::string>(&node.value);
  return text && (*text == "greatest" || *text == "least" || !parts_of_said(*text).words.empty());
}

Wanted wanted_of(const Node& node, const std::string& path, const std::map<std::string, double>& named) {
  if (const auto* text = std::get_if<std::string>(&node.value)) {
    constexpr double kOpen = std::numeric_limits<double>::infinity();
    if (*text == "greatest") return Wanted({path, -kOpen, kOpen, "", node.text(), node.where}, Wanted::Aim::greatest);
    if (*text == "least") return Wanted({path, -kOpen, kOpen, "", node.text(), node.where}, Wanted::Aim::least);
  }
  return Wanted(expected_of(node, path, named, Sense::exact));
}

}  // namespace

SaidParts parts_of_said(const std::string& given) {
  const std::string text = trimmed(given);
  for (const std::string words : {kAtLeast, kAtMost}) {
    if (text.rfind(words, 0) == 0) return {words, trimmed(text.substr(words.size())), "", ""};
  }
  for (const std::string sign : {"±", "+/-"}) {
    const auto at = text.find(sign);
    if (at != std::string::npos) return {"", trimmed(text.substr(0, at)), sign, trimmed(text.substr(at + sign.size()))};
  }
  return {"", text, "", ""};
}

std::vector<Expected> read_expected(const Node& node, const std::map<std::string, double>& named, Mistakes& mistakes) {
  std::vector<Expected> all;
  if (!is_table(node, "expect", "what the drawing says of it", mistakes)) return all;
  each_path(node, "expect", "", mistakes, [&](const std::string& path, const Node& child) {
    all.push_back(expected_of(child, path, named, Sense::drawing));
  });
  return all;
}

std::vector<Wanted> read_wanted(const Node& node, const std::map<std::string, double>& named, Mistakes& mistakes) {
  std::vector<Wanted> all;
  if (!is_table(node, "want", "what it is to be", mistakes)) return all;
  each_path(node, "want", "", mistakes, [&](const std::string& path, const Node& child) {
    const List* list = std::get_if<List>(&child.value);
    // "at most 60" and "greatest" are wants of their own, two numbers with units are a range.
    const bool texts = list && !list->empty() && std::all_of(list->begin(), list->end(), says_in_words);
    if (!texts) return all.push_back(wanted_of(child, path, named));
    for (const Node& item : *list)
      all.push_back(wanted_of(item, path, named));
  });
  return all;
}

}  // namespace palio::job
