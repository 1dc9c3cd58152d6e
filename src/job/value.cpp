#include "value.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>
#include <muParser.h>

#include "palio/angle.hpp"

namespace palio::job {
namespace {

struct Unit {
  std::string_view written, canonical;
  double factor;  // canonical per written
};
// Longer spellings first: the last word of a string is matched from here.
constexpr std::array kUnits{Unit{"inches", "in", 1}, Unit{"inch", "in", 1},    Unit{"mm", "mm", 1},   Unit{"cm", "mm", 10}, Unit{"µm", "mm", 1e-3},
                            Unit{"um", "mm", 1e-3},  Unit{"thou", "in", 1e-3}, Unit{"in", "in", 1},   Unit{"\"", "in", 1},  Unit{"m", "mm", 1000},
                            Unit{"deg", "deg", 1},   Unit{"°", "deg", 1},      Unit{"rad", "rad", 1}, Unit{"%", "%", 1}};

double evaluate(const std::string& expression, const std::map<std::string, double>& values, bool& uses_values) {
  mu::Parser parser;
  for (const auto& [name, value] : values) parser.DefineConst(name, value);
  try {
    parser.SetExpr(expression);
    const double result = parser.Eval();
    for (const auto& entry : values) {
      if (expression.find(entry.first) != std::string::npos) uses_values = true;
    }
    return result;
  } catch (const mu::Parser::exception_type& e) {
    std::string known;
    for (const auto& entry : values) known += (known.empty() ? "" : ", ") + entry.first;
    throw fmt::format("cannot be worked out: {} ([values] has {})", e.GetMsg(), known.empty() ? "nothing" : known);
  }
}

bool is_space(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }

}  // namespace

Measured measure(const Node& node, const std::map<std::string, double>& values) {
  if (const auto* v = std::get_if<std::int64_t>(&node.value)) return {static_cast<double>(*v), ""};
  if (const auto* v = std::get_if<double>(&node.value)) return {*v, ""};
  const auto* text = std::get_if<std::string>(&node.value);
  if (!text) throw std::string("is no number");
  std::string rest = *text;
  while (!rest.empty() && is_space(rest.back())) rest.pop_back();
  std::string unit;
  double factor = 1;
  for (const Unit& u : kUnits) {
    if (rest.size() <= u.written.size() || rest.compare(rest.size() - u.written.size(), u.written.size(), u.written) != 0) continue;
    const char before = rest[rest.size() - u.written.size() - 1];
    const bool word = std::isalpha(static_cast<unsigned char>(before)) || before == '_';
    if (word) continue;  // the end of a name, not a unit
    const bool digit_or_gap = is_space(before) || before == ')' || before == '.' || std::isdigit(static_cast<unsigned char>(before));
    if (!digit_or_gap) continue;
    unit = u.canonical;
    factor = u.factor;
    rest.resize(rest.size() - u.written.size());
    break;
  }
  if (rest.size() > 400) throw std::string("is too long for an expression (400 characters at most)");
  bool uses_values = false;
  const double number = evaluate(rest, values, uses_values);
  if (!unit.empty() && uses_values) {
    throw std::string("has a unit after an expression with names from [values], which are in the file's units already");
  }
  return {number * factor, unit};
}

namespace {

/// A list, or one value where a list is meant.
Value read_list(const Key& key, const Node& node, Units units, const std::map<std::string, double>& values) {
  Value out;
  out.where = node.where;
  Key each = key;
  each.type = key.type == Type::angles ? Type::angle : key.type == Type::names ? Type::text : Type::choice;
  const List one{node};
  const List* list = std::get_if<List>(&node.value);
  for (const Node& item : list ? *list : one) {
    const Value v = read_value(each, item, units, values);
    if (key.type == Type::angles) out.numbers.push_back(v.number);
    else out.texts.push_back(v.text);
  }
  return out;
}

/// One length, or lengths by diameter: a table whose keys are diameters in the file's unit.
Value read_by_diameter(const Key& key, const Node& node, Units units, const std::map<std::string, double>& values) {
  Value out;
  out.where = node.where;
  Key length = key;
  length.type = Type::length;
  if (!node.table()) {
    out.by_diameter = {{0, read_value(length, node, units, values).number}};
    return out;
  }
  Key positive = length;
  positive.least = 0, positive.above_least = true;
  for (const auto& [name, child] : *node.table()) {
    const Value d = read_value(positive, Node{name, child.where}, units, values), v = read_value(length, child, units, values);
    out.by_diameter.emplace_back(d.number, v.number);
  }
  if (out.by_diameter.empty()) throw std::string("is an empty table; give a length, or lengths by diameter");
  std::sort(out.by_diameter.begin(), out.by_diameter.end());
  return out;
}

}  // namespace

Value read_value(const Key& key, const Node& node, Units units, const std::map<std::string, double>& values) {
  Value out;
  out.where = node.where;
  const std::string unit(symbol(units));
  const auto refuse = [&](const std::string& remedy) -> std::string {
    return fmt::format("is {}, but {} is allowed; {}", node.text(), allowed(key, unit), remedy);
  };
  if (key.type == Type::flag) {
    const auto* flag = std::get_if<bool>(&node.value);
    if (!flag) throw refuse("write true or false");
    out.number = *flag ? 1 : 0;
    return out;
  }
  if (key.type == Type::angles || key.type == Type::names || key.type == Type::choices) return read_list(key, node, units, values);
  if (key.type == Type::length_by_diameter) return read_by_diameter(key, node, units, values);
  if (const auto* text = std::get_if<std::string>(&node.value)) {
    if (*text == "find") {
      throw std::string("is \"find\": that leaves the value to `palio find`, which this version does not have yet; give a value");
    }
    if (key.type == Type::text) {
      out.text = *text;
      return out;
    }
    if (key.type == Type::choice || key.type == Type::share) {
      if ((" " + std::string(key.choices) + " ").find(" " + *text + " ") != std::string::npos && text->find(' ') == std::string::npos) {
        out.text = *text;
        return out;
      }
      if (key.type == Type::choice) {
        throw refuse("check the spelling");
      }
    }
  }
  if (key.type == Type::text || key.type == Type::choice || key.type == Type::table) throw refuse("write it so");
  if (std::holds_alternative<bool>(node.value) || node.table() || std::holds_alternative<List>(node.value) || std::holds_alternative<Other>(node.value)) {
    throw refuse("write a number, or a string with unit or arithmetic");
  }
  Measured m{};
  try {
    m = measure(node, values);
  } catch (const std::string& why) {
    throw fmt::format("is {}, which {}; {} is allowed", node.text(), why, allowed(key, unit));
  }
  if (!std::isfinite(m.value)) throw refuse("give a finite number");
  const bool length = key.type == Type::length || key.type == Type::length_or_share || key.type == Type::millimetres;
  double in_range = m.value;  // in the unit in which the range is said
  if (length) {
    if (m.unit == "%" && key.type == Type::length_or_share) {
      out.share = true;
      out.number = m.value / 100;
    } else if (m.unit.empty()) {
      out.number = key.type == Type::millimetres ? m.value : m.value * mm_per(units);
    } else if (m.unit == "mm") {
      out.number = m.value;
    } else if (m.unit == "in") {
      out.number = m.value * 25.4;
    } else {
      throw refuse(fmt::format("\"{}\" is no unit of length", m.unit));
    }
    in_range = out.share || key.type == Type::millimetres ? out.number : out.number / mm_per(units);
    if (!(std::abs(out.number) < 1e6)) throw refuse("lengths beyond a kilometre are taken for a mistake");
  } else if (key.type == Type::angle) {
    if (m.unit == "rad") {
      out.number = m.value * 180 / kPi;
    } else if (m.unit.empty() || m.unit == "deg") {
      out.number = m.value;
    } else {
      throw refuse(fmt::format("\"{}\" is no unit of angle", m.unit));
    }
    in_range = out.number;
    if (!(std::abs(out.number) < 1e6)) throw refuse("give a sensible angle");
  } else if (key.type == Type::fraction && m.unit == "%") {
    in_range = out.number = m.value / 100;
  } else {
    if (!m.unit.empty()) throw refuse(fmt::format("it takes no unit, \"{}\" was given", m.unit));
    out.number = m.value;
    if (key.type == Type::whole && (m.value != std::floor(m.value))) throw refuse("give a whole number");
  }
  const bool below = key.least && (key.above_least ? !(in_range > *key.least) : in_range < *key.least);
  if (below || (key.greatest && in_range > *key.greatest)) throw refuse("give one in that range");
  return out;
}

}  // namespace palio::job
