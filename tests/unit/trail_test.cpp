// Rolls begin each search where the position before led. What they find must not depend on that.
#include <catch2/catch.hpp>
#include <cmath>

#include "palio/design/design.hpp"
#include "random_job.hpp"
#include "try_job.hpp"

using namespace palio;
using Catch::Matchers::WithinAbs;

namespace {

constexpr std::size_t kFew = 8, kTimes = 12;

void check_same(const std::optional<roll::Contact>& few, const std::optional<roll::Contact>& many, double tolerance) {
  REQUIRE(few.has_value() == many.has_value());
  if (few) CHECK_THAT(many->driven, WithinAbs(few->driven, tolerance));
}

}  // namespace

TEST_CASE("a roll of many positions finds at each what a roll of few, which cannot lead it there, finds") {
  unsigned compared = 0;
  for (const std::string& kind : test::job_kinds()) {
    for (unsigned seed = 101; seed < 101 + test::share(kind == "crossed" ? 4 : 12); ++seed) {
      const auto design = test::try_job(test::random_job(kind, seed));
      if (!design) continue;
      CAPTURE(kind, seed);
      for (const job::Pair& p : design->pairs) {
        if (!p.meshes()) continue;
        const roll::Result few = job::rolled(p, int{kFew}), many = job::rolled(p, int{kFew * kTimes});
        CHECK(few.drives_upper == many.drives_upper);
        for (std::size_t i = 0; i < kFew; ++i) {
          CAPTURE(i);
          const roll::Position &a = few.positions[i], &b = many.positions[i * kTimes];
          CHECK_THAT(b.driver, WithinAbs(a.driver, 1e-12));
          // Crossed and bevel: Newton ends at a step of 1e-9 of the face.
          const double tolerance = p.in_space() ? 1e-9 : 1e-11 * std::max(1.0, 1 / p.gears()[1].teeth.module());
          check_same(a.upper, b.upper, tolerance), check_same(a.lower, b.lower, tolerance);
          ++compared;
        }
      }
      for (const job::Reducer& r : design->reducers) {
        const reducer::Rolled few = job::rolled(r, int{kFew}), many = job::rolled(r, int{kFew * kTimes});
        for (std::size_t i = 0; i < kFew; ++i) {
          const reducer::Standing &a = few.positions[i], &b = many.positions[i * kTimes];
          CHECK_THAT(b.output.low, WithinAbs(a.output.low, 1e-10));
          CHECK_THAT(b.output.high, WithinAbs(a.output.high, 1e-10));
          CHECK_THAT(b.output.overlap, WithinAbs(a.output.overlap, 1e-8));
          ++compared;
        }
      }
    }
  }
  if (test::whole_search()) CHECK(compared > 600);
}
