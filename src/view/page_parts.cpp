#include "page_parts.hpp"

#include <cmath>

#include <fmt/format.h>

#include "palio/curve/flatten.hpp"
#include "palio/version.hpp"

namespace palio::view {

std::string whole(const char* const* parts) {
  std::string text;
  for (; *parts; ++parts) text += *parts;
  return text;
}

namespace {

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) out += c == '&' ? std::string("&amp;") : c == '<' ? std::string("&lt;") : c == '>' ? std::string("&gt;") : std::string(1, c);
  return out;
}

}  // namespace

double rounded(double value, double step) { return std::round(value / step) * step; }

Json points(const curve::Outline& outline, double chord_error, bool whole) {
  Json list = Json::array();
  for (int copy = 0; copy < (whole ? outline.count : 1); ++copy) {
    for (std::size_t k = 0; k < outline.period.size(); ++k) {
      const curve::Segment segment = outline.segment(copy, k);
      const curve::Chords chords = curve::flatten(segment, chord_error);
      for (std::size_t i = 0; i + 1 < chords.at.size(); ++i) {
        const Vec2 p = segment.point(chords.at[i]);
        list.push_back(rounded(p.x(), 1e-6));
        list.push_back(rounded(p.y(), 1e-6));
      }
    }
  }
  return list;
}

Json page_data(const job::Design& design, const char* key, const std::string& name, roll::Verdict verdict) {
  Json data;
  data["palio"] = kVersion;
  data["title"] = design.title;
  data[key] = name;
  data["units"] = job::symbol(design.units);
  data["mm_per_unit"] = job::mm_per(design.units);
  data["verdict"] = roll::name(verdict);
  return data;
}

void put(std::string& text, std::string_view mark, std::string_view value) {
  for (auto at = text.find(mark); at != std::string::npos; at = text.find(mark, at + value.size())) text.replace(at, mark.size(), value);
}

Json page_position(const roll::Position& p, double nominal, double half_play, double error_unit, bool drives_upper, Json cu, Json cl) {
  Json row;
  row["u"] = p.upper ? Json(p.upper->driven - nominal) : Json(nullptr);
  row["l"] = p.lower ? Json(p.lower->driven - nominal) : Json(nullptr);
  row["eu"] = p.upper ? Json((p.upper->driven - nominal - half_play) * error_unit) : Json(nullptr);
  row["el"] = p.lower ? Json((p.lower->driven - nominal + half_play) * error_unit) : Json(nullptr);
  row["n"] = drives_upper ? p.pairs_upper : p.pairs_lower;
  row["cu"] = std::move(cu);
  row["cl"] = std::move(cl);
  return row;
}

std::string filled_page(const char* const* html, const char* const* script, const job::Design& design, const std::string& what, double deviation,
                        const Json& data) {
  std::string json = data.dump();
  put(json, "</", "<\\/");  // nothing in the data may end the script element
  std::string page = whole(html);
  put(page, "%HEAD%", whole(kHeadHtml));
  const std::string title = design.title.empty() ? what : design.title;
  put(page, "%TITLE%", escaped(title + " · " + what));
  put(page, "%HEADING%", escaped(title));
  put(page, "%STAMP%", escaped(fmt::format("palio {} · drawn within {:.2g} mm of the exact curves", kVersion, deviation)));
  put(page, "%PLANE%", whole(kPlaneScript));
  put(page, "%ROLLED%", whole(kRolledScript));
  put(page, "%SCRIPT%", whole(script));
  put(page, "%DATA%", json);
  return page;
}

}  // namespace palio::view
