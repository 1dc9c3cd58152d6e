#include "value.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <regex>
#include <vector>

#include <fmt/format.h>
#include <muParser.h>

#include "palio/angle.hpp"
#include "palio/values/spelling.hpp"

namespace palio::job {
namespace {

struct Unit {
  std::string_view written, canonical;
  double factor;  // canonical per written
};
// Longer spellings first: the last word of a string is matched from here.
constexpr std::array kUnits{Unit{"inches", "in", 1},  Unit{"inch", "in", 1},  Unit{"mm", "mm", 1},
                            Unit{"cm", "mm", 10},     Unit{"µm", "mm", 1e-3}, Unit{"um", "mm", 1e-3},
                            Unit{"thou", "in", 1e-3}, Unit{"in", "in", 1},    Unit{"\"", "in", 1},
                            Unit{"m", "mm", 1000},    Unit{"deg", "deg", 1},  Unit{"°", "deg", 1},
                            Unit{"rad", "rad", 1},    Unit{"%", "%", 1}};

using NamedNumbers = std::map<std::string, double>;

bool is_space(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }
bool is_digit(char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; }
bool is_letter(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '_'; }

// Angles are degrees here as everywhere in a job.
double sine(double x) { return std::sin(x * kPi / 180); }
double cosine(double x) { return std::cos(x * kPi / 180); }
double tangent(double x) { return std::tan(x * kPi / 180); }
double arc_sine(double x) { return std::asin(x) * 180 / kPi; }
double arc_cosine(double x) { return std::acos(x) * 180 / kPi; }
double arc_tangent(double x) { return std::atan(x) * 180 / kPi; }
double arc_tangent2(double y, double x) { return std::atan2(y, x) * 180 / kPi; }
double root(double x) { return std::sqrt(x); }
double absolute(double x) { return std::abs(x); }
double rounded(double x) { return std::round(x); }
double floored(double x) { return std::floor(x); }
double raised(double x) { return std::ceil(x); }
double exponential(double x) { return std::exp(x); }
double logarithm(double x) { return std::log(x); }
double lesser(double a, double b) { return std::min(a, b); }
double greater(double a, double b) { return std::max(a, b); }

mu::Parser parser_of(const NamedNumbers& values) {
  mu::Parser parser;
  parser.ClearFun();
  parser.ClearConst();
  parser.DefineFun("sin", sine), parser.DefineFun("cos", cosine), parser.DefineFun("tan", tangent);
  parser.DefineFun("asin", arc_sine), parser.DefineFun("acos", arc_cosine), parser.DefineFun("atan", arc_tangent);
  parser.DefineFun("atan2", arc_tangent2), parser.DefineFun("sqrt", root), parser.DefineFun("abs", absolute);
  parser.DefineFun("round", rounded), parser.DefineFun("floor", floored), parser.DefineFun("ceil", raised);
  parser.DefineFun("exp", exponential), parser.DefineFun("ln", logarithm);
  parser.DefineFun("min", lesser), parser.DefineFun("max", greater);
  parser.DefineConst("pi", kPi);
  for (const auto& [name, value] : values) {
    if (name != "pi") parser.DefineConst(name, value);
  }
  return parser;
}

/// What the parser would take for a list, a comparison or a choice is none of them in a number.
void check_marks(const std::string& text) {
  std::vector<bool> calls;  // of the parentheses open here: whether they hold a function's arguments
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '(') calls.push_back(i > 0 && (is_letter(text[i - 1]) || is_digit(text[i - 1])));
    if (c == ')' && !calls.empty()) calls.pop_back();
    if (c == ',' && (calls.empty() || !calls.back())) {
      std::string meant = text;
      const bool one = std::count(text.begin(), text.end(), ',') == 1;
      if (one)
        meant[i] = '.';
      else
        meant.erase(std::remove(meant.begin(), meant.end(), ','), meant.end());
      throw fmt::format("has a comma; decimals are written with a point: \"{}\" was probably meant", meant);
    }
    if (std::string_view("<>=!&|?:;").find(c) != std::string_view::npos) {
      throw fmt::format("compares or chooses (\"{}\"), but is to be one number; write the number", c);
    }
  }
}

/// "1 1/8" as (1+1/8), and a fraction before a unit in parentheses, so that the unit goes with all of it.
std::string with_fractions(const std::string& text) {
  static const std::regex mixed(R"((^|[^\w.)])(\d+)\s+(\d+)\s*/\s*(\d+)(?![\w.]))");
  static const std::regex plain(R"x((^|[^\w.)/])(\d+(?:\.\d*)?)\s*/\s*(\d+(?:\.\d*)?)(?=\s*["A-Za-z%]))x");
  return std::regex_replace(std::regex_replace(text, mixed, "$1($2+$3/$4)"), plain, "$1($2/$3)");
}

/// \throws a text where it is a number with something behind it that is no unit here ("3 furlong")
void check_unit(const std::string& text, const NamedNumbers& values) {
  static const std::regex with_word(R"(\s*[-+]?[\d.]+(?:[eE][-+]?\d+)?\s*([A-Za-z][A-Za-z/]*)\s*)");
  std::smatch found;
  if (std::regex_match(text, found, with_word) && values.count(found[1]) == 0 && found[1] != "pi" && found[1] != "e")
    throw fmt::format("ends in \"{}\", no unit here (mm, cm, m, µm, in, thou, °, rad, % are)", found[1].str());
}

double evaluate(mu::Parser& parser, const std::string& expression, const NamedNumbers& values) {
  try {
    parser.SetExpr(expression);
    return parser.Eval();
  } catch (const mu::Parser::exception_type& e) {
    std::string known;
    for (const auto& entry : values)
      known += (known.empty() ? "" : ", ") + entry.first;
    std::string why = e.GetMsg();
    while (!why.empty() && (why.back() == '\n' || why.back() == '.'))
      why.pop_back();
    throw fmt::format("cannot be worked out: {} ([values] has {})", why, known.empty() ? "nothing" : known);
  }
}

/// The unit at the end of a text, which then stands without it.
const Unit* unit_at_end(std::string& rest) {
  for (const Unit& u : kUnits) {
    if (rest.size() <= u.written.size() ||
        rest.compare(rest.size() - u.written.size(), u.written.size(), u.written) != 0)
      continue;
    const char before = rest[rest.size() - u.written.size() - 1];
    if (is_letter(before)) continue;  // the end of a name, not a unit
    if (!is_space(before) && before != ')' && before != '.' && !is_digit(before)) continue;
    rest.resize(rest.size() - u.written.size());
    return &u;
  }
  return nullptr;
}

/// Whether a unit stands somewhere in a text, after a number or a parenthesis.
bool has_unit(const std::string& text) {
  for (const char* mark : {"°", "\"", "%", "µm"}) {
    if (text.find(mark) != std::string::npos) return true;
  }
  static const std::regex unit(R"((^|[\d.)\s])(inches|inch|mm|cm|um|thou|in|m|deg|rad)(?![\w(]))");
  return std::regex_search(text, unit);
}

thread_local double g_length = 1, g_angle = 1,
                    g_share = 1;  // what one mm, degree, percent counts for: see `in_units_of`

/// An expression in which several terms have units: "10 mm + 1 in". Worked out for one size of each unit and again for
/// others, the result shows what it is of: a length grows with the millimetre alone, and evenly.
Measured in_units_of(std::string text, const NamedNumbers& values) {
  const auto replace = [&](std::string_view mark, std::string_view by) {
    for (auto at = text.find(mark); at != std::string::npos; at = text.find(mark, at + by.size()))
      text.replace(at, mark.size(), by);
  };
  replace("µm", "um"), replace("°", " deg"), replace("\"", " in"), replace("%", " percent");
  mu::Parser parser = parser_of(values);
  parser.DefinePostfixOprt("mm", [](double x) { return x * g_length; });
  parser.DefinePostfixOprt("cm", [](double x) { return x * 10 * g_length; });
  parser.DefinePostfixOprt("um", [](double x) { return x * 1e-3 * g_length; });
  parser.DefinePostfixOprt("m", [](double x) { return x * 1000 * g_length; });
  for (const char* inch : {"in", "inch", "inches"})
    parser.DefinePostfixOprt(inch, [](double x) { return x * 25.4 * g_length; });
  parser.DefinePostfixOprt("thou", [](double x) { return x * 0.0254 * g_length; });
  parser.DefinePostfixOprt("deg", [](double x) { return x * g_angle; });
  parser.DefinePostfixOprt("rad", [](double x) { return x * 180 / kPi * g_angle; });
  parser.DefinePostfixOprt("percent", [](double x) { return x * g_share; });
  const auto with = [&](double length, double angle, double share) {
    g_length = length, g_angle = angle, g_share = share;
    const double v = evaluate(parser, text, values);
    g_length = g_angle = g_share = 1;
    return v;
  };
  const double one = with(1, 1, 1), lengths = with(3, 1, 1), angles = with(1, 3, 1), shares = with(1, 1, 3);
  const double close = 1e-12 * std::abs(one);
  const auto same = [&](double v) { return std::abs(v - one) <= close; };
  const auto grown = [&](double v) { return std::abs(v - 3 * one) <= 3 * close; };
  if (grown(lengths) && same(angles) && same(shares) && one != 0) return {one, "mm"};
  if (grown(angles) && same(lengths) && same(shares) && one != 0) return {one, "deg"};
  if (grown(shares) && same(lengths) && same(angles) && one != 0) return {one, "%"};
  if (same(lengths) && same(angles) && same(shares)) return {one, ""};
  throw std::string("mixes terms with a unit and terms without (or of another sort); give each term its unit");
}

}  // namespace

Measured measure(const Node& node, const std::map<std::string, double>& values) {
  if (const auto* v = std::get_if<std::int64_t>(&node.value)) return {static_cast<double>(*v), ""};
  if (const auto* v = std::get_if<double>(&node.value)) return {*v, ""};
  const auto* text = std::get_if<std::string>(&node.value);
  if (!text) throw std::string("is no number");
  std::string rest = *text;
  while (!rest.empty() && is_space(rest.back()))
    rest.pop_back();
  if (rest.size() > 400) throw std::string("is too long for an expression (400 characters at most)");
  if (rest.find_first_not_of(' ') == std::string::npos) throw std::string("is empty");
  check_marks(rest);
  rest = with_fractions(rest);
  std::string bare = rest;
  const Unit* unit = unit_at_end(bare);
  if (has_unit(unit ? bare : rest)) return in_units_of(rest, values);
  check_unit(bare, values);
  mu::Parser parser = parser_of(values);
  const double number = evaluate(parser, bare, values);
  if (!unit) return {number, ""};
  for (const auto& entry : values) {
    if (std::regex_search(bare, std::regex("\\b" + entry.first + "\\b"))) {
      throw std::string(
          "has a unit after an expression with names from [values], which are in the file's units already");
    }
  }
  return {number * unit->factor, std::string(unit->canonical)};
}

namespace {

/// A list, or one value where a list is meant.
Value read_list(const Bounds& key, const Node& node, Units units, const std::map<std::string, double>& values) {
  Value out;
  out.where = node.where;
  Bounds each = key;
  switch (key.type) {
    case Type::angles: each.type = Type::angle; break;
    case Type::lengths: each.type = Type::length; break;
    case Type::names: each.type = Type::text; break;
    default: each.type = Type::choice;
  }
  const List one{node};
  const List* list = std::get_if<List>(&node.value);
  for (const Node& item : list ? *list : one) {
    const Value v = read_value(each, item, units, values);
    if (key.type == Type::angles || key.type == Type::lengths)
      out.numbers.push_back(v.number);
    else
      out.texts.push_back(v.text);
  }
  return out;
}

/// One length, or lengths by diameter: a table whose keys are diameters in the file's unit.
Value read_by_diameter(const Bounds& key, const Node& node, Units units, const std::map<std::string, double>& values) {
  Value out;
  out.where = node.where;
  Bounds length = key;
  length.type = Type::length;
  if (!node.table()) {
    out.by_diameter = {{0, read_value(length, node, units, values).number}};
    return out;
  }
  Bounds positive = length;
  positive.least = 0, positive.above_least = true;
  for (const auto& [name, child] : *node.table()) {
    const Value d = read_value(positive, Node{name, child.where}, units, values),
                v = read_value(length, child, units, values);
    out.by_diameter.emplace_back(d.number, v.number);
  }
  if (out.by_diameter.empty()) throw std::string("is an empty table; give a length, or lengths by diameter");
  std::sort(out.by_diameter.begin(), out.by_diameter.end());
  return out;
}

std::string refusal(const Bounds& key, const Node& node, Units units, const std::string& remedy) {
  return fmt::format("is {}, but {} is allowed; {}", node.text(), allowed(key, std::string(symbol(units))), remedy);
}

/// The text that a key takes as it stands; none where a number is meant.
/// \throws std::string what is wrong with it
std::optional<std::string> read_text(const Bounds& key, const Node& node, Units units) {
  // A designation in digits is one without quotes too.
  const auto* digits = key.type == Type::choice ? std::get_if<std::int64_t>(&node.value) : nullptr;
  const std::string written = digits ? std::to_string(*digits) : "";
  const auto* text = digits && among(key.choices, written) ? &written : std::get_if<std::string>(&node.value);
  if (!text) return std::nullopt;
  if (has_control_characters(*text)) throw refusal(key, node, units, "take the control characters out");
  if (key.type == Type::text) return *text;
  if (key.type != Type::choice && key.type != Type::share) return std::nullopt;
  if (among(key.choices, *text)) return *text;
  if (key.type == Type::choice || key.type == Type::table) {
    const std::string near = known_words(words_of(key.choices), *text, 3).nearest;
    throw refusal(key, node, units, near.empty() ? "check the spelling" : did_you_mean(near));
  }
  return std::nullopt;
}

/// Sets a length's `number` and `share`. Returns it in the unit in which the range is said.
/// \throws std::string what is wrong with it
double read_length(const Bounds& key, const Node& node, Units units, const Measured& m, Value& out) {
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
    throw refusal(key, node, units, fmt::format("\"{}\" is no unit of length", m.unit));
  }
  if (!(std::abs(out.number) < 1e6))
    throw refusal(key, node, units, "lengths beyond a kilometre are taken for a mistake");
  constexpr double kSmallest = 1e-3;  // mm
  const bool size = key.type == Type::length && key.least && *key.least == 0;
  if (size && out.number > 0 && out.number < kSmallest) {
    throw fmt::format(
        "is {}, but sizes are at least {:.6g} {}: what is smaller than a micrometre can be neither made nor told "
        "from rounding; give more",
        node.text(), kSmallest / mm_per(units), symbol(units));
  }
  return out.share || key.type == Type::millimetres ? out.number : out.number / mm_per(units);
}

/// An angle in degrees.
double read_angle(const Bounds& key, const Node& node, Units units, const Measured& m) {
  if (m.unit != "rad" && m.unit != "deg" && !m.unit.empty())
    throw refusal(key, node, units, fmt::format("\"{}\" is no unit of angle", m.unit));
  const double degrees = m.unit == "rad" ? m.value * 180 / kPi : m.value;
  if (!(std::abs(degrees) < 1e6)) throw refusal(key, node, units, "give a sensible angle");
  return degrees;
}

}  // namespace

Value read_value(const Bounds& key, const Node& node, Units units, const std::map<std::string, double>& values) {
  Value out;
  out.where = node.where;
  const auto refuse = [&](const std::string& remedy) { return refusal(key, node, units, remedy); };
  if (key.type == Type::flag) {
    const auto* flag = std::get_if<bool>(&node.value);
    if (!flag) throw refuse("write true or false");
    out.number = *flag ? 1 : 0;
    return out;
  }
  if (key.type == Type::angles || key.type == Type::lengths || key.type == Type::names || key.type == Type::choices)
    return read_list(key, node, units, values);
  if (key.type == Type::length_by_diameter) return read_by_diameter(key, node, units, values);
  if (const std::optional<std::string> text = read_text(key, node, units)) {
    out.text = *text;
    return out;
  }
  if (key.type == Type::text || key.type == Type::choice) throw refuse("write it so");
  if (std::holds_alternative<bool>(node.value) || node.table() || std::holds_alternative<List>(node.value) ||
      std::holds_alternative<Other>(node.value)) {
    throw refuse("write a number, or a string with unit or arithmetic");
  }
  Measured m{};
  try {
    m = measure(node, values);
  } catch (const std::string& why) {
    throw fmt::format("is {}, which {}; {} is allowed", node.text(), why, allowed(key, std::string(symbol(units))));
  }
  if (!std::isfinite(m.value)) throw refuse("give a finite number");
  double in_range = m.value;  // in the unit in which the range is said
  if (key.type == Type::length || key.type == Type::length_or_share || key.type == Type::millimetres) {
    in_range = read_length(key, node, units, m, out);
  } else if (key.type == Type::angle) {
    in_range = out.number = read_angle(key, node, units, m);
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
