// Teeth as plane shapes to be cut into a part that exists already.
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <iostream>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/write/formats.hpp"

namespace palio::cli {
namespace {

/// Plane regions as slices of a body: one layer, of which only the lower face counts.
body::Body slice(const std::vector<curve::Outline>& loops) {
  body::Body made;
  body::Layer layer;
  for (const curve::Outline& o : loops) {
    layer.walls.emplace_back(made.loops.size());
    made.loops.push_back({o, false, made.loops.empty() ? "boundary" : "teeth"});
  }
  layer.levels = {{0, 0}, {1, 0}};
  made.layers.push_back(layer);
  return made;
}

struct Shape {
  std::string name;
  body::Body body;
};

}  // namespace

std::vector<make::File> make_regions(const job::Design& nominal, const make::Request& options,
                                     const RegionOptions& region, const Target& t) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  std::vector<Shape> shapes;
  std::string known, left_out;
  const auto add = [&](const std::string& name, const curve::Outline& teeth, double reach, double margin) {
    known += (known.empty() ? "" : ", ") + name;
    if (!options.only.empty() && std::find(options.only.begin(), options.only.end(), name) == options.only.end())
      return;
    const bool ring = teeth.clockwise;
    // The profile is the part's own section within its teeth, a ring's the opening.
    shapes.push_back({name + "_profile", slice({ring ? curve::reversed(teeth) : teeth})});
    if (ring) {
      shapes.push_back({name + "_region", slice({curve::reversed(teeth)})});
      return;
    }
    const double blank = region.blank > 0 ? region.blank : 2 * (reach + margin);
    if (blank <= 2 * reach)
      throw Misuse(fmt::format("--blank {}: the teeth of {} reach out to diameter {:.6g} mm; give a larger one", blank,
                               name, 2 * reach));
    shapes.push_back(
        {name + "_region", slice({curve::circle(blank / 2, curve::Role::body, false), curve::reversed(teeth)})});
  };
  for (const job::Gear& g : design.gears) {
    if (g.teeth.is_bevel() || g.teeth.is_rack() || g.teeth.is_lantern()) {
      left_out += (left_out.empty() ? "" : ", ") + g.name;
      continue;
    }
    add(g.name, g.teeth.outline(), g.teeth.tip_diameter() / 2, g.teeth.module());
  }
  for (const job::Reducer& r : design.reducers)
    add(r.name + "_disc", r.made.edge(), r.made.sizes().disc_crest_diameter / 2, r.made.spec().roller_diameter / 2);
  for (const std::string& name : options.only) {
    if ((", " + known + ",").find(", " + name + ",") == std::string::npos)
      throw Misuse(fmt::format("--only {}: --region is made of {}{}", name, known,
                               left_out.empty() ? "" : " (not of bevel gears, racks and lanterns)"));
  }
  if (shapes.empty())
    throw Misuse(
        "--region: the job has no teeth with a plane closed outline (bevel gears, racks and lanterns have none)");
  const write::Placement place{Vec3(region.at.empty() ? 0 : region.at[0], region.at.size() < 2 ? 0 : region.at[1], 0),
                               region.turned * kPi / 180};
  std::vector<std::string> formats = !t.extension.empty() ? std::vector<std::string>{t.extension} : options.formats;
  if (formats.empty()) formats = {"dxf", "svg", "step"};
  // One file asked for: the region of the one part there is, or was chosen.
  if (!t.file.empty()) shapes.erase(shapes.begin(), shapes.end() - 1);
  std::vector<make::File> made;
  for (const Shape& shape : shapes) {
    const write::Stamp stamp = make::stamp(design, shape.name);
    for (const std::string& format : formats) {
      if (format != "dxf" && format != "svg" && format != "step")
        throw Misuse(fmt::format("--region is written as dxf, svg and step, not as {}", format));
      make::File file{t.path(shape.name + "." + format), format, shape.name};
      progress("writing " + file.path + " …");
      if (format == "step") {
        file.deviation = write_step_file({{shape.name, shape.body, place, true}}, stamp, 1e-7, file.path).deviation;
      } else {
        std::vector<write::PlacedLoop> loops;
        for (const body::Loop& l : shape.body.loops) {
          loops.push_back({curve::biarcs(l.outline, options.chord_error > 0 ? options.chord_error : 0.001),
                           shape.name + "_" + l.feature, place});
          file.deviation = std::max(file.deviation, loops.back().loop.deviation);
        }
        save(file.path, format == "dxf" ? write::dxf(loops, stamp) : write::svg(loops, stamp));
      }
      made.push_back(std::move(file));
    }
  }
  progress("");
  if (!left_out.empty())
    std::cerr << fmt::format("--region: {} left out: no plane closed outline of teeth\n", left_out);
  return made;
}

}  // namespace palio::cli
