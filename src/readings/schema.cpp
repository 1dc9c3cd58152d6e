// The key table as a JSON Schema.
#include <map>

#include <nlohmann/json.hpp>

#include "palio/readings/explain.hpp"
#include "palio/values/keys.hpp"

namespace palio::job {
namespace {

using Json = nlohmann::ordered_json;

/// A number with the key's range where that is in the unit of the file; or a text with a unit or arithmetic.
Json number_or_text(const Key& key, const char* type) {
  Json number{{"type", type}};
  if (key.least) number[key.above_least ? "exclusiveMinimum" : "minimum"] = *key.least;
  if (key.greatest) number["maximum"] = *key.greatest;
  return {{"anyOf", {number, {{"type", "string"}}}}};
}

Json choice_of(const Key& key) { return words_of(key.choices); }

Json schema_of(const Key& key) {
  const Json text{{"type", "string"}}, number{{"anyOf", {{{"type", "number"}}, {{"type", "string"}}}}};
  Json schema;
  switch (key.type) {
    case Type::whole: schema = number_or_text(key, "integer"); break;
    case Type::plain:
    case Type::length:
    case Type::millimetres:
    case Type::per_inch:
    case Type::angle:
    case Type::length_or_share:
    case Type::fraction: schema = number_or_text(key, "number"); break;
    case Type::share: schema = {{"anyOf", {{{"type", "number"}, {"minimum", 0}, {"maximum", 1}}, text}}}; break;
    case Type::text: schema = text; break;
    case Type::choice: schema = {{"enum", choice_of(key)}}; break;
    case Type::choices: schema = {{"type", "array"}, {"items", {{"enum", choice_of(key)}}}}; break;
    case Type::flag: schema = {{"type", "boolean"}}; break;
    case Type::lengths:
    case Type::angles: schema = {{"type", "array"}, {"items", number}}; break;
    case Type::names: schema = {{"anyOf", {{{"type", "array"}, {"items", text}}, text}}}; break;
    case Type::length_by_diameter:
      schema = {{"anyOf", {{{"type", "number"}}, text, {{"type", "object"}, {"additionalProperties", number}}}}};
      break;
    case Type::table: schema = {{"type", "object"}}; break;
  }
  if (key.absent.number) schema["default"] = *key.absent.number;
  schema["description"] = std::string(key.meaning) + "; left out: " + key.absent.words;
  return schema;
}

Json& properties_at(Json& table, std::string_view path, std::string_view& last) {
  Json* at = &table;
  std::size_t from = 0, dot = 0;
  while ((dot = path.find('.', from)) != std::string_view::npos) {
    const std::string group(path.substr(from, dot - from));
    Json& inner = (*at)["properties"][group];
    if (inner.is_null()) inner = {{"type", "object"}, {"properties", Json::object()}, {"additionalProperties", false}};
    at = &inner;
    from = dot + 1;
  }
  last = path.substr(from);
  return (*at)["properties"];
}

/// For each kind, that keys of others are not there: of a gear that says its kind itself.
Json kinds_apart() {
  Json all = Json::array();
  for (const std::string_view kind : kKindNames) {
    std::map<std::string, bool> groups;  // whether any key below has a meaning
    for (const Key& key : keys()) {
      if (key.section != Section::gear) continue;
      groups[std::string(key.path.substr(0, key.path.find('.')))] |= key.kinds.has(*kind_named(kind));
    }
    Json none = Json::object();
    for (const auto& [group, any] : groups) {
      if (!any) none[group] = false;
    }
    if (none.empty()) continue;
    all.push_back({{"if", {{"properties", {{"kind", {{"const", kind}}}}}, {"required", {"kind"}}}},
                   {"then", {{"properties", none}}}});
  }
  return all;
}

/// What may be given several times is one table or a list of them.
void one_or_list(const std::string& path, Json& schema) {
  if (!is_list(path)) return;
  const Json one = schema;
  schema = {{"anyOf", {one, {{"type", "array"}, {"items", one}}}}};
}

/// A table with all keys of a section; keys below a group in a table of that name.
Json table_of(Section section, bool shared) {
  Json table{{"type", "object"}, {"properties", Json::object()}, {"additionalProperties", false}};
  Json plain = Json::object();  // keys that are a group too: "root", "keyway"
  for (const Key& key : keys()) {
    if (key.section != section || (shared && key.is_own)) continue;
    if (is_group(section, key.path)) {
      plain[std::string(key.path)] = schema_of(key);
      continue;
    }
    std::string_view last;
    Json& properties = properties_at(table, key.path, last);
    properties[std::string(last)] = schema_of(key);
  }
  for (auto& [name, schema] : table["properties"].items()) {
    one_or_list(name, schema);
    if (schema.contains("properties")) {
      for (auto& [inner, below] : schema["properties"].items())
        one_or_list(name + "." + inner, below);
    }
    if (name == "bore") schema = {{"anyOf", {schema, {{"type", "number"}}, {{"type", "string"}}}}};
    if (plain.contains(name)) schema = {{"anyOf", {plain[name], schema}}};
  }
  if (section == Section::gear) {
    // Of pinions and lanterns, read as teeth.
    if (!shared) table["properties"]["leaves"] = table["properties"]["teeth"];
    if (!shared) table["properties"]["mate_leaves"] = table["properties"]["mate_teeth"];
    if (!shared) table["allOf"] = kinds_apart();
  }
  return table;
}

Json by_name(const Json& table) { return {{"type", "object"}, {"additionalProperties", table}}; }

}  // namespace

std::string job_schema() {
  Json root{{"$schema", "https://json-schema.org/draft/2020-12/schema"},
            {"title", "A palio job"},
            {"description", "Written by palio explain --schema from the table that checks jobs."},
            {"type", "object"},
            {"additionalProperties", false}};
  Json& properties = root["properties"];
  for (const Key& key : keys()) {
    if (key.section == Section::top) {
      properties[std::string(key.path)] = schema_of(key);
    }
  }
  properties["values"]["additionalProperties"] = {{"anyOf", {{{"type", "number"}}, {{"type", "string"}}}}};
  for (const char* of_paths : {"expect", "want"})
    properties[of_paths].erase("additionalProperties");
  properties["measured"]["type"] = "array";
  properties["measured"].erase("additionalProperties");
  properties["measured"]["items"] = {{"type", "object"}, {"required", {"of", "is"}}};
  properties["shared"] = table_of(Section::gear, true);
  for (const Section section : sections()) {
    if (section == Section::top) continue;
    const Json table = table_of(section, false);
    properties[std::string(name(section))] = has_names(section) ? by_name(table) : table;
  }
  return root.dump(2) + "\n";
}

}  // namespace palio::job
