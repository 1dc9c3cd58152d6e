#include "palio/readings/vary.hpp"

#include <algorithm>

#include <catch2/catch.hpp>

#include "palio/angle.hpp"
#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/chart.hpp"
#include "parallel.hpp"

using namespace palio;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

job::Varied vary(const std::string& kind, const job::VaryRequest& request, bool keep = false) {
  return job::vary(job::Values::read(job::starter(kind, job::Units::mm), "vent.toml"), request, keep);
}

}  // namespace

TEST_CASE("a limit is where the job itself changes its mind: the least shift without undercut") {
  job::VaryRequest request;
  request.keys = {job::parse_vary_key("gear.push_pinion.profile_shift=-0.4:0.6:11")};
  request.shows = {"gear.push_pinion.generating_profile_shift", "gear.push_pinion.min_profile_shift_no_undercut",
                   "gear.push_pinion.tip_diameter"};
  const job::Varied v = vary("rack", request);
  CHECK(v.rows.size() == 11);
  int undercut = 0;
  for (const job::VaryLimit& l : v.limits) {
    if (l.what.find(" undercut gear.push_pinion") == std::string::npos) continue;
    ++undercut;
    CHECK_FALSE(l.above);
    const job::Design at = job::resolve(job::starter("rack", job::Units::mm), "vent.toml",
                                        {"gear.push_pinion.profile_shift=" + std::to_string(l.at)});
    CHECK_THAT(at.gear("push_pinion").teeth.generating_profile_shift(),
               WithinAbs(at.gear("push_pinion").teeth.gear().sizes().min_profile_shift_no_undercut, 5e-5));
  }
  CHECK(undercut == 1);
  for (std::size_t i = 0; i + 1 < v.rows.size(); ++i)
    CHECK_THAT(*v.rows[i + 1].values[2] - *v.rows[i].values[2], WithinAbs(2 * 1.5 * 0.1, 1e-9));
}

TEST_CASE("a sum that is held makes one key give way to the other; a diameter stays while teeth change") {
  job::VaryRequest request;
  request.keys = {job::parse_vary_key("gear.motor_pinion.profile_shift=0:0.4:5")};
  request.holds = {"gear.motor_pinion.profile_shift+gear.drum_wheel.profile_shift"};
  request.shows = {"gear.motor_pinion.profile_shift", "gear.drum_wheel.profile_shift"};
  for (const job::VaryRow& row : vary("spur", request).rows)
    CHECK_THAT(*row.values[0] + *row.values[1], WithinAbs(0.27, 1e-12));
  request.keys = {job::parse_vary_key("gear.push_pinion.teeth=18:20")};
  request.holds = {"gear.push_pinion.tip_diameter"};
  request.shows = {"gear.push_pinion.tip_diameter", "gear.push_pinion.teeth"};
  const job::Varied v = vary("rack", request);
  CHECK(v.rows.size() == 3);
  for (const job::VaryRow& row : v.rows)
    CHECK_THAT(*row.values[0], WithinAbs(30.6, 1e-12));
}

TEST_CASE("a number within a list of tables is varied by its place in the list") {
  const job::Values values = job::Values::read(
      "[gear.a]\nkind='spur'\nmodule=2\nteeth=30\nface_width=10\nbore=8\n"
      "hubs=[{diameter=20,length=4},{face='bottom',diameter=24,length=5}]\nset_screw=[{thread='M3',angle=10}]\n",
      "hubs");
  const auto volumes = [&](const std::string& key) {
    job::VaryRequest request;
    request.keys = {job::parse_vary_key(key)};
    request.shows = {"gear.a.volume"};
    std::vector<double> all;
    for (const job::VaryRow& row : job::vary(values, request).rows)
      all.push_back(*row.values[0]);
    return all;
  };
  const std::vector<double> longer = volumes("gear.a.hubs.1.length=5:8:4");
  REQUIRE(longer.size() == 4);
  for (std::size_t i = 1; i < longer.size(); ++i)
    CHECK_THAT(longer[i] - longer[i - 1], WithinAbs(kPi / 4 * (24 * 24 - 8 * 8), 1e-6));
  for (const double v : volumes("gear.a.set_screw.0.angle=0:90:4"))
    CHECK_THAT(v, WithinAbs(longer[0], 1e-6));
}

TEST_CASE("two keys make a map, pictures and pages come from the same rows, and what cannot be made says why") {
  job::VaryRequest request;
  request.keys = {job::parse_vary_key("gear.quiet_pinion.profile_shift=0:0.4:3"),
                  job::parse_vary_key("shared.pressure_angle=15:25:3")};
  const job::Varied map = vary("helical", request);
  CHECK(map.rows.size() == 9);
  const job::Design design = job::resolve(job::starter("helical", job::Units::mm), "vent.toml");
  CHECK(view::draw_vary(design, map, "png").size() > 5000);
  request.keys = {job::parse_vary_key("pair.first_stage.center_distance=44:47:4")};
  const job::Varied line = vary("spur", request, true);
  CHECK_THAT(line.rows.back().impossible, Contains("play") || Contains("backlash") || Contains("center"));
  CHECK_THAT(job::vary_csv(line), Contains("impossible"));
  CHECK_THAT(view::draw_vary(design, line, "svg"), Contains("<svg"));
  CHECK_THAT(view::vary_page(design, line), Contains("\"steps\"") && Contains("paintMember"));
}

TEST_CASE("what cannot be varied is told with what can") {
  const auto misnamed = [](const char* key) {
    job::VaryRequest request;
    request.keys = {job::parse_vary_key(key)};
    return vary("spur", request);
  };
  CHECK_THROWS_WITH(misnamed("gear.motor_pinon.teeth=17:20"), Contains("no gear named") && Contains("motor_pinion"));
  CHECK_THROWS_WITH(misnamed("pair.stage.backlash=0:0.2"), Contains("no pair named") && Contains("first_stage"));
  const auto message = [](const std::string& key, const std::string& hold, const std::string& show) -> std::string {
    try {
      job::VaryRequest request;
      request.keys = {job::parse_vary_key(key)};
      if (!hold.empty()) request.holds = {hold};
      if (!show.empty()) request.shows = {show};
      vary("spur", request);
    } catch (const InvalidParameter& e) {
      return e.what();
    }
    return "";
  };
  CHECK_THAT(message("gear.motor_pinion.profile_shft=0:1", "", ""), Contains("profile_shift"));
  CHECK_THAT(message("gear.motor_pinion.kind=0:1", "", ""), Contains("no number"));
  CHECK_THAT(message("gear.motor_pinion.teeth=0", "", ""), Contains("FROM:TO"));
  CHECK_THAT(message("gear.motor_pinion.teeth=17:20:x", "", ""), Contains("no number"));
  CHECK_THAT(
      message("gear.motor_pinion.teeth=17:20", "gear.motor_pinion.profile_shift+gear.drum_wheel.profile_shift", ""),
      Contains("gives way"));
  CHECK_THAT(message("gear.motor_pinion.teeth=17:20", "", "pair.first_stage.contakt"), Contains("contakt"));
}

TEST_CASE("rows and limits worked out together are those worked out alone") {
  const auto key = GENERATE(Catch::Generators::as<std::pair<std::string, std::string>>{},
                            std::pair{"spur", "gear.motor_pinion.profile_shift=-0.2:0.6:7"},
                            std::pair{"cycloidal", "gear.shade_pinion.rolling_radius=2:4:5"},
                            std::pair{"bevel", "gear.corner_pinion.profile_shift=0.1:0.4:5"},
                            std::pair{"reducer", "reducer.motor_reducer.eccentricity=1.0:1.25:4"});
  CAPTURE(key.first);
  job::VaryRequest request;
  request.keys = {job::parse_vary_key(key.second)};
  const job::Varied all = vary(key.first, request);
  std::vector<job::VaryLimit> limits;
  for (std::size_t i = 0; i + 1 < all.rows.size(); ++i) {
    job::VaryRequest two = request;
    two.keys[0].from = all.rows[i].at[0], two.keys[0].to = all.rows[i + 1].at[0], two.keys[0].steps = 2;
    const job::Varied alone = vary(key.first, two);
    REQUIRE(alone.rows.size() == 2);
    for (const std::size_t k : {0, 1}) {
      CHECK(alone.rows[k].values == all.rows[i + k].values);
      CHECK(alone.rows[k].findings == all.rows[i + k].findings);
    }
    limits.insert(limits.end(), alone.limits.begin(), alone.limits.end());
  }
  REQUIRE(limits.size() == all.limits.size());
  for (std::size_t i = 0; i < limits.size(); ++i) {
    CHECK(limits[i].at == all.limits[i].at);
    CHECK(limits[i].what == all.limits[i].what);
  }
}

TEST_CASE("of independent pieces of work each is done once; the first that fails is told") {
  std::vector<int> done(1000, 0);
  for_each_index(done.size(), [&](std::size_t i) { ++done[i]; });
  CHECK(std::count(done.begin(), done.end(), 1) == 1000);
  const auto fails = [](std::size_t i) {
    if (i % 7 == 3) throw InvalidParameter("piece", std::to_string(i), "it fails", "leave it out");
  };
  for (int repeated = 0; repeated < 50; ++repeated) {
    try {
      for_each_index(100, fails);
      FAIL("nothing was thrown");
    } catch (const InvalidParameter& e) {
      CHECK(e.given() == "3");
    }
  }
  CHECK_NOTHROW(for_each_index(0, fails));
}
