#include "palio/view/page.hpp"

#include <array>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "line_of_action.hpp"
#include "palio/curve/flatten.hpp"
#include "palio/version.hpp"

namespace palio::view {

extern const char* const kPageHtml[];
extern const char* const kPageScript[];

namespace {

using Json = nlohmann::ordered_json;

std::string whole(const char* const* parts) {
  std::string text;
  for (; *parts; ++parts) text += *parts;
  return text;
}

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) out += c == '&' ? std::string("&amp;") : c == '<' ? std::string("&lt;") : c == '>' ? std::string("&gt;") : std::string(1, c);
  return out;
}

void put(std::string& text, std::string_view mark, std::string_view value) {
  for (auto at = text.find(mark); at != std::string::npos; at = text.find(mark, at + value.size())) text.replace(at, mark.size(), value);
}

double rounded(double value, double step) { return std::round(value / step) * step; }

Json gear(const job::Gear& g, double working_diameter) {
  const auto& s = g.teeth.sizes();
  Json outline = Json::array();
  const double chord_error = 1e-4 * g.teeth.spec().module;
  for (const curve::Segment& segment : g.teeth.outline().period) {
    const curve::Chords chords = curve::flatten(segment, chord_error);
    for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) {
      const Vec2 p = segment.point(chords.at[i]);
      outline.push_back(rounded(p.x(), 1e-6));
      outline.push_back(rounded(p.y(), 1e-6));
    }
  }
  return {{"name", g.name},
          {"teeth", g.teeth.spec().teeth},
          {"x", g.axis.x()},
          {"y", g.axis.y()},
          {"start", g.phase},
          {"bore", g.teeth.spec().bore_diameter},
          {"circles", {{"tip", s.tip_diameter}, {"working", working_diameter}, {"base", s.base_diameter}, {"root", s.root_diameter}}},
          {"outline", outline}};
}

}  // namespace

std::string roll_page(const job::Design& design, const job::RolledPair& rolled) {
  const job::Pair& pair = *rolled.pair;
  const job::Gear &driver = design.gears[pair.driver], &driven = design.gears[pair.driven];
  const job::Units units = design.units;
  const auto working = pair.running->working_pitch_diameters();
  const roll::Law law = job::law(design, pair);
  const double half_play = law.theoretical_play / 2, arcsec = 180 / kPi * 3600;

  Json data;
  data["palio"] = kVersion;
  data["title"] = design.title;
  data["pair"] = pair.name;
  data["units"] = job::symbol(units);
  data["mm_per_unit"] = job::mm_per(units);
  data["verdict"] = roll::name(rolled.result.verdict);
  data["ratio"] = law.ratio;
  data["working_radius"] = working[1] / 2;
  data["arm"] = driven.teeth.sizes().base_diameter / 2;
  data["driver"] = gear(driver, working[0]);
  data["driven"] = gear(driven, working[1]);
  const Vec2 pitch_point = driver.axis + from_polar(working[0] / 2, pair.direction);
  data["pitch_point"] = {pitch_point.x(), pitch_point.y()};
  for (const bool upper : {true, false}) {
    const auto ends = line_of_action(driver, driven, upper);
    data["action"][upper ? "u" : "l"] = {ends[0].x(), ends[0].y(), ends[1].x(), ends[1].y()};
  }
  Json positions = Json::array();
  for (const roll::Position& p : rolled.result.positions) {
    const double nominal = driven.phase + law.ratio * (p.driver - driver.phase);
    const auto points = [](const std::vector<roll::Contact>& touching, const std::optional<roll::Contact>& first) {
      Json list = Json::array();
      for (const roll::Contact& c : touching) list.push_back({rounded(c.point.x(), 1e-7), rounded(c.point.y(), 1e-7)});
      if (touching.empty() && first) list.push_back({rounded(first->point.x(), 1e-7), rounded(first->point.y(), 1e-7)});
      return list;
    };
    Json row;
    row["u"] = p.upper ? Json(p.upper->driven - nominal) : Json(nullptr);
    row["l"] = p.lower ? Json(p.lower->driven - nominal) : Json(nullptr);
    row["eu"] = p.upper ? Json((p.upper->driven - nominal - half_play) * arcsec) : Json(nullptr);
    row["el"] = p.lower ? Json((p.lower->driven - nominal + half_play) * arcsec) : Json(nullptr);
    row["n"] = (rolled.result.drives_upper ? p.touching_upper : p.touching_lower).size();
    row["cu"] = points(p.touching_upper, p.upper);
    row["cl"] = points(p.touching_lower, p.lower);
    positions.push_back(row);
  }
  data["positions"] = positions;
  const auto length = [&](double mm, int places) { return fmt::format("{:.{}f} {}", mm / job::mm_per(units), places, job::symbol(units)); };
  data["summary"] = fmt::format("{} : {} teeth, center distance {}, {:.4f} tooth pairs in contact on average", driver.teeth.spec().teeth,
                                driven.teeth.spec().teeth, length(pair.mounted_center_distance, 3), rolled.result.pairs_mean);

  std::string json = data.dump();
  put(json, "</", "<\\/");  // nothing in the data may end the script element
  std::string page = whole(kPageHtml);
  const std::string title = design.title.empty() ? pair.name : design.title;
  put(page, "%TITLE%", escaped(title + " · " + pair.name));
  put(page, "%HEADING%", escaped(title));
  put(page, "%STAMP%", escaped(fmt::format("palio {} · drawn within {:.2g} mm of the exact curves", kVersion, 1e-4 * driver.teeth.spec().module)));
  put(page, "%SCRIPT%", whole(kPageScript));
  put(page, "%DATA%", json);
  return page;
}

}  // namespace palio::view
