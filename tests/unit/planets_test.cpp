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
