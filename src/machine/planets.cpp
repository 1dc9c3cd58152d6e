#include "palio/machine/planets.hpp"

#include <cmath>
#include <numeric>
#include <optional>

#include <fmt/format.h>

#include "palio/angle.hpp"
#include "palio/error.hpp"

namespace palio::machine {
namespace {

long long signed_teeth(const Central& c) { return c.internal ? -c.teeth : c.teeth; }

long long modulo(long long a, long long b) { return ((a % b) + b) % b; }

/// Turns ψ of a planet at the axis k/n of a turn, in shares of a turn over n p of the first member: all that fit.
/// With the first member, ψ = (σ z k/n − j)/p for whole j.
template <class Fits>
void each_turn(const std::vector<Central>& all, long long k, long long n, Fits fits) {
  const long long p = all[0].planet_teeth, z = signed_teeth(all[0]);
  for (long long j = 0; j < p; ++j) {
    const long long psi = modulo(z * k - j * n, n * p);  // over n p
    bool good = true;
    for (std::size_t i = 1; i < all.size() && good; ++i)
      good = modulo(signed_teeth(all[i]) * k * p - all[i].planet_teeth * psi, n * p) == 0;
    if (good && !fits(psi)) return;
  }
}

std::optional<long long> first_turn(const std::vector<Central>& all, long long k, long long n) {
  std::optional<long long> found;
  each_turn(all, k, n, [&](long long psi) {
    found = psi;
    return false;
  });
  return found;
}

}  // namespace

Planets::Planets(std::vector<Central> central) : central_(std::move(central)) {
  if (central_.size() < 2)
    throw InvalidParameter("central", fmt::format("{} members", central_.size()), "two or more",
                           "name the sun and the ring");
  for (const Central& c : central_) {
    constexpr long long kMost = 5000;
    if (c.teeth < 1 || c.planet_teeth < 1 || c.teeth > kMost || c.planet_teeth > kMost)
      throw InvalidParameter("central", fmt::format("{} and {} teeth", c.teeth, c.planet_teeth),
                             fmt::format("1 to {} teeth", kMost), "give both gears their teeth");
  }
  // Each pair of members leaves |σ₁ z₁ p₂ − σ₂ z₂ p₁| / gcd(p₁, p₂) places; what all leave is a part of the first's.
  long long finest = 0;
  for (std::size_t i = 1; i < central_.size() && finest == 0; ++i) {
    const Central &a = central_[0], &b = central_[i];
    finest = std::abs(signed_teeth(a) * b.planet_teeth - signed_teeth(b) * a.planet_teeth) /
             std::gcd(a.planet_teeth, b.planet_teeth);
  }
  for (const Central& c : central_)
    ways_ = &c == &central_[0] ? c.planet_teeth : std::gcd(ways_, c.planet_teeth);
  if (finest == 0) return;
  // Places form a group: the smallest one that fits all members tells them all.
  for (long long k = 1; k <= finest; ++k) {
    if (finest % k != 0 || !first_turn(central_, k, finest)) continue;
    places_ = finest / k;
    return;
  }
}

std::vector<PlanetPlace> Planets::placed(long long planets) const {
  std::vector<PlanetPlace> all;
  const long long n = places_ == 0 ? planets : places_;
  for (long long i = 0; i < planets; ++i) {
    const long long k = places_ == 0 ? i : std::llround(static_cast<double>(i * n) / static_cast<double>(planets));
    const double axis = 2 * kPi * static_cast<double>(k) / static_cast<double>(n);
    double turn = 0;
    if (places_ == 0) {
      turn = std::fmod(
          axis * static_cast<double>(signed_teeth(central_[0])) / static_cast<double>(central_[0].planet_teeth),
          2 * kPi);
    } else if (const auto psi = first_turn(central_, k, n)) {
      turn = 2 * kPi * static_cast<double>(*psi) / static_cast<double>(n * central_[0].planet_teeth);
    }
    all.push_back({axis, turn});
  }
  return all;
}

PlanetFit Planets::fitted(double axis, const std::vector<double>& half_plays) const {
  // What a member is missed by is a straight line of the planet's turn: the worst that is left beyond the plays is
  // least where two of those lines meet.
  const auto missed = [&](std::size_t i, double turn) {
    const Central& c = central_[i];
    return std::remainder(
        (static_cast<double>(signed_teeth(c)) * axis - static_cast<double>(c.planet_teeth) * turn) / (2 * kPi), 1.0);
  };
  const auto beyond = [&](double turn) {
    double worst = -1;
    for (std::size_t i = 0; i < central_.size(); ++i)
      worst = std::max(worst, std::abs(missed(i, turn)) - half_plays[i]);
    return worst;
  };
  const long long p = central_[0].planet_teeth;
  PlanetFit best{0, 0, axis};
  double least = 2;
  for (long long j = 0; j < p; ++j) {
    const double fits = (static_cast<double>(signed_teeth(central_[0])) * axis - 2 * kPi * static_cast<double>(j)) /
                        static_cast<double>(p);
    for (std::size_t i = 0; i < central_.size(); ++i) {
      // Turned from where the first member fits until this one has as much beyond its play as the first.
      const double off = missed(i, fits), a = static_cast<double>(p), b = static_cast<double>(central_[i].planet_teeth);
      const double share = i == 0 ? 0 : (std::abs(off) + half_plays[0] - half_plays[i]) / (a + b) * (off < 0 ? -1 : 1);
      const double turn = fits + (i == 0 || std::abs(off) <= half_plays[i] ? 0 : share * 2 * kPi);
      const double left = beyond(turn);
      if (left < least) least = left, best.turn = turn;
    }
  }
  for (std::size_t i = 0; i < central_.size(); ++i)
    best.off += std::abs(missed(i, best.turn));
  if (places_ != 0) {
    const double step = 2 * kPi / static_cast<double>(places_);
    best.nearest = step * std::round(axis / step);
  }
  return best;
}

namespace {

using WholeRow = std::vector<long long>;

/// Rows that leave one of them with anything in a column: whole multiples of it are taken from the others, as often as
/// it takes. \return that one, taken out of `rows`; none where all have nothing there
std::optional<WholeRow> cleared(std::vector<WholeRow>& rows, std::size_t column) {
  const auto has = [&](const WholeRow& r) { return r[column] != 0; };
  while (true) {
    auto least = rows.end();
    for (auto r = rows.begin(); r != rows.end(); ++r) {
      if (has(*r) && (least == rows.end() || std::abs((*r)[column]) < std::abs((*least)[column]))) least = r;
    }
    if (least == rows.end()) return std::nullopt;
    bool alone = true;
    for (auto r = rows.begin(); r != rows.end(); ++r) {
      if (r == least || !has(*r)) continue;
      const long long times = (*r)[column] / (*least)[column];
      for (std::size_t c = 0; c < r->size(); ++c)
        (*r)[c] -= times * (*least)[c];
      alone = alone && !has(*r);
    }
    if (!alone) continue;
    WholeRow found = std::move(*least);
    rows.erase(least);
    return found;
  }
}

}  // namespace

PlanetSets::PlanetSets(std::size_t planets, const std::vector<PlanetTie>& ties) : planets_(planets) {
  constexpr long long kMost = 5000;
  std::vector<WholeRow> rows;
  rows.reserve(ties.size());
  for (const PlanetTie& tie : ties) {
    WholeRow row(planets + 1, 0);
    row[planets] = tie.of_place;
    for (const PlanetTie::Term& t : tie.terms) {
      if (t.planet >= planets || std::abs(t.times) > kMost || std::abs(tie.of_place) > kMost)
        throw InvalidParameter("ties", fmt::format("planet {}, {} teeth", t.planet, t.times),
                               fmt::format("planets below {}, up to {} teeth", planets, kMost),
                               "name planets there are");
      row[t.planet] += t.times;
    }
    rows.push_back(std::move(row));
  }
  for (std::size_t planet = 0; planet < planets; ++planet) {
    if (auto row = cleared(rows, planet)) steps_.push_back({planet, std::move(*row)});
  }
  for (const WholeRow& row : rows)
    places_ = std::gcd(places_, row[planets]);
}

std::vector<PlanetSets::Place> PlanetSets::placed(long long sets) const {
  std::vector<Place> all;
  const long long n = places_ == 0 ? sets : places_;
  for (long long i = 0; i < sets; ++i) {
    const long long k = places_ == 0 ? i : std::llround(static_cast<double>(i * n) / static_cast<double>(sets));
    const double place = static_cast<double>(k) / static_cast<double>(n);
    Place found{2 * kPi * place, std::vector<double>(planets_, 0)};
    // A planet without a row of its own may be turned as one likes.
    std::vector<double> turns(planets_, 0);
    for (auto step = steps_.rbegin(); step != steps_.rend(); ++step) {
      double rest = static_cast<double>(step->row[planets_]) * place;
      for (std::size_t p = step->planet + 1; p < planets_; ++p)
        rest += static_cast<double>(step->row[p]) * turns[p];
      turns[step->planet] = std::remainder(-rest / static_cast<double>(step->row[step->planet]), 1.0);
    }
    for (std::size_t p = 0; p < planets_; ++p)
      found.turns[p] = 2 * kPi * turns[p];
    all.push_back(std::move(found));
  }
  return all;
}

}  // namespace palio::machine
