#include "palio/make/make.hpp"

#include <algorithm>
#include <filesystem>
#include <limits>
#include <map>
#include <optional>
#include <set>

#include <fmt/format.h>

#include "means.hpp"
#include "naming.hpp"
#include "palio/body/mesh.hpp"
#include "palio/error.hpp"
#include "palio/view/parts_list.hpp"
#include "palio/view/sheet.hpp"
#include "palio/write/embed.hpp"
#include "palio/write/formats.hpp"
#include "robot.hpp"

namespace palio::make {
namespace {

/// A part with how near its files come to the exact curves.
struct Piece {
  view::Part part;
  double chord_error;  // [mm]
};

/// The parts of one set of files: each alone in its own frame, then all in place.
struct Group {
  std::string name, file;
  std::vector<const Piece*> pieces;
  bool in_place;
};

bool conical(const Piece* p) { return p->part.body.is_conical(); }

/// The triangles of parts, each worked out once; what is alike shares them.
class Meshes {
 public:
  explicit Meshes(const std::vector<Piece>& pieces) : pieces_(pieces) {}

  const body::TriangleMesh& of(const Piece* p) {
    if (!p->part.alike.empty()) {
      p = &*std::find_if(pieces_.begin(), pieces_.end(), [&](const Piece& q) { return q.part.name == p->part.alike; });
    }
    auto it = made_.find(p);
    if (it == made_.end()) it = made_.emplace(p, body::mesh(p->part.body, p->chord_error)).first;
    return it->second;
  }

 private:
  const std::vector<Piece>& pieces_;
  std::map<const Piece*, body::TriangleMesh> made_;
};

/// The parts without a process's corrections, worked out when first asked for.
class AsDesigned {
 public:
  AsDesigned(const job::Design& nominal, const std::vector<view::Part>& drawn, bool changed)
      : nominal_(nominal), drawn_(drawn), changed_(changed) {}

  const std::vector<view::Part>& parts() {
    if (!changed_) return drawn_;
    if (made_.empty()) made_ = view::parts(nominal_);
    return made_;
  }

 private:
  const job::Design& nominal_;
  const std::vector<view::Part>& drawn_;
  bool changed_;
  std::vector<view::Part> made_;
};

/// One file to be made.
struct Work {
  const job::Design& nominal;
  const job::Design& design;
  const Request& request;
  const Means& means;
  const Group& group;
  const write::Stamp& stamp;
  AsDesigned& as_designed;
  Meshes& meshes;
  std::map<const Piece*, double>& volumes;  // of solids that were written, by the kernel [mm³]
  double spline_error;                      // [mm]
  File& file;

  const Piece& only_one() const { return *group.pieces[0]; }
  write::Placement placement(const Piece* p) const { return group.in_place ? p->part.placement : write::Placement{}; }
  /// In one plane: what lies in another than the first driver is not drawn.
  std::vector<const Piece*> in_plane() const {
    std::vector<const Piece*> all;
    for (const Piece* p : group.pieces) {
      if (!group.in_place || p->part.group == 0) all.push_back(p);
    }
    return all;
  }
  void save(std::string_view bytes) const {
    means.save(file.path, bytes);
    file.bytes = bytes.size();
  }
  void save(const write::Written& written) const {
    save(written.bytes);
    file.deviation = written.deviation;
  }
};

/// The loops that a plane file shows: the section in the middle of the face (a plate's, in the middle of the plate); of
/// gears in one piece the outlines of all.
std::vector<const body::Loop*> plane_loops(const view::Part& p) {
  std::vector<const body::Loop*> all;
  if (p.body.is_conical()) return all;  // no plane shows its teeth
  const body::Body& body = p.body.layers();
  if (p.axle) {
    for (const body::Loop& l : body.loops)
      all.push_back(&l);
    return all;
  }
  const double z = p.gear ? p.gear->axial * p.gear->teeth.face_width() / 2 : body.layers.front().levels.back().z / 2;
  for (const std::size_t loop : body::section(body, z))
    all.push_back(&body.loops[loop]);
  return all;
}

void make_stl(const Work& w) {
  std::vector<body::TriangleMesh> all;
  std::vector<write::Placement> placements;
  for (const Piece* p : w.group.pieces)
    all.push_back(w.meshes.of(p)), placements.push_back(w.placement(p));
  save_stl(write::merged(all, placements), w.stamp, w.means, w.file);
}

void make_packed(const Work& w) {
  if (!w.means.pack) throw InvalidParameter("format", w.file.format, "its module is not there", "choose other formats");
  std::vector<write::PackedPart> all;
  for (const Piece* p : w.group.pieces) {
    all.push_back({p->part.name, w.meshes.of(p), w.placement(p), p->part.material.colour, p->part.material.shine});
    w.file.triangles += all.back().mesh.triangles.size();
    w.file.volume = w.file.volume.value_or(0) + body::volume(all.back().mesh);
    w.file.deviation = std::max(w.file.deviation.value_or(0), all.back().mesh.deviation);
  }
  if (w.file.format == "3mf" && !(w.group.in_place && w.request.bed)) write::stand_on_bed(all);
  if (w.file.format == "3mf" && w.group.in_place && w.request.bed) {
    std::vector<body::TriangleMesh> solids;
    solids.reserve(all.size());
    for (const write::PackedPart& p : all)
      solids.push_back(p.mesh);
    const auto [width, depth] = *w.request.bed;
    constexpr double kBetween = 5;  // [mm]
    const std::vector<write::Placement> side_by_side = write::nested(solids, width, depth, kBetween);
    for (std::size_t i = 0; i < all.size(); ++i)
      all[i].placement = side_by_side[i];
  }
  Eigen::AlignedBox3d box;
  for (const write::PackedPart& p : all)
    box.extend(write::box_of(p.placement.of(p.mesh.vertices)));
  w.file.extent = box.sizes();
  constexpr double kStill = 4;  // [s]
  double seconds = kStill;
  if (w.file.format == "glb" && w.group.in_place) {
    std::vector<const view::Part*> parts;
    for (const Piece* p : w.group.pieces)
      parts.push_back(&p->part);
    seconds = set_in_motion(w.design, parts, all);
  }
  w.save(w.means.pack(w.file.format, all, w.stamp, seconds));
}

/// What a part belongs to in an assembly: its shaft, its reducer.
std::string sub_assembly(const job::Design& design, const view::Part& part) {
  if (part.motion) return design.reducers[part.motion->reducer].name;
  if (part.carrier || !part.member) return "";
  const job::Member& member = design.machine.members[*part.member];
  return member.shaft ? member.name : "";
}

void make_step(const Work& w) {
  std::vector<write::StepPart> solids;
  std::map<std::string, int> of_assembly;
  for (const Piece* p : w.group.pieces) {
    solids.push_back({p->part.name, p->part.body, w.placement(p)});
    if (!w.group.in_place) continue;
    solids.back().alike = p->part.alike;
    if (const auto known = w.volumes.find(p); known != w.volumes.end()) solids.back().volume = known->second;
    solids.back().assembly = sub_assembly(w.design, p->part);
    ++of_assembly[solids.back().assembly];
  }
  // One part alone needs none.
  for (write::StepPart& s : solids) {
    if (of_assembly[s.assembly] < 2) s.assembly.clear();
  }
  save_step(solids, w.stamp, w.spline_error, w.means, w.file);
  if (!w.group.in_place) w.volumes[&w.only_one()] = w.file.volume.value_or(0);
}

void make_csv(const Work& w) {
  const Piece& p = w.only_one();
  if (conical(&p)) {
    const body::ConicalCore& core = p.part.body.cones().core();
    return w.save(write::csv_of_directions(core.section(core.outer), core.outer, p.chord_error, w.stamp));
  }
  std::vector<curve::Outline> outlines;
  for (const body::Loop* l : plane_loops(p.part))
    outlines.push_back(l->outline);
  w.save(write::csv(outlines, p.chord_error, w.stamp));
}

void make_pdf(const Work& w) {
  const std::vector<view::Part>& parts = w.as_designed.parts();
  const view::Part& part =
      *std::find_if(parts.begin(), parts.end(), [&](const view::Part& p) { return p.name == w.only_one().part.name; });
  const std::string sheet = view::draw_sheets(w.nominal, {view::sheet_of(part, parts)}, {});
  w.save(write::with_job(sheet, "pdf", w.nominal.values.text()));
}

void make_of_arcs(const Work& w) {
  std::vector<write::PlacedLoop> loops;
  for (const Piece* p : w.in_plane()) {
    for (const body::Loop* l : plane_loops(p->part))
      loops.push_back({curve::biarcs(l->outline, p->chord_error), p->part.name, l->feature, w.placement(p)});
  }
  save_loops(loops, w.stamp, w.means, w.file);
}

void make_dxf(const Work& w) {
  if (!w.request.splines) return make_of_arcs(w);
  std::vector<write::PlacedOutline> outlines;
  for (const Piece* p : w.in_plane()) {
    for (const body::Loop* l : plane_loops(p->part))
      outlines.push_back({l->outline, p->part.name, w.placement(p)});
  }
  w.file.loops = outlines.size();
  w.save(write::dxf_of_curves(outlines, w.stamp, w.spline_error));
}

void make_parts(const Work& w) { w.save(view::parts_csv(w.nominal)); }

void make_parts_sheet(const Work& w) {
  w.save(write::with_job(view::draw_parts_list(w.nominal, "pdf"), "pdf", w.nominal.values.text()));
}

/// The description, and beside it a mesh of every part.
void make_urdf(const Work& w) {
  std::vector<RobotPart> parts;
  for (const Piece* p : w.group.pieces) {
    const view::Part& part = p->part;
    const std::string file = fmt::format("{}_meshes/{}.stl", w.group.file, part.alike.empty() ? part.name : part.alike);
    parts.push_back({&part, &w.meshes.of(p), file});
    if (!part.alike.empty()) continue;
    const std::string path = w.means.path(file);
    w.means.save(path, write::stl(w.meshes.of(p), make::stamp(w.design, part.name)).bytes);
    w.file.deviation = std::max(w.file.deviation.value_or(0), w.meshes.of(p).deviation);
  }
  w.save(urdf(w.design, parts));
}

struct Maker {
  Format format;
  void (*write)(const Work&);
};

const std::vector<Maker>& makers() {
  // name, meaning, whole, plane, carries the job
  static const std::vector<Maker> all{
      {{"step", "solids with exact cylinders and splines", true, false, true}, make_step},
      {{"stl", "triangles, binary", true, false, false}, make_stl},
      {{"3mf", "triangles with names, places and colours, for printing", true, false, true}, make_packed},
      {{"glb", "triangles that turn, for viewers", true, false, true}, make_packed},
      {{"dxf", "plane outlines of arcs or splines", true, true, true}, make_dxf},
      {{"svg", "plane outlines, 1:1", true, true, true}, make_of_arcs},
      {{"csv", "points on the exact curves", false, false, false}, make_csv},
      {{"pdf", "the drawing with its table", false, false, true}, make_pdf},
      {{"parts", "the list of all parts with quantities and masses", true, false, false, false, false, "_parts.csv"},
       make_parts},
      {{"parts-sheet", "the same as a page", true, false, true, false, false, "_parts.pdf"}, make_parts_sheet},
      {{"urdf", "the machine as a robot description, with ratios, inertia and a mesh of each part", true, false, false,
        false, true},
       make_urdf}};
  return all;
}

const Maker& maker(const std::string& format) {
  for (const Maker& m : makers()) {
    if (m.format.name == format) return m;
  }
  std::string known;
  for (const Maker& m : makers())
    known += (known.empty() ? "" : ", ") + std::string(m.format.name);
  throw InvalidParameter("format", format, "there are " + known, "choose some of them");
}

std::vector<Group> groups_of(const std::vector<Piece>& pieces, const job::Design& design, const Request& request) {
  const auto chosen = [&](const std::string& name) {
    return request.only.empty() || std::find(request.only.begin(), request.only.end(), name) != request.only.end();
  };
  std::vector<Group> groups;
  std::set<std::string> names;
  const auto add = [&](const std::string& name, const job::Gear* gear, std::vector<const Piece*> members,
                       bool in_place) {
    groups.push_back({name, file_name(request.pattern, design, name, gear), std::move(members), in_place});
    if (!names.insert(groups.back().file).second) {
      throw InvalidParameter("name", request.pattern,
                             fmt::format("{} and another part would both be called {}", name, groups.back().file),
                             "put {gear} in it");
    }
  };
  for (const Piece& p : pieces) {
    if (chosen(p.part.name) && p.part.alike.empty()) add(p.part.name, p.part.gear, {&p}, false);
  }
  if (pieces.size() > 1 && chosen("assembly")) {
    std::vector<const Piece*> all;
    all.reserve(pieces.size());
    for (const Piece& p : pieces)
      all.push_back(&p);
    add("assembly", nullptr, all, true);
  }
  if (request.one_file) groups.erase(groups.begin(), groups.end() - 1);
  return groups;
}

/// Of a bevel gear whose undercut begins along the face there is no B-rep; asked for by name it is an error that says
/// why.
bool cornered(const Group& group) {
  return std::any_of(group.pieces.begin(), group.pieces.end(),
                     [](const Piece* p) { return conical(p) && !p->part.body.cones().core().one_form; });
}

}  // namespace

const std::vector<Format>& formats() {
  static const std::vector<Format> all = [] {
    std::vector<Format> list;
    list.reserve(makers().size());
    for (const Maker& m : makers())
      list.push_back(m.format);
    return list;
  }();
  return all;
}

Means into(const std::string& folder, Means::Step step, Means::Pack pack) {
  Means means;
  means.path = [folder](const std::string& name) {
    const std::filesystem::path path = std::filesystem::path(folder) / name;
    if (path.has_parent_path()) std::filesystem::create_directories(path.parent_path());
    return path.string();
  };
  means.save = [](const std::string& path, std::string_view bytes) { write::write_file(path, bytes); };
  means.step = std::move(step), means.pack = std::move(pack);
  return means;
}

std::vector<File> make(const job::Design& nominal, const Request& request, const Means& means) {
  std::optional<job::Design> changed;
  if (nominal.process.given) changed = job::as(nominal, job::As::drawn);
  const job::Design& design = changed ? *changed : nominal;  // parts know their gears by place
  std::vector<Piece> pieces;
  std::string known;
  double spline_error = std::numeric_limits<double>::infinity();  // one for all: a solid is the same in every file
  const std::vector<view::Part> drawn = view::parts(design);
  AsDesigned as_designed(nominal, drawn, changed.has_value());
  for (const view::Part& p : drawn) {
    known += p.name + ", ";
    pieces.push_back({p, chord_error(request.chord_error, p.module)});
    spline_error = std::min(spline_error, spline_tolerance(p.module));
  }
  for (const std::string& name : request.only) {
    const bool there = std::any_of(pieces.begin(), pieces.end(), [&](const Piece& p) { return p.part.name == name; });
    if (!there && name != "assembly")
      throw InvalidParameter("only", name, "the job's parts are " + known + "assembly", "name some of them");
  }
  std::vector<const Maker*> asked;
  for (const std::string& format : request.formats)
    asked.push_back(&maker(format));
  if (asked.empty()) {
    for (const Maker& m : makers()) {
      if (!m.format.on_request) asked.push_back(&m);
    }
  }
  const std::vector<Group> groups = groups_of(pieces, design, request);
  Meshes meshes(pieces);
  std::map<const Piece*, double> volumes;
  std::vector<File> made;
  std::string toothless;
  for (const Group& group : groups) {
    const write::Stamp stamp = make::stamp(design, group.name);
    for (const Maker* m : asked) {
      const Format& format = m->format;
      if (group.in_place ? !format.whole : !format.alone) continue;
      if (format.plane && std::all_of(group.pieces.begin(), group.pieces.end(), conical)) {
        if (!request.formats.empty() && !group.in_place) toothless += (toothless.empty() ? "" : ", ") + group.name;
        continue;
      }
      if (format.name == "step" && request.formats.empty() && cornered(group)) {
        if (means.remark)
          means.remark(
              fmt::format("step: {} is left out: a bevel gear's undercut begins between heel and toe, and its "
                          "edge has a corner there",
                          group.name));
        continue;
      }
      const std::string ending = format.ending.empty() ? "." + std::string(format.name) : std::string(format.ending);
      File file{means.path(group.file + ending), std::string(format.name), group.name};
      file.meaning = format.meaning, file.parts = group.pieces.size();
      if (means.about_to) means.about_to(file.path);
      m->write({nominal, design, request, means, group, stamp, as_designed, meshes, volumes, spline_error, file});
      made.push_back(std::move(file));
    }
  }
  if (made.empty() && toothless.empty()) {
    throw InvalidParameter("format", fmt::format("{}", fmt::join(request.formats, ", ")),
                           "there is no such file of what was chosen",
                           "csv and pdf are made of single parts, dxf and svg of what has a plane section");
  }
  if (!toothless.empty()) {
    const std::string why = fmt::format("no plane shows the teeth of {}, which are bevel gears", toothless);
    if (made.empty())
      throw InvalidParameter("format", fmt::format("{}", fmt::join(request.formats, ", ")), why,
                             "palio draw rolls their heels out (.svg)");
    if (means.remark) means.remark("dxf, svg: " + why + "; palio draw rolls their heels out (.svg)");
  }
  return made;
}

}  // namespace palio::make
