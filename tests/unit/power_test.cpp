// Power goes in and comes out or is lost, to the last digits; planetary sets have the efficiencies of the closed
// formulas.
#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>

#include "palio/error.hpp"
#include "palio/machine/power.hpp"
#include "random_gear.hpp"

using namespace palio;
using machine::Flow;
using machine::Mesh;

namespace {

Mesh external(const char* name, std::size_t a, long long za, std::size_t b, long long zb, double eta,
              std::optional<std::size_t> carrier = std::nullopt) {
  return {name, a, b, za, zb, true, carrier, eta, eta};
}

Mesh internal(const char* name, std::size_t a, long long za, std::size_t b, long long zb, double eta,
              std::optional<std::size_t> carrier = std::nullopt) {
  return {name, a, b, za, zb, false, carrier, eta, eta};
}

double lost(const Flow& f) {
  return std::accumulate(f.meshes.begin(), f.meshes.end(), 0.0, [](double sum, const auto& m) { return sum + m.lost; });
}

}  // namespace

TEST_CASE("a train loses in each mesh what its efficiency says, in either direction") {
  const std::vector<Mesh> train{external("a", 0, 17, 1, 43, 0.97), external("b", 1, 19, 2, 52, 0.95)};
  const Flow f = machine::flow(3, train, 0, 2);
  CHECK(f.efficiency == Approx(0.97 * 0.95));
  CHECK(f.torque[2] == Approx(-0.97 * 0.95 * 43 * 52 / (17.0 * 19)));
  const Flow back = machine::flow(3, train, 2, 0);
  CHECK(back.efficiency == Approx(0.97 * 0.95));
  CHECK_FALSE(back.meshes[0].from_a);
  // A worm-like mesh that does not run backwards.
  std::vector<Mesh> locking = train;
  locking[0].efficiency = 0.4, locking[0].efficiency_backwards = -0.2;
  CHECK(machine::flow(3, locking, 0, 2).efficiency == Approx(0.4 * 0.95));
  CHECK(machine::flow(3, locking, 2, 0).efficiency < 0);
}

TEST_CASE("planetary sets have the efficiency of the closed formula: the rolling power decides what drives") {
  for (unsigned seed = 1; seed <= test::share(300); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    const long long s = draw.whole(12, 60), p = draw.whole(12, 40), r = s + 2 * p;
    const double eta_s = draw.between(0.9, 1), eta_r = draw.between(0.9, 1), eta = eta_s * eta_r;
    enum : std::size_t { sun, planet, ring, carrier };
    const std::vector<Mesh> set{external("sun", sun, s, planet, p, eta_s, carrier),
                                internal("ring", planet, p, ring, r, eta_r, carrier)};
    const double i0 = -static_cast<double>(r) / static_cast<double>(s);
    const Flow reduces = machine::flow(4, set, sun, carrier, {ring});
    CHECK(reduces.efficiency == Approx((1 - i0 * eta) / (1 - i0)).epsilon(1e-12));
    CHECK(machine::flow(4, set, sun, ring, {carrier}).efficiency == Approx(eta).epsilon(1e-12));
    const Flow speeds = machine::flow(4, set, carrier, sun, {ring});
    CHECK(speeds.efficiency == Approx((1 - i0) / (1 - i0 / eta)).epsilon(1e-12));
    CHECK(machine::flow(4, set, ring, carrier, {sun}).efficiency ==
          Approx((1 - eta / i0) / (1 - 1 / i0)).epsilon(1e-12));
    for (const Flow* f : {&reduces, &speeds}) {
      CHECK(f->power[sun] + f->power[carrier] + f->power[ring] == Approx(lost(*f)).margin(1e-12));
      CHECK(f->torque[sun] + f->torque[carrier] + f->torque[ring] == Approx(0).margin(1e-12));
      CHECK_FALSE(f->shared);
    }
  }
}

TEST_CASE("a set of two rings with a high ratio rolls many times the power it lets through, and loses it") {
  enum : std::size_t { one, planet, two, carrier };
  const std::vector<Mesh> set{internal("one", planet, 20, one, 60, 0.99, carrier),
                              internal("two", planet, 20, two, 61, 0.99, carrier)};
  const Flow f = machine::flow(4, set, carrier, two, {one});
  CHECK(f.turns[two] == Approx(1 - 60.0 / 61));
  CHECK(f.circulating > 20);
  CHECK(f.efficiency < 0.6);
  CHECK(f.efficiency > 0);
  CHECK(std::accumulate(f.power.begin(), f.power.end(), 0.0) == Approx(lost(f)).margin(1e-11));
  CHECK(machine::flow(4, set, two, carrier, {one}).efficiency < 0.2);
}

TEST_CASE("random trains with carriers keep power and torque") {
  int looked = 0;
  for (unsigned seed = 1; seed <= test::share(400); ++seed) {
    CAPTURE(seed);
    test::Draw draw(seed);
    // A planetary set whose carrier drives another one.
    const long long s = draw.whole(12, 40), p = draw.whole(12, 30), s2 = draw.whole(12, 40), p2 = draw.whole(12, 30);
    const double eta = draw.between(0.9, 0.999);
    std::vector<Mesh> all{external("a", 0, s, 1, p, eta, 3), internal("b", 1, p, 2, s + 2 * p, eta, 3),
                          external("c", 3, draw.whole(12, 50), 4, draw.whole(12, 50), eta),
                          external("d", 4, s2, 5, p2, eta, 7), internal("e", 5, p2, 6, s2 + 2 * p2, eta, 7)};
    const bool by_carrier = draw.whole(0, 1) == 0;
    const Flow f = machine::flow(8, all, 0, by_carrier ? 7 : 6, {2, by_carrier ? std::size_t{6} : std::size_t{7}});
    ++looked;
    CHECK(std::accumulate(f.power.begin(), f.power.end(), 0.0) == Approx(lost(f)).margin(1e-9));
    CHECK(f.efficiency <= 1);
  }
  CHECK(looked > 0);
}

TEST_CASE("what is locked or loose carries nothing, and is told") {
  const std::vector<Mesh> set{external("sun", 0, 20, 1, 25, 1, 3), internal("ring", 1, 25, 2, 70, 1, 3)};
  CHECK_THROWS_AS(machine::flow(4, set, 0, 3), InvalidParameter);
  CHECK_THROWS_AS(machine::flow(4, set, 0, 3, {1, 2}), InvalidParameter);
  CHECK_THROWS_AS(machine::flow(4, set, 0, 3, {3}), InvalidParameter);  // what is held puts nothing out
  // Two branches between the same shafts share the load.
  const std::vector<Mesh> twice{external("a", 0, 20, 1, 40, 0.98), external("b", 0, 20, 2, 40, 0.98),
                                external("c", 1, 15, 3, 45, 0.98), external("d", 2, 15, 3, 45, 0.98)};
  const Flow f = machine::flow(4, twice, 0, 3);
  CHECK(f.shared);
  CHECK(f.efficiency == Approx(0.98 * 0.98));
  CHECK(f.meshes[0].rolling == Approx(f.meshes[1].rolling));
}
