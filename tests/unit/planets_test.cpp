// Places of planets, against the conditions of the theory and against putting planets in one by one.
#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/machine/planets.hpp"
#include "random_gear.hpp"

using namespace palio;
using machine::Central;
using machine::Planets;

namespace {

/// How far a planet is from fitting a member, in shares of a turn of its mesh.
double off(const Central& c, double axis, double turn) {
  const double phase =
      (c.internal ? -1 : 1) * static_cast<double>(c.teeth) * axis - static_cast<double>(c.planet_teeth) * turn;
  return std::abs(std::remainder(phase, 2 * kPi)) / (2 * kPi);
}

/// The same by trying: at n evenly spaced axes, is there a turn of each planet that fits all members?
bool fits_by_trying(const std::vector<Central>& all, int n) {
  for (int i = 1; i < n; ++i) {
    const double axis = 2 * kPi * i / n;
    bool found = false;
    for (long long j = 0; j < all[0].planet_teeth && !found; ++j) {
      const double turn =
          ((all[0].internal ? -1 : 1) * static_cast<double>(all[0].teeth) * axis + 2 * kPi * static_cast<double>(j)) /
          static_cast<double>(all[0].planet_teeth);
      found = true;
      for (const Central& c : all)
        found = found && off(c, axis, turn) < 1e-6;
    }
    if (!found) return false;
  }
  return true;
}

}  // namespace

TEST_CASE("evenly spaced planets fit where the conditions of each planetary sort say, and nowhere else") {
  int yes = 0, no = 0;
  for (unsigned seed = 1; seed <= test::share(400); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(10, 50), p1 = draw.whole(10, 36), p2 = draw.whole(10, 36), r = draw.whole(60, 140),
                    r2 = draw.whole(60, 140), s2 = draw.whole(10, 50), g = std::gcd(p1, p2);
    const int n = draw.whole(2, 6);
    struct Sort {
      std::vector<Central> central;
      bool fits;
    };
    for (const Sort& sort :
         {Sort{{{s, p1, false}, {r, p1, true}}, (s + r) % n == 0},
          Sort{{{s, p1, false}, {r, p2, true}}, (s * p2 + r * p1) % (n * g) == 0},
          Sort{{{r, p1, true}, {r2, p2, true}}, (r2 * p1 - r * p2) % (n * g) == 0},
          Sort{{{s, p1, false}, {s2, p2, false}}, (s2 * p1 - s * p2) % (n * g) == 0},
          Sort{{{s, p1, false}, {s2, p1, false}, {r, p1, true}}, (s2 + r) % n == 0 && (s + r) % n == 0}}) {
      const Planets planets(sort.central);
      CHECK(planets.evenly(n) == sort.fits);
      CHECK(fits_by_trying(sort.central, n) == sort.fits);
      (sort.fits ? yes : no) += 1;
      for (const machine::PlanetPlace& at : planets.placed(n)) {
        for (const Central& c : sort.central)
          CHECK(off(c, at.axis, at.turn) < 1e-6);
      }
      if (!sort.fits || planets.anywhere()) continue;
      const auto placed = planets.placed(n);
      for (std::size_t i = 0; i < placed.size(); ++i)
        CHECK(placed[i].axis == Approx(2 * kPi * static_cast<double>(i) / n).margin(1e-12));
    }
  }
  CHECK(yes > static_cast<int>(test::share(100)));
  CHECK(no > static_cast<int>(test::share(100)));
}

TEST_CASE(
    "simple sets have a place at every step of the sum of teeth; a stepped planet's mark repeats with its divisor") {
  const Planets simple({{20, 25, false}, {70, 25, true}});
  CHECK(simple.places() == 90);
  CHECK(simple.ways() == 25);
  CHECK(simple.evenly(3));
  CHECK_FALSE(simple.evenly(4));
  const Planets stepped({{20, 24, false}, {70, 18, true}});
  CHECK(stepped.ways() == 6);
  CHECK(stepped.places() == (20 * 18 + 70 * 24) / 6);
  const Planets still({{60, 20, true}, {60, 20, true}});
  CHECK(still.anywhere());
  CHECK(still.evenly(7));
  CHECK_THROWS_AS(Planets({{20, 25, false}}), InvalidParameter);
}

TEST_CASE("sets of planets on several axes stand where trying them one by one finds room, and nowhere between") {
  // A sun, a first planet, one that meshes with its other step, and a ring: the turns of both are tried, tooth by
  // tooth, at every place that might do.
  int more = 0;
  for (unsigned seed = 1; seed <= test::share(120); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long sun = draw.whole(8, 24), first = draw.whole(5, 12),
                    step = draw.whole(0, 1) ? draw.whole(5, 12) : first, second = draw.whole(5, 12),
                    last = draw.whole(0, 1) ? draw.whole(5, 12) : second, ring = draw.whole(30, 60);
    const machine::PlanetSets sets(2, {{sun, {{0, -first}}}, {0, {{0, step}, {1, second}}}, {-ring, {{1, -last}}}});
    const auto whole = [](double turns) { return std::abs(std::remainder(turns, 1.0)) < 1e-7; };
    const auto fits = [&](double place) {
      for (long long i = 0; i < first; ++i) {
        const double one = (static_cast<double>(sun) * place + static_cast<double>(i)) / static_cast<double>(first);
        for (long long k = 0; k < second; ++k) {
          const double other = (static_cast<double>(k) - static_cast<double>(step) * one) / static_cast<double>(second);
          if (whole(-static_cast<double>(ring) * place - static_cast<double>(last) * other)) return true;
        }
      }
      return false;
    };
    const long long n = sets.places();
    if (n == 0) {
      CHECK(fits(0.123456));
      continue;
    }
    CHECK(fits(1.0 / static_cast<double>(n)));
    // Finer places would be a part of these: none of the next does.
    for (long long part = 2; part <= 7; ++part)
      CHECK_FALSE(fits(1.0 / static_cast<double>(n * part)));
    more += n > 1;
    for (const machine::PlanetSets::Place& p : sets.placed(std::min<long long>(3, n))) {
      const double place = p.axis / (2 * kPi), one = p.turns[0] / (2 * kPi), other = p.turns[1] / (2 * kPi);
      CHECK(whole(static_cast<double>(sun) * place - static_cast<double>(first) * one));
      CHECK(whole(static_cast<double>(step) * one + static_cast<double>(second) * other));
      CHECK(whole(-static_cast<double>(ring) * place - static_cast<double>(last) * other));
    }
  }
  if (test::whole_search()) CHECK(more > 60);
  CHECK_THROWS_AS(machine::PlanetSets(1, {{20, {{1, -10}}}}), InvalidParameter);
}

TEST_CASE("sets of one planet stand as the sorts of planetary sets say") {
  for (unsigned seed = 1; seed <= test::share(200); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(10, 50), p1 = draw.whole(10, 36), p2 = draw.whole(10, 36), r = draw.whole(60, 140);
    const machine::PlanetSets sets(1, {{s, {{0, -p1}}}, {-r, {{0, -p2}}}});
    CHECK(sets.places() == Planets({{s, p1, false}, {r, p2, true}}).places());
  }
}
