#include "palio/machine/speeds.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>
#include <boost/multiprecision/cpp_int.hpp>

#include "palio/error.hpp"

namespace palio::machine {
namespace {

using Rational = boost::multiprecision::cpp_rational;
using Row = std::map<std::size_t, Rational>;  // by column, without zeros

/// Rows reduced one by one: each leads in a column where all others have nothing. It leads where the fewest others
/// stand, so that a row about a new member changes no other one: a chain of meshes costs as much as it is long.
class Reduced {
 public:
  explicit Reduced(std::size_t columns) : lead_of_(columns), uses_(columns) {}

  /// False where the row says nothing that the others do not.
  bool add(const Row& given) {
    Row row = given;
    for (const auto& [column, times] : given) {
      if (const auto& lead = lead_of_[column]) subtract(row, rows_[*lead].second, times);
    }
    if (row.empty()) return false;
    // The last column is what stands on the right: it leads only where nothing else is left.
    auto lead = row.begin();
    for (auto it = row.begin(); it != row.end(); ++it) {
      if (it->first + 1 < uses_.size() && uses_[it->first] < uses_[lead->first]) lead = it;
    }
    const std::size_t column = lead->first;
    const Rational by = lead->second;
    for (auto& [other, x] : row)
      x /= by;
    if (uses_[column] > 0) {
      for (auto& [other, known] : rows_) {
        const auto it = known.find(column);
        if (it == known.end()) continue;
        for (const auto& [c, x] : known)
          --uses_[c];
        const Rational times = it->second;
        subtract(known, row, times);
        for (const auto& [c, x] : known)
          ++uses_[c];
      }
    }
    for (const auto& [c, x] : row)
      ++uses_[c];
    lead_of_[column] = rows_.size();
    rows_.emplace_back(column, std::move(row));
    return true;
  }
  std::size_t rank() const { return rows_.size(); }

  /// The row that leads in a column.
  const Row* leading(std::size_t column) const { return lead_of_[column] ? &rows_[*lead_of_[column]].second : nullptr; }

 private:
  static void subtract(Row& from, const Row& row, const Rational& times) {
    for (const auto& [column, x] : row) {
      const auto it = from.try_emplace(column, 0).first;
      it->second -= times * x;
      if (it->second == 0) from.erase(it);
    }
  }
  std::vector<std::optional<std::size_t>> lead_of_;  // by column, a place among the rows
  std::vector<std::size_t> uses_;                    // by column, how many rows have something there
  std::vector<std::pair<std::size_t, Row>> rows_;
};

Row row_of(const Tie& tie) {
  Row row;
  for (const Term& t : tie.terms) {
    const auto it = row.try_emplace(t.member, 0).first;
    it->second += t.times;
    if (it->second == 0) row.erase(it);
  }
  return row;
}

Fraction told(const Rational& x) { return {x.str(), x.convert_to<double>()}; }

Reduced reduced(std::size_t members, std::size_t columns, const std::vector<Tie>& ties,
                const std::vector<std::size_t>& held) {
  Reduced all(columns);
  for (const Tie& tie : ties)
    all.add(row_of(tie));
  for (const std::size_t h : held) {
    if (h >= members) throw InvalidParameter("held", std::to_string(h), "a member of the machine", "name one of it");
    all.add({{h, 1}});
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
  return members_ - reduced(members_, members_ + 1, ties_, held).rank();
}

Motion Speeds::turned(std::size_t input, const std::vector<std::size_t>& held) const {
  if (input >= members_ || std::find(held.begin(), held.end(), input) != held.end())
    throw InvalidParameter("input", std::to_string(input), "a member that is not held",
                           "hold another, or turn another");
  // One more column for what stands on the right: the input turns once.
  Reduced all = reduced(members_, members_ + 1, ties_, held);
  Motion motion{members_ - all.rank(), false, std::vector<std::optional<Fraction>>(members_)};
  all.add({{input, 1}, {members_, -1}});
  motion.locked = all.leading(members_) != nullptr;
  if (motion.locked) {
    for (auto& t : motion.turns)
      t = Fraction{"0", 0};
    return motion;
  }
  for (std::size_t i = 0; i < members_; ++i) {
    const Row* row = all.leading(i);
    if (!row) continue;
    const auto right = row->find(members_);
    if (row->size() == (right == row->end() ? 1U : 2U))
      motion.turns[i] = right == row->end() ? Fraction{"0", 0} : told(-right->second);
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
