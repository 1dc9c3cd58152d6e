// A job as read: TOML and JSON in one shape, every value with the place it stands at.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

#include "palio/values/mistake.hpp"

namespace palio::job {

struct Node;
using Table = std::vector<std::pair<std::string, Node>>;  // in the order of the file
using List = std::vector<Node>;
struct Other {  // a date, a null: nothing that a job uses
  std::string text;
};

struct Node {
  std::variant<Table, List, bool, std::int64_t, double, std::string, Other> value;
  Where where;

  const Table* table() const { return std::get_if<Table>(&value); }
  Table* table() { return std::get_if<Table>(&value); }
  const Node* find(std::string_view key) const;
  /// As the user would write it, for messages.
  std::string text() const;
};

/// Characters that command a terminal or break a file, line ends among them: none of a job's texts may hold them.
bool has_control_characters(std::string_view text);

/// Whether a text is JSON, by its source's name or by how it begins; otherwise TOML.
bool is_json(std::string_view text, std::string_view source);
/// Whether a name in a path can be the place of an item in a list.
bool is_place(std::string_view name);

/// \throws JobError with one mistake, "syntax", when the text is neither
Node read(std::string_view text, const std::string& source);

/// The tree as TOML; comments are lost.
std::string to_toml(const Node& root);
/// A number as TOML has it, to its last digit.
std::string number_text(double number, bool whole);

/// Puts "a.b.c=VALUE" into the tree. The gear or pair named must be there.
/// \throws JobError
void override_value(Node& root, const std::string& assignment);
/// The same with a value that is one already, as if `where` said it.
void put(Node& root, const std::string& path, Node value, const Where& where);
/// Takes the key at "a.b.c" out of the tree, where it is there.
void take_out(Node& root, const std::string& path);

}  // namespace palio::job
