// A job as text again: with overrides put in, or its lengths in the other unit.
#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <limits>
#include <optional>

#include <fmt/format.h>
#include <toml++/toml.h>

#include "edits.hpp"
#include "expected.hpp"
#include "palio/angle.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/values.hpp"
#include "text.hpp"
#include "toml_text.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

/// TOML has no integers beyond 64 bits and wants a point or an exponent in a real number.
std::string real(double v) {
  std::string text = fmt::format("{}", v);
  if (text.find_first_of(".einf") == std::string::npos) text += ".0";
  return text;
}

}  // namespace

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
  for (const char c : name)
    bare = bare && (std::isalnum(static_cast<unsigned char>(c)) || c == '_' || c == '-');
  return bare ? name : quoted(name);
}

std::string inlined(const Node& node) {
  struct Write {
    std::string operator()(const Table& t) const {
      std::string out;
      for (const auto& [name, child] : t)
        out += fmt::format("{}{} = {}", out.empty() ? " " : ", ", key_text(name), inlined(child));
      return "{" + out + " }";
    }
    std::string operator()(const List& list) const {
      std::string out;
      for (const Node& child : list)
        out += (out.empty() ? "" : ", ") + inlined(child);
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

namespace {

bool holds_members(const std::string& name) {
  const std::optional<Section> section = section_named(name);
  return section && has_names(*section);
}

/// A number of the old unit in the new one. Its own digits where, read again, they give the same length to the last
/// bit; else the old number with its unit, which does.
std::string in_other_unit(double v, Units from, Units to) {
  const double mm = v * mm_per(from);
  double near = mm / mm_per(to);
  for (const double direction : {0.0, 1.0, -1.0}) {
    const double tried =
        direction == 0 ? near : std::nextafter(near, direction * std::numeric_limits<double>::infinity());
    if (tried * mm_per(to) != mm) continue;
    const std::string text = fmt::format("{}", tried);
    return text.find_first_of(".e") == std::string::npos && std::abs(tried) < 1e15 ? fmt::format("{:.0f}", tried)
                                                                                   : text;
  }
  return fmt::format("\"{} {}\"", v, symbol(from));
}

/// What stands in place of a value in the new unit; none where it stays as it is.
class Converter {
 public:
  Converter(Units from, Units to, const std::map<std::string, double>& values)
      : from_(from), to_(to), values_(values) {}

  std::optional<std::string> value(const Key& key, const Node& node) const {
    const bool length = is_length(key.type) || key.type == Type::lengths || key.type == Type::length_by_diameter;
    if (!length) return std::nullopt;
    const auto* text = std::get_if<std::string>(&node.value);
    const auto fitted = text && key.path == "bore.diameter" ? size_and_fit(*text) : std::nullopt;
    if (!fitted) return length_of(node);
    // The fit stays behind the size.
    std::optional<std::string> size = length_of(Node{fitted->first, node.where});
    if (!size) return std::nullopt;
    size->erase(std::remove(size->begin(), size->end(), '"'), size->end());
    return quoted(*size + " " + fitted->second);
  }

  /// Of a table by diameters: the key, as it stands in TOML.
  std::optional<std::string> diameter(const std::string& name) const {
    const auto made = length_of(Node{name, {}});
    if (!made) return std::nullopt;
    return (*made)[0] == '"' ? made : "\"" + *made + "\"";
  }

  /// Of [values]: a length of its own unit becomes a number of the old one, which is what expressions of the job take
  /// it for.
  std::optional<std::string> named(const Node& node) const {
    if (!std::holds_alternative<std::string>(node.value)) return std::nullopt;
    const Measured m = measure(node, values_);
    if (m.unit != "mm" && m.unit != "in") return std::nullopt;
    return fmt::format("{}", m.value * (m.unit == "in" ? 25.4 : 1) / mm_per(from_));
  }

  /// Whether a number says its unit itself, or is none.
  bool says_unit(const Node& node) const {
    try {
      return !measure(node, values_).unit.empty();
    } catch (const std::string&) {
      return true;
    }
  }

  /// What a drawing says, with the old unit beside each number that has none.
  std::string with_unit(const Node& node) const {
    const auto* text = std::get_if<std::string>(&node.value);
    if (!text) return quoted(fmt::format("{} {}", node.text(), symbol(from_)));
    if (*text == "greatest" || *text == "least") return quoted(*text);
    const auto piece = [&](const std::string& number) {
      return measure(Node{number, node.where}, values_).unit.empty() ? fmt::format("{} {}", number, symbol(from_))
                                                                     : number;
    };
    const SaidParts said = parts_of_said(*text);
    return quoted(said.words + piece(said.first) +
                  (said.sign.empty() ? "" : fmt::format(" {} {}", said.sign, piece(said.second))));
  }

 private:
  std::optional<std::string> length_of(const Node& node) const {
    try {
      const Measured m = measure(node, values_);
      if (!m.unit.empty()) return std::nullopt;  // says its own
      const auto* text = std::get_if<std::string>(&node.value);
      char* end = nullptr;
      const double plain = text ? std::strtod(text->c_str(), &end) : m.value;
      if (!text) return in_other_unit(m.value, from_, to_);
      if (!text->empty() && *end == 0) {
        const std::string made = in_other_unit(plain, from_, to_);
        return made[0] == '"' ? made : "\"" + made + "\"";
      }
      // A formula stays one: in the old unit, and then converted.
      return quoted(fmt::format("({}){}", *text, to_ == Units::inch ? "/25.4" : "*25.4"));
    } catch (const std::string&) {
      return std::nullopt;  // a word such as "teeth" or "standard"
    }
  }

  Units from_, to_;
  const std::map<std::string, double>& values_;
};

Node node_of(const toml::node& node) {
  if (const auto* v = node.as_integer()) return {v->get(), {}};
  if (const auto* v = node.as_floating_point()) return {v->get(), {}};
  if (const auto* v = node.as_string()) return {v->get(), {}};
  return {Other{""}, {}};
}

/// All places of a TOML job where lengths stand.
class Editor {
 public:
  Editor(std::string_view text, const Converter& convert, const std::function<bool(const std::string&)>& is_length)
      : places_(text), convert_(convert), is_length_(is_length) {}

  std::vector<Edit> edits(const toml::table& root, Units to) {
    bool said = false;
    for (const auto& [name, child] : root) {
      const std::string section(name.str());
      if (section == "units") replace(child.source(), quoted(std::string(symbol(to)))), said = true;
      if (section == "measured" && child.is_array()) measured(*child.as_array());
      const toml::table* table = child.as_table();
      if (!table) continue;
      if (section == "values") values(*table);
      if (section == "expect" || section == "want") expected(*table, "");
      const auto of = section_named(section);
      if (of == Section::shared || of == Section::process) walk(*table, *of, "");
      if (!of || !holds_members(section)) continue;
      for (const auto& [member, inner] : *table) {
        if (inner.is_table()) walk(*inner.as_table(), *of, "");
      }
    }
    if (!said) edits_.push_back({0, 0, fmt::format("units = \"{}\"\n", symbol(to))});
    return std::move(edits_);
  }

 private:
  void replace(const toml::source_region& region, std::string text) {
    edits_.push_back({at(region.begin), at(region.end), std::move(text)});
  }

  std::size_t at(const toml::source_position& p) const { return places_.at(p.line, p.column); }

  void values(const toml::table& table) {
    for (const auto& [name, child] : table) {
      if (const auto made = convert_.named(node_of(child))) replace(child.source(), *made);
    }
  }

  void expected(const toml::table& table, const std::string& path) {
    for (const auto& [name, child] : table) {
      const std::string full = path.empty() ? std::string(name.str()) : path + "." + std::string(name.str());
      if (const toml::table* inner = child.as_table()) {
        expected(*inner, full);
      } else if (is_length_(full)) {
        const toml::array* range = child.as_array();
        if (!range) with_unit(child);
        for (std::size_t i = 0; range && i < range->size(); ++i)
          with_unit(*range->get(i));
      }
    }
  }

  /// Measurements stay as they were read, with their unit beside them.
  void measured(const toml::array& list) {
    for (const toml::node& one : list) {
      const toml::table& table = *one.as_table();
      const std::string of = table["of"].value_or(std::string());
      const bool length = is_length_(of) || is_length_(of + ".length");
      const toml::node* is = table.get("is");
      if (const toml::node* pin = table.get("pin_diameter"); pin && !convert_.says_unit(node_of(*pin))) with_unit(*pin);
      if (!length || !is || convert_.says_unit(node_of(*is))) continue;
      with_unit(*is);
      if (const toml::node* u = table.get("uncertainty"); u && !convert_.says_unit(node_of(*u))) with_unit(*u);
    }
  }

  void with_unit(const toml::node& node) { replace(node.source(), convert_.with_unit(node_of(node))); }

  void walk(const toml::table& table, Section section, const std::string& path) {
    for (const auto& [name, child] : table) {
      const std::string full = path.empty() ? std::string(name.str()) : path + "." + std::string(name.str());
      const Key* key = find_key(section, full);
      if (!key && full == "bore") key = find_key(section, "bore.diameter");
      if (const toml::table* inner = child.as_table()) {
        if (key && key->type == Type::length_by_diameter)
          by_diameter(*inner, *key);
        else
          walk(*inner, section, full);
      } else if (const toml::array* list = child.as_array()) {
        for (const toml::node& item : *list) {
          if (item.is_table())
            walk(*item.as_table(), section, full);
          else if (key)
            one(*key, item);
        }
      } else if (key) {
        one(*key, child);
      }
    }
  }

  void one(const Key& key, const toml::node& node) {
    if (const auto made = convert_.value(key, node_of(node))) replace(node.source(), *made);
  }

  void by_diameter(const toml::table& table, const Key& key) {
    for (const auto& [name, child] : table) {
      if (const auto made = convert_.diameter(std::string(name.str()))) replace(name.source(), *made);
      one(key, child);
    }
  }

  Places places_;
  const Converter& convert_;
  const std::function<bool(const std::string&)>& is_length_;
  std::vector<Edit> edits_;
};

}  // namespace

std::string number_text(double number, bool whole) { return whole ? fmt::format("{:.0f}", number) : real(number); }

std::string to_toml(const Node& root) {
  std::string text;
  for (const auto& [name, child] : *root.table()) {
    if (!child.table()) text += fmt::format("{} = {}\n", key_text(name), inlined(child));
  }
  const auto block = [&](const std::string& head, const Table& table) {
    text += fmt::format("\n[{}]\n", head);
    for (const auto& [name, child] : table)
      text += fmt::format("{} = {}\n", key_text(name), inlined(child));
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

std::string in_units(std::string_view text, const std::string& source, Units units,
                     const std::function<bool(const std::string&)>& is_length) {
  const Values values = Values::read(text, source);
  const Tables& tables = values.tables();
  tables.mistakes.stop();
  if (tables.units == units) return std::string(text);
  if (!is_length && !(tables.expected.empty() && tables.wanted.empty() && tables.measured.empty())) {
    const Where where = !tables.expected.empty() ? tables.expected[0].where
                        : !tables.wanted.empty() ? tables.wanted[0].where
                                                 : tables.measured[0].where;
    const std::string path = !tables.expected.empty() ? "expect." + tables.expected[0].path
                             : !tables.wanted.empty() ? "want." + tables.wanted[0].path
                                                      : "measured.0";
    throw JobError(
        {{"bad-value", where, path, "is told in units that only its reading knows; say which paths are lengths"}});
  }
  const Converter convert(tables.units, units, tables.named);
  std::string job(unmarked(text));
  // JSON has no comments to keep: it becomes TOML first.
  if (begins_json(job)) job = to_toml(read(text, source));
  std::vector<Edit> edits = Editor(job, convert, is_length).edits(toml::parse(job, source), units);
  return edited(std::move(job), std::move(edits));
}

}  // namespace palio::job
