#include <cmath>

#include <fmt/format.h>

#include "page_parts.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/readings/report.hpp"
#include "palio/version.hpp"
#include "palio/view/chart.hpp"
#include "tool_shape.hpp"

namespace palio::view {

std::string tool_page(const job::Design& design, const job::Gear& g) {
  const CuttingTool tool = cutting_tool(g.teeth);
  const auto& s = g.teeth.gear().sizes();
  Json data;
  data["title"] = design.title;
  data["name"] = g.name;
  data["rack"] = tool.rack;
  data["distance"] = tool.distance;
  data["rolling_radius"] = tool.rolling_radius;
  data["ratio"] = tool.ratio;
  data["reach"] = tool.reach;
  data["tool"] = Json::array();
  for (const Vec2& p : tool.outline) {
    data["tool"].push_back(std::round(p.x() * 1e6) / 1e6);
    data["tool"].push_back(std::round(p.y() * 1e6) / 1e6);
  }
  job::Gear alone = g;
  alone.axis = Vec2::Zero();
  // The space that is cut lies on +x: an external gear stands turned by half a pitch.
  data["gear"] = page_gear(alone, alone.axis, s.reference_diameter, g.teeth.internal() ? 0.0 : kPi / g.teeth.count());
  data["module"] = g.teeth.module();
  data["blank"] = s.tip_diameter;
  data["form"] = s.root_form_diameter;
  data["undercut"] = s.undercut;
  data["findings"] = Json::array();
  for (const Finding& f : gear::findings(g.teeth, "gear." + g.name)) {
    data["findings"].push_back(std::string(name(f.kind().severity)) + ": " + job::message(f, design.units));
  }
  data["summary"] = fmt::format("{}, {} teeth, cut by {}: generating shift {:.4f}", g.name, g.teeth.count(),
                                tool.rack ? "a rack" : fmt::format("a pinion cutter of {} teeth", s.cutter->teeth),
                                s.generating_profile_shift);
  return filled_page(kToolHtml, kToolScript, design, g.name + ", the tool at work",
                     std::max(tool.deviation, 1e-4 * g.teeth.module()), data);
}

}  // namespace palio::view
