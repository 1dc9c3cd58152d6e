// Speeds of machines: closed formulas of the planetary sorts as fractions, loops that cannot turn, and random machines
// against the null space in doubles.
#include <catch2/catch.hpp>
#include <numeric>

#include <fmt/format.h>
#include <Eigen/Dense>

#include "palio/error.hpp"
#include "palio/machine/speeds.hpp"
#include "random_gear.hpp"

using namespace palio;
using machine::Fraction;
using machine::mesh;
using machine::Motion;
using machine::Speeds;
using machine::Tie;

namespace {

/// p/q as the library tells it.
std::string fraction(long long p, long long q) {
  const long long g = std::gcd(p, q), sign = q < 0 ? -1 : 1;
  return q == 0 ? "none" : p % q == 0 ? std::to_string(p / q) : fmt::format("{}/{}", sign * p / g, sign * q / g);
}

std::string turns(const Motion& m, std::size_t member) { return m.turns[member] ? m.turns[member]->text : "loose"; }

}  // namespace

TEST_CASE("a chain turns by its tooth counts, idlers only change the sense") {
  const Speeds chain(4, {mesh("a", 0, 17, 1, 43, true), mesh("b", 1, 43, 2, 19, true), mesh("c", 2, 19, 3, 61, false)});
  CHECK(chain.freedom() == 1);
  const Motion m = chain.turned(0);
  CHECK(m.freedom == 1);
  CHECK_FALSE(m.locked);
  CHECK(turns(m, 1) == "-17/43");
  CHECK(turns(m, 2) == "17/19");
  CHECK(turns(m, 3) == "17/61");
  CHECK(m.turns[3]->value == Approx(17.0 / 61));
  CHECK(chain.freedom({2}) == 0);
  CHECK(chain.turned(0, {2}).locked);
  CHECK_THROWS_AS(chain.turned(2, {2}), InvalidParameter);
}

TEST_CASE("planetary sets of every sort have the ratios of their closed formulas") {
  for (unsigned seed = 1; seed <= test::share(200); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(12, 60), p = draw.whole(12, 40), p2 = draw.whole(12, 40), r = draw.whole(61, 160),
                    r2 = draw.whole(61, 160), s2 = draw.whole(12, 60);
    enum : std::size_t { sun, planet, ring, carrier };
    const Speeds simple(
        4, {mesh("sun", sun, s, planet, p, true, carrier), mesh("ring", planet, p, ring, r, false, carrier)});
    CHECK(simple.freedom() == 2);
    CHECK(turns(simple.turned(sun, {ring}), carrier) == fraction(s, s + r));
    CHECK(turns(simple.turned(sun, {carrier}), ring) == fraction(-s, r));
    CHECK(turns(simple.turned(ring, {sun}), carrier) == fraction(r, s + r));
    CHECK(turns(simple.turned(sun), ring) == "loose");
    CHECK(turns(simple.turned(carrier, {ring}), planet) == fraction(p - r, p));
    // Stepped planets.
    const Speeds stepped(
        4, {mesh("sun", sun, s, planet, p, true, carrier), mesh("ring", planet, p2, ring, r, false, carrier)});
    CHECK(turns(stepped.turned(sun, {ring}), carrier) == fraction(s * p2, s * p2 + r * p));
    // Two rings: the carrier drives, one ring stands, the other comes out; or nothing does.
    const Speeds rings(
        4, {mesh("one", sun, r, planet, p, false, carrier), mesh("two", planet, p2, ring, r2, false, carrier)});
    CHECK(turns(rings.turned(carrier, {sun}), ring) == fraction(r2 * p - r * p2, r2 * p));
    CHECK(rings.turned(ring, {sun}).locked == (r2 * p == r * p2));
    // Two suns.
    const Speeds suns(
        4, {mesh("one", sun, s, planet, p, true, carrier), mesh("two", planet, p2, ring, s2, true, carrier)});
    CHECK(turns(suns.turned(carrier, {sun}), ring) == fraction(s2 * p - s * p2, s2 * p));
  }
}

TEST_CASE("where both rings are alike the output stands still, and as an input it is locked") {
  enum : std::size_t { one, planet, two, carrier };
  const Speeds rings(
      4, {mesh("one", one, 60, planet, 20, false, carrier), mesh("two", planet, 20, two, 60, false, carrier)});
  CHECK(turns(rings.turned(carrier, {one}), two) == "0");
  const Motion m = rings.turned(two, {one});
  CHECK(m.locked);
  CHECK(m.freedom == 1);
}

TEST_CASE("a bevel differential shares out the turns of its carrier") {
  enum : std::size_t { left, right, planet, carrier };
  const Speeds differential(4, {machine::inclined_mesh("left", left, 20, planet, 14, true, carrier),
                                machine::inclined_mesh("right", right, 20, planet, 14, false, carrier)});
  CHECK(differential.freedom() == 2);
  CHECK(turns(differential.turned(carrier, {left}), right) == "2");
  CHECK(turns(differential.turned(left, {carrier}), right) == "-1");
}

TEST_CASE("a loop that cannot turn is locked, and each of its meshes is named") {
  const Speeds loop(4, {mesh("a", 0, 20, 1, 30, true), mesh("b", 1, 30, 2, 25, true), mesh("c", 2, 25, 0, 20, true),
                        mesh("tail", 2, 25, 3, 50, true)});
  CHECK(loop.freedom() == 0);
  CHECK(loop.turned(0).locked);
  CHECK(loop.locking(0) == std::vector<std::size_t>{0, 1, 2});
  // Four in a ring turn, whatever their counts.
  const Speeds even(4, {mesh("a", 0, 20, 1, 30, true), mesh("b", 1, 30, 2, 25, true), mesh("c", 2, 25, 3, 19, true),
                        mesh("d", 3, 19, 0, 20, true)});
  CHECK(even.freedom() == 1);
  CHECK(turns(even.turned(0), 2) == "4/5");
}

TEST_CASE("random machines turn as the null space in doubles says") {
  for (unsigned seed = 1; seed <= test::share(300); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const int n = draw.whole(3, 9), count = draw.whole(1, n);
    std::vector<Tie> ties;
    Eigen::MatrixXd a = Eigen::MatrixXd::Zero(count, n);
    for (int i = 0; i < count; ++i) {
      const int x = draw.whole(0, n - 1), y = (x + draw.whole(1, n - 1)) % n;
      const bool rides = draw.whole(0, 1) == 1;
      const int z1 = draw.whole(8, 90), z2 = draw.whole(8, 90);
      const bool opposite = draw.whole(0, 2) > 0;
      const int c = draw.whole(0, n - 1);
      const auto m = [](int k) { return static_cast<std::size_t>(k); };
      ties.push_back(mesh(std::to_string(i), m(x), z1, m(y), z2, opposite, rides ? std::optional(m(c)) : std::nullopt));
      for (const machine::Term& t : ties.back().terms)
        a(i, static_cast<Eigen::Index>(t.member)) += static_cast<double>(t.times);
    }
    const Speeds speeds(static_cast<std::size_t>(n), ties);
    const Eigen::FullPivLU<Eigen::MatrixXd> lu(a);
    CHECK(speeds.freedom() == static_cast<std::size_t>(n - lu.rank()));
    const Motion motion = speeds.turned(0);
    if (motion.locked) continue;
    // Every tie holds among what is told, where all of its members are.
    for (const Tie& tie : ties) {
      double sum = 0;
      bool told = true;
      for (const machine::Term& t : tie.terms) {
        told = told && motion.turns[t.member].has_value();
        if (told) sum += static_cast<double>(t.times) * motion.turns[t.member]->value;
      }
      if (told) CHECK(std::abs(sum) < 1e-9);
    }
    CHECK(motion.turns[0]->text == "1");
    if (motion.freedom == 1) {
      for (const auto& t : motion.turns)
        CHECK(t.has_value());
    }
  }
}
