#include "palio/values/edit.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <vector>

#include <fmt/format.h>
#include <toml++/toml.h>
#include <nlohmann/json.hpp>

#include "edits.hpp"
#include "node.hpp"
#include "palio/values/keys.hpp"
#include "text.hpp"
#include "toml_text.hpp"

namespace palio::job {
namespace {

using Names = std::vector<std::string>;

[[noreturn]] void fail(const std::string& source, const std::string& path, const std::string& message) {
  throw JobError({{"bad-set", {source, 0, 0}, path, message}});
}

std::string as_it_is(const std::string& name) { return name; }

std::string joined(const Names& names, std::size_t from, std::string (*text)(const std::string&)) {
  std::string out;
  for (std::size_t i = from; i < names.size(); ++i)
    out += (out.empty() ? "" : ".") + text(names[i]);
  return out;
}

bool says_nothing(const Node& node) {
  const Table* t = node.table();
  return t && std::all_of(t->begin(), t->end(), [](const auto& entry) { return says_nothing(entry.second); });
}

/// Same values at the same names, in any order; a table that says nothing is as none.
bool same(const Node& a, const Node& b) {
  if (a.value.index() != b.value.index()) return false;
  if (a.table()) {
    const auto has_all = [](const Node& one, const Node& two) {
      return std::all_of(one.table()->begin(), one.table()->end(), [&](const auto& entry) {
        const Node* other = two.find(entry.first);
        return other ? same(entry.second, *other) : says_nothing(entry.second);
      });
    };
    const auto is_in_a = [&](const auto& entry) { return a.find(entry.first) || says_nothing(entry.second); };
    return has_all(a, b) && std::all_of(b.table()->begin(), b.table()->end(), is_in_a);
  }
  if (const List* list = std::get_if<List>(&a.value)) {
    const List& others = std::get<List>(b.value);
    return std::equal(list->begin(), list->end(), others.begin(), others.end(), same);
  }
  if (std::holds_alternative<Other>(a.value)) return true;
  if (const auto* number = std::get_if<double>(&a.value)) {
    const double other = std::get<double>(b.value);
    return *number == other || (std::isnan(*number) && std::isnan(other));
  }
  if (const auto* number = std::get_if<std::int64_t>(&a.value)) return *number == std::get<std::int64_t>(b.value);
  if (const auto* flag = std::get_if<bool>(&a.value)) return *flag == std::get<bool>(b.value);
  return std::get<std::string>(a.value) == std::get<std::string>(b.value);
}

/// The TOML text of a job, and where its values stand in it.
class Sheet {
 public:
  Sheet(std::string text, const std::string& source)
      : text_(std::move(text)), root_(toml::parse(text_, source)), places_(text_) {}

  const toml::table& root() const { return root_; }
  std::size_t at(const toml::source_position& p) const { return places_.at(p.line, p.column); }
  std::size_t begin(const toml::node& node) const { return at(node.source().begin); }
  std::size_t end(const toml::node& node) const { return at(node.source().end); }
  std::string text(const toml::node& node) const { return text_.substr(begin(node), end(node) - begin(node)); }
  /// A number or a flag where it begins.
  std::string word_at(const Where& where) const {
    const std::size_t from = places_.at(static_cast<std::size_t>(where.line), static_cast<std::size_t>(where.column));
    return text_.substr(from, text_.find_first_of(" \t\r\n,]}#", from) - from);
  }
  /// The end of the line on which a place lies, without its line end.
  std::size_t line_end(std::size_t place) const { return std::min(text_.find_first_of("\r\n", place), text_.size()); }
  std::size_t line_begin(std::size_t place) const {
    const auto before = place == 0 ? std::string::npos : text_.rfind('\n', place - 1);
    return before == std::string::npos ? 0 : before + 1;
  }
  std::string line_break() const { return text_.find("\r\n") == std::string::npos ? "\n" : "\r\n"; }
  bool has_header(const toml::table& table) const { return &table == &root_ || text_[begin(table)] == '['; }
  std::string with(Edit edit) const { return edited(text_, {std::move(edit)}); }
  const std::string& whole() const { return text_; }

  /// Where the last of what stands below a table's own header ends; none where nothing does.
  std::optional<std::size_t> last_end(const toml::table& table) const {
    std::optional<std::size_t> last;
    const auto reach = [&](std::optional<std::size_t> end) {
      if (end && (!last || *end > *last)) last = end;
    };
    for (const auto& [key, child] : table) {
      const toml::table* below = child.as_table();
      const toml::array* list = child.as_array();
      if (below && !below->is_inline()) {
        if (!has_header(*below)) reach(last_end(*below));
      } else if (!list || text_.compare(begin(child), 2, "[[") != 0) {
        reach(end(child));
      }
    }
    return last;
  }

 private:
  std::string text_;
  toml::table root_;
  Places places_;
};

/// How far a path leads into what is said: the nodes from the root on, and the key of each but the first.
struct Way {
  std::vector<const toml::node*> nodes;
  std::vector<const toml::key*> keys;  // none of an item of a list
  bool whole(const Names& names) const { return nodes.size() == names.size() + 1; }
  /// The names as far as they lead.
  Names known(const Names& names) const {
    return {names.begin(), names.begin() + static_cast<std::ptrdiff_t>(nodes.size()) - 1};
  }
};

Way way_to(const Sheet& sheet, const Names& names, const std::string& source, const std::string& path) {
  Way way{{&sheet.root()}, {nullptr}};
  for (const std::string& name : names) {
    const toml::node* next = nullptr;
    const toml::key* key = nullptr;
    if (const toml::table* table = way.nodes.back()->as_table()) {
      const auto it = table->find(name);
      if (it != table->cend()) next = &it->second, key = &it->first;
    } else if (const toml::array* list = way.nodes.back()->as_array()) {
      if (!is_place(name) || std::stoul(name) >= list->size())
        fail(source, path,
             fmt::format("\"{}\" is no place in this list; it has {} items, counted from 0", name, list->size()));
      next = &(*list)[std::stoul(name)];
    }
    if (!next) break;
    way.nodes.push_back(next), way.keys.push_back(key);
  }
  return way;
}

/// What is said of a key, as a value: of one that holds a text, a text, whatever it looks like.
Node value_of(const Names& names, const std::string& said) {
  const auto section = names.size() > 1 ? section_named(names[0]) : std::optional(Section::top);
  const std::size_t above = !section || *section == Section::top          ? 0
                            : has_names(*section) && names[0] != "shared" ? 2
                                                                          : 1;
  const Key* key = section && names.size() > above ? find_key(*section == Section::shared ? Section::gear : *section,
                                                              without_numbers(joined(names, above, as_it_is)))
                                                   : nullptr;
  if (key && (key->type == Type::text || key->type == Type::choice)) {
    const bool quoted_already =
        said.size() > 1 && (said.front() == '"' || said.front() == '\'') && said.back() == said.front();
    if (!quoted_already) return {said, {}};
  }
  Node holder{Table{}, {}};
  override_value(holder, "v=" + said);
  return *holder.find("v");
}

/// The value as it is written into the text: in the digits in which it is said.
std::string value_text(const std::string& said, const Node& value) {
  const std::string plain = trimmed(said);
  const bool number = std::holds_alternative<double>(value.value) || std::holds_alternative<std::int64_t>(value.value);
  return number && plain.find_first_of("#\r\n") == std::string::npos ? plain : inlined(value);
}

/// An item of a list that is not there: what would make one.
void refuse_item(const Way& way, const Names& names, const std::string& value, const std::string& source,
                 const std::string& path) {
  const auto place =
      std::find_if(names.begin() + static_cast<std::ptrdiff_t>(way.nodes.size()) - 1, names.end(), is_place);
  if (place == names.end() || !section_named(names[0])) return;  // [want] names readings by such places
  const auto at = static_cast<std::size_t>(place - names.begin());
  const std::string key = joined(names, at + 1, key_text);
  fail(source, path,
       fmt::format("there is no such list yet; say {} = [{}]", joined(Names(names.begin(), place), 0, as_it_is),
                   key.empty() ? value : fmt::format("{{ {} = {} }}", key, value)));
}

/// A line for what stands nowhere yet, in the table that is nearest to it.
std::string inserted(const Sheet& sheet, const Way& way, const Names& names, const std::string& value,
                     const std::string& source, const std::string& path) {
  std::size_t depth = way.nodes.size() - 1;
  if (const toml::table* table = way.nodes[depth]->as_table(); table && table->is_inline()) {
    const std::size_t brace = sheet.end(*table) - 1;
    const bool blank = sheet.whole()[brace - 1] == ' ';
    return sheet.with({blank ? brace - 1 : brace, brace,
                       fmt::format("{} {} = {} ", table->empty() ? "" : ",", joined(names, depth, key_text), value)});
  }
  while (!way.nodes[depth]->as_table() || !sheet.has_header(*way.nodes[depth]->as_table()))
    --depth;
  const toml::table& table = *way.nodes[depth]->as_table();
  const std::string line = joined(names, depth, key_text) + " = " + value;
  if (depth == 0 && names.size() > 1) {
    const auto section = section_named(names[0]);
    if (section && has_names(*section))
      fail(source, path, fmt::format("the job has no {} named \"{}\"", names[0], names[1]));
    const std::string& whole = sheet.whole();
    const std::string br = sheet.line_break();
    return whole + (whole.empty() || whole.back() == '\n' ? "" : br) +
           fmt::format("{}[{}]{}{} = {}{}", br, key_text(names[0]), br, joined(names, 1, key_text), value, br);
  }
  const std::optional<std::size_t> last = sheet.last_end(table);
  if (!last && depth == 0) return sheet.with({0, 0, line + sheet.line_break()});
  const std::size_t at = sheet.line_end(last.value_or(sheet.begin(table)));
  return sheet.with({at, at, sheet.line_break() + line});
}

std::string taken_out(const Sheet& sheet, const Way& way, const std::string& source, const std::string& path) {
  const toml::node& node = *way.nodes.back();
  const toml::table* parent = way.nodes[way.nodes.size() - 2]->as_table();
  const std::string& text = sheet.whole();
  if (!parent || !way.keys.back())
    fail(source, path, "is an item of a list; take it out of the file itself, or change it");
  if (parent->is_inline()) {
    std::size_t from = sheet.at(way.keys.back()->source().begin), to = sheet.end(node);
    const std::size_t next = text.find_first_not_of(" \t\r\n", to), before = text.find_last_not_of(" \t\r\n", from - 1);
    if (text[next] == ',')
      to = text.find_first_not_of(" \t\r\n", next + 1);
    else if (text[before] == ',')
      from = before;
    return sheet.with({from, to, ""});
  }
  if (const toml::table* table = node.as_table(); table && !table->is_inline())
    fail(source, path, "is a whole table; take it out of the file itself");
  const std::size_t from = sheet.line_begin(sheet.at(way.keys.back()->source().begin));
  std::size_t to = sheet.line_end(sheet.end(node));
  if (text.compare(to, 2, "\r\n") == 0)
    to += 2;
  else if (to < text.size())
    ++to;
  return sheet.with({from, to, ""});
}

/// What the text says now is what it said, with that one change.
void check(const std::string& made, const Node& expected, const std::string& source, const std::string& path) {
  if (!same(read(made, source), expected))
    fail(source, path, "is written in a way that cannot be changed in its place; change it in the file itself");
}

/// The names of a path as the job has them: pinions of clocks have leaves.
Names names_of(const std::string& path, const std::string& source, const Node& job) {
  Names names = split_at(path, '.');
  const Node* at = &job;
  for (std::string& name : names) {
    if (name.empty()) fail(source, path, "a key is names joined by points, as gear.motor_pinion.teeth");
    if (at && name == "teeth" && !at->find(name) && at->find("leaves")) name = "leaves";
    at = at ? at->find(name) : nullptr;
  }
  return names;
}

nlohmann::ordered_json json_of(const Node& node) {
  using Json = nlohmann::ordered_json;
  struct Write {
    Json operator()(const Table& t) const {
      Json out = Json::object();
      for (const auto& [name, child] : t)
        out[name] = json_of(child);
      return out;
    }
    Json operator()(const List& list) const {
      Json out = Json::array();
      for (const Node& child : list)
        out.push_back(json_of(child));
      return out;
    }
    Json operator()(bool v) const { return v; }
    Json operator()(std::int64_t v) const { return v; }
    Json operator()(double v) const { return v; }
    Json operator()(const std::string& v) const { return v; }
    Json operator()(const Other&) const { return nullptr; }
  };
  return std::visit(Write{}, node.value);
}

/// How far names lead into what a job says.
struct Reached {
  const Node* node;
  std::size_t depth;
};
Reached reached(const Node& job, const Names& names) {
  Reached at{&job, 0};
  for (const std::string& name : names) {
    const List* list = std::get_if<List>(&at.node->value);
    const bool item = list && is_place(name) && std::stoul(name) < list->size();
    const Node* next = item ? &(*list)[std::stoul(name)] : at.node->find(name);
    if (!next) break;
    at = {next, at.depth + 1};
  }
  return at;
}

std::string said_in(const std::string& job, const std::string& source, const std::string& path,
                    const std::string& said) {
  Node expected = read(job, source);
  Names names = names_of(path, source, expected);
  if (said.find_first_not_of(" \t") == std::string::npos)
    fail(source, path, "takes a value; to leave it out, unset it");
  Node value = value_of(names, said);
  std::string written = value_text(said, value);
  const Reached old = reached(expected, names);
  const bool is_value = !old.node->table() && !std::holds_alternative<List>(old.node->value);
  const std::optional<Sheet> sheet =
      is_json(job, source) ? std::nullopt : std::optional<Sheet>(std::in_place, job, source);
  if (old.depth < names.size() && is_value) {
    // `bore = 8` is the short form of `bore.diameter = 8`: what else is said of it stands beside that.
    if (names[old.depth - 1] != "bore")
      fail(source, path, "has no place beside what the file says there; change it in the file itself");
    const std::string rest = joined(names, old.depth, as_it_is);
    names.resize(old.depth);
    if (rest != "diameter") {
      const std::string diameter = sheet ? sheet->text(*way_to(*sheet, names, source, path).nodes.back()) : "";
      written = fmt::format("{{ diameter = {}, {} = {} }}", diameter, rest, written);
      value = Node{Table{{"diameter", *old.node}, {rest, std::move(value)}}, {}};
    }
  }
  put(expected, joined(names, 0, as_it_is), value, {source, 0, 0});
  if (!sheet) return json_of(expected).dump(2) + "\n";
  const Way way = way_to(*sheet, names, source, path);
  const toml::node& found = *way.nodes.back();
  const toml::table* table = found.as_table();
  if (way.whole(names) && table && !table->is_inline()) fail(source, path, "is a whole table; say which of its keys");
  if (!way.whole(names)) refuse_item(way, names, written, source, path);
  std::string made = way.whole(names) ? sheet->with({sheet->begin(found), sheet->end(found), written})
                                      : inserted(*sheet, way, names, written, source, path);
  check(made, expected, source, path);
  return made;
}

std::string left_out(std::string job, const std::string& source, const std::string& path) {
  Node expected = read(job, source);
  const Names names = names_of(path, source, expected);
  if (is_json(job, source)) {
    take_out(expected, joined(names, 0, as_it_is));
    return json_of(expected).dump(2) + "\n";
  }
  const Sheet sheet(job, source);
  const Way way = way_to(sheet, names, source, path);
  const bool short_form = !way.whole(names) && !way.nodes.back()->as_table();
  if (!way.whole(names) && !short_form) return job;
  std::string made = taken_out(sheet, way, source, path);
  take_out(expected, joined(way.known(names), 0, as_it_is));
  check(made, expected, source, path);
  return made;
}

/// Refuses a thing that cannot be added to what the job has.
void check_new(const Node* head, const std::string& section, const std::string& name, const std::string& source) {
  const std::string path = section + "." + name;
  if (head && head->find(name)) fail(source, path, "is there already; give another name");
  if (name.empty() || key_text(name) != name) fail(source, path, "is no name: letters, digits, _ and - are allowed");
}

std::string copied(const std::string& job, const std::string& source, const std::string& thing,
                   const std::string& name) {
  Node expected = read(job, source);
  const Names names = split_at(thing, '.');
  const Node* head = expected.find(names.front());
  const Node* old = head && names.size() == 2 ? head->find(names[1]) : nullptr;
  if (!old) fail(source, thing, "is nothing that the job has");
  check_new(head, names[0], name, source);
  Node copy = names[0] == "gear" ? Node{Table{{"like", Node{names[1], {}}}}, {}} : *old;
  for (auto& [section, node] : *expected.table()) {
    if (section == names[0]) node.table()->emplace_back(name, copy);
  }
  if (is_json(job, source)) return json_of(expected).dump(2) + "\n";
  const Sheet sheet(job, source);
  const std::string br = sheet.line_break();
  std::string made =
      job + (job.empty() || job.back() == '\n' ? "" : br) + fmt::format("{}[{}.{}]{}", br, names[0], name, br);
  for (const auto& [key, value] : *copy.table())
    made += fmt::format("{} = {}{}", key_text(key), inlined(value), br);
  check(made, expected, source, thing);
  return made;
}

std::string added(const std::string& job, const std::string& source, std::string_view more) {
  Node expected = read(job, source);
  Node extra = read(more, "what is added");
  for (auto& [section, node] : *extra.table()) {
    Node* head = nullptr;
    for (auto& [known, there] : *expected.table()) {
      if (known == section) head = &there;
    }
    if (!has_names(section_named(section).value_or(Section::top))) {
      if (head) fail(source, section, "is there already");
      expected.table()->emplace_back(section, node);
      continue;
    }
    for (auto& [name, thing] : *node.table()) {
      check_new(head, section, name, source);
      if (head) head->table()->emplace_back(name, thing);
    }
    if (!head) expected.table()->emplace_back(section, node);
  }
  if (is_json(job, source)) return json_of(expected).dump(2) + "\n";
  const std::string br = Sheet(job, source).line_break();
  std::string made = job + (job.empty() || job.back() == '\n' ? "" : br) + br;
  for (const char c : more)
    made += c == '\n' ? br : std::string(1, c);
  check(made, expected, source, "");
  return made;
}

std::string taken_away(const std::string& job, const std::string& source, const std::string& thing) {
  Node expected = read(job, source);
  const Names names = split_at(thing, '.');
  Node* head = nullptr;
  for (auto& [section, node] : *expected.table()) {
    if (section == names[0] && names.size() == 2) head = &node;
  }
  if (!head || !head->find(names[1])) fail(source, thing, "is nothing that the job has");
  Table& all = *head->table();
  all.erase(std::find_if(all.begin(), all.end(), [&](const auto& entry) { return entry.first == names[1]; }));
  if (is_json(job, source)) return json_of(expected).dump(2) + "\n";
  const Sheet sheet(job, source);
  const Way way = way_to(sheet, names, source, thing);
  const toml::table& table = *way.nodes.back()->as_table();
  if (table.is_inline() || !sheet.has_header(table))
    fail(source, thing, "is written in a way that cannot be taken out in its place; take it out of the file itself");
  // From its header to the end of the last line that says something of it, and one empty line.
  const std::size_t from = sheet.line_begin(sheet.begin(table));
  std::size_t to = sheet.line_end(sheet.last_end(table).value_or(sheet.begin(table)));
  for (int line = 0; line < 2 && to < job.size(); ++line) {
    const std::size_t end = sheet.line_end(to);
    if (end != to) break;
    to += job.compare(to, 2, "\r\n") == 0 ? 2 : 1;
  }
  std::string made = sheet.with({from, to, ""});
  check(made, expected, source, thing);
  return made;
}

/// A change of what stands behind a byte-order mark, which stays.
template <class Change>
std::string behind_mark(std::string_view text, const Change& change) {
  const std::string_view job = unmarked(text);
  return std::string(text.substr(0, text.size() - job.size())) + change(std::string(job));
}

}  // namespace

std::string with_value(std::string_view text, const std::string& source, const std::string& path,
                       const std::string& said) {
  return behind_mark(text, [&](const std::string& job) { return said_in(job, source, path, said); });
}

std::string without_value(std::string_view text, const std::string& source, const std::string& path) {
  return behind_mark(text, [&](const std::string& job) { return left_out(job, source, path); });
}

std::string with_copy(std::string_view text, const std::string& source, const std::string& thing,
                      const std::string& name) {
  return behind_mark(text, [&](const std::string& job) { return copied(job, source, thing, name); });
}

std::string with_tables(std::string_view text, const std::string& source, std::string_view more) {
  return behind_mark(text, [&](const std::string& job) { return added(job, source, more); });
}

std::string without_thing(std::string_view text, const std::string& source, const std::string& thing) {
  return behind_mark(text, [&](const std::string& job) { return taken_away(job, source, thing); });
}

std::vector<std::pair<std::string, std::string>> said_values(std::string_view text, const std::string& source) {
  const std::string job(unmarked(text));
  const Node root = read(job, source);
  std::vector<std::pair<std::string, std::string>> all;
  // Numbers as they are written: "0.30" has its two places.
  const std::optional<Sheet> sheet =
      is_json(job, source) ? std::nullopt : std::optional<Sheet>(std::in_place, job, source);
  const std::function<void(const Node&, const std::string&)> tell = [&](const Node& node, const std::string& path) {
    const auto below = [&](const std::string& name) { return path.empty() ? name : path + "." + name; };
    const List* list = std::get_if<List>(&node.value);
    const bool of_tables = list && !list->empty() && list->front().table();
    if (const Table* table = node.table()) {
      for (const auto& [name, child] : *table)
        tell(child, below(name));
    } else if (of_tables) {
      for (std::size_t i = 0; i < list->size(); ++i)
        tell((*list)[i], below(std::to_string(i)));
    } else if (const auto* words = std::get_if<std::string>(&node.value)) {
      all.emplace_back(path, *words);
    } else {
      all.emplace_back(path, sheet && !list ? sheet->word_at(node.where) : inlined(node));
    }
  };
  tell(root, "");
  return all;
}

}  // namespace palio::job
