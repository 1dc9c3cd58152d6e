// Dividing thinning among the gears of many pairs, against the plainest way there is: try every set of gears held at 0.
#include "palio/pair/allowances.hpp"

#include <catch2/catch.hpp>

#include <Eigen/Dense>

#include "random_gear.hpp"

using namespace palio;
using namespace palio::pair;
using Catch::Matchers::WithinAbs;

namespace {

/// Σ over all demands and their ends of (δ − wanted)²: what the division keeps least.
double unevenness(const std::vector<double>& thinning, const std::vector<Demand>& demands) {
  double sum = 0;
  for (const Demand& d : demands) {
    const double a = thinning[d.driver] - d.total * d.driver_share,
                 b = thinning[d.driven] - d.total * (1 - d.driver_share);
    sum += a * a + b * b;
  }
  return sum;
}

/// The least unevenness of any δ ≥ 0 that meets all demands; none where no δ does. Whatever the best is, some set of
/// gears is 0 in it and the rest free: of each set the free ones are x0 + null space, and the best of those is a plain
/// least squares.
std::optional<double> least_by_trying(std::size_t gears, const std::vector<Demand>& demands) {
  std::optional<double> best;
  for (unsigned held = 0; held < 1u << gears; ++held) {
    std::vector<std::size_t> free;
    for (std::size_t g = 0; g < gears; ++g) {
      if (!(held >> g & 1u)) free.push_back(g);
    }
    const auto n = static_cast<Eigen::Index>(free.size()), k = static_cast<Eigen::Index>(demands.size());
    Eigen::MatrixXd sums = Eigen::MatrixXd::Zero(k, n), wish = Eigen::MatrixXd::Zero(2 * k, n);
    Eigen::VectorXd totals(k), wanted(2 * k);
    for (Eigen::Index j = 0; j < k; ++j) {
      const Demand& d = demands[static_cast<std::size_t>(j)];
      totals(j) = d.total, wanted(2 * j) = d.total * d.driver_share, wanted(2 * j + 1) = d.total * (1 - d.driver_share);
      for (Eigen::Index i = 0; i < n; ++i) {
        const std::size_t g = free[static_cast<std::size_t>(i)];
        if (g == d.driver) sums(j, i) = wish(2 * j, i) = 1;
        if (g == d.driven) sums(j, i) = wish(2 * j + 1, i) = 1;
      }
    }
    std::vector<double> thinning(gears, 0.0);
    if (n > 0) {
      const Eigen::CompleteOrthogonalDecomposition<Eigen::MatrixXd> solved(sums);
      Eigen::VectorXd x = solved.solve(totals);
      const Eigen::FullPivLU<Eigen::MatrixXd> lu(sums);
      if (lu.dimensionOfKernel() > 0) {
        const Eigen::MatrixXd kernel = lu.kernel();
        x += kernel * (wish * kernel).completeOrthogonalDecomposition().solve(wanted - wish * x);
      }
      for (Eigen::Index i = 0; i < n; ++i)
        thinning[free[static_cast<std::size_t>(i)]] = x(i);
    }
    bool fits = true;
    for (const double t : thinning)
      fits = fits && t > -1e-12;
    for (const Demand& d : demands)
      fits = fits && std::abs(thinning[d.driver] + thinning[d.driven] - d.total) < 1e-9;
    if (!fits) continue;
    const double sum = unevenness(thinning, demands);
    if (!best || sum < *best) best = sum;
  }
  return best;
}

std::vector<Demand> any_demands(test::Draw& draw, std::size_t gears, bool tree) {
  std::vector<Demand> demands;
  const int extra = tree ? 0 : draw.whole(0, 3);
  for (std::size_t g = 1; g < gears; ++g) {
    const auto mate = static_cast<std::size_t>(draw.whole(0, static_cast<int>(g) - 1));
    demands.push_back({g, mate, draw.of({0.0, 0.02, 0.1, 0.3}), draw.of({0.0, 0.3, 0.5, 1.0})});
  }
  for (int i = 0; i < extra; ++i) {
    const auto a = static_cast<std::size_t>(draw.whole(0, static_cast<int>(gears) - 1)),
               b = static_cast<std::size_t>(draw.whole(0, static_cast<int>(gears) - 1));
    if (a != b) demands.push_back({a, b, draw.of({0.05, 0.1}), 0.5});
  }
  return demands;
}

}  // namespace

TEST_CASE("every demand is met, no tooth is made thicker, and no other division comes nearer to the shares") {
  int met = 0, not_met = 0;
  for (unsigned seed = 1; seed <= test::share(600); ++seed) {
    test::Draw draw(seed);
    const auto gears = static_cast<std::size_t>(draw.whole(3, 6));
    const std::vector<Demand> demands = any_demands(draw, gears, seed % 2 == 0);
    const Allowances divided = divide_thinning(gears, demands);
    const auto least = least_by_trying(gears, demands);
    CAPTURE(seed, gears, demands.size());
    CHECK(divided.unmet.empty() == least.has_value());
    if (!least || !divided.unmet.empty()) {
      ++not_met;
      continue;
    }
    ++met;
    for (const double t : divided.thinning)
      CHECK(t >= 0);
    for (const Demand& d : demands)
      CHECK_THAT(divided.thinning[d.driver] + divided.thinning[d.driven], WithinAbs(d.total, 1e-12));
    CHECK_THAT(unevenness(divided.thinning, demands), WithinAbs(*least, 1e-9));
  }
  if (test::whole_search()) {
    CHECK(met > 200);
    CHECK(not_met > 20);
  }
}

TEST_CASE(
    "a train divides evenly whatever its length, the same from either end, and twice the play is twice the thinning") {
  for (const std::size_t gears : {2u, 3u, 10u, 300u}) {
    std::vector<Demand> train, back, twice;
    test::Draw draw(static_cast<unsigned>(gears));
    double thinned = 0.03;
    for (std::size_t i = 0; i + 1 < gears; ++i) {
      const double next = draw.between(0.02, 0.04), total = thinned + next;
      thinned = next;
      train.push_back({i, i + 1, total, 0.5});
      back.push_back({gears - 1 - i, gears - 2 - i, total, 0.5});
      twice.push_back({i, i + 1, 2 * total, 0.5});
    }
    const Allowances one = divide_thinning(gears, train), other = divide_thinning(gears, back),
                     more = divide_thinning(gears, twice);
    CAPTURE(gears);
    REQUIRE(one.unmet.empty());
    for (std::size_t i = 0; i < gears; ++i) {
      CHECK_THAT(one.thinning[i], WithinAbs(other.thinning[gears - 1 - i], 1e-12));
      CHECK_THAT(more.thinning[i], WithinAbs(2 * one.thinning[i], 1e-11));
    }
    for (const Demand& d : train)
      CHECK_THAT(one.thinning[d.driver] + one.thinning[d.driven], WithinAbs(d.total, 1e-12));
    // Equal demands leave every gear of a train the half of one.
    for (Demand& d : train)
      d.total = 0.08;
    for (const double t : divide_thinning(gears, train).thinning)
      CHECK_THAT(t, WithinAbs(0.04, 1e-12));
  }
}

TEST_CASE("the order and the direction in which demands are told change nothing") {
  for (unsigned seed = 1; seed <= test::share(100); ++seed) {
    test::Draw draw(seed);
    const auto gears = static_cast<std::size_t>(draw.whole(3, 9));
    std::vector<Demand> demands = any_demands(draw, gears, true);
    const Allowances one = divide_thinning(gears, demands);
    std::reverse(demands.begin(), demands.end());
    for (Demand& d : demands) {
      std::swap(d.driver, d.driven);
      d.driver_share = 1 - d.driver_share;
    }
    const Allowances other = divide_thinning(gears, demands);
    CAPTURE(seed);
    CHECK(one.unmet.size() == other.unmet.size());
    if (!one.unmet.empty()) continue;
    for (std::size_t i = 0; i < gears; ++i)
      CHECK_THAT(one.thinning[i], WithinAbs(other.thinning[i], 1e-11));
  }
}
