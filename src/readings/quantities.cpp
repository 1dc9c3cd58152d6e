// Reported values: what each is called, and how it becomes text or JSON.
#include "quantities.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/readings/reading.hpp"

namespace palio::job {
namespace {

double scale(Quantity quantity, Units units) {
  const double unit = mm_per(units);
  switch (quantity) {
    case Quantity::length:
    case Quantity::circle: return 1 / unit;
    case Quantity::inertia:
    case Quantity::area: return 1 / (unit * unit);
    case Quantity::volume: return 1 / (unit * unit * unit);
    case Quantity::angle: return 180 / kPi;
    default: return 1;
  }
}

}  // namespace

namespace {

/// Rounding of differences that are nothing is nothing.
double tidied(double value, Quantity quantity) {
  constexpr double kNoLength = 1e-12, kNoAngle = 1e-14;  // mm, rad
  if ((quantity == Quantity::length || quantity == Quantity::circle) && std::abs(value) < kNoLength) return 0;
  if (quantity == Quantity::angle && std::abs(value) < kNoAngle) return 0;
  return value == 0 ? 0 : value;
}

}  // namespace

std::string fixed(double value, int places) {
  return fmt::format("{:.{}f}", std::abs(value) < 0.5 * std::pow(10.0, -places) ? 0 : value, places);
}

std::string small_error(double value) { return fmt::format("{:.3g}", std::abs(value) < 1e-8 ? 0 : value); }

std::string shown(double value, Quantity quantity, Units units, bool short_form) {
  if (!std::isfinite(value)) return std::isnan(value) ? "none" : value < 0 ? "-∞" : "∞";
  const std::string_view u = symbol(units);
  const int places = units == Units::inch ? 5 : 4;
  const double v = tidied(value, quantity) * scale(quantity, units);
  switch (quantity) {
    case Quantity::length: return fmt::format("{} {}", fixed(v, places), u);
    case Quantity::circle:
      return short_form ? fmt::format("⌀{} {}", fixed(v, places), u)
                        : fmt::format("⌀ {} {}  (r {} {})", fixed(v, places), u, fixed(v / 2, places), u);
    case Quantity::module_size: return fmt::format("{:.6g} mm", value);
    case Quantity::per_inch: return fmt::format("{:.6g} /in", value);
    case Quantity::angle: return fixed(v, 4) + "°";
    case Quantity::area: return fmt::format("{:.3f} {}²", v, u);
    case Quantity::volume: return fmt::format("{:.3f} {}³", v, u);
    case Quantity::mass: return fmt::format("{:.6g} kg", value);
    case Quantity::inertia: return fmt::format("{:.6g} kg·{}²", v, u);
    case Quantity::count: return fmt::format("{:.0f}", value);
    case Quantity::hand: return value > 0 ? "right" : "left";
    case Quantity::ratio:
    case Quantity::number: return fmt::format("{:.5g}", value);
  }
  return "";
}

Json number(double value, Quantity quantity, Units units) {
  if (!std::isfinite(value)) return nullptr;
  if (quantity == Quantity::count) return static_cast<long>(value);
  const double tidy = tidied(value, quantity);
  return quantity == Quantity::angle ? Angle::radians(tidy).degrees()
         : units == Units::mm        ? tidy
                                     : tidy * scale(quantity, units);
}

Json to_json(const Entry& e, Units units) {
  if (e.is_flag) return e.flag;
  if (!e.text.empty()) return e.text;
  if (e.rows) {
    Json rows = Json::array();
    for (const Entry& child : e.children)
      rows.push_back(to_json(child, units));
    return rows;
  }
  if (!e.children.empty() || e.by_name) return to_json(e.children, units);
  if (e.given) return *e.given;
  if (!e.list) return number(e.numbers.front(), e.key->quantity, units);
  Json all = Json::array();
  for (const double n : e.numbers)
    all.push_back(number(n, e.key->quantity, units));
  return all;
}

Json to_json(const std::vector<Entry>& entries, Units units) {
  Json object = Json::object();
  for (const Entry& e : entries)
    object[e.name.empty() ? std::string(e.key->key) : e.name] = to_json(e, units);
  return object;
}

namespace {

std::string padded(std::string_view text, std::size_t width) {
  return std::string(text) + std::string(width > columns(text) ? width - columns(text) : 0, ' ');
}

struct Line {
  std::string label, sign, value;
};

std::string numbers_text(const Entry& e, Units units, bool short_form, std::string_view between) {
  std::string value = e.is_flag ? (e.flag ? "yes" : "no") : e.text;
  for (const double n : e.numbers) {
    value += (value.empty() ? "" : std::string(between)) + shown(n, e.key->quantity, units, short_form);
  }
  return value;
}

void add_lines(const Entry& e, Units units, const std::string& indent, std::vector<Line>& lines) {
  const std::string label = indent + (e.name.empty() ? std::string(e.key->label) : e.name);
  if (e.by_name) {
    lines.push_back({label, std::string(e.key->symbol), e.children.empty() ? "none" : ""});
    for (const Entry& child : e.children)
      add_lines(child, units, indent + "  ", lines);
    return;
  }
  if (e.rows) {
    for (const Entry& child : e.children)
      add_lines(child, units, indent, lines);
    return;
  }
  if (e.children.empty()) {
    lines.push_back({label, std::string(e.key->symbol), numbers_text(e, units, false, "   ")});
    return;
  }
  constexpr std::size_t kOneLine = 5;
  if (e.children.size() > kOneLine) {
    lines.push_back({label, std::string(e.key->symbol), ""});
    for (const Entry& child : e.children)
      add_lines(child, units, indent + "  ", lines);
    return;
  }
  std::string inner;
  for (const Entry& child : e.children) {
    const bool plain = child.key->key == "length";
    inner += (inner.empty() ? "" : ", ") + (plain ? "" : std::string(child.key->label) + " ") +
             numbers_text(child, units, true, ", ");
  }
  lines.push_back({label, std::string(e.key->symbol), inner});
}

}  // namespace

std::string value_text(const Entry& entry, Units units) {
  std::vector<Line> lines;
  add_lines(entry, units, "", lines);
  std::string text;
  for (const Line& line : lines)
    text += (text.empty() ? "" : "; ") + line.value;
  return text;
}

std::string row(std::string_view label, std::string_view sign, std::string_view value, std::size_t width) {
  return fmt::format("  {} {} {}\n", padded(label, width), padded(sign, 5), value);
}

std::string table_text(const std::vector<Entry>& entries, Units units, bool colour) {
  std::vector<std::string_view> groups;
  for (const std::string_view group : reading_groups()) {
    if (std::any_of(entries.begin(), entries.end(), [&](const Entry& e) { return e.group == group; })) {
      groups.push_back(group);
    }
  }
  std::vector<std::pair<std::string_view, std::vector<Line>>> tables;
  std::size_t width = 44;
  for (const std::string_view group : groups) {
    std::vector<Line> lines;
    for (const Entry& e : entries) {
      if (e.group == group) add_lines(e, units, groups.size() > 1 ? "  " : "", lines);
    }
    for (const Line& line : lines)
      width = std::max(width, columns(line.label));
    tables.emplace_back(group, std::move(lines));
  }
  std::string text;
  for (const auto& [group, lines] : tables) {
    if (groups.size() > 1) text += colour ? fmt::format("  \033[4m{}\033[0m\n", group) : fmt::format("  {}\n", group);
    for (const Line& line : lines)
      text += row(line.label, line.sign, line.value, width);
  }
  return text;
}

}  // namespace palio::job
