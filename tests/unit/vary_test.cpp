#include "palio/readings/vary.hpp"

#include <catch2/catch.hpp>

#include "palio/error.hpp"
#include "palio/readings/report.hpp"
#include "palio/view/chart.hpp"

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
