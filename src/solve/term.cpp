#include "term.hpp"

#include <algorithm>
#include <cmath>
#include <regex>

#include <fmt/format.h>
#include <muParser.h>

#include "palio/error.hpp"
#include "palio/math/tolerance.hpp"

namespace palio::solve {
namespace {

/// A path: names joined by at least two points. Where it stands alone it may hold anything.
const std::regex& path_pattern() {
  static const std::regex pattern(R"([A-Za-z_]+\.[^\s*/+()^,]+\.[^\s*/+()^,]+)");
  return pattern;
}

bool is_arithmetic(const std::string& said) {
  return said.find_first_of("*/()+^") != std::string::npos || said.find(" - ") != std::string::npos;
}

[[noreturn]] void refuse(const std::string& said, const std::string& why) {
  throw InvalidParameter("path", "\"" + said + "\"", why,
                         "write pair.a.gear_ratio * pair.b.gear_ratio, say, with blanks around - ");
}

/// "v0 * v1 / v2" as factors; none for anything else.
std::optional<std::vector<Term::Factor>> factors_of(const std::string& formula) {
  static const std::regex product(R"(\s*v\d+\s*([*/]\s*v\d+\s*)*)"), factor(R"(([*/]?)\s*v(\d+))");
  if (!std::regex_match(formula, product)) return std::nullopt;
  std::vector<Term::Factor> all;
  for (auto it = std::sregex_iterator(formula.begin(), formula.end(), factor); it != std::sregex_iterator(); ++it)
    all.emplace_back(std::stoul(it->str(2)), it->str(1) == "/" ? -1 : 1);
  return all;
}

/// The value of a key, in the units of the file: for those that no reading repeats.
std::optional<double> value_of_key(const job::Design& design, const std::string& path) {
  const std::optional<job::PathParts> parts = job::parts_of_path(path);
  if (!parts) return std::nullopt;
  const auto& [head, name, key_path] = *parts;
  const job::Tables& tables = design.values.tables();
  const std::vector<job::Settings>* all = head == "gear"      ? &tables.gears
                                          : head == "pair"    ? &tables.pairs
                                          : head == "reducer" ? &tables.reducers
                                                              : nullptr;
  const auto section = job::section_named(head);
  const job::Key* key = section ? job::find_key(*section, job::without_numbers(key_path)) : nullptr;
  if (!all || !key) return std::nullopt;
  for (const job::Settings& settings : *all) {
    if (settings.name != name) continue;
    std::optional<double> number = settings.given(key_path);
    if (!number && key->absent.number) number = key->absent.number;
    if (number && job::is_length(key->type)) *number /= job::mm_per(tables.units);
    return number;
  }
  return std::nullopt;
}

}  // namespace

std::optional<double> number_at(const job::Design& design, job::Inquiry& inquiry, const std::string& path) {
  try {
    return inquiry.number(path);
  } catch (const InvalidParameter&) {
    if (const auto number = value_of_key(design, path)) return number;
    throw;
  }
}

Term::Term(std::string said) : said_(std::move(said)) {
  if (!is_arithmetic(said_)) {
    paths_ = {said_};
    factors_ = {{0, 1}};
    return;
  }
  std::string rest = said_;
  std::smatch found;
  while (std::regex_search(rest, found, path_pattern())) {
    const std::string path = found.str();
    const auto known = std::find(paths_.begin(), paths_.end(), path);
    formula_ += fmt::format("{}v{}", found.prefix().str(), known - paths_.begin());
    if (known == paths_.end()) paths_.push_back(path);
    rest = found.suffix().str();
  }
  formula_ += rest;
  if (paths_.empty()) refuse(said_, "it names no reading: a path has at least two points");
  factors_ = factors_of(formula_);
  of(std::vector<double>(paths_.size(), 1.25));  // a slip is told at once
}

double Term::of(const std::vector<double>& numbers) const {
  if (formula_.empty()) return numbers[0];
  if (factors_) {
    double product = 1;
    for (const auto& [place, power] : *factors_)
      product = power > 0 ? product * numbers[place] : product / numbers[place];
    return product;
  }
  try {
    mu::Parser parser;
    for (std::size_t i = 0; i < numbers.size(); ++i)
      parser.DefineConst(fmt::format("v{}", i), numbers[i]);
    parser.SetExpr(formula_);
    return parser.Eval();
  } catch (const mu::Parser::exception_type& e) {
    refuse(said_, "it cannot be worked out: " + e.GetMsg());
  }
}

std::optional<double> Term::of(const job::Design& design, job::Inquiry& inquiry) const {
  std::vector<double> numbers;
  for (const std::string& path : paths_) {
    const auto number = number_at(design, inquiry, path);
    if (!number || !std::isfinite(*number)) return std::nullopt;
    numbers.push_back(*number);
  }
  const double value = of(numbers);
  return std::isfinite(value) ? std::optional(value) : std::nullopt;
}

std::string Term::unit(job::Units units) const {
  return paths_.size() == 1 && formula_.empty() ? job::reading_unit(said_, units) : "";
}

}  // namespace palio::solve
