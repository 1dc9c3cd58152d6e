#include "palio/view/page.hpp"

#include <array>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "page_parts.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/pair/line_of_action.hpp"
#include "palio/version.hpp"

namespace palio::view {

/// How a page draws and moves a member; shared by all pages.
Json page_gear(const job::Gear& g, const Vec2& axis, double working_diameter, double start) {
  const double chord_error = 1e-4 * g.teeth.module();
  Json j{{"name", g.name}, {"teeth", g.teeth.count()}, {"x", axis.x()},
         {"y", axis.y()},  {"start", start},           {"outline", points(g.teeth.outline(), chord_error)}};
  if (g.teeth.is_rack()) {
    const auto& s = g.teeth.rack().sizes();
    j["sort"] = "rack";
    j["facing"] = g.facing;
    j["pitch"] = g.teeth.rack().pitch();
    j["lines"] = {{"tip", s.tip_height}, {"reference", 0.0}, {"root", s.root_height}};
    j["length"] = s.length;
    j["base"] = s.base_height;
    return j;
  }
  j["sort"] = g.teeth.internal() ? "ring" : "gear";
  j["step"] = (g.teeth.internal() ? -2 : 2) * kPi / g.teeth.count();
  j["pitch"] = 2 * kPi / g.teeth.count();
  // Bore, recess, windows and holes where the middle of the face cuts them; a sector shows its teeth as one loop.
  const body::Body body = job::body(g).layers();
  j["loops"] = Json::array();
  for (const std::size_t l : body::section(body, g.teeth.face_width() / 2)) {
    const body::Loop& loop = body.loops[l];
    if (loop.feature == "teeth" && g.features.sector_teeth > 0)
      j["outline"] = points(loop.outline, chord_error), j["copies"] = 1;
    else if (loop.feature != "teeth" && loop.feature != "outer_diameter")
      j["loops"].push_back(points(loop.outline, chord_error));
  }
  j["outer"] = g.teeth.outer_diameter();
  j["circles"] = {{"tip", g.teeth.tip_diameter()}, {"working", working_diameter}, {"root", g.teeth.root_diameter()}};
  if (!g.teeth.is_cycloidal()) j["circles"]["base"] = g.teeth.gear().sizes().base_diameter;
  if (g.teeth.is_lantern()) j["islands"] = true, j["count_word"] = "pins";
  if (g.teeth.is_cycloidal() && g.teeth.cycloidal().form() == gear::CycloidalForm::clock &&
      g.teeth.cycloidal().clock().spec().pinion)
    j["count_word"] = "leaves";
  return j;
}

namespace {

/// What the page of a pair in the plane shows and turns.
Json rolled_data(const job::Design& design, const job::RolledPair& rolled) {
  const job::Pair& pair = *rolled.pair;
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const job::Units units = design.units;
  const auto working = pair.working_pitch_diameters();
  const auto [first, second] = pair.members();
  const roll::Law law = pair.law();
  const bool slides = driven.teeth.is_rack();
  // The driven's coordinate is an angle, a rack's a length: errors in arc seconds or in micrometres.
  const double half_play = law.theoretical_play / 2, error_unit = slides ? 1000 : 180 / kPi * 3600;

  Json data = page_data(design, "pair", pair.name, roll::name(rolled.result.verdict));
  data["ratio"] = law.ratio;
  data["working_radius"] = pair.working_radius();
  if (pair.parallel())
    data["arm"] = slides ? std::cos(pair.parallel()->working_pressure_angle().radians())
                         : driven.teeth.gear().sizes().base_diameter / 2;
  data["error_unit"] = slides ? " µm" : "″";
  data["driver"] = page_gear(driver, pair.gears()[0].axis, working[0], first.start);
  data["driven"] = page_gear(driven, pair.gears()[1].axis, working[1], second.start);
  const Vec2 at_pitch = pair::pitch_point(pair);
  data["pitch_point"] = {at_pitch.x(), at_pitch.y()};
  for (const bool upper : {true, false}) {
    Json& side = data["action"][upper ? "u" : "l"] = Json::array();
    for (const std::vector<Vec2>& path : pair::contact_paths(pair, upper)) {
      Json chain = Json::array();
      for (const Vec2& p : path)
        chain.push_back(p.x()), chain.push_back(p.y());
      side.push_back(chain);
    }
  }
  data["action_name"] = pair::path_name(pair);
  const bool twisted = first.twist != 0;
  if (twisted) data["face"] = {law.face_from, law.face_to};
  Json positions = Json::array();
  for (const roll::Position& p : rolled.result.positions) {
    const double nominal = second.start + law.ratio * (p.driver - first.start);
    const auto listed = [&](const std::vector<roll::Contact>& touching, const std::optional<roll::Contact>& limit) {
      Json list = Json::array();
      const auto add = [&](const roll::Contact& c) {
        list.push_back({rounded(c.point.x(), twisted ? 1e-5 : 1e-7), rounded(c.point.y(), twisted ? 1e-5 : 1e-7)});
        if (twisted) list.back().push_back(rounded(c.height, 1e-4));
      };
      for (const roll::Contact& c : touching)
        add(c);
      if (touching.empty() && limit) add(*limit);
      return list;
    };
    positions.push_back(page_position(p, nominal, half_play, error_unit, rolled.result.drives_upper,
                                      listed(p.touching_upper, p.upper), listed(p.touching_lower, p.lower)));
    // The normal of a cycloid turns: its arm goes with the position.
    if (pair.cycloidal() && p.upper) positions.back()["au"] = p.upper->arm;
    if (pair.cycloidal() && p.lower) positions.back()["al"] = p.lower->arm;
  }
  data["positions"] = positions;
  const auto length = [&](double mm, int places) {
    return fmt::format("{:.{}f} {}", mm / job::mm_per(units), places, job::symbol(units));
  };
  data["summary"] =
      fmt::format("{} : {} teeth, center distance {}, {:.4f} tooth pairs in contact on average", driver.teeth.count(),
                  driven.teeth.count(), length(pair.mounted_center_distance(), 3), rolled.result.pairs_mean);

  if (pair.loop && rolled.result.verdict == roll::Verdict::jams) {
    data["summary"] =
        data["summary"].get<std::string>() + "; the other pairs of its loop hold " + driven.name + " elsewhere";
  }
  return data;
}

}  // namespace

std::string roll_data(const job::Design& design, const job::RolledPair& rolled, double fineness) {
  return (rolled.pair->in_space() ? space_data(design, *rolled.pair, &rolled.result, fineness)
                                  : rolled_data(design, rolled))
      .dump();
}

std::string unrolled_data(const job::Design& design, const job::Pair& pair, double fineness) {
  return space_data(design, pair, nullptr, fineness).dump();
}

std::string roll_page(const job::Design& design, const job::RolledPair& rolled, double fineness) {
  const job::Pair& pair = *rolled.pair;
  if (pair.in_space()) {
    return filled_page(kSpaceHtml, kSpaceScript, design, pair.name, fineness * design.gears[pair.driver].teeth.module(),
                       space_data(design, pair, &rolled.result, fineness));
  }
  return filled_page(kPageHtml, kPageScript, design, pair.name, 1e-4 * design.gears[pair.driver].teeth.module(),
                     rolled_data(design, rolled));
}

}  // namespace palio::view
