#include "palio/view/draw.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <memory>
#include <optional>

#include <fmt/format.h>

#include "common.hpp"
#include "film.hpp"
#include "palio/overloaded.hpp"
#include "palio/view/chart.hpp"
#include "watch.hpp"

namespace palio::cli {
namespace {

const std::vector<std::string> kPictures{"png", "svg", "pdf"};

/// The solids of a pair at the start of its roll, the driven pushed against its limit.
std::string draw_in_space(const job::Design& design, const job::Pair& pair, const std::string& format,
                          view::PictureSize size) {
  if (format != "png") throw Misuse(fmt::format("--of {}: pictures of solids are .png", pair.name));
  const roll::Result rolled = job::rolled(pair, 8);
  const roll::Position& p = rolled.positions.front();
  const double driven = p.upper ? p.upper->driven : pair.members()[1].start;
  return view::png_of(
      render_in_space(view::pair_in_space(design, pair, p.driver, driven, p.touching_upper, size, false)), size);
}

/// The tool cutting a gear: a page, or a film.
void draw_tool(const job::Design& design, const std::string& name, const std::string& out, const std::string& size_text,
               bool json) {
  std::string known;
  for (const job::Gear& g : design.gears) {
    known += (known.empty() ? "" : ", ") + g.name;
    if (g.name != name) continue;
    const Target t = target(out, {"html", "mp4", "webm", "gif"});
    const std::string path = t.path(name + "-tool.html");
    if (is_film(t.extension)) {
      const view::PictureSize size = parse_size(size_text);
      write_film(view::tool_film(design, g, 120, size), size, 24, path);
    } else {
      write_with_job(path, view::tool_page(design, g), design);
    }
    return tell({{path, t.extension.empty() ? "html" : t.extension, name}}, json);
  }
  throw Misuse(fmt::format("--of {}:tool: the job's gears are {}", name, known));
}

/// "AZIMUTH,HEIGHT" in degrees as the direction to the eye. \throws Misuse where it is none
Vec3 direction(const std::string& text) {
  const auto comma = text.find(',');
  const auto number = [&](const std::string& part) {
    char* end = nullptr;
    const double value = std::strtod(part.c_str(), &end);
    if (part.empty() || *end != 0 || !std::isfinite(value))
      throw Misuse(fmt::format("--from {}: two angles in degrees are wanted, AZIMUTH,HEIGHT as 30,20", text));
    return value * kPi / 180;
  };
  if (comma == std::string::npos) number("");
  const double azimuth = number(text.substr(0, comma)), height = number(text.substr(comma + 1));
  constexpr double kOverhead = 89.9;  // [°]: from straight above no side of the picture would be up
  if (std::abs(height) > kPi / 2 + 1e-12)
    throw Misuse(fmt::format("--from {}: the height is an angle from -90 (below) to 90 (above)", text));
  const double h = std::clamp(height, -kOverhead * kPi / 180, kOverhead * kPi / 180);
  return {std::cos(h) * std::cos(azimuth), std::cos(h) * std::sin(azimuth), std::sin(h)};
}

/// Parts as they would lie on a bench, or the whole in place.
void draw_view(const job::Design& design, const std::string& what, const std::string& view,
               const std::optional<Vec3>& from, bool quick, const std::string& out, const std::string& size_text,
               bool json) {
  std::vector<view::Part> parts;
  std::string known;
  for (view::Part& p : view::parts(design)) {
    known += p.name + ", ";
    if (what.empty() || what == "assembly" || what == p.name) parts.push_back(std::move(p));
  }
  if (parts.empty())
    throw Misuse(fmt::format("--of {}: with --view the parts of this job are {}assembly", what, known));
  if (parts.size() == 1) parts.front().placement = {};
  const Target t = target(out, {"png"});
  const view::PictureSize size = parse_size(size_text);
  const std::string name = parts.size() == 1 ? parts.front().name : "assembly",
                    path = t.path(name + "-" + view + ".png");
  write_with_job(path, view::png_of(render_in_space(view::parts_in_space(parts, view, size, quick, from)), size),
                 design);
  tell({{path, "png", name}}, json);
}

/// One of the pictures of a pair.
struct PairPicture {
  std::string of;         ///< "first_stage:contact"
  bool in_space = false;  ///< PNG only
  bool asked = false;     ///< drawn when asked for by name, not with all
  std::function<std::string()> draw;
};

/// By theory: what is looked at of a pair. \param format  "png", "svg" or "pdf"
std::vector<PairPicture> pictures_of(const job::Design& design, const job::Pair& p, const std::string& format,
                                     view::PictureSize size) {
  const auto space = [&design, &p, format, size] { return draw_in_space(design, p, format, size); };
  const auto in_plane = [&](bool solid) {
    std::vector<PairPicture> all;
    all.push_back(
        {p.name, false, false, [&design, &p, format, size] { return view::draw_pair(design, p, format, size); }});
    if (solid) all.push_back({p.name + ":solid", true, true, space});
    all.push_back({p.name + ":contact", false, false,
                   [&design, &p, format, size] { return view::draw_contact(design, p, format, size); }});
    return all;
  };
  if (!p.meshes()) return {};
  return p.visit(
      overloaded{[&](const pair::ParallelPair& theory) { return in_plane(!theory.with_rack()); },
                 [&](const pair::CycloidalPair&) { return in_plane(true); },
                 [&](const pair::CrossedPair&) {
                   return std::vector<PairPicture>{{p.name, true, false, space}};
                 },
                 [&](const pair::BevelPair&) {
                   return std::vector<PairPicture>{
                       {p.name, true, false, space},
                       {p.name + ":section", false, false,
                        [&design, &p, format, size] { return view::draw_bevel_section(design, p, format, size); }},
                       {p.name + ":developed", false, false,
                        [&design, &p, format, size] { return view::draw_developed(design, p, format, size); }}};
                 }});
}

}  // namespace

std::vector<make::File> draw_files(const job::Design& design, const Target& t, const std::string& format,
                                   view::PictureSize size) {
  std::vector<make::File> made;
  const auto add = [&](const std::string& name, const std::string& part, const auto& draw) {
    made.push_back({within(t.folder, name + "." + format), format, part});
    made.back().meaning = "a picture";
    progress("drawing " + made.back().path + " …");
    write_with_job(made.back().path, draw(), design);
  };
  for (const job::Gear& g : design.gears)
    add(g.name + "-gear", g.name, [&] { return view::draw_gear(design, g, format, size); });
  for (const job::Pair& p : design.pairs) {
    for (const PairPicture& picture : pictures_of(design, p, format, size)) {
      if (picture.asked || (picture.in_space && format != "png")) continue;
      std::string name = picture.of == p.name ? p.name + "-pair" : picture.of;
      std::replace(name.begin(), name.end(), ':', '-');
      add(name, p.name, picture.draw);
    }
  }
  for (const job::Reducer& r : design.reducers) {
    add(r.name + "-reducer", r.name, [&] { return view::draw_reducer(design, r, format, size); });
    add(r.name + "-contact", r.name, [&] { return view::draw_reducer_contact(design, r, format, size); });
  }
  progress("");
  return made;
}

void add_draw(CLI::App& root, int& status) {
  struct Options {
    JobOptions job;
    WatchOptions watch;
    std::string what, format = "png", out, size = "1280x800", view, from, quality = "full";
    bool layout = false, json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("draw", "Look at teeth: whole gear, pair, close-up of the contact");
  add_job(*verb, options->job, true);
  verb->add_option("--of", options->what,
                   "One picture: a gear's, a pair's or a reducer's name, NAME:contact, PAIR:solid (in space, .png), "
                   "PAIR:section and PAIR:developed of "
                   "bevel pairs, or GEAR:tool, the tool at work (.html or a film); "
                   "default: all into the folder")
      ->type_name("NAME");
  verb->add_option("--format", options->format, "png, svg or pdf, where --out is a folder")
      ->transform(one_of(kPictures));
  verb->add_option("--view", options->view,
                   "The solids in space: iso, front or section, of --of PART or of the whole (.png)")
      ->transform(one_of({"iso", "front", "section"}));
  verb->add_option("--from", options->from,
                   "The solids seen from there: degrees about z from +x, and above the horizon, as 30,20 (.png)")
      ->type_name("AZIMUTH,HEIGHT");
  verb->add_flag("--layout", options->layout,
                 "The machine as a plan: axes, pitch circles, ratios and speeds (png, svg, pdf)");
  verb->add_option("--quality", options->quality, "Of --view: full (soft shadows, default) or quick")
      ->transform(one_of({"full", "quick"}));
  verb->add_option("--size", options->size, "Of the picture, as 1280x800")->type_name("WxH");
  verb->add_option("-o,--out", options->out,
                   "Folder, or one file (default: the current folder); .html, .mp4, .webm, .gif with --of GEAR:tool");
  verb->add_flag("--json", options->json, "For scripts: what was written, as JSON");
  verb->footer(
      "Example:\n  palio start spur --out vent.toml && palio draw vent.toml --of first_stage:contact --out "
      "contact.png");
  const auto run = [options](const job::Design& design) {
    if (const auto colon = options->what.find(":tool"); colon != std::string::npos)
      return draw_tool(design, options->what.substr(0, colon), options->out, options->size, options->json);
    if (!options->view.empty() || !options->from.empty()) {
      std::optional<Vec3> from;
      if (!options->from.empty()) from = direction(options->from);
      return draw_view(design, options->what, options->view.empty() ? "iso" : options->view, from,
                       options->quality == "quick", options->out, options->size, options->json);
    }
    for (const job::Pair& p : design.pairs)
      running_pairs(design, p.name);
    if (options->layout) {
      if (!options->what.empty()) throw Misuse("--layout: shows the whole machine; leave --of out");
      const Target plan = target(options->out, kPictures);
      const std::string format = plan.extension.empty() ? options->format : plan.extension,
                        path = plan.path("layout." + format);
      write_with_job(path, view::draw_layout(design, format, parse_size(options->size)), design);
      return tell({{path, format, "layout"}}, options->json);
    }
    const Target t = target(options->out, kPictures);
    const std::string format = t.extension.empty() ? options->format : t.extension;
    const view::PictureSize size = parse_size(options->size);
    if (options->what.empty() && t.file.empty()) return tell(draw_files(design, t, format, size), options->json);

    // Without a name: the pair, or the one gear there is.
    std::string what = options->what;
    if (what.empty())
      what = !design.pairs.empty()   ? design.pairs.front().name
             : !design.gears.empty() ? design.gears.front().name
                                     : design.reducers.front().name;
    std::string bytes, known;
    const auto offer = [&](const std::string& name, auto draw) {
      known += (known.empty() ? "" : ", ") + name;
      if (bytes.empty() && what == name) bytes = draw();
    };
    for (const job::Gear& g : design.gears)
      offer(g.name, [&] { return view::draw_gear(design, g, format, size); });
    for (const job::Pair& p : design.pairs) {
      for (const PairPicture& picture : pictures_of(design, p, format, size))
        offer(picture.of, picture.draw);
    }
    for (const job::Reducer& r : design.reducers) {
      offer(r.name, [&] { return view::draw_reducer(design, r, format, size); });
      offer(r.name + ":contact", [&] { return view::draw_reducer_contact(design, r, format, size); });
    }
    if (bytes.empty()) throw Misuse(fmt::format("--of {}: the pictures of this job are {}", what, known));
    std::string name = what;
    std::replace(name.begin(), name.end(), ':', '-');
    const std::string path = t.path(name + "-picture." + format);
    write_with_job(path, bytes, design);
    tell({{path, format, what}}, options->json);
  };
  add_watch(*verb, options->watch);
  verb->callback([options, run, &status] {
    watched(options->job.path, options->watch, [&] {
      const job::Design design = load(options->job);
      run(design);
      status = tell_errors(design);
    });
  });
}

}  // namespace palio::cli
