#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "page_parts.hpp"
#include "palio/error.hpp"
#include "palio/pair/line_of_action.hpp"
#include "palio/version.hpp"
#include "palio/view/chart.hpp"

namespace palio::view {

std::string vary_page(const job::Design& design, const job::Varied& varied) {
  Json data;
  data["palio"] = kVersion;
  data["title"] = design.title;
  data["units"] = job::symbol(design.units);
  data["mm_per_unit"] = job::mm_per(design.units);
  data["keys"] = Json::array();
  for (std::size_t i = 0; i < varied.keys.size(); ++i)
    data["keys"].push_back({{"key", varied.keys[i]}, {"values", varied.steps[i]}});
  const Json told = Json::parse(job::vary_json(varied));
  data["shown"] = told["shown"];
  data["limits"] = Json::array();
  for (const job::VaryLimit& l : varied.limits)
    data["limits"].push_back({{"at", l.at}, {"above", l.above}, {"what", l.what}});
  data["steps"] = Json::array();
  bool any = false;
  double finest = 0;
  for (std::size_t i = 0; i < varied.rows.size(); ++i) {
    const job::VaryRow& row = varied.rows[i];
    Json step = told["rows"][i];
    if (row.design) {
      // The first pair on parallel axes: its members, placed, and the law they turn by.
      for (const job::Pair& p : row.design->pairs) {
        if (!p.plane()) continue;
        const job::Gear &driver = row.design->gears[p.driver], &driven = row.design->gears[p.driven];
        const auto [first, second] = p.members();
        const auto working = p.working_pitch_diameters();
        step["pair"] = p.name;
        step["driver"] = page_gear(driver, p.gears()[0].axis, working[0], first.start);
        step["driven"] = page_gear(driven, p.gears()[1].axis, working[1], second.start);
        step["ratio"] = p.motion_ratio();
        // The driver turning forward pushes the driven to the end of its play.
        step["push"] = (p.motion_ratio() < 0 ? 0.5 : -0.5) * p.law().theoretical_play;
        // Where the teeth touch as the driver pushes, as far as that is a formula.
        if (p.parallel() || !p.cycloidal()->contact_arcs().empty()) {
          step["action_name"] = pair::path_name(p);
          step["action"] = Json::array();
          for (const std::vector<Vec2>& path : pair::contact_paths(p, p.motion_ratio() < 0)) {
            Json chain = Json::array();
            for (const Vec2& at : path)
              chain.push_back(std::round(at.x() * 1e5) / 1e5), chain.push_back(std::round(at.y() * 1e5) / 1e5);
            step["action"].push_back(chain);
          }
        }
        finest = 1e-4 * driver.teeth.module();
        any = true;
        break;
      }
    }
    data["steps"].push_back(step);
  }
  if (!any) {
    const auto never = std::find_if(varied.rows.begin(), varied.rows.end(),
                                    [](const job::VaryRow& row) { return !row.impossible.empty(); });
    throw InvalidParameter(
        "pair", "none",
        "the page turns a pair on parallel axes, and no step has one that can be made" +
            (never == varied.rows.end() ? ""
                                        : fmt::format(" (at {}: {})", fmt::join(never->at, ", "), never->impossible)),
        "add a pair or take another range, or ask for a chart (--out chart.png)");
  }
  return filled_page(kVaryHtml, kVaryScript, design,
                     varied.keys.size() == 1 ? "what " + varied.keys[0] + " does"
                                             : fmt::format("what {} numbers do", varied.keys.size()),
                     finest, data);
}

}  // namespace palio::view
