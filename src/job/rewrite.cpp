// A job as text again: with overrides put in, or its lengths in the other unit.
#include <cctype>
#include <cmath>
#include <cstdio>

#include <fmt/format.h>

#include "palio/job/design.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

std::string quoted(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) {
    switch (c) {
      case '"': out += "\\\""; break;
      case '\\': out += "\\\\"; break;
      case '\n': out += "\\n"; break;
      case '\r': out += "\\r"; break;
      case '\t': out += "\\t"; break;
      default: out += c;
    }
  }
  return out + "\"";
}

std::string key_text(const std::string& name) {
  bool bare = !name.empty();
  for (const char c : name) bare = bare && (std::isalnum(static_cast<unsigned char>(c)) || c == '_' || c == '-');
  return bare ? name : quoted(name);
}

/// TOML has no integers beyond 64 bits and wants a point or an exponent in a real number.
std::string real(double v) {
  std::string text = fmt::format("{}", v);
  if (text.find_first_of(".einf") == std::string::npos) text += ".0";
  return text;
}

std::string inlined(const Node& node) {
  struct Write {
    std::string operator()(const Table& t) const {
      std::string out;
      for (const auto& [name, child] : t) out += fmt::format("{}{} = {}", out.empty() ? " " : ", ", key_text(name), inlined(child));
      return "{" + out + " }";
    }
    std::string operator()(const List& list) const {
      std::string out;
      for (const Node& child : list) out += (out.empty() ? "" : ", ") + inlined(child);
      return "[" + out + "]";
    }
    std::string operator()(bool v) const { return v ? "true" : "false"; }
    std::string operator()(std::int64_t v) const { return fmt::format("{}", v); }
    std::string operator()(double v) const { return real(v); }
    std::string operator()(const std::string& v) const { return quoted(v); }
    std::string operator()(const Other&) const { return "\"\""; }
  };
  return std::visit(Write{}, node.value);
}

bool holds_members(const std::string& name) {
  for (const char* section : {"gear", "pair", "frame", "material", "reducer", "planetary", "train"}) {
    if (name == section) return true;
  }
  return false;
}

/// Lengths of one table in the other unit; everything that is worked out from [values] as a number.
class Converter {
 public:
  Converter(Units from, Units to, const std::map<std::string, double>& values) : from_(from), to_(to), values_(values) {}

  void table(Node& node, Section section, const std::string& path) const {
    for (auto& [name, child] : *node.table()) value(child, section, path.empty() ? name : path + "." + name);
  }

  /// A length without a unit of its own, rounded to what a file may hold: 12 digits.
  void value(Node& node, Section section, const std::string& path) const {
    const Key* key = find_key(section == Section::shared ? Section::gear : section, path);
    if (Table* inner = node.table()) {
      if (key && key->type == Type::length_by_diameter) return by_diameter(*inner, *key);
      return table(node, section, path);
    }
    if (List* list = std::get_if<List>(&node.value)) {
      for (Node& item : *list) {
        if (item.table()) table(item, section, path);
        else value(item, section, path);
      }
      return;
    }
    if (!key) return;
    const bool numeric =
        key->type != Type::text && key->type != Type::choice && key->type != Type::names && key->type != Type::choices && key->type != Type::flag;
    const bool length = key->type == Type::length || key->type == Type::length_or_share || key->type == Type::length_by_diameter;
    if (!numeric) return;
    try {
      const Measured m = measure(node, values_);
      if (!m.unit.empty()) return;
      const double number = length ? m.value * mm_per(from_) / mm_per(to_) : m.value;
      if (length || std::holds_alternative<std::string>(node.value)) node.value = rounded(number);
    } catch (const std::string&) {
      // A word such as "teeth" or "standard".
    }
  }

 private:
  static std::variant<Table, List, bool, std::int64_t, double, std::string, Other> rounded(double v) {
    char text[40];
    std::snprintf(text, sizeof text, "%.12g", v);
    const double r = std::strtod(text, nullptr);
    if (r == std::floor(r) && std::abs(r) < 1e15) return static_cast<std::int64_t>(r);
    return r;
  }
  void by_diameter(Table& inner, const Key& key) const {
    Table made;
    for (const auto& [name, child] : inner) {
      const double d = std::strtod(name.c_str(), nullptr) * mm_per(from_) / mm_per(to_);
      made.emplace_back(fmt::format("{:.12g}", d), child);
      value(made.back().second, key.section, std::string(key.path));
    }
    inner = std::move(made);
  }

  Units from_, to_;
  const std::map<std::string, double>& values_;
};

}  // namespace

std::string to_toml(const Node& root) {
  std::string text;
  for (const auto& [name, child] : *root.table()) {
    if (!child.table()) text += fmt::format("{} = {}\n", key_text(name), inlined(child));
  }
  const auto block = [&](const std::string& head, const Table& table) {
    text += fmt::format("\n[{}]\n", head);
    for (const auto& [name, child] : table) text += fmt::format("{} = {}\n", key_text(name), inlined(child));
  };
  for (const auto& [name, child] : *root.table()) {
    if (!child.table()) continue;
    if (!holds_members(name)) {
      block(key_text(name), *child.table());
      continue;
    }
    for (const auto& [member, inner] : *child.table()) {
      if (inner.table()) block(key_text(name) + "." + key_text(member), *inner.table());
    }
  }
  return text;
}

std::string in_units(std::string_view text, const std::string& source, Units units) {
  const Design design = resolve(text, source);  // says what is wrong with it
  if (design.units == units) return std::string(text);
  Node root = read(text, source);
  std::map<std::string, double> values;
  if (const Node* given = root.find("values"); given && given->table()) {
    for (const auto& [name, child] : *given->table()) {
      const Measured m = measure(child, values);
      values[name] = m.unit == "mm" ? m.value / mm_per(design.units) : m.unit == "in" ? m.value * 25.4 / mm_per(design.units) : m.value;
    }
  }
  const Converter convert(design.units, units, values);
  Table& top = *root.table();
  Table made;
  bool said = false;
  for (auto& [name, child] : top) {
    if (name == "values") continue;  // worked out everywhere
    if (name == "units") child.value = std::string(symbol(units)), said = true;
    if (name == "shared") convert.table(child, Section::shared, "");
    if (name == "process") convert.table(child, Section::process, "");
    for (const auto& [section_name, section] :
         {std::pair{"gear", Section::gear}, {"pair", Section::pair}, {"frame", Section::frame}, {"reducer", Section::reducer}}) {
      if (name != section_name || !child.table()) continue;
      for (auto& [member, inner] : *child.table()) {
        if (inner.table()) convert.table(inner, section, "");
      }
    }
    made.emplace_back(name, std::move(child));
  }
  if (!said) made.insert(made.begin(), {"units", Node{std::string(symbol(units)), {}}});
  top = std::move(made);
  return to_toml(root);
}

}  // namespace palio::job
