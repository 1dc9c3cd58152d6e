#include <algorithm>
#include <filesystem>
#include <memory>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/body/features.hpp"
#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/view/placement.hpp"
#include "palio/write/formats.hpp"
#include "palio/write/step.hpp"

namespace palio::cli {
namespace {

const std::vector<std::string> kFormats{"step", "stl", "dxf", "svg", "csv"};

/// The STEP module, loaded when the first STEP is asked for: the B-rep kernel would slow every other start.
auto step_writer() {
  static const auto function = [] {
    void* entry = module_entry("palio_step", "palio_write_step", "PALIO_STEP", "choose other formats with --format");
    return reinterpret_cast<decltype(&palio_write_step)>(entry);
  }();
  return function;
}

struct Part {
  const job::Gear* gear;
  body::Body body;
  write::Placement placement;
  double chord_error, spline_error;
};

std::vector<curve::Outline> outlines(const body::Body& body) {
  std::vector<curve::Outline> all;
  for (const std::size_t loop : body::section(body, (body.bottom() + body.top()) / 2)) all.push_back(body.loops[loop].outline);
  return all;
}

}  // namespace

std::vector<Made> make_files(const job::Design& design, const MakeOptions& options, const Target& t) {
  std::vector<Part> parts;
  for (const std::string& name : options.only) {
    if (std::none_of(design.gears.begin(), design.gears.end(), [&](const job::Gear& g) { return g.name == name; }) && name != "assembly") {
      std::string known;
      for (const job::Gear& g : design.gears) known += (known.empty() ? "" : ", ") + g.name;
      throw Misuse(fmt::format("--only {}: the job's parts are {} and assembly", name, known));
    }
  }
  for (const job::Gear& g : design.gears) {
    const double m = g.teeth.spec().module;
    parts.push_back({&g, body::body(g.teeth), view::placement(design, g), options.chord_error > 0 ? options.chord_error : std::min(0.005, m / 300),
                     1e-7 * std::max(1.0, m / 5)});
  }
  const auto wanted = [&](const std::string& name) {
    return options.only.empty() || std::find(options.only.begin(), options.only.end(), name) != options.only.end();
  };

  // One group of parts and placements makes one set of files: each part in its own frame, then all in place.
  struct Group {
    std::string name;
    std::vector<const Part*> parts;
    bool in_place;
  };
  std::vector<Group> groups;
  for (const Part& p : parts) {
    if (wanted(p.gear->name)) groups.push_back({p.gear->name, {&p}, false});
  }
  if (parts.size() > 1 && wanted("assembly")) {
    groups.push_back({"assembly", {}, true});
    for (const Part& p : parts) groups.back().parts.push_back(&p);
  }
  if (!t.file.empty()) {
    // One file asked for: the whole, or the one part there is or was chosen.
    groups.erase(groups.begin(), groups.end() - 1);
  }

  std::vector<Made> made;
  for (const Group& group : groups) {
    const write::Stamp stamp = cli::stamp(design, group.name);
    double volume = 0;
    for (const Part* p : group.parts) volume += body::mass_properties(p->body).volume;
    for (const std::string& format : options.formats) {
      if (format == "csv" && group.in_place) continue;
      Made file{t.path(group.name + "." + format), format, group.name};
      progress("writing " + file.path + " …");
      if (format == "stl") {
        std::vector<body::TriangleMesh> meshes;
        std::vector<write::Placement> placements;
        for (const Part* p : group.parts) {
          meshes.push_back(body::mesh(p->body, p->chord_error));
          placements.push_back(group.in_place ? p->placement : write::Placement{});
        }
        const body::TriangleMesh mesh = write::merged(meshes, placements);
        write::write_file(file.path, write::stl(mesh, stamp, file.deviation));
        file.triangles = mesh.triangles.size();
        file.volume = body::volume(mesh);
      } else if (format == "step") {
        std::vector<write::StepPart> solids;
        double tolerance = 1e300;
        for (const Part* p : group.parts) {
          solids.push_back({p->gear->name, p->body, group.in_place ? p->placement : write::Placement{}});
          tolerance = std::min(tolerance, p->spline_error);
        }
        write::StepMade result{};
        std::string error;
        if (!step_writer()(&solids, &stamp, tolerance, file.path.c_str(), &result, &error)) throw FileError(error);
        file.deviation = result.deviation;
        file.volume = result.volume;
      } else if (format == "csv") {
        write::write_file(file.path, write::csv(outlines(group.parts[0]->body), group.parts[0]->chord_error, stamp, file.deviation));
      } else {
        std::vector<write::PlacedLoop> loops;
        for (const Part* p : group.parts) {
          if (group.in_place && p->gear->group != 0) continue;  // lies in another plane than the first driver
          for (const curve::Outline& o : outlines(p->body)) {
            loops.push_back({curve::biarcs(o, p->chord_error), p->gear->name, group.in_place ? p->placement : write::Placement{}});
            file.deviation = std::max(file.deviation, loops.back().loop.deviation);
          }
        }
        write::write_file(file.path, format == "dxf" ? write::dxf(loops, stamp) : write::svg(loops, stamp));
      }
      made.push_back(std::move(file));
    }
  }
  progress("");
  return made;
}

void add_make(CLI::App& root, int&) {
  struct Options {
    JobOptions job;
    MakeOptions make;
    std::string out, chord_error;
    bool json = false;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand("make", "Solids and outlines: STEP, STL, DXF, SVG 1:1, CSV");
  add_job(*verb, options->job);
  verb->add_option("--format", options->make.formats, "Comma-separated choice of step, stl, dxf, svg, csv (default: all)")
      ->delimiter(',')
      ->check(CLI::IsMember(kFormats))
      ->type_name("LIST");
  verb->add_option("--only", options->make.only, "Only these parts (gear names, assembly)")->delimiter(',')->type_name("NAMES");
  verb->add_option("--chord-error", options->make.chord_error,
                   "Largest distance of chords and arcs from the exact curves, in mm (default: the smaller of 0.005 and module/300)")
      ->check(CLI::Range(1e-7, 10.0))
      ->type_name("MM");
  verb->add_option("--out", options->out, "Folder, or one file (default: the current folder)");
  verb->add_flag("--json", options->json, "For scripts: what was written, as JSON");
  verb->footer("Example:\n  palio start spur --out vent.toml && palio make vent.toml --format stl,dxf --out parts");
  verb->callback([options] {
    const job::Design design = load(options->job);
    for (const job::Pair& p : design.pairs) running_pairs(design, p.name);
    const Target t = target(options->out, kFormats);
    MakeOptions make = options->make;
    if (!t.extension.empty()) make.formats = {t.extension};
    if (make.formats.empty()) make.formats = kFormats;
    tell(make_files(design, make, t), options->json);
  });
}

}  // namespace palio::cli
