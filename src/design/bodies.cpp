// Process, materials, what stands around the teeth, and plates: from values to the design.
#include <algorithm>
#include <cmath>

#include "palio/gear/core.hpp"
#include "palio/gear/spline.hpp"
#include "palio/math/extent.hpp"
#include "palio/math/tolerance.hpp"
#include "palio/pair/parallel.hpp"
#include "palio/values/threads.hpp"
#include "resolver.hpp"

namespace palio::job {

const std::vector<Material>& materials() {
  // Densities in kg/m³ as commonly tabulated for the solid material; a print with hollow infill weighs less.
  static const std::vector<Material> all{
      {"pla", 1240, "#c9c4b8", 0.15},      {"petg", 1270, "#b9c4c4", 0.25},     {"abs", 1050, "#c6c0b0", 0.15},
      {"asa", 1070, "#bdbdb8", 0.1},       {"pa12", 1010, "#d8d6cf", 0.1},      {"pa66", 1140, "#dcd9cc", 0.15},
      {"pom", 1410, "#e6e6e2", 0.3},       {"peek", 1320, "#b89f78", 0.2},      {"resin", 1180, "#a8adb0", 0.35},
      {"acrylic", 1190, "#cfdadf", 0.5},   {"plywood", 680, "#c8a878", 0.05},   {"steel", 7850, "#8d9298", 0.7},
      {"stainless", 7900, "#a3a8ac", 0.8}, {"cast-iron", 7200, "#6f7072", 0.3}, {"brass", 8500, "#c9a85a", 0.85},
      {"bronze", 8800, "#a9804e", 0.75},   {"aluminium", 2700, "#b9bdc2", 0.7}};
  return all;
}

void Resolver::refuse(const InvalidParameter& e, const Settings& v, const std::string& prefix) {
  const Value* at = v.any_below(e.name());
  note("features-collide", at ? at->where : v.where, prefix + "." + e.name(),
       in_job_units(fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy())));
}

void Resolver::read_process(const Settings& v) {
  Process& p = design_.process;
  for (const Process& preset : presets()) {
    if (preset.preset == v.text("preset")) p = preset;
  }
  p.given = true;
  if (const Value* allowance = v.find("hole_allowance")) p.hole_allowance = allowance->by_diameter;
  for (const auto& [key, number] : {std::pair{"press", &p.press},
                                    {"slide", &p.slide},
                                    {"free", &p.free},
                                    {"surface_offset", &p.surface_offset},
                                    {"kerf", &p.kerf},
                                    {"smallest_radius", &p.smallest_radius},
                                    {"least_wall", &p.least_wall},
                                    {"center_distance_tolerance", &p.center_distance_tolerance},
                                    {"first_layer_inset.amount", &p.inset},
                                    {"first_layer_inset.up_to", &p.inset_up_to}}) {
    if (const Value* given = v.find(key)) *number = given->number;
  }
  if (p.inset > 0 && p.inset_up_to == 0)
    note("missing-key", v.where, "process.first_layer_inset.up_to",
         "is missing beside amount: give the height up to which the first layers spread");
  if (const Value* all = v.find("shrinkage")) p.shrinkage_radial = p.shrinkage_axial = all->number;
  p.shrinkage_radial = v.number("shrinkage.radial", p.shrinkage_radial);
  p.shrinkage_axial = v.number("shrinkage.axial", p.shrinkage_axial);
  if (const Value* draft = v.find("draft")) p.draft = draft->number * kPi / 180;
  if (const Value* corrected = v.find("corrected")) p.corrected = corrected->texts;
}

void Resolver::read_materials() {
  for (const Settings& v : tables_.materials) {
    const std::string prefix = "material." + v.name;
    Material m{v.name};
    const Value* density = v.find("density");
    if (!density)
      note("missing-key", v.where, prefix + ".density", "is missing; give it in kg/m³");
    else
      m.density = density->number;
    if (const Value* colour = v.find("colour")) {
      const std::string& c = colour->text;
      const bool fine =
          c.size() == 7 && c[0] == '#' && c.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string::npos;
      if (!fine)
        note("bad-value", colour->where, prefix + ".colour",
             fmt::format("is \"{}\", but a colour as \"#8d9298\" is allowed", c));
      else
        m.colour = c;
    }
    m.shine = v.number("shine", m.shine);
    materials_.push_back(std::move(m));
  }
}

std::optional<Material> Resolver::material_of(const Settings& v, const std::string& prefix) {
  const Value* given = v.find("material");
  if (!given) return std::nullopt;
  std::vector<std::string> names;
  for (const std::vector<Material>* list : {static_cast<const std::vector<Material>*>(&materials_), &materials()}) {
    for (const Material& m : *list) {
      if (m.name == given->text) return m;
      names.push_back(m.name);
    }
  }
  const Known known = known_words(names, given->text, 4);
  note("unknown-material", given->where, prefix + ".material",
       fmt::format("is \"{}\", but the materials known are {}; {}or write a table [material.{}] with its density",
                   given->text, known.list,
                   known.nearest.empty() ? "" : fmt::format("did you mean \"{}\"? ", known.nearest), given->text));
  return std::nullopt;
}

std::optional<FitLimits> fit_limits(const Settings& v) {
  const Bearing* b = ball_bearing(v.text("bore.bearing"));
  return hole_limits(v.text("bore.fit"), b ? b->outside : v.number("bore.diameter"));
}

double Resolver::bore_play(const Settings& v) const {
  const std::string grip = v.text("bore.grip");
  const Process& p = design_.process;
  if (const auto limits = fit_limits(v)) return limits->middle();
  return grip == "press" ? p.press : grip == "slide" ? p.slide : grip == "free" ? p.free : v.number("bore.allowance");
}

std::vector<std::string> items(const Settings& v, const std::string& list) {
  std::vector<std::string> all;
  for (int i = 0; v.any_below(fmt::format("{}.{}.", list, i)); ++i)
    all.push_back(fmt::format("{}.{}.", list, i));
  return all;
}

bool Resolver::needed(const Settings& g, const std::string& group, std::initializer_list<const char*> keys) {
  const Value* any = g.any_below(group);
  if (!any) return false;
  for (const char* key : keys) {
    if (!g.find(group + key))
      note("missing-key", any->where, "gear." + g.name + "." + group + key,
           "is missing; " + group.substr(0, group.find('.')) + " needs it");
  }
  return true;
}

std::optional<body::Keyway> Resolver::keyway_of(const Settings& g, const Gear& gear) {
  std::optional<body::Keyway> keyway;
  if (g.text("keyway") == "standard") {
    keyway = body::standard_keyway(gear.bore_given);
    if (!keyway)
      note("bad-value", g.find("keyway")->where, "gear." + g.name + ".keyway",
           fmt::format("is \"standard\", but the table of keys goes with bores above 6 mm to 110 mm and this one is "
                       "{}; give {{ width, height }}",
                       print(gear.bore_given)));
  } else if (needed(g, "keyway.", {"width", "height"})) {
    keyway = body::Keyway{g.number("keyway.width"), g.number("keyway.height"), {0.0}};
    if (const Value* angles = g.find("keyway.angles")) {
      keyway->angles.clear();
      for (const double a : angles->numbers)
        keyway->angles.push_back(a * kPi / 180);
    }
  }
  if (keyway) keyway->height += gear.bore_play / 2;
  return keyway;
}

namespace {

/// Whether what stands at "top", "bottom" or "both" ends stands at this one.
bool at_end(const std::string& face, bool top) { return face == "both" || (face == "top") == top; }

}  // namespace

/// What a gear itself says though it says nothing without another key is told, so that nobody waits for what it does.
void Resolver::only_beside(const Settings& g, const char* key, const char* other) {
  if (const Value* v = g.find(key); v && !v->inherited)
    note("no-meaning", v->where, "gear." + g.name + "." + key,
         fmt::format("has no meaning without {}; give that too, or take it out", other));
}

std::vector<body::Step> Resolver::steps_of(const Settings& g, const Gear& gear) {
  std::vector<body::Step> all;
  for (const std::string& i : items(g, "bore.steps")) {
    if (needed(g, i, {"diameter", "depth"}))
      all.push_back({g.text(i + "face") != "bottom", g.number(i + "diameter", 0), g.number(i + "depth", 0)});
  }
  if (!gear.bearing) {
    only_beside(g, "bore.face", "bore.bearing");
    return all;
  }
  const std::string face = g.text("bore.face");
  for (const bool top : {true, false}) {
    if (at_end(face, top))
      all.push_back({top, gear.bearing->outside + gear.bore_play, gear.bearing->seat_depth(), true});
  }
  return all;
}

std::vector<body::Hub> Resolver::hubs_of(const Settings& g, const Gear& gear) {
  std::vector<body::Hub> all;
  std::vector<std::size_t> open;  // whose length is what the overall one leaves
  const Value* overall = g.find("overall_length");
  for (const std::string& i : items(g, "hubs")) {
    if (!needed(g, i, {"diameter"}) || (!overall && !needed(g, i, {"length"}))) continue;
    const std::string face = g.text(i + "face");
    for (const bool top : {true, false}) {
      if (!at_end(face, top)) continue;
      if (!g.find(i + "length")) open.push_back(all.size());
      all.push_back({top, g.number(i + "diameter", 0), g.number(i + "length", 0)});
    }
  }
  if (!overall) return all;
  body::Features given;
  given.hubs = all;
  const double width = gear.teeth.face_width();
  const body::Heights h = body::heights(given, width);
  const double left = overall->number - (h.top - h.bottom);
  const std::string path = "gear." + g.name + ".overall_length";
  if (open.empty() && std::abs(left) > math::kAlike)
    note("too-much", overall->where, path,
         fmt::format("is {}, but teeth and hubs are {} long; leave a hub's length out, or this", print(overall->number),
                     print(overall->number - left)));
  else if (!open.empty() && left <= math::kAlike)
    note("bad-value", overall->where, path,
         fmt::format("is {}, but more than {} is needed: the teeth and the hubs that have a length take that",
                     print(overall->number), print(overall->number - left)));
  else if (open.size() > 2 || (open.size() == 2 && all[open[0]].top == all[open[1]].top))
    note("missing-key", overall->where, path, "leaves the lengths of several hubs on one side open; give all but one");
  for (const std::size_t k : open)
    all[k].length = (all[k].top ? h.top - width : -h.bottom) + left / static_cast<double>(open.size());
  return all;
}

std::vector<body::Holes> Resolver::holes_of(const Settings& g, const Gear& gear) {
  std::vector<body::Holes> all;
  for (const std::string& i : items(g, "holes")) {
    body::Holes holes{static_cast<int>(g.number(i + "count", 1)), g.number(i + "circle_diameter"),
                      g.number(i + "diameter"), g.number(i + "angle") * kPi / 180};
    if (gear.teeth.is_rack()) {
      if (!needed(g, i, {"diameter"}) || (holes.count > 1 && !needed(g, i, {"spacing"}))) continue;
      const gear::RackSizes& s = gear.teeth.rack().sizes();
      const double above_back = g.number(i + "height", (s.base_height + s.root_height) / 2);
      holes.row =
          body::Holes::Row{Vec2(s.middle + g.number(i + "along"), above_back - s.base_height), g.number(i + "spacing")};
    } else if (!needed(g, i, {"circle_diameter", "diameter"})) {
      continue;
    }
    all.push_back(holes);
  }
  return all;
}

std::vector<body::CrossHole> Resolver::cross_holes_of(const Settings& g, const Gear& gear,
                                                      const body::Features& features) {
  constexpr double kNutPlay = 0.2;  // of its pocket, all in all [mm]
  const double width = gear.teeth.face_width();
  std::vector<body::CrossHole> all;
  for (const std::string list : {"set_screw", "cross_pin"}) {
    for (const std::string& i : items(g, list)) {
      const Where& where = g.any_below(i)->where;
      const std::string path = "gear." + g.name + "." + list;
      if (features.hubs.empty()) {
        note("missing-key", where, path,
             "goes through the wall of a hub, and there is none; give hubs = [{ diameter, length }]");
        continue;
      }
      const body::Hub& hub = features.hubs.front();
      body::CrossHole h;
      h.through = list == "cross_pin";
      const Thread* thread = thread_named(g.text(i + "thread"));
      const bool nut = g.number(i + "nut", 0) > 0;
      if (!g.find(i + "diameter") && !thread) {
        note("missing-key", where, path,
             h.through ? "needs the pin's diameter" : "needs a thread (\"M3\"), or the diameter of its hole");
        continue;
      }
      if (nut && !thread) {
        note("missing-key", where, path + ".thread", "is missing: the nut's pocket is that of a thread, as \"M3\"");
        continue;
      }
      if (nut) h.nut = body::NutPocket{thread->nut_across_flats + kNutPlay, thread->nut_height + kNutPlay};
      if (thread) h.label = thread->name;
      h.diameter = g.number(i + "diameter", thread ? (nut ? thread->clearance_hole : thread->tapping_hole()) : 0);
      const double flat = features.flat ? features.flat->angle : features.sided ? features.sided->angle : 0;
      h.angle = g.find(i + "angle") ? g.number(i + "angle", 0) * kPi / 180 : h.through ? 0 : flat;
      h.height = g.number(i + "height", hub.top ? width + hub.length / 2 : -hub.length / 2);
      all.push_back(h);
    }
  }
  return all;
}

body::Web Resolver::web_of(const Settings& g, const Gear& gear, double largest_hub) {
  const std::string prefix = "gear." + g.name + ".";
  const bool external = !gear.teeth.is_rack() && !gear.teeth.internal();
  const double root = external ? gear.teeth.root_diameter() : 0;
  body::Web w{g.number("web.thickness"), g.number("web.inner_diameter", largest_hub), g.number("web.outer_diameter"),
              body::Faces::both};
  if (const Value* wall = g.find("web.wall")) {
    w.outer_diameter = root - 2 * wall->number;
    if (g.find("web.outer_diameter"))
      note("too-much", wall->where, prefix + "web.wall", "stands beside web.outer_diameter; drop one of the two");
  }
  const Where& where = g.any_below("web.")->where;
  if (w.inner_diameter == 0)
    note("missing-key", where, prefix + "web.inner_diameter", "is missing, and there is no hub to take it from");
  if (w.outer_diameter == 0)
    note("missing-key", where, prefix + "web.outer_diameter",
         "is missing; give it, or wall: the rim left below the teeth");
  w.faces = g.text("web.face") == "top"      ? body::Faces::top
            : g.text("web.face") == "bottom" ? body::Faces::bottom
                                             : body::Faces::both;
  return w;
}

body::Spokes Resolver::spokes_of(const Settings& g, const std::optional<body::Web>& web) {
  const std::string prefix = "gear." + g.name + ".";
  body::Spokes s{static_cast<int>(g.number("spokes.count")), g.number("spokes.width"), 0, 0, 0};
  // Within a web a narrow ledge stays, so that windows and recess have edges of their own.
  const double ledge = web ? 0.08 * (web->outer_diameter - web->inner_diameter) : 0;
  s.inner_diameter = g.number("spokes.inner_diameter", web ? web->inner_diameter + ledge : 0);
  s.outer_diameter = g.number("spokes.outer_diameter", web ? web->outer_diameter - ledge : 0);
  s.fillet_radius = g.number("spokes.fillet_radius", 0.05 * (s.outer_diameter - s.inner_diameter));
  const Where& where = g.any_below("spokes.")->where;
  if (s.inner_diameter == 0)
    note("missing-key", where, prefix + "spokes.inner_diameter", "is missing, and there is no web to take it from");
  if (s.outer_diameter == 0)
    note("missing-key", where, prefix + "spokes.outer_diameter", "is missing, and there is no web to take it from");
  return s;
}

body::Features Resolver::features_of(const Settings& g, const Gear& gear) {
  body::Features f;
  const auto angle = [&](const std::string& key) { return g.number(key, 0) * kPi / 180; };
  // A bore with play is wider all round; a D and a hexagon too, a keyway keeps its key.
  f.keyway = keyway_of(g, gear);
  const bool twice = g.find("flat.across_flats") != nullptr;
  if (needed(g, "flat.", {twice ? "across_flats" : "height"}))
    f.flat =
        body::Flat{g.number(twice ? "flat.across_flats" : "flat.height") + gear.bore_play, angle("flat.angle"), twice};
  for (const auto& [key, sides] : {std::pair("hex", 6), std::pair("square", 4)}) {
    const std::string group = std::string(key) + ".";
    if (needed(g, group, {"across_flats"}))
      f.sided = body::Sided{sides, g.number(group + "across_flats") + gear.bore_play, angle(group + "angle")};
  }
  if (needed(g, "serration.", {"teeth", "inner_diameter", "outer_diameter"})) {
    const body::Serration said{static_cast<int>(g.number("serration.teeth")), g.number("serration.inner_diameter"),
                               g.number("serration.outer_diameter"), angle("serration.angle")};
    f.serration = said.widened(gear.bore_play / 2);
  }
  if (needed(g, "spline.", {"teeth", "module"})) {
    const gear::SplineSpec said{static_cast<int>(g.number("spline.teeth")), g.number("spline.module"),
                                g.number("spline.pressure_angle") * kPi / 180, g.number("spline.allowance")};
    try {
      f.shaped = gear::shaped_bore(said, gear.bore_play / 2, angle("spline.angle"));
    } catch (const InvalidParameter& e) {
      refuse(e, g, "gear." + g.name);
    }
  }
  f.bore_chamfer = g.number("bore.chamfer");
  f.steps = steps_of(g, gear);
  f.hubs = hubs_of(g, gear);
  double largest = 0;
  for (const body::Hub& h : f.hubs)
    largest = std::max(largest, h.diameter);
  if (needed(g, "web.", {"thickness"})) f.web = web_of(g, gear, largest);
  if (needed(g, "spokes.", {"count", "width"})) f.spokes = spokes_of(g, f.web);
  f.holes = holes_of(g, gear);
  f.cutouts = cutouts_of(g, "gear." + g.name);
  f.cross_holes = cross_holes_of(g, gear, f);
  f.sector_teeth = static_cast<int>(g.number("sector_teeth"));
  if (f.sector_teeth == 0) {
    only_beside(g, "sector_back_diameter", "sector_teeth");
  } else {
    f.sector_back_diameter =
        g.number("sector_back_diameter", std::max(largest, gear.teeth.bore_diameter()) + 4 * gear.teeth.module());
  }
  return f;
}

/// Which tooth and which space meet at the start, pair by pair.
void Resolver::mark(const Settings& g, Gear& gear) {
  const Value* depth = g.find("mark.depth");
  if (!depth) {
    if (const Value* any = g.any_below("mark."))
      note("missing-key", any->where, "gear." + g.name + ".mark.depth", "is missing: how deep to engrave");
    return;
  }
  body::Marks m;
  m.depth = depth->number;
  const double pitch = 2 * kPi / gear.teeth.count();
  const auto nearest = [&](double angle, double offset) {
    return (std::round(angle / pitch - offset) + offset) * pitch;
  };
  const bool ring = gear.teeth.internal();
  for (const Pair& p : design_.pairs) {
    const bool drives = &design_.gears[p.driver] == &gear;
    if (!drives && &design_.gears[p.driven] != &gear) continue;
    const Gear& mate = design_.gears[drives ? p.driven : p.driver];
    if (p.crossed() || mate.teeth.is_rack()) continue;
    // The pitch point lies in `direction` from the driver; from a ring too, and from its pinion.
    const bool same_side = mate.teeth.internal() || ring;
    const double towards = (drives || same_side ? p.direction().radians() : p.direction().radians() + kPi) - gear.phase;
    // A ring's own frame has a space on +x.
    if (drives)
      m.teeth.push_back(nearest(towards, ring ? 0.5 : 0));
    else
      m.spaces.push_back(nearest(towards, ring ? 0 : 0.5));
  }
  if (g.number("mark.text") > 0) m.text = fmt::format("m{:.4g} z{}", gear.teeth.module(), gear.teeth.count());
  gear.features.marks = m;
}

void Resolver::read_bodies() {
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    const Settings& g = gears_[i];
    Gear& gear = design_.gears[i];
    const std::size_t before = mistakes_.count();
    gear.features = features_of(g, gear);
    gear.material = material_of(g, "gear." + g.name);
    mark(g, gear);
    if (mistakes_.count() > before) continue;
    try {
      job::body(gear);
    } catch (const InvalidParameter& e) {
      refuse(e, g, "gear." + g.name);
    }
  }
}

}  // namespace palio::job
