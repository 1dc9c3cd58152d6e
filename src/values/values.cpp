#include "palio/values/values.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/values/edit.hpp"
#include "palio/values/fits.hpp"
#include "palio/values/spelling.hpp"
#include "sought.hpp"
#include "tables.hpp"
#include "text.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

/// Hands on every table that says values of gears: [shared], and each gear's own.
template <class Change>
void each_gear(Node& root, const Change& change) {
  const auto look = [&](Node& gear, const std::string& path) {
    if (gear.table()) change(gear, path);
  };
  if (!root.table()) return;
  for (auto& [section, node] : *root.table()) {
    if (section == "shared") look(node, section);
    if (section != "gear" || !node.table()) continue;
    for (auto& entry : *node.table())
      look(entry.second, "gear." + entry.first);
  }
}

/// Pinions of clocks have leaves: understood wherever teeth are.
void rename_leaves(Node& root) {
  each_gear(root, [](Node& gear, const std::string& path) {
    for (auto& [key, value] : *gear.table()) {
      std::string teeth = leaves_as_teeth(key);
      if (teeth == key) continue;
      if (gear.find(teeth))
        throw JobError({{"too-much", value.where, path + "." + key,
                         fmt::format("stands beside {}; they say the same thing twice: drop one", teeth)}});
      key = std::move(teeth);
    }
  });
}

/// "8 H7" as { diameter = "8", fit = "H7" }; none where no fit stands at the end.
std::optional<Table> with_fit(const Node& node) {
  const auto* text = std::get_if<std::string>(&node.value);
  const auto both = text ? size_and_fit(*text) : std::nullopt;
  if (!both) return std::nullopt;
  return Table{{"diameter", Node{both->first, node.where}}, {"fit", Node{both->second, node.where}}};
}

/// A bore that says its fit behind its diameter says both.
void split_fits(Node& root) {
  each_gear(root, [](Node& gear, const std::string& path) {
    for (auto& [key, bore] : *gear.table()) {
      if (key != "bore") continue;
      if (auto both = with_fit(bore)) bore.value = std::move(*both);
      if (!bore.table()) continue;
      Table& keys = *bore.table();
      const auto diameter =
          std::find_if(keys.begin(), keys.end(), [](const auto& entry) { return entry.first == "diameter"; });
      const auto both = diameter == keys.end() ? std::nullopt : with_fit(diameter->second);
      if (!both) continue;
      if (const Node* fit = bore.find("fit"))
        throw JobError(
            {{"too-much", fit->where, path + ".bore.fit",
              fmt::format("stands beside the {} of bore.diameter; drop one of the two", both->back().second.text())}});
      diameter->second = both->front().second;
      keys.push_back(both->back());
    }
  });
}

void put_in(Node& root, const std::vector<std::string>& overrides) {
  for (const std::string& assignment : overrides) {
    const auto equals = std::min(assignment.find('='), assignment.size());
    override_value(root, leaves_as_teeth(assignment.substr(0, equals)) + assignment.substr(equals));
  }
}

bool is_whole(double number) {
  constexpr double kMostWhole = 1e15;
  return number == std::round(number) && std::abs(number) < kMostWhole;
}

void put_numbers(Node& root, const std::vector<std::pair<std::string, double>>& numbers) {
  for (const auto& [path, number] : numbers) {
    const std::string plain = leaves_as_teeth(path);
    Node value{number, {}};
    if (is_whole(number)) value.value = static_cast<std::int64_t>(number);
    put(root, plain, std::move(value), {fmt::format("--set {}={}", plain, number), 0, 0});
  }
}

}  // namespace

struct Values::Data {
  Node root;
  std::optional<std::string> text;  // where nothing was put in
  Tables tables;
};

Values::Values() : data_(std::make_shared<const Data>()) {}

Values Values::read(std::string_view text, const std::string& source, const std::vector<std::string>& overrides) {
  auto data = std::make_shared<Data>();
  data->root = job::read(text, source);
  rename_leaves(data->root);
  if (!data->root.table()) {
    throw JobError(
        {{"wrong-type", data->root.where, "", fmt::format("a job is a table, but this is {}", data->root.text())}});
  }
  put_in(data->root, overrides);
  split_fits(data->root);
  if (overrides.empty()) data->text = std::string(text);
  read_tables(data->root, data->tables);
  return Values(std::move(data));
}

Values Values::with(const std::string& path, double number) const { return with({{path, number}}); }

Values Values::changed(const std::function<void(Node&)>& change) const {
  auto data = std::make_shared<Data>();
  data->root = data_->root;
  change(data->root);
  split_fits(data->root);
  read_tables(data->root, data->tables);
  return Values(std::move(data));
}

Values Values::with(const std::vector<std::pair<std::string, double>>& numbers) const {
  return changed([&](Node& root) { put_numbers(root, numbers); });
}

Values Values::with_said(const std::vector<std::string>& overrides) const {
  return changed([&](Node& root) { put_in(root, overrides); });
}

Values Values::without(const std::vector<std::string>& paths) const {
  return changed([&](Node& root) {
    for (const std::string& path : paths)
      take_out(root, path);
  });
}

std::string Values::filled_in(const std::vector<std::pair<std::string, double>>& numbers) const {
  if (!data_->text) return with(numbers).text();
  std::string job(unmarked(*data_->text));
  for (const Sought& sought : tables().sought) {
    const auto it = std::find_if(numbers.begin(), numbers.end(), [&](const auto& n) { return n.first == sought.path; });
    if (it == numbers.end()) continue;
    // JSON has one sort of number.
    const bool whole = sought.whole() || (is_json(job, sought.where.source) && is_whole(it->second));
    job = with_value(job, sought.where.source, sought.path, number_text(it->second, whole));
  }
  return job;
}

const Tables& Values::tables() const noexcept { return data_->tables; }

std::string Values::text() const { return data_->text ? *data_->text : to_toml(data_->root); }

}  // namespace palio::job
