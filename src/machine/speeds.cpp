#include "palio/machine/speeds.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>
#include <boost/multiprecision/cpp_int.hpp>

#include "palio/error.hpp"

namespace palio::machine {
namespace {

using Rational = boost::multiprecision::cpp_rational;
using Row = std::vector<Rational>;

/// Rows reduced one by one: each has a leading 1 in a column where all others have nothing.
class Reduced {
 public:
  explicit Reduced(std::size_t columns) : columns_(columns) {}

  /// False where the row says nothing that the others do not.
  bool add(Row row) {
    for (const auto& [lead, known] : rows_)
      subtract(row, known, lead);
    const auto first = std::find_if(row.begin(), row.end(), [](const Rational& x) { return x != 0; });
    if (first == row.end()) return false;
    const auto lead = static_cast<std::size_t>(first - row.begin());
    const Rational by = row[lead];
    for (Rational& x : row)
      x /= by;
    for (auto& [other, known] : rows_)
      subtract(known, row, lead);
    rows_.emplace_back(lead, std::move(row));
    return true;
  }
  std::size_t rank() const { return rows_.size(); }

  /// The row that leads in a column.
  const Row* leading(std::size_t column) const {
    for (const auto& [lead, row] : rows_) {
      if (lead == column) return &row;
    }
    return nullptr;
  }
  std::size_t columns() const { return columns_; }

 private:
  void subtract(Row& from, const Row& row, std::size_t lead) const {
    if (from[lead] == 0) return;
    const Rational times = from[lead];
    for (std::size_t k = 0; k < columns_; ++k) {
      if (row[k] != 0) from[k] -= times * row[k];
    }
  }
  std::size_t columns_;
  std::vector<std::pair<std::size_t, Row>> rows_;
};

Row row_of(const Tie& tie, std::size_t columns) {
  Row row(columns);
  for (const Term& t : tie.terms)
    row[t.member] += t.times;
  return row;
}

Row unit(std::size_t column, std::size_t columns) {
  Row row(columns);
  row[column] = 1;
  return row;
}

Fraction told(const Rational& x) { return {x.str(), x.convert_to<double>()}; }

Reduced reduced(std::size_t members, std::size_t columns, const std::vector<Tie>& ties,
                const std::vector<std::size_t>& held) {
  Reduced all(columns);
  for (const Tie& tie : ties)
    all.add(row_of(tie, columns));
  for (const std::size_t h : held) {
    if (h >= members) throw InvalidParameter("held", std::to_string(h), "a member of the machine", "name one of it");
    all.add(unit(h, columns));
  }
  return all;
}

}  // namespace

bool operator==(const Fraction& a, const Fraction& b) { return a.text == b.text; }

Tie mesh(std::string name, std::size_t a, long long teeth_a, std::size_t b, long long teeth_b, bool opposite,
         std::optional<std::size_t> carrier) {
  const long long of_b = opposite ? teeth_b : -teeth_b;
  Tie tie{std::move(name), {{a, teeth_a}, {b, of_b}}};
  if (carrier) tie.terms.push_back({*carrier, -teeth_a - of_b});
  return tie;
}

Tie inclined_mesh(std::string name, std::size_t central, long long teeth_central, std::size_t planet,
                  long long teeth_planet, bool opposite, std::size_t carrier) {
  return {std::move(name),
          {{central, teeth_central}, {carrier, -teeth_central}, {planet, opposite ? teeth_planet : -teeth_planet}}};
}

Speeds::Speeds(std::size_t members, std::vector<Tie> ties) : members_(members), ties_(std::move(ties)) {
  for (const Tie& tie : ties_) {
    for (const Term& t : tie.terms) {
      if (t.member >= members_)
        throw InvalidParameter("tie", tie.name, fmt::format("members below {}", members_), "add the member first");
    }
  }
}

std::size_t Speeds::freedom(const std::vector<std::size_t>& held) const {
  return members_ - reduced(members_, members_, ties_, held).rank();
}

Motion Speeds::turned(std::size_t input, const std::vector<std::size_t>& held) const {
  if (input >= members_ || std::find(held.begin(), held.end(), input) != held.end())
    throw InvalidParameter("input", std::to_string(input), "a member that is not held",
                           "hold another, or turn another");
  Motion motion{freedom(held), false, std::vector<std::optional<Fraction>>(members_)};
  // One more column for what stands on the right: the input turns once.
  Reduced all = reduced(members_, members_ + 1, ties_, held);
  Row turn = unit(input, members_ + 1);
  turn[members_] = -1;
  all.add(std::move(turn));
  motion.locked = all.leading(members_) != nullptr;
  if (motion.locked) {
    for (auto& t : motion.turns)
      t = Fraction{"0", 0};
    return motion;
  }
  for (std::size_t i = 0; i < members_; ++i) {
    const Row* row = all.leading(i);
    if (!row) continue;
    const bool alone = std::count_if(row->begin(), row->end() - 1, [](const Rational& x) { return x != 0; }) == 1;
    if (alone) motion.turns[i] = told(-row->back());
  }
  return motion;
}

std::vector<std::size_t> Speeds::locking(std::size_t input, const std::vector<std::size_t>& held) const {
  std::vector<std::size_t> all;
  if (!turned(input, held).locked) return all;
  for (std::size_t i = 0; i < ties_.size(); ++i) {
    std::vector<Tie> others = ties_;
    others.erase(others.begin() + static_cast<std::ptrdiff_t>(i));
    if (!Speeds(members_, std::move(others)).turned(input, held).locked) all.push_back(i);
  }
  return all;
}

}  // namespace palio::machine
