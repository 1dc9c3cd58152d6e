// Teeth as plane shapes to be cut into a part that exists already.
#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "means.hpp"
#include "palio/error.hpp"
#include "palio/make/make.hpp"
#include "palio/write/formats.hpp"

namespace palio::make {
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

std::vector<File> regions(const job::Design& nominal, const Region& region, const Means& means) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  std::vector<Shape> shapes;
  std::vector<std::string> known;
  std::string left_out;
  const auto add = [&](const std::string& name, const curve::Outline& teeth, double reach, double margin) {
    known.push_back(name);
    if (!region.only.empty() && std::find(region.only.begin(), region.only.end(), name) == region.only.end()) return;
    const bool ring = teeth.clockwise;
    // The profile is the part's own section within its teeth, a ring's the opening.
    shapes.push_back({name + "_profile", slice({ring ? curve::reversed(teeth) : teeth})});
    if (ring) {
      shapes.push_back({name + "_region", slice({curve::reversed(teeth)})});
      return;
    }
    const double blank = region.blank > 0 ? region.blank : 2 * (reach + margin);
    if (blank <= 2 * reach)
      throw InvalidParameter("blank", fmt::format("{}", blank),
                             fmt::format("the teeth of {} reach out to diameter {:.6g} mm", name, 2 * reach),
                             "give a larger one");
    shapes.push_back(
        {name + "_region", slice({curve::circle(blank / 2, curve::Role::body, false), curve::reversed(teeth)})});
  };
  for (const job::Gear& g : design.gears) {
    if (!g.teeth.is_one_loop()) {
      left_out += (left_out.empty() ? "" : ", ") + g.name;
      continue;
    }
    add(g.name, g.teeth.outline(), g.teeth.tip_diameter() / 2, g.teeth.module());
  }
  for (const job::Reducer& r : design.reducers)
    add(r.name + "_disc", r.made.edge(), r.made.sizes().disc_crest_diameter / 2, r.made.spec().roller_diameter / 2);
  check_only(region.only, known,
             fmt::format("regions are made of {}{}", fmt::join(known, ", "),
                         left_out.empty() ? "" : " (not of bevel gears, racks and lanterns)"));
  if (shapes.empty())
    throw InvalidParameter("region", "asked for", "the job has no teeth with a plane closed outline",
                           "bevel gears, racks and lanterns have none");
  const write::Placement place{Vec3(region.at.x(), region.at.y(), 0), region.turned.radians()};
  std::vector<std::string> formats = region.formats;
  if (formats.empty()) formats = {"dxf", "svg", "step"};
  // One file asked for: the region of the one part there is, or was chosen.
  if (region.one_file) shapes.erase(shapes.begin(), shapes.end() - 1);
  std::vector<File> made;
  for (const Shape& shape : shapes) {
    const write::Stamp carried = make::stamp(design, shape.name);
    for (const std::string& format : formats) {
      if (format != "dxf" && format != "svg" && format != "step")
        throw InvalidParameter("format", format, "regions are written as dxf, svg and step", "choose one of those");
      File file{means.path(shape.name + "." + format), format, shape.name};
      if (means.about_to) means.about_to(file.path);
      if (format == "step") {
        file.deviation = step_of(means)({{shape.name, shape.body, place, true}}, carried, 1e-7, file.path).deviation;
      } else {
        std::vector<write::PlacedLoop> loops;
        loops.reserve(shape.body.loops.size());
        for (const body::Loop& l : shape.body.loops)
          loops.push_back({curve::biarcs(l.outline, region.chord_error > 0 ? region.chord_error : 0.001), shape.name,
                           l.feature, place});
        save_loops(loops, carried, means, file);
      }
      made.push_back(std::move(file));
    }
  }
  if (!left_out.empty() && means.remark)
    means.remark(fmt::format("--region: {} left out: no plane closed outline of teeth", left_out));
  return made;
}

}  // namespace palio::make
