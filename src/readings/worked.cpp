#include "worked.hpp"

#include <map>

#include <fmt/format.h>

#include "quantities.hpp"

namespace palio::job {
namespace {

/// The character that begins at a place of UTF-8 text.
std::string_view character(std::string_view text, std::size_t at) {
  std::size_t end = at + 1;
  while (end < text.size() && continues(text[end]))
    ++end;
  return text.substr(at, end - at);
}

/// Whether a character is part of a symbol: letters, Greek ones too, digits, '_', '*', subscript figures.
bool in_symbol(std::string_view c) {
  if (c.size() == 1)
    return std::isalnum(static_cast<unsigned char>(c[0])) || c[0] == '_' || c[0] == '*' || c[0] == '\'';
  const auto lead = static_cast<unsigned char>(c[0]);
  const bool greek = lead == 0xCE || lead == 0xCF;
  const bool subscript = c.size() == 3 && lead == 0xE2 && static_cast<unsigned char>(c[1]) == 0x82;
  return greek || subscript;
}

using Numbers = std::map<std::string, std::string, std::less<>>;

/// A formula with the numbers in place of the symbols that are known.
std::string put_in(std::string_view formula, const Numbers& numbers) {
  std::string out;
  for (std::size_t i = 0; i < formula.size();) {
    std::size_t end = i;
    while (end < formula.size() && in_symbol(character(formula, end)))
      end += character(formula, end).size();
    if (end == i) {
      out += character(formula, i);
      i += character(formula, i).size();
      continue;
    }
    const std::string_view symbol = formula.substr(i, end - i);
    const auto it = numbers.find(symbol);
    const bool negative = it != numbers.end() && it->second.front() == '-';
    out += it == numbers.end() ? std::string(symbol) : negative ? "(" + it->second + ")" : it->second;
    i = end;
  }
  return out;
}

void add_numbers(const std::vector<Entry>& entries, Units units, const std::string& suffix, Numbers& numbers) {
  for (const Entry& e : entries) {
    if (e.key->symbol.empty() || e.numbers.empty() || e.list) continue;
    const Quantity q = e.key->quantity == Quantity::circle ? Quantity::length : e.key->quantity;
    numbers.emplace(std::string(e.key->symbol) + suffix, shown(e.numbers.front(), q, units, true));
  }
}

/// Coefficients of the profile are keys, not readings.
void add_profile(const Gear& g, Numbers& numbers) {
  if (g.teeth.is_cycloidal() || g.teeth.is_bevel()) return;
  const gear::CylindricalSpec& s = g.teeth.spec();
  numbers.emplace("h*_aP", fmt::format("{:.5g}", s.addendum));
  numbers.emplace("h*_fP", fmt::format("{:.5g}", s.dedendum));
}

/// The formula for a sort of thing, of those in the table: "h = a | internal: h = b" has one for rings and one for all
/// else.
std::string_view formula_for(std::string_view all, const std::vector<std::string_view>& tags) {
  constexpr std::string_view kNext = " | ";
  std::string_view general = all.substr(0, all.find(kNext));
  for (const std::string_view tag : tags) {
    const std::size_t at = all.find(std::string(kNext) + std::string(tag) + ":");
    if (at == std::string_view::npos) continue;
    const std::string_view rest = all.substr(at + kNext.size() + tag.size() + 1);
    const std::string_view one = rest.substr(0, rest.find(kNext));
    return one.empty() ? one : one.substr(1);
  }
  return general;
}

/// "d_b = d cos α_t" as "d_b = 25.5000 mm cos 20.0000°", and what comes of it.
std::string in_numbers(std::string_view formula, const Numbers& numbers, const Entry& value, Units units) {
  std::string told = value_text(value, units);
  if (formula.empty() || numbers.empty()) return told;
  const std::size_t equal = formula.find(" = ");
  const std::size_t from = equal == std::string_view::npos ? 0 : equal;
  return fmt::format("{}{}  →  {}", formula.substr(0, from), put_in(formula.substr(from), numbers), told);
}

std::vector<std::string_view> tags_of(const Gear& g) {
  if (g.teeth.is_cycloidal()) return {"cycloidal"};
  if (g.teeth.is_rack()) return {"rack"};
  return g.teeth.internal() ? std::vector<std::string_view>{"internal"} : std::vector<std::string_view>{};
}

std::vector<std::string_view> tags_of(const Gear& driver, const Gear& driven) {
  if (driver.teeth.is_cycloidal()) return {"cycloidal"};
  if (driver.teeth.is_rack()) return {"rack drives", "rack"};
  if (driven.teeth.is_rack()) return {"rack"};
  if (driver.teeth.internal()) return {"ring drives", "internal"};
  return driven.teeth.internal() ? std::vector<std::string_view>{"internal"} : std::vector<std::string_view>{};
}

}  // namespace

std::vector<Worked> worked(const Design& design, const Reading& r, const std::string& only) {
  std::vector<Worked> all;
  const auto add = [&](const std::string& thing, const Numbers& numbers, const std::vector<std::string_view>& tags) {
    if (!only.empty() && only != thing) return;
    const std::string_view formula = formula_for(r.formula, tags);
    if (const auto value = entry_of(design, thing + "." + std::string(r.key))) {
      all.push_back({thing, in_numbers(formula, numbers, *value, design.units)});
    }
  };
  if (r.of == ReadingOf::gear) {
    for (const Gear& g : design.gears) {
      Numbers numbers;
      if (!r.formula.empty()) add_numbers(entries(design, g), design.units, "", numbers), add_profile(g, numbers);
      add("gear." + g.name, numbers, tags_of(g));
    }
  }
  if (r.of == ReadingOf::pair) {
    for (const Pair& p : design.pairs) {
      Numbers numbers;
      if (!r.formula.empty()) {
        add_numbers(entries(design, p, false), design.units, "", numbers);
        const std::vector<Entry> driver = entries(design, design.gears[p.driver]),
                                 driven = entries(design, design.gears[p.driven]);
        for (const char* suffix : {"₁", "1"})
          add_numbers(driver, design.units, suffix, numbers);
        for (const char* suffix : {"₂", "2"})
          add_numbers(driven, design.units, suffix, numbers);
        add_numbers(driver, design.units, "", numbers);
        numbers.emplace("a_w", shown(p.mounted_center_distance(), Quantity::length, design.units, true));
        numbers.erase("b");  // of the driver alone
      }
      add("pair." + p.name, numbers, tags_of(design.gears[p.driver], design.gears[p.driven]));
    }
  }
  if (r.of == ReadingOf::frame) {
    for (const Frame& f : design.frames)
      add("frame." + f.name, {}, {});
  }
  if (r.of == ReadingOf::shaft) {
    for (const Member& m : design.machine.members) {
      if (m.shaft) add("shaft." + m.name, {}, {});
    }
  }
  if (r.of == ReadingOf::train || r.of == ReadingOf::planetary) {
    for (const Train& t : design.machine.trains) {
      if (t.planetary == (r.of == ReadingOf::planetary)) add(fmt::format("{}.{}", name(r.of), t.name), {}, {});
    }
  }
  if (r.of == ReadingOf::reducer) {
    for (const Reducer& red : design.reducers) {
      Numbers numbers;
      if (!r.formula.empty()) add_numbers(entries(design, red), design.units, "", numbers);
      add("reducer." + red.name, numbers, {});
    }
  }
  return all;
}

}  // namespace palio::job
