#include "node.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>
#include <toml++/toml.h>
#include <nlohmann/json.hpp>

#include "palio/utf8.hpp"
#include "palio/values/spelling.hpp"
#include "text.hpp"

namespace palio::job {
namespace {

[[noreturn]] void fail(const std::string& id, const Where& where, const std::string& key, const std::string& message) {
  throw JobError({{id, where, key, message}});
}

Where where_of(const toml::source_region& region, const std::string& source) {
  return {source, static_cast<int>(region.begin.line), static_cast<int>(region.begin.column)};
}

Node from_toml(const toml::node& node, const std::string& source) {
  const Where where = where_of(node.source(), source);
  if (const toml::table* table = node.as_table()) {
    // toml++ keeps tables sorted by name; the job's own order is that of the keys' places.
    std::vector<std::pair<const toml::key*, const toml::node*>> entries;
    for (const auto& [key, child] : *table)
      entries.emplace_back(&key, &child);
    std::sort(entries.begin(), entries.end(), [](const auto& a, const auto& b) {
      const auto &p = a.first->source().begin, &q = b.first->source().begin;
      return std::tie(p.line, p.column) < std::tie(q.line, q.column);
    });
    Table out;
    for (const auto& [key, child] : entries)
      out.emplace_back(std::string(key->str()), from_toml(*child, source));
    return {std::move(out), where};
  }
  if (const toml::array* array = node.as_array()) {
    List out;
    for (const toml::node& child : *array)
      out.push_back(from_toml(child, source));
    return {std::move(out), where};
  }
  if (const auto* v = node.as_integer()) return {v->get(), where};
  if (const auto* v = node.as_floating_point()) return {v->get(), where};
  if (const auto* v = node.as_boolean()) return {v->get(), where};
  if (const auto* v = node.as_string()) return {v->get(), where};
  return {Other{"a date or time"}, where};
}

Node from_json(const nlohmann::ordered_json& json, const std::string& source) {
  const Where where{source, 0, 0};
  if (json.is_object()) {
    Table out;
    for (const auto& [key, child] : json.items())
      out.emplace_back(key, from_json(child, source));
    return {std::move(out), where};
  }
  if (json.is_array()) {
    List out;
    for (const auto& child : json)
      out.push_back(from_json(child, source));
    return {std::move(out), where};
  }
  if (json.is_number_integer() && !json.is_number_unsigned()) return {json.get<std::int64_t>(), where};
  if (json.is_number_unsigned()) {
    const auto v = json.get<std::uint64_t>();
    if (v <= 9007199254740992u) return {static_cast<std::int64_t>(v), where};
    return {static_cast<double>(v), where};
  }
  if (json.is_number()) return {json.get<double>(), where};
  if (json.is_boolean()) return {json.get<bool>(), where};
  if (json.is_string()) return {json.get<std::string>(), where};
  return {Other{"null"}, where};
}

constexpr int kDeepest = 32;  // tables within tables; a job needs four

/// Whether names joined by points, or brackets, go deeper than a job can: the parser would follow them all the way.
bool too_deep(std::string_view text) {
  int points = 0, brackets = 0;
  char quote = 0;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (quote != 0) {
      if (c == '\\' && quote == '"')
        ++i;
      else if (c == quote || c == '\n')
        quote = 0;
      continue;
    }
    if (c == '"' || c == '\'')
      quote = c;
    else if (c == '#')
      i = std::min(text.find('\n', i), text.size()) - 1;
    else if (c == '[' || c == '{')
      ++brackets;
    else if (c == ']' || c == '}')
      --brackets;
    else if (c == '.')
      ++points;
    else if (c == '\n' || c == ',' || c == '=')
      points = 0;
    if (points > kDeepest || brackets > kDeepest) return true;
  }
  return false;
}

[[noreturn]] void fail_deep(const std::string& source) {
  fail("too-deep", {source, 1, 1}, "",
       fmt::format("this is nested more than {} deep; a job has tables within tables, four deep at most", kDeepest));
}

bool is_utf8(std::string_view text) {
  for (std::size_t i = 0; i < text.size();) {
    const auto c = static_cast<unsigned char>(text[i]);
    const std::size_t more = c < 0x80                ? 0
                             : c >= 0xC2 && c < 0xE0 ? 1
                             : c >= 0xE0 && c < 0xF0 ? 2
                             : c >= 0xF0 && c < 0xF5 ? 3
                                                     : text.size();
    if (i + more >= text.size() + (more == 0 ? 1 : 0)) return false;
    for (std::size_t k = 1; k <= more; ++k) {
      if (!continues(text[i + k])) return false;
    }
    i += more + 1;
  }
  return true;
}

Node read_json(std::string_view text, const std::string& source) {
  using Json = nlohmann::ordered_json;
  // The library keeps the last of two equal keys without a word; a job must not lose the first.
  std::vector<std::set<std::string>> seen;
  std::string twice;
  const auto watch = [&](int depth, Json::parse_event_t event, Json& parsed) {
    if (depth > kDeepest) fail_deep(source);
    if (event == Json::parse_event_t::object_start) seen.emplace_back();
    if (event == Json::parse_event_t::object_end) seen.pop_back();
    if (event == Json::parse_event_t::key && !seen.back().insert(parsed.get<std::string>()).second)
      twice = parsed.get<std::string>();
    return true;
  };
  try {
    const Json json = Json::parse(text, watch);
    if (!twice.empty()) fail("syntax", {source, 0, 0}, twice, "stands twice in the same object; drop one");
    return from_json(json, source);
  } catch (const nlohmann::json::parse_error& e) {
    const std::string_view before = text.substr(0, std::min<std::size_t>(e.byte > 0 ? e.byte - 1 : 0, text.size()));
    const int line = 1 + static_cast<int>(std::count(before.begin(), before.end(), '\n'));
    const int column =
        static_cast<int>(before.size() - (before.rfind('\n') == std::string_view::npos ? 0 : before.rfind('\n') + 1)) +
        1;
    std::string what = e.what();
    if (const auto colon = what.find(": "); colon != std::string::npos) what = what.substr(colon + 2);
    fail("syntax", {source, line, column}, "", fmt::format("this is not JSON: {}", what));
  } catch (const nlohmann::json::exception& e) {
    std::string what = e.what();
    if (const auto bracket = what.find("] "); bracket != std::string::npos) what = what.substr(bracket + 2);
    fail("syntax", {source, 0, 0}, "", fmt::format("this JSON cannot be taken: {}; numbers are finite", what));
  }
}

bool printable(std::string_view text) {
  return std::none_of(text.begin(), text.end(), [](char c) {
    const auto u = static_cast<unsigned char>(c);
    return (u < 32 && c != '\n' && c != '\r' && c != '\t') || u == 127;
  });
}

}  // namespace

const Node* Node::find(std::string_view key) const {
  if (const Table* t = table()) {
    for (const auto& [name, child] : *t) {
      if (name == key) return &child;
    }
  }
  return nullptr;
}

bool has_control_characters(std::string_view text) {
  for (std::size_t i = 0; i < text.size(); ++i) {
    const auto c = static_cast<unsigned char>(text[i]);
    if (c < 32 || c == 127 || (c == 0xC2 && i + 1 < text.size() && static_cast<unsigned char>(text[i + 1]) < 0xA0))
      return true;
  }
  return false;
}

std::string Node::text() const {
  struct Write {
    std::string operator()(const Table& t) const { return t.empty() ? "an empty table" : "a table"; }
    std::string operator()(const List&) const { return "a list"; }
    std::string operator()(bool v) const { return v ? "true" : "false"; }
    std::string operator()(std::int64_t v) const { return fmt::format("{}", v); }
    std::string operator()(double v) const { return fmt::format("{}", v); }
    std::string operator()(const std::string& v) const {
      return v.size() > 80 ? fmt::format("\"{}…\" ({} characters)", v.substr(0, 40), v.size())
                           : fmt::format("\"{}\"", v);
    }
    std::string operator()(const Other& v) const { return v.text; }
  };
  return std::visit(Write{}, value);
}

bool is_json(std::string_view text, std::string_view source) {
  constexpr std::string_view kEnding = ".json";
  const bool named = source.size() > kEnding.size() && source.substr(source.size() - kEnding.size()) == kEnding;
  return named || begins_json(text);
}

bool is_place(std::string_view name) {
  return !name.empty() && name.size() < 6 && name.find_first_not_of("0123456789") == std::string_view::npos;
}

Node read(std::string_view text, const std::string& source) {
  text = unmarked(text);
  if (text.find_first_not_of(" \t\r\n") == std::string_view::npos) {
    fail("empty-job", {source, 1, 1}, "", "the job is empty; `palio start spur` writes one to begin from");
  }
  if (!printable(text)) {
    fail("not-text", {source, 1, 1}, "", "this is not a text file; a job is TOML or JSON in UTF-8");
  }
  if (!is_utf8(text)) fail("not-text", {source, 1, 1}, "", "this is not UTF-8; save the job as UTF-8");
  if (is_json(text, source)) return read_json(text, source);
  if (too_deep(text)) fail_deep(source);
  try {
    const toml::table table = toml::parse(text, source);
    return from_toml(table, source);
  } catch (const toml::parse_error& e) {
    fail("syntax", where_of(e.source(), source), "", fmt::format("this is not TOML: {}", e.description()));
  }
}

void override_value(Node& root, const std::string& assignment) {
  const Where where{"--set " + assignment, 0, 0};
  const auto equals = assignment.find('=');
  const std::string path = assignment.substr(0, equals);
  if (equals == std::string::npos || equals == 0 || equals + 1 == assignment.size()) {
    fail("bad-set", where, path, "--set takes KEY=VALUE, as in --set gear.motor_pinion.teeth=19");
  }
  if (!is_utf8(assignment) || too_deep(assignment)) fail("bad-set", where, "", "--set takes text in UTF-8, KEY=VALUE");
  const std::string value = assignment.substr(equals + 1);
  Node parsed{value, where};
  try {
    const toml::table t = toml::parse("v = " + value);
    if (t.size() == 1) parsed = from_toml(*t.get("v"), where.source);
  } catch (const toml::parse_error&) {
    // Not a TOML value: a bare word or an expression, taken as a string.
  }
  put(root, path, std::move(parsed), where);
}

void put(Node& root, const std::string& path, Node value, const Where& where) {
  value.where = where;
  Node* at = &root;
  std::size_t from = 0;
  const std::string head = path.substr(0, path.find('.'));
  for (int depth = 0;; ++depth) {
    const auto dot = path.find('.', from);
    const std::string name = path.substr(from, dot == std::string::npos ? dot : dot - from);
    if (depth > kDeepest || name.empty())
      fail("bad-set", where, path, "a key is names joined by points, as gear.motor_pinion.teeth");
    if (List* list = std::get_if<List>(&at->value)) {
      if (!is_place(name) || std::stoul(name) >= list->size()) {
        fail("bad-set", where, path,
             fmt::format("\"{}\" is no place in this list; it has {} items, counted from 0", name, list->size()));
      }
      at = &(*list)[std::stoul(name)];
    } else {
      if (!at->table()) at->value = Table{};
      Table& table = *at->table();
      auto it = std::find_if(table.begin(), table.end(), [&](const auto& entry) { return entry.first == name; });
      if (it == table.end()) {
        // What has a name is there already: a slip must not make a new one.
        bool names_member = false;
        for (const char* section : {"gear", "pair", "frame", "reducer", "material", "values"})
          names_member = names_member || (depth == 1 && head == section);
        if (names_member) {
          std::vector<std::string> names;
          for (const auto& entry : table)
            names.push_back(entry.first);
          const Known known = known_words(names, name, name.size() / 2 + 1);
          fail("bad-set", where, path,
               fmt::format("the job has no {} named \"{}\"; it has {}{}", head == "values" ? "value" : head, name,
                           known.list.empty() ? "none" : known.list,
                           known.nearest.empty() ? "" : fmt::format("; did you mean \"{}\"?", known.nearest)));
        }
        table.emplace_back(name, Node{Table{}, where});
        it = std::prev(table.end());
      }
      at = &it->second;
    }
    if (dot == std::string::npos) break;
    from = dot + 1;
  }
  *at = std::move(value);
}

void take_out(Node& root, const std::string& path) {
  Node* at = &root;
  std::size_t from = 0;
  for (auto dot = path.find('.'); at; dot = path.find('.', from)) {
    const std::string name = path.substr(from, dot == std::string::npos ? dot : dot - from);
    Table* table = at->table();
    if (!table) return;
    const auto it = std::find_if(table->begin(), table->end(), [&](const auto& entry) { return entry.first == name; });
    if (it == table->end()) return;
    // `bore = …` is a short form of the table below it.
    if (dot == std::string::npos || !it->second.table()) {
      table->erase(it);
      return;
    }
    at = &it->second;
    from = dot + 1;
  }
}

}  // namespace palio::job
