// Moulds and electrodes of gears.
#include <algorithm>

#include <fmt/format.h>

#include "means.hpp"
#include "palio/error.hpp"
#include "palio/make/make.hpp"
#include "palio/overloaded.hpp"

namespace palio::make {
namespace {

struct Tool {
  std::string name;
  body::Body body;
  double module;
};

/// Writes each in each format.
std::vector<File> written(const job::Design& design, const std::vector<Tool>& all, const Tools& tools,
                          const Means& means) {
  std::vector<std::string> formats = tools.formats;
  if (formats.empty()) formats = {"step", "stl"};
  std::vector<File> made;
  for (const Tool& tool : all) {
    const write::Stamp carried = make::stamp(design, tool.name);
    for (const std::string& format : formats) {
      if (format != "step" && format != "stl")
        throw InvalidParameter("format", format, "moulds and electrodes are written as step and stl",
                               "choose one of those");
      File file{means.path(tool.name + "." + format), format, tool.name};
      if (means.about_to) means.about_to(file.path);
      if (format == "step")
        save_step({{tool.name, tool.body, {}}}, carried, spline_tolerance(tool.module), means, file);
      else
        save_stl(body::mesh(tool.body, chord_error(tools.chord_error, tool.module)), carried, means, file);
      made.push_back(std::move(file));
    }
  }
  return made;
}

/// The gears that are meant, of those that can. \throws InvalidParameter "only"
std::vector<const job::Gear*> chosen(const job::Design& design, const Tools& tools, bool (*can)(const job::Gear&)) {
  std::vector<const job::Gear*> all;
  std::vector<std::string> known;
  for (const job::Gear& g : design.gears) {
    if (!can(g)) continue;
    known.push_back(g.name);
    if (tools.only.empty() || std::find(tools.only.begin(), tools.only.end(), g.name) != tools.only.end())
      all.push_back(&g);
  }
  check_only(
      tools.only, known,
      known.empty() ? "the job has none that can" : fmt::format("those that can are {}", fmt::join(known, ", ")));
  return all;
}

}  // namespace

std::vector<File> moulds(const job::Design& nominal, const Tools& tools, const Means& means) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  body::MouldSizes sizes = tools.sizes;
  if (sizes.draft == 0 && design.process.given) sizes.draft = design.process.draft;
  const auto can = [](const job::Gear& g) { return !g.teeth.is_bevel() && !g.teeth.is_rack(); };
  std::vector<Tool> all;
  for (const job::Gear* g : chosen(design, tools, can)) {
    try {
      const body::Mould mould = body::mould(job::body(*g).layers(), sizes);
      all.push_back({g->name + "_mould_lower", mould.lower, g->teeth.module()});
      all.push_back({g->name + "_mould_upper", mould.upper, g->teeth.module()});
    } catch (const InvalidParameter& e) {
      // One that cannot be drawn out keeps none of the others, unless it was named.
      if (tools.only.empty() && e.name() == "mould" && means.remark) {
        means.remark(fmt::format("--mould: {} is left out: {}; {}", g->name, e.allowed(), e.remedy()));
        continue;
      }
      throw InvalidParameter(e.name(), e.given(), g->name + ": " + e.allowed(), e.remedy());
    }
  }
  if (all.empty())
    throw InvalidParameter("mould", "asked for", "the job has no gear that one is made for",
                           "bevel gears, racks and what leaves an undercut have none");
  return written(design, all, tools, means);
}

namespace {

gear::Teeth without_bore(const gear::Teeth& teeth) {
  return teeth.visit(overloaded{
      [](const gear::CylindricalGear& g) {
        gear::CylindricalSpec spec = g.spec();
        spec.bore_diameter = 0;
        return gear::Teeth(gear::CylindricalGear(spec));
      },
      [](const gear::CycloidalTeeth& g) {
        gear::CycloidalTeeth::Blank blank = g.blank();
        blank.bore_diameter = 0;
        return gear::Teeth(g.with(blank));
      },
      [](const auto& other) { return gear::Teeth(other); },
  });
}

}  // namespace

std::vector<File> electrodes(const job::Design& nominal, const Tools& tools, const Means& means) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  const auto can = [](const job::Gear& g) { return g.teeth.is_one_loop() && !g.teeth.internal(); };
  // What the electrode's own making asks for comes on top of the gap.
  const double grown = nominal.process.given ? nominal.process.change(job::As::drawn).teeth : 0;
  std::vector<Tool> all;
  for (const job::Gear* g : chosen(design, tools, can)) {
    // The gap stays what it is where the part is drawn larger for shrinkage.
    const double gap = tools.spark_gap / g->radial;
    job::Gear electrode = *g;
    electrode.teeth = without_bore(g->teeth).grown(grown - gap);
    electrode.first_layer.reset();
    body::Features& f = electrode.features;
    f.keyway.reset(), f.flat.reset(), f.sided.reset(), f.serration.reset(), f.shaped.reset(), f.marks.reset();
    f.bore_chamfer = 0, f.first_layer_inset = 0, f.steps.clear(), f.cross_holes.clear();
    f = body::drawn_in(f, gap);
    all.push_back({g->name + "_electrode", job::body(electrode).layers(), g->teeth.module()});
  }
  if (all.empty())
    throw InvalidParameter("electrode", "asked for", "the job has no gear that one is made for",
                           "rings, racks, lanterns and bevel gears have none");
  return written(design, all, tools, means);
}

}  // namespace palio::make
