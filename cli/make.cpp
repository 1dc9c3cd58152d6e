#include <algorithm>
#include <cmath>
#include <filesystem>
#include <iostream>
#include <map>
#include <memory>
#include <set>

#include <fmt/format.h>

#include "common.hpp"
#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/view/placement.hpp"
#include "palio/view/sheet.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/formats.hpp"
#include "palio/write/formula.hpp"
#include "palio/write/packed.hpp"
#include "palio/write/step.hpp"

namespace palio::cli {
namespace {

const std::vector<std::string> kFormats{"step", "stl", "3mf", "glb", "dxf", "svg", "csv", "pdf"};

/// The STEP module, loaded when the first STEP is asked for: the B-rep kernel would slow every other start.
auto step_writer() {
  static const auto function = [] {
    void* entry = module_entry("palio_step", "palio_write_step", "PALIO_STEP", "choose other formats with --format");
    discard_on_signal(reinterpret_cast<decltype(&palio_step_discard_all)>(
        module_entry("palio_step", "palio_step_discard_all", "PALIO_STEP", "choose other formats with --format")));
    return reinterpret_cast<decltype(&palio_write_step)>(entry);
  }();
  return function;
}

std::string packed(const std::string& format, const std::vector<write::PackedPart>& parts, const write::Stamp& stamp,
                   double seconds) {
  static const auto function = reinterpret_cast<decltype(&palio_pack)>(
      module_entry("palio_packed", "palio_pack", "3MF and GLB", "choose other formats"));
  std::string bytes, error;
  if (!function(format.c_str(), &parts, &stamp, seconds, &bytes, &error)) throw FileError(format + ": " + error);
  return bytes;
}

struct Part {
  view::Part part;
  double chord_error, spline_error;
};

/// The loops that a plane file shows: the section in the middle of the face (a plate's, in the middle of the plate).
std::vector<const body::Loop*> plane_loops(const view::Part& p) {
  std::vector<const body::Loop*> all;
  if (p.body.is_conical()) return all;  // no plane shows its teeth
  const body::Body& body = p.body.layers();
  const double z = p.gear ? p.gear->axial * p.gear->teeth.face_width() / 2 : body.layers.front().levels.back().z / 2;
  for (const std::size_t loop : body::section(body, z))
    all.push_back(&body.loops[loop]);
  return all;
}

/// "{gear}_{module}_{teeth}" filled in; empty fields take their separators with them.
std::string file_name(const std::string& pattern, const job::Design& design, const std::string& part,
                      const job::Gear* gear) {
  const std::map<std::string, std::string> fields{
      {"gear", part},
      {"part", gear && !gear->part_name.empty() ? slug(gear->part_name) : part},
      {"number", gear ? slug(gear->part_number) : ""},
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
      throw Misuse(
          fmt::format("--name {}: {{{}}} is no field; the fields are {{gear}} {{part}} {{number}} {{module}} {{teeth}} "
                      "{{kind}} {{material}} {{job}}",
                      pattern, field));
    }
    if (it->second.empty() && !out.empty() && (out.back() == '_' || out.back() == '-')) out.pop_back();
    out += it->second;
    i = end;
  }
  if (out.empty() || out.front() == '/' || out.find("..") != std::string::npos) {
    throw Misuse(
        fmt::format("--name {}: makes \"{}\", but a name within the folder of --out is allowed", pattern, out));
  }
  return out;
}

/// One loop of the motion: turns of every gear that end as they began. Gears that hang together turn by whole numbers;
/// where a rack hangs on them, all go forth and back.
void set_in_motion(const job::Design& design, const std::vector<const Part*>& parts,
                   std::vector<write::PackedPart>& packed, double& seconds) {
  const std::size_t n = design.gears.size();
  const std::vector<std::size_t> mechanism = job::mechanisms(design);
  constexpr int kMost = 2000;
  std::vector<double> whole(n, 0), swing(n, 0);
  double most = 1;
  for (std::size_t m = 0; m < n; ++m) {
    if (mechanism[m] != m) continue;
    for (std::size_t i = 0; i < n; ++i) {
      const job::Gear& g = design.gears[i];
      if (mechanism[i] == m && g.teeth.is_rack() && g.speed_ratio)
        swing[m] = 0.3 * g.teeth.rack().sizes().length / std::abs(*g.speed_ratio * 2 * kPi);
    }
    for (int turns = 1; turns <= kMost && whole[m] == 0; ++turns) {
      bool closes = true;
      for (std::size_t i = 0; i < n; ++i) {
        const job::Gear& g = design.gears[i];
        if (mechanism[i] == m && g.speed_ratio && !g.teeth.is_rack())
          closes = closes && std::abs(std::remainder(turns * *g.speed_ratio, 1.0)) < 1e-7;
      }
      if (closes) whole[m] = turns;
    }
    if (swing[m] == 0) most = std::max(most, whole[m]);
  }
  for (const Part* p : parts) {
    if (p->part.motion) most = std::max(most, static_cast<double>(p->part.motion->loop));
  }
  seconds = 2 * most;
  for (std::size_t k = 0; k < packed.size(); ++k) {
    if (const auto& motion = parts[k]->part.motion) {
      const double input = motion->loop * std::floor(most / motion->loop);
      packed[k].turns = input * motion->turns;
      if (motion->orbit > 0) packed[k].orbit = input, packed[k].orbit_axis = motion->axis;
      continue;
    }
    const job::Gear* g = parts[k]->part.gear;
    if (!g || !g->speed_ratio) continue;
    const std::size_t m = mechanism[static_cast<std::size_t>(g - design.gears.data())];
    packed[k].swings = swing[m] > 0;
    const double turns = swing[m] > 0 ? swing[m] : whole[m] > 0 ? whole[m] * std::floor(most / whole[m]) : 0;
    if (g->teeth.is_rack())
      packed[k].slides = turns * 2 * kPi * *g->speed_ratio;
    else
      packed[k].turns = turns * *g->speed_ratio;
  }
}

std::pair<double, double> bed_size(const std::string& text) {
  double w = 0, d = 0;
  char x = 0, rest = 0;
  if (std::sscanf(text.c_str(), "%lf%c%lf%c", &w, &x, &d, &rest) != 3 || (x != 'x' && x != 'X') || !(w > 0) ||
      !(d > 0)) {
    throw Misuse(fmt::format("--nested {}: give the bed's size in mm, as 220x220", text));
  }
  return {w, d};
}

}  // namespace

write::StepMade write_step_file(const std::vector<write::StepPart>& parts, const write::Stamp& stamp, double tolerance,
                                const std::string& path) {
  check_replaceable(path);
  write::StepMade result{};
  std::string error;
  if (!step_writer()(&parts, &stamp, tolerance, path.c_str(), &result, &error)) throw FileError(error);
  return result;
}

std::vector<Made> make_files(const job::Design& nominal, const MakeOptions& options, const Target& t) {
  const job::Design design = nominal.process.given ? job::as(nominal, job::As::drawn) : nominal;
  std::vector<Part> parts;
  for (const view::Part& p : view::parts(design)) {
    parts.push_back({p, options.chord_error > 0 ? options.chord_error : std::min(0.005, p.module / 300),
                     1e-7 * std::max(1.0, p.module / 5)});
  }
  for (const std::string& name : options.only) {
    if (std::none_of(parts.begin(), parts.end(), [&](const Part& p) { return p.part.name == name; }) &&
        name != "assembly") {
      std::string known;
      for (const Part& p : parts)
        known += (known.empty() ? "" : ", ") + p.part.name;
      throw Misuse(fmt::format("--only {}: the job's parts are {} and assembly", name, known));
    }
  }
  const auto wanted = [&](const std::string& name) {
    return options.only.empty() || std::find(options.only.begin(), options.only.end(), name) != options.only.end();
  };

  // One group of parts and placements makes one set of files: each part in its own frame, then all in place.
  struct Group {
    std::string name, file;
    std::vector<const Part*> parts;
    bool in_place;
  };
  std::vector<Group> groups;
  std::set<std::string> names;
  const auto add_group = [&](const std::string& name, const job::Gear* gear, std::vector<const Part*> members,
                             bool in_place) {
    groups.push_back({name, file_name(options.pattern, design, name, gear), std::move(members), in_place});
    if (!names.insert(groups.back().file).second) {
      throw Misuse(fmt::format("--name {}: {} and another part would both be called {}; put {{gear}} in it",
                               options.pattern, name, groups.back().file));
    }
  };
  for (const Part& p : parts) {
    if (wanted(p.part.name) && p.part.alike.empty()) add_group(p.part.name, p.part.gear, {&p}, false);
  }
  if (parts.size() > 1 && wanted("assembly")) {
    std::vector<const Part*> all;
    all.reserve(parts.size());
    for (const Part& p : parts)
      all.push_back(&p);
    add_group("assembly", nullptr, all, true);
  }
  if (!t.file.empty()) {
    // One file asked for: the whole, or the one part there is or was chosen.
    groups.erase(groups.begin(), groups.end() - 1);
  }

  std::map<const Part*, body::TriangleMesh> meshes;
  const auto mesh_of = [&](const Part* p) -> const body::TriangleMesh& {
    auto it = meshes.find(p);
    if (it == meshes.end() && !p->part.alike.empty()) {
      const auto first =
          std::find_if(parts.begin(), parts.end(), [&](const Part& q) { return q.part.name == p->part.alike; });
      it = meshes.emplace(p, body::mesh(first->part.body, first->chord_error)).first;
    }
    if (it == meshes.end()) it = meshes.emplace(p, body::mesh(p->part.body, p->chord_error)).first;
    return it->second;
  };
  std::vector<Made> made;
  std::string left_out;
  for (const Group& group : groups) {
    const write::Stamp stamp = cli::stamp(design, group.name);
    for (const std::string& format : options.formats.empty() ? kFormats : options.formats) {
      if ((format == "csv" || format == "pdf") && group.in_place) continue;
      if (format == "pdf" && !group.parts[0]->part.gear) continue;
      if ((format == "dxf" || format == "svg") &&
          std::all_of(group.parts.begin(), group.parts.end(),
                      [](const Part* p) { return p->part.body.is_conical(); })) {
        if (!options.formats.empty() && !group.in_place) left_out += (left_out.empty() ? "" : ", ") + group.name;
        continue;
      }
      // Of a bevel gear whose undercut begins along the face there is no B-rep; asked for by name it is an error that
      // says why.
      const bool cornered = format == "step" && options.formats.empty() &&
                            std::any_of(group.parts.begin(), group.parts.end(), [](const Part* p) {
                              return p->part.body.is_conical() && p->part.body.cones().teeth().undercut_along_face();
                            });
      if (cornered) {
        std::cerr << fmt::format(
            "step: {} is left out: a bevel gear's undercut begins between heel and toe, and its edge has a corner "
            "there\n",
            group.name);
        continue;
      }
      Made file{t.path(group.file + "." + format), format, group.name};
      if (const auto folder = std::filesystem::path(file.path).parent_path(); !folder.empty())
        std::filesystem::create_directories(folder);
      progress("writing " + file.path + " …");
      const auto placement = [&](const Part* p) { return group.in_place ? p->part.placement : write::Placement{}; };
      if (format == "stl") {
        std::vector<body::TriangleMesh> all;
        std::vector<write::Placement> placements;
        for (const Part* p : group.parts)
          all.push_back(mesh_of(p)), placements.push_back(placement(p));
        const body::TriangleMesh mesh = write::merged(all, placements);
        save(file.path, write::stl(mesh, stamp, file.deviation));
        file.triangles = mesh.triangles.size();
        file.volume = body::volume(mesh);
      } else if (format == "3mf" || format == "glb") {
        std::vector<write::PackedPart> all;
        file.volume = file.deviation = 0;
        for (const Part* p : group.parts) {
          all.push_back({p->part.name, mesh_of(p), placement(p), p->part.material.colour, p->part.material.shine});
          file.triangles += all.back().mesh.triangles.size();
          file.volume += body::volume(all.back().mesh);
          file.deviation = std::max(file.deviation, all.back().mesh.deviation);
        }
        if (format == "3mf" && group.in_place && !options.bed.empty()) {
          std::vector<body::TriangleMesh> solids;
          solids.reserve(all.size());
          for (const write::PackedPart& p : all)
            solids.push_back(p.mesh);
          const auto [width, depth] = bed_size(options.bed);
          const std::vector<write::Placement> side_by_side = write::nested(solids, width, depth, 5);
          for (std::size_t i = 0; i < all.size(); ++i)
            all[i].placement = side_by_side[i];
        }
        double seconds = 4;
        if (format == "glb" && group.in_place) set_in_motion(design, group.parts, all, seconds);
        save(file.path, packed(format, all, stamp, seconds));
      } else if (format == "step") {
        std::vector<write::StepPart> solids;
        double tolerance = 1e300;
        for (const Part* p : group.parts) {
          solids.push_back({p->part.name, p->part.body, placement(p)});
          tolerance = std::min(tolerance, p->spline_error);
        }
        const write::StepMade result = write_step_file(solids, stamp, tolerance, file.path);
        file.deviation = result.deviation;
        file.volume = result.volume;
      } else if (format == "csv" && group.parts[0]->part.body.is_conical()) {
        const body::ConicalBody& body = group.parts[0]->part.body.cones();
        save(file.path, write::csv_of_directions(body.teeth().section(body.teeth().sizes().outer_cone_distance),
                                                 body.teeth().sizes().outer_cone_distance, group.parts[0]->chord_error,
                                                 stamp, file.deviation));
      } else if (format == "csv") {
        std::vector<curve::Outline> outlines;
        for (const body::Loop* l : plane_loops(group.parts[0]->part))
          outlines.push_back(l->outline);
        save(file.path, write::csv(outlines, group.parts[0]->chord_error, stamp, file.deviation));
      } else if (format == "pdf") {
        write_with_job(file.path, view::draw_sheet(nominal, nominal.gear(group.parts[0]->part.name), {}), nominal);
      } else if (format == "dxf" && options.splines) {
        std::vector<write::PlacedOutline> outlines;
        double tolerance = 1e300;
        for (const Part* p : group.parts) {
          if (group.in_place && p->part.group != 0) continue;
          for (const body::Loop* l : plane_loops(p->part))
            outlines.push_back({l->outline, p->part.name, placement(p)});
          tolerance = std::min(tolerance, p->spline_error);
        }
        save(file.path, write::dxf_of_curves(outlines, stamp, tolerance, file.deviation));
      } else {
        std::vector<write::PlacedLoop> loops;
        for (const Part* p : group.parts) {
          if (group.in_place && p->part.group != 0) continue;  // lies in another plane than the first driver
          for (const body::Loop* l : plane_loops(p->part)) {
            loops.push_back({curve::biarcs(l->outline, p->chord_error), p->part.name + "_" + l->feature, placement(p)});
            file.deviation = std::max(file.deviation, loops.back().loop.deviation);
          }
        }
        save(file.path, format == "dxf" ? write::dxf(loops, stamp) : write::svg(loops, stamp));
      }
      made.push_back(std::move(file));
    }
  }
  progress("");
  if (made.empty() && left_out.empty()) {
    std::string asked;
    for (const std::string& f : options.formats)
      asked += (asked.empty() ? "" : ", ") + f;
    throw Misuse(
        fmt::format("--format {}: there is no such file of what was chosen; csv and pdf are made of single gears, dxf "
                    "and svg of what has a plane section",
                    asked));
  }
  if (!left_out.empty()) {
    const std::string why = fmt::format(
        "dxf, svg: no plane shows the teeth of {}, which are bevel gears; palio draw rolls their heels out (.svg)",
        left_out);
    if (made.empty()) throw Misuse(why);
    std::cerr << why << "\n";
  }
  return made;
}

namespace {

/// Where files go that were given no place: a folder named after the job.
std::string folder_of(const std::string& path, const job::Design& design) {
  const std::string stem = path == "-" ? "" : std::filesystem::path(path).stem().string();
  return slug(stem.empty() ? design.title : stem);
}

}  // namespace

void add_make(CLI::App& root, int& status) {
  struct Options {
    JobOptions job;
    MakeOptions make;
    std::string out, curves = "arcs", formula_language = "text";
    bool json = false, assembly = false, formula = false;
    int pieces = 1;
    RegionOptions region;
  };
  const auto options = std::make_shared<Options>();
  CLI::App* verb = root.add_subcommand(
      "make", "Solids and outlines: STEP, STL, 3MF, GLB, DXF, SVG 1:1, CSV, PDF drawing; or the curves as formulas");
  add_job(*verb, options->job);
  verb->add_option("--format", options->make.formats,
                   "Comma-separated choice of step, stl, 3mf, glb, dxf, svg, csv, pdf (default: all)")
      ->delimiter(',')
      ->check(CLI::IsMember(kFormats))
      ->type_name("LIST");
  verb->add_option("--only", options->make.only,
                   "Only these parts (names of gears, frames and parts of reducers as NAME_disc; assembly)")
      ->delimiter(',')
      ->type_name("NAMES");
  verb->add_flag("--assembly", options->assembly, "Only the assembly");
  verb->add_option("--chord-error", options->make.chord_error,
                   "Largest distance of chords and arcs from the exact curves, in mm (default: the smaller of 0.005 "
                   "and module/300)")
      ->check(CLI::Range(1e-7, 10.0))
      ->check(finite())
      ->type_name("MM");
  verb->add_option(
          "--curves", options->curves,
          "DXF: arcs (closed polylines with bulges, default) or splines (an entity and a layer for each curve's role)")
      ->check(CLI::IsMember({"arcs", "splines"}));
  verb->add_option("--nested", options->make.bed, "3MF: the assembly's parts side by side on a bed of this size in mm")
      ->type_name("WxD");
  verb->add_option("--name", options->make.pattern,
                   "File names, from {gear} {part} {number} {module} {teeth} {kind} {material} {job}; / makes "
                   "sub-folders (default: {gear})")
      ->type_name("PATTERN");
  verb->add_flag("--formula", options->formula,
                 "Print the curves of one tooth as parametric equations with their numbers, and check points");
  verb->add_option("--language", options->formula_language, "Of --formula: text, c or python")
      ->check(CLI::IsMember({"text", "c", "python"}));
  verb->add_flag("--region", options->region.wanted,
                 "Teeth as plane shapes to cut into a part that exists already: NAME_profile, one closed loop, and "
                 "NAME_region, what has to be removed, "
                 "between that loop and the blank; DXF, SVG, and STEP as planar faces");
  verb->add_option("--blank", options->region.blank,
                   "Of --region: diameter of the part around the teeth, in mm (default: a module beyond the tips)")
      ->check(CLI::PositiveNumber)
      ->check(finite())
      ->type_name("MM");
  verb->add_option("--at", options->region.at, "Of --region: where the gear's axis lies, in mm")
      ->delimiter(',')
      ->expected(2)
      ->check(finite())
      ->type_name("X,Y");
  verb->add_option("--turned", options->region.turned, "Of --region: how far the gear is turned, in degrees")
      ->check(finite())
      ->type_name("DEG");
  verb->add_option("--pieces", options->pieces, "Of --formula: cut every curve into so many pieces")
      ->check(CLI::Range(1, 1000))
      ->type_name("N");
  verb->add_option("--out", options->out, "Folder, or one file (default: a folder named after the job)");
  verb->add_flag("--json", options->json, "For scripts: what was written, as JSON");
  verb->footer(
      "With a [process] in the job, files are drawn with its corrections, and say so.\n"
      "Example:\n  palio start spur --out vent.toml && palio make vent.toml --format stl,dxf --out parts");
  verb->callback([options, &status] {
    const job::Design design = load(options->job);
    if (options->formula && options->json) throw Misuse("--formula prints text; leave --json out");
    if (options->formula) {
      std::string text;
      for (const job::Gear& g : design.gears) {
        const std::vector<std::string>& only = options->make.only;
        if (!only.empty() && std::find(only.begin(), only.end(), g.name) == only.end()) continue;
        if (g.teeth.is_bevel()) {
          const std::string remark = options->formula_language == "c"        ? "// "
                                     : options->formula_language == "python" ? "# "
                                                                             : "";
          text += remark + fmt::format(
                               "{}: directions from the apex; x and y are tan(half the cone angle) times cosine and "
                               "sine of the azimuth, at the heel\n",
                               g.name);
        }
        if (g.teeth.is_lantern()) continue;  // circles
        text += write::formulas(
            g.name,
            g.teeth.is_bevel() ? g.teeth.bevel().section(g.teeth.bevel().sizes().outer_cone_distance) : g.teeth.chain(),
            options->formula_language, options->pieces, job::mm_per(design.units),
            std::string(job::symbol(design.units)));
      }
      for (const job::Reducer& r : design.reducers) {
        const std::string name = r.name + "_disc";
        const std::vector<std::string>& only = options->make.only;
        if (!only.empty() && std::find(only.begin(), only.end(), name) == only.end()) continue;
        text += write::formulas(name, r.made.edge(), options->formula_language, options->pieces,
                                job::mm_per(design.units), std::string(job::symbol(design.units)));
      }
      if (options->out.empty()) return print(text);
      const Target t = target(options->out, {"txt", "c", "py"});
      const std::string extension = options->formula_language == "c"        ? "c"
                                    : options->formula_language == "python" ? "py"
                                                                            : "txt";
      return save(t.path("formulas." + extension), text);
    }
    for (const job::Pair& p : design.pairs)
      running_pairs(design, p.name);
    const std::string out = !options->out.empty() ? options->out : folder_of(options->job.path, design);
    if (options->region.wanted) {
      tell(make_regions(design, options->make, options->region, target(out, {"dxf", "svg", "step"})), options->json);
      status = tell_errors(design);
      return;
    }
    const Target t = target(out, kFormats);
    if (!t.extension.empty() && !options->make.formats.empty() &&
        options->make.formats != std::vector<std::string>{t.extension}) {
      throw Misuse(
          fmt::format("--format and --out {} name different formats; leave --format out, or give a folder", out));
    }
    MakeOptions make = options->make;
    make.splines = options->curves == "splines";
    if (options->assembly) make.only = {"assembly"};
    if (!t.extension.empty()) make.formats = {t.extension};
    tell(make_files(design, make, t), options->json);
    if (design.process.given && !options->json) print(process_note(design.process) + "\n");
    status = tell_errors(design);
  });
}

}  // namespace palio::cli
