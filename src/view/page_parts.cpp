#include "page_parts.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "palio/curve/flatten.hpp"
#include "palio/version.hpp"
#include "palio/write/file.hpp"

namespace palio::view {

std::string whole(const char* const* parts) {
  std::string text;
  for (; *parts; ++parts)
    text += *parts;
  return text;
}

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

Json page_data(const job::Design& design, const char* key, const std::string& name, std::string_view verdict) {
  Json data;
  data["palio"] = kVersion;
  data["title"] = design.title;
  data[key] = name;
  data["units"] = job::symbol(design.units);
  data["mm_per_unit"] = job::mm_per(design.units);
  data["verdict"] = verdict;
  return data;
}

std::string filled(std::string_view text, const std::map<std::string_view, std::string>& values) {
  std::string out;
  out.reserve(text.size());
  std::size_t at = 0;
  while (at < text.size()) {
    const std::size_t mark = text.find('%', at);
    if (mark == std::string_view::npos) break;
    const std::size_t end = text.find('%', mark + 1);
    const auto value =
        end == std::string_view::npos ? values.end() : values.find(text.substr(mark + 1, end - mark - 1));
    // What is put in is not looked at again: it may hold anything.
    out += text.substr(at, mark - at);
    if (value == values.end())
      out += '%';
    else
      out += value->second;
    at = value == values.end() ? mark + 1 : end + 1;
  }
  return out.append(text.substr(std::min(at, text.size())));
}

std::string json_in_script(const Json& data) {
  // No "<" is left that could end the element, begin a comment or open another one.
  std::string out;
  for (const char c : data.dump())
    out += c == '<' ? std::string("\\u003c") : std::string(1, c);
  return out;
}

Json page_position(const roll::Position& p, double nominal, double half_play, double error_unit, bool drives_upper,
                   Json cu, Json cl) {
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

std::map<std::string_view, std::string> turning_texts(std::map<std::string_view, std::string> texts,
                                                      const char* const* script) {
  texts["HEAD"] = filled(whole(kHeadHtml), texts);
  texts["PLANE"] = whole(kPlaneScript);
  texts["NUMBERS"] = whole(kNumbersScript);
  texts["ROLLED"] = whole(kRolledScript);
  texts["TURNING"] = whole(kTurningScript);
  texts["SCRIPT"] = whole(script);
  return texts;
}

std::string still_page(const char* const* html, const char* const* script, const std::string& heading,
                       std::map<std::string_view, std::string> texts) {
  texts["TITLE"] = write::xml_escaped(heading);
  texts["STAMP"] = std::string("palio ") + kVersion;
  texts["HEAD"] = filled(whole(kStillHeadHtml), texts);
  texts["SCRIPT"] = whole(script);
  return filled(whole(html), texts);
}

std::string stamp(double deviation) {
  return fmt::format("palio {} · drawn within {:.2g} mm of the exact curves", kVersion, deviation);
}

std::string filled_page(const char* const* html, const char* const* script, const job::Design& design,
                        const std::string& what, double deviation, const Json& data) {
  const std::string title = design.title.empty() ? what : design.title;
  std::map<std::string_view, std::string> all = turning_texts({{"TITLE", write::xml_escaped(title + " · " + what)},
                                                               {"HEADING", write::xml_escaped(title)},
                                                               {"STAMP", write::xml_escaped(stamp(deviation))}},
                                                              script);
  all["DATA"] = json_in_script(data);
  if (html == kSpaceHtml || html == kMachineHtml) {
    all["THREE"] = whole(kThreeNotice) + whole(kThree);
    all["SOLIDS"] = whole(kSolidsScript);
  }
  if (html == kMachineHtml) all["MECHANISM"] = whole(kMechanismScript);
  return filled(whole(html), all);
}

}  // namespace palio::view
