// Clock trains: beats and hours counted from the wheels, counts found from beats and hours, heights of arbors.
#include <cmath>
#include <string>

#include <fmt/format.h>
#include <boost/multiprecision/cpp_int.hpp>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "palio/design/design.hpp"
#include "palio/readings/report.hpp"
#include "random_gear.hpp"
#include "told.hpp"

using namespace palio;
using namespace palio::job;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinRel;
using test::mistakes;
using test::report;
using Json = nlohmann::json;
using Rational = boost::multiprecision::cpp_rational;

namespace {

/// Great wheel, centre arbor, and as many arbors more; all on one line, wheels above their pinions.
struct Clock {
  std::vector<int> wheels, leaves;
  double width = 2, gap = 1;

  std::string text(const std::string& more) const {
    std::string all = "[shared]\nkind='cycloidal'\nform='clock'\nmodule=0.6\n" + fmt::format("face_width={}\n", width);
    std::string shafts, pairs;
    for (std::size_t i = 0; i < wheels.size(); ++i) {
      all += fmt::format("[gear.w{}]\nteeth={}\n[gear.p{}]\nteeth={}\n", i, wheels[i], i, leaves[i]);
      pairs += fmt::format("[pair.m{0}]\ndriver='w{0}'\ndriven='p{0}'\ndirection={1}\n", i, i * 70);
      if (i + 1 < wheels.size()) shafts += fmt::format("[shaft.a{0}]\ngears=['p{0}','w{1}']\ngap={2}\n", i, i + 1, gap);
    }
    return all + pairs + shafts + fmt::format("[train.going]\ninput='w0'\noutput='p{}'\n{}", wheels.size() - 1, more);
  }
};

Clock any(unsigned seed) {
  test::Draw draw(seed);
  Clock c;
  for (int i = 0; i < draw.whole(2, 4); ++i)
    c.wheels.push_back(draw.whole(48, 96)), c.leaves.push_back(draw.whole(6, 12));
  c.width = draw.between(1, 3), c.gap = draw.between(0.2, 2);
  return c;
}

}  // namespace

TEST_CASE("A clock's beats and hours are products of its wheels and leaves") {
  for (unsigned seed = 0; seed < test::share(60); ++seed) {
    CAPTURE(seed);
    const Clock c = any(seed);
    test::Draw draw(seed + 1000);
    const int escape = draw.whole(12, 40);
    const double winding = draw.whole(3, 20);
    const std::size_t hour = draw.whole(0, static_cast<int>(c.wheels.size()) - 1);  // the arbor of leaves `hour`
    const std::string arbor = hour + 1 < c.wheels.size() ? fmt::format("a{}", hour) : fmt::format("p{}", hour);
    const Json all =
        report(c.text(fmt::format("hour='{}'\nescape_teeth={}\nwinding_turns={}\n", arbor, escape, winding)));
    const Json& told = all["trains"]["going"];
    // Put down by hand: the hour's arbor makes so many turns for one of the great wheel, the last one so many for it.
    Rational turns = 1, after = 1;
    for (std::size_t i = 0; i < c.wheels.size(); ++i)
      (i <= hour ? turns : after) *= Rational(c.wheels[i], c.leaves[i]);
    const auto number = [](const Rational& r) { return static_cast<double>(r); };
    CHECK_THAT(told["hours_per_turn"].get<double>(), WithinRel(number(turns), 1e-14));
    CHECK_THAT(told["hours"].get<double>(), WithinRel(number(turns) * winding, 1e-14));
    CHECK_THAT(told["beats_per_hour"].get<double>(), WithinRel(number(after * 2 * escape), 1e-14));
    CHECK_THAT(told["beat"].get<double>(), WithinRel(3600 / number(after * 2 * escape), 1e-14));
    // Heights: one arbor stands on the other by half a wheel, half its pinion and what lies between.
    double lowest = 0, highest = c.width;
    for (std::size_t i = 0; i + 1 < c.wheels.size(); ++i)
      highest += c.width + c.gap;
    CHECK_THAT(told["height"].get<double>(), WithinRel(highest - lowest, 1e-12));
    for (std::size_t i = 0; i + 1 < c.wheels.size(); ++i) {
      const Json& heights = all["shafts"][fmt::format("a{}", i)]["heights"];
      const double step = (c.width + c.gap) * static_cast<double>(i);
      const Json &pinion = heights[fmt::format("p{}", i)], &wheel = heights[fmt::format("w{}", i + 1)];
      CHECK(std::abs(pinion["lower"].get<double>() - step) < 1e-12);
      CHECK(std::abs(pinion["upper"].get<double>() - step - c.width) < 1e-12);
      CHECK(std::abs(wheel["lower"].get<double>() - step - c.width - c.gap) < 1e-12);
    }
  }
}

TEST_CASE("What tells beats without an hour, or by an arbor that does not turn with the train, is refused") {
  const Clock c{{64, 60}, {8, 8}};
  CHECK_THAT(mistakes(c.text("escape_teeth=30\n")), Contains("train.going.escape_teeth") && Contains("hour ="));
  CHECK_THAT(mistakes(c.text("hour='a7'\n")), Contains("train.going.hour") && Contains("a0"));
  CHECK_THAT(mistakes(c.text("hour='lone'\n[gear.lone]\nteeth=20\n[gear.mate]\nteeth=40\n"
                             "[pair.aside]\ndriver='mate'\ndriven='lone'\n")),
             Contains("train.going.hour") && Contains("does not turn with"));
  // Without either, nothing of a clock is told.
  const Json plain = report(c.text(""));
  CHECK_FALSE(plain["trains"]["going"].contains("beats_per_hour"));
  CHECK_FALSE(plain["trains"]["going"].contains("hours_per_turn"));
}

TEST_CASE("The dial work of the clock starter goes twelve to one, on one axis") {
  const Design design = resolve(starter("clock_train", Units::mm), "clock.toml");
  const Json all = Json::parse(report_json(design, false));
  CHECK(all["trains"]["dial"]["ratio"] == "12");
  CHECK(all["trains"]["going"]["beats_per_hour"] == 3600);
  CHECK(all["trains"]["going"]["hours"] == 168);
  CHECK((design.gear("hour_wheel").axis - design.gear("cannon_pinion").axis).norm() < 1e-9);
}
