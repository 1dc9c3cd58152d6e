// What files are called, and what they say of themselves.
#include "naming.hpp"

#include <cctype>
#include <map>

#include <fmt/format.h>

#include "palio/error.hpp"
#include "palio/make/make.hpp"
#include "palio/version.hpp"

namespace palio::make {

std::string slug(const std::string& text) {
  std::string out;
  for (const char c : text) {
    const bool plain = std::isalnum(static_cast<unsigned char>(c)) || c == '-' || c == '_';
    if (plain)
      out += c;
    else if (!out.empty() && out.back() != '_')
      out += '_';
  }
  while (!out.empty() && out.back() == '_')
    out.pop_back();
  return out.empty() ? "job" : out;
}

std::string process_note(const job::Process& p) {
  std::string done;
  const auto add = [&](const std::string& words) { done += (done.empty() ? "" : ", ") + words; };
  if (p.corrects("holes") && !p.hole_allowance.empty()) {
    std::string all;
    for (const auto& [d, a] : p.hole_allowance)
      all += fmt::format("{}{:.4g}{}", all.empty() ? "" : " / ", a,
                         p.hole_allowance.size() > 1 ? fmt::format(" at {:.4g}", d) : "");
    add(fmt::format("holes wider by {} mm", all));
  }
  if (p.corrects("surface") && p.surface_offset != 0) add(fmt::format("tooth surfaces {:+.4g} mm", -p.surface_offset));
  if (p.corrects("first_layer") && p.inset > 0)
    add(fmt::format("first {:.4g} mm drawn in by {:.4g} mm", p.inset_up_to, p.inset));
  if (p.corrects("kerf") && p.kerf > 0) add(fmt::format("outlines {:+.4g} mm for half the kerf", p.kerf / 2));
  if (p.corrects("shrinkage") && (p.shrinkage_radial > 0 || p.shrinkage_axial > 0)) {
    add(fmt::format("larger by 1/(1 - {:.4g}) across and 1/(1 - {:.4g}) along the axis for shrinkage",
                    p.shrinkage_radial, p.shrinkage_axial));
  }
  return fmt::format("drawn for process {}: {}", p.preset.empty() ? "of the job" : p.preset,
                     done.empty() ? "nominal sizes" : done);
}

write::Stamp stamp(const job::Design& design, const std::string& part) {
  write::Stamp stamp;
  stamp.title = design.title;
  stamp.part = part;
  stamp.version = kVersion;
  stamp.inches = design.units == job::Units::inch;
  stamp.job = design.values.text();
  if (design.as == job::As::drawn) stamp.note = process_note(design.process);
  return stamp;
}

std::string file_name(const std::string& pattern, const job::Design& design, const std::string& part,
                      const job::Gear* gear) {
  const std::map<std::string, std::string> fields{
      {"gear", part},
      {"part", gear && !gear->part_name.empty() ? slug(gear->part_name) : part},
      {"number", gear && !gear->part_number.empty() ? slug(gear->part_number) : ""},
      {"module", gear ? fmt::format("{:.6g}", gear->teeth.module()) : ""},
      {"teeth", gear ? fmt::format("{}", gear->teeth.count()) : ""},
      {"kind", gear ? std::string(name(gear->kind)) : ""},
      {"material", gear && gear->material ? gear->material->name : ""},
      {"job", slug(design.title)}};
  // A plate or the whole has no teeth of its own: folders as asked, and its own name.
  if (!gear) {
    for (const char* field : {"{number}", "{module}", "{teeth}", "{kind}", "{material}"}) {
      if (pattern.find(field) == std::string::npos) continue;
      const auto slash = pattern.rfind('/');
      return file_name(slash == std::string::npos || pattern.find(field) < slash
                           ? "{gear}"
                           : pattern.substr(0, slash + 1) + "{gear}",
                       design, part, gear);
    }
  }
  std::string out;
  for (std::size_t i = 0; i < pattern.size(); ++i) {
    if (pattern[i] != '{') {
      out += pattern[i];
      continue;
    }
    const auto end = pattern.find('}', i);
    const std::string field = pattern.substr(i + 1, end == std::string::npos ? end : end - i - 1);
    const auto it = fields.find(field);
    if (it == fields.end() || end == std::string::npos) {
      throw InvalidParameter("name", pattern, fmt::format("{{{}}} is no field", field),
                             "the fields are {gear} {part} {number} {module} {teeth} {kind} {material} {job}");
    }
    if (it->second.empty() && !out.empty() && (out.back() == '_' || out.back() == '-')) out.pop_back();
    out += it->second;
    i = end;
  }
  if (out.empty() || out.front() == '/' || out.find("..") != std::string::npos) {
    throw InvalidParameter("name", pattern,
                           fmt::format("it makes \"{}\", and a name within the folder is allowed", out),
                           "leave out / at its beginning, and ..");
  }
  return out;
}

}  // namespace palio::make
