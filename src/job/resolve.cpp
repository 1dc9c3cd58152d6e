// From the tree of a job to a Design: layers ([shared], like, own), checks against the key table, then the gears and
// pairs themselves. Mistakes are gathered, so that one run tells all of them.
#include <algorithm>
#include <cmath>

#include "resolver.hpp"

namespace palio::job {

std::string did_you_mean(const std::string& nearest) {
  return nearest.empty() ? std::string("see docs/job-reference.md for the known keys")
                         : fmt::format("did you mean \"{}\"?", nearest);
}

namespace {

const char* table_name(Section section) {
  switch (section) {
    case Section::pair: return "pair";
    case Section::process: return "process";
    case Section::frame: return "frame";
    case Section::reducer: return "reducer";
    case Section::material: return "material";
    default: return "gear";
  }
}

/// The key for the diameter where a radius was written: "roller_radius" becomes "roller_diameter".
std::string as_diameter(Section section, const std::string& path) {
  const std::string_view radius = "radius";
  if (path.size() < radius.size() || path.compare(path.size() - radius.size(), radius.size(), radius) != 0) return "";
  std::string diameter = path.substr(0, path.size() - radius.size()) + "diameter";
  return find_key(section, diameter) ? diameter : "";
}

bool is_list(std::string_view path) { return path == "hubs" || path == "holes"; }

}  // namespace

void Resolver::read_values(const Node& node) {
  const Table* table = node.table();
  if (!table)
    return note("wrong-type", node.where, "values",
                fmt::format("is {}, but a table of named numbers is allowed", node.text()));
  for (const auto& [name, child] : *table) {
    const std::string key = "values." + name;
    const bool word = !name.empty() && (std::isalpha(static_cast<unsigned char>(name[0])) || name[0] == '_') &&
                      std::all_of(name.begin(), name.end(),
                                  [](char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; });
    if (!word) {
      note("bad-name", child.where, key,
           "a name in [values] is made of letters, digits and _, and begins with a letter");
      continue;
    }
    try {
      const Measured m = measure(child, values_);
      double value = m.value;
      if (m.unit == "mm") value /= mm_per(design_.units);
      if (m.unit == "in") value *= 25.4 / mm_per(design_.units);
      if (m.unit == "rad") value *= 180 / kPi;
      if (m.unit == "%") value /= 100;
      if (!std::isfinite(value)) throw std::string("is not finite");
      values_[name] = value;
    } catch (const std::string& why) {
      note("bad-value", child.where, key,
           fmt::format("is {}, which {}; a number or an expression of values above it is allowed", child.text(), why));
    }
  }
}

void Resolver::read_layer(const Node& node, Section section, const std::string& prefix, const std::string& inner,
                          Layer& into) {
  for (const auto& [name, child] : *node.table()) {
    const std::string path = inner.empty() ? name : inner + "." + name;
    const std::string full = prefix + "." + path;
    const std::string plain = without_numbers(path);
    const Key* key = find_key(section, plain);
    // One number for a bore is its diameter.
    if (plain == "bore" && !child.table() && find_key(section, "bore.diameter") &&
        !std::holds_alternative<List>(child.value)) {
      read_layer(Node{Table{{"diameter", child}}, child.where}, section, prefix, path, into);
      continue;
    }
    if (child.table() && is_group(section, plain)) {
      read_layer(child, section, prefix, is_list(plain) ? path + ".0" : path, into);
      continue;
    }
    if (const List* list = std::get_if<List>(&child.value); list && is_list(plain) && is_group(section, plain)) {
      for (std::size_t i = 0; i < list->size(); ++i) {
        if ((*list)[i].table())
          read_layer((*list)[i], section, prefix, fmt::format("{}.{}", path, i), into);
        else
          note("wrong-type", (*list)[i].where, full,
               fmt::format("holds {}, but tables are allowed: {} = [{{ … }}]", (*list)[i].text(), name));
      }
      continue;
    }
    if (!key) {
      const bool own = section == Section::shared && find_key(Section::gear, plain);
      if (own) {
        note("unknown-key", child.where, full, "belongs to a single gear, not to [shared]; move it there");
      } else {
        const std::string diameter = as_diameter(section, plain);
        const OtherWord other = other_word(section, plain);
        std::string remedy = did_you_mean(nearest(section, plain)), meant = nearest(section, plain);
        const Node& given = child;  // a structured binding cannot be captured
        const auto with_number = [&](double factor, const char* otherwise) -> std::string {
          try {
            const Measured m = measure(given, values_);
            return m.unit.empty() ? fmt::format("{:.10g}", factor * m.value)
                                  : fmt::format("\"{:.10g} {}\"", factor * m.value, m.unit);
          } catch (const std::string&) {
            return given.table() || std::holds_alternative<List>(given.value) ? otherwise : given.text();
          }
        };
        if (!diameter.empty()) {
          // The commonest slip of all: say the number too.
          meant = diameter;
          remedy = fmt::format("diameters are given here: write {} = {}", diameter, with_number(2, "twice the radius"));
        } else if (other) {
          meant = other.key->path;
          remedy = fmt::format("it is called {0} here: write {0} = {1}{2}", meant,
                               with_number(other.word->factor, "its value"),
                               other.word->remark.empty() ? "" : fmt::format(" ({})", other.word->remark));
        }
        if (!meant.empty()) told_.insert(prefix + "." + meant);
        note("unknown-key", child.where, full, fmt::format("is no key of a {}; {}", table_name(section), remedy));
      }
      continue;
    }
    if (key->readiness == Readiness::later) {
      note("not-yet", child.where, full,
           fmt::format("({}) is not made by this version yet; take it out for now", key->meaning));
      continue;
    }
    try {
      into[path] = read_value(*key, child, design_.units, values_);
    } catch (const std::string& why) {
      note("bad-value", child.where, full, why);
    }
  }
}

void Resolver::read_top(const Node& root) {
  for (const auto& [name, child] : *root.table()) {
    const Key* key = find_key(Section::top, name);
    if (!key) {
      note("unknown-key", child.where, name,
           fmt::format("is no key of a job; {}", did_you_mean(nearest(Section::top, name))));
    } else if (key->readiness == Readiness::later) {
      note("not-yet", child.where, name,
           fmt::format("({}) is not made by this version yet; take it out for now", key->meaning));
    }
  }
  if (const Node* title = root.find("title")) {
    if (const auto* text = std::get_if<std::string>(&title->value)) {
      design_.title = *text;
      if (has_control_characters(*text))
        note("bad-value", title->where, "title",
             fmt::format("is {}, and holds control characters; take them out", title->text()));
      if (text->size() > 400) note("bad-value", title->where, "title", "is longer than 400 bytes; shorten it");
    } else
      note("wrong-type", title->where, "title", fmt::format("is {}, but a text is allowed", title->text()));
  }
  if (const Node* units = root.find("units")) {
    const auto* text = std::get_if<std::string>(&units->value);
    if (text && *text == "in")
      design_.units = Units::inch;
    else if (!text || *text != "mm")
      note("bad-value", units->where, "units", fmt::format("is {}, but \"mm\" or \"in\" is allowed", units->text()));
  }
  if (const Node* values = root.find("values")) read_values(*values);
  if (const Node* shared = root.find("shared")) {
    if (shared->table())
      read_layer(*shared, Section::shared, "shared", "", shared_);
    else
      note("wrong-type", shared->where, "shared", fmt::format("is {}, but a table is allowed", shared->text()));
  }
  if (const Node* process = root.find("process")) read_process(*process);
  if (const Node* materials = root.find("material")) read_materials(*materials);
  const Node* gears = root.find("gear");
  const Node* reducers = root.find("reducer");
  const bool reduces = reducers && reducers->table() && !reducers->table()->empty();
  if (!gears && reduces) return;
  if (!gears || !gears->table() || gears->table()->empty()) {
    note("no-gear", gears ? gears->where : root.where, "gear",
         "the job has no gear; write a table [gear.NAME] with kind, teeth and module");
  } else {
    read_gears(*gears);
  }
}

void Resolver::read_gears(const Node& gears) {
  for (const auto& [name, child] : *gears.table()) {
    const std::string prefix = "gear." + name;
    if (!child.table()) {
      note("wrong-type", child.where, prefix,
           fmt::format("is {}, but a table is allowed: [gear.NAME] with its keys below", child.text()));
      continue;
    }
    if (!name_fits(name, child.where, "gear")) continue;
    RawGear raw{name, child.where, {}, "", {}};
    read_layer(child, Section::gear, prefix, "", raw.own);
    if (const auto it = raw.own.find("like"); it != raw.own.end()) {
      raw.like = it->second.text;
      raw.like_where = it->second.where;
      raw.own.erase(it);
    }
    raw_gears_.push_back(std::move(raw));
  }
}

/// Lays one layer over another. Keys that say the same thing in another way push the inherited one out; of teeth,
/// module and reference diameter two are enough.
void Resolver::apply(Layer& into, const Layer& layer) const {
  const auto has = [&](const char* key) { return layer.count(key) > 0; };
  if (const auto it = layer.find("reference_profile"); it != layer.end()) {
    for (const ReferenceProfile& p : reference_profiles()) {
      if (p.name != it->second.text) continue;
      const std::pair<const char*, double> sets[] = {{"pressure_angle", p.pressure_angle},
                                                     {"addendum", p.addendum},
                                                     {"dedendum", p.dedendum},
                                                     {"tool_tip_radius", p.tool_tip_radius}};
      for (const auto& [key, number] : sets)
        into[key] = Value{number, "", false, {}, {}, {}, it->second.where};
    }
  }
  for (const auto& [key, value] : layer) {
    for (const std::string& other : words_of(find_key(Section::gear, without_numbers(key))->pushes_out)) {
      if (other.back() != '.') {
        into.erase(other);
        continue;
      }
      for (auto it = into.lower_bound(other); it != into.end() && it->first.compare(0, other.size(), other) == 0;)
        it = into.erase(it);
    }
  }
  if (has("reference_diameter") && has("teeth")) into.erase("module"), into.erase("diametral_pitch");
  if (has("teeth") && !has("reference_diameter") &&
      (into.count("module") || into.count("diametral_pitch") || has("module") || has("diametral_pitch")))
    into.erase("reference_diameter");
  if (has("reference_diameter") && !has("teeth")) into.erase("teeth");
  for (const auto& [key, value] : layer)
    into[key] = value;
}

std::vector<std::string> Resolver::gear_names() const {
  std::vector<std::string> names;
  for (const RawGear& g : raw_gears_)
    names.push_back(g.name);
  return names;
}

/// The values of a gear, and on the way those of all that it takes over from: each worked out once, however long the
/// chain.
Settings Resolver::merged(const RawGear& gear) {
  std::vector<const RawGear*> chain{&gear};
  std::set<std::string> seen{gear.name};
  while (!chain.back()->like.empty() && merged_.count(chain.back()->name) == 0) {
    const RawGear& at = *chain.back();
    const auto it = gear_of_.find(at.like);
    if (it == gear_of_.end()) {
      const Known known = known_words(gear_names(), at.like, name_slip(at.like));
      note(
          "unknown-gear", at.like_where, "gear." + at.name + ".like",
          fmt::format("is \"{}\", but the job's gears are {}; {}", at.like, known.list,
                      known.nearest.empty() ? "name one of them" : fmt::format("did you mean \"{}\"?", known.nearest)));
      break;
    }
    const RawGear& next = raw_gears_[it->second];
    if (!seen.insert(next.name).second) {
      note("like-in-a-circle", at.like_where, "gear." + at.name + ".like",
           fmt::format("leads back to \"{}\": gears cannot take over from each other in a circle; let one of them say "
                       "its values itself",
                       next.name));
      break;
    }
    chain.push_back(&next);
  }
  for (auto it = chain.rbegin(); it != chain.rend(); ++it) {
    if (merged_.count((*it)->name) > 0) continue;
    Layer values;
    if (it == chain.rbegin())
      apply(values, shared_);
    else
      values = merged_.at((*std::prev(it))->name);
    apply(values, (*it)->own);
    merged_.emplace((*it)->name, std::move(values));
  }
  Settings all{Section::gear, gear.name, gear.where, merged_.at(gear.name)};
  const auto kind = all.kind();
  if (!kind) return all;
  // What has no meaning for the kind is passed over where it is inherited, and told where the gear says it itself.
  for (auto it = all.values.begin(); it != all.values.end();) {
    if (find_key(Section::gear, without_numbers(it->first))->kinds.has(*kind)) {
      ++it;
      continue;
    }
    if (gear.own.count(it->first) > 0)
      note("no-meaning", it->second.where, "gear." + gear.name + "." + it->first,
           fmt::format("has no meaning for kind = \"{}\"; take it out", name(*kind)));
    it = all.values.erase(it);
  }
  return all;
}

void Resolver::teeth_and_module(const Settings& g, gear::CylindricalSpec& spec) {
  const Value *teeth = g.find("teeth"), *module = g.find("module"), *pitch = g.find("diametral_pitch"),
              *diameter = g.find("reference_diameter");
  const std::string prefix = "gear." + g.name;
  if (module && pitch) {
    return note("too-much", pitch->where, prefix + ".diametral_pitch",
                "stands beside module; they say the same thing twice: drop one");
  }
  const double m = module || pitch ? g.module() : 0;
  if (teeth) spec.teeth = static_cast<int>(teeth->number);
  if (teeth && (module || pitch)) {
    spec.module = m;
    if (diameter && std::abs(diameter->number - spec.teeth * m) > 1e-9 * diameter->number) {
      note("contradiction", diameter->where, prefix + ".reference_diameter",
           fmt::format("is {}, but {} teeth of module {:.6g} mm give {}; two of the three are enough: drop one",
                       print(diameter->number), spec.teeth, m, print(spec.teeth * m)));
    }
  } else if (teeth && diameter) {
    spec.module = diameter->number / spec.teeth;
  } else if (diameter && (module || pitch)) {
    const double z = diameter->number / m, whole = std::round(z);
    spec.module = m;
    spec.teeth = static_cast<int>(whole);
    if (std::abs(z - whole) > 1e-6 || whole < 3) {
      const int below = std::max(3, static_cast<int>(std::floor(z))),
                above = std::max(3, static_cast<int>(std::ceil(z)));
      note("broken-teeth", diameter->where, prefix + ".reference_diameter",
           fmt::format(
               "is {}, which makes {:.6g} teeth of module {:.6g} mm; nearest: {} teeth with {}, or {} teeth with {}; "
               "or keep the diameter with module {:.6g} mm ({} teeth)",
               print(diameter->number), z, m, below, print(below * m), above, print(above * m),
               diameter->number / std::max(3.0, whole), std::max(3, static_cast<int>(whole))));
    }
  } else {
    std::string missing;
    const bool teeth_told = told(prefix, "teeth") || told(prefix, "reference_diameter");
    const bool module_told =
        told(prefix, "module") || told(prefix, "diametral_pitch") || told(prefix, "reference_diameter");
    if (!teeth && !diameter && !teeth_told) missing = "teeth";
    if (!module && !pitch && !(teeth && diameter) && !module_told)
      missing += missing.empty() ? "module" : " and module";
    if (missing.empty() && (teeth_told || module_told)) return;
    std::string found;
    // Clock builders begin with a distance: the module that goes with it.
    for (const RawPair& p : raw_pairs_) {
      const Settings &one = gears_[p.driver], &other = gears_[p.driven];
      const Value *a = p.find("center_distance"), *z1 = one.find("teeth"), *z2 = other.find("teeth");
      if (missing != "module" || (&one != &g && &other != &g) || !a || !z1 || !z2 || p.crossed()) continue;
      const double sum =
          one.is(Kind::internal) || other.is(Kind::internal) || one.flag("internal") || other.flag("internal")
              ? std::abs(z1->number - z2->number)
              : z1->number + z2->number;
      if (sum > 0)
        found = fmt::format(" (for the center distance of pair.{} without profile shift: module = {:.6g})", p.name,
                            2 * a->number / sum);
    }
    note("missing-key", g.where, prefix + (missing == "module" ? ".module" : ".teeth"),
         fmt::format("the gear has no {}; give two of teeth, module (or diametral_pitch) and reference_diameter{}",
                     missing.empty() ? "module" : missing, found));
  }
}

/// Signed helix angle, right hand positive (double helical: of the lower half).
Angle Resolver::helix(const Settings& g, double module) {
  const std::string prefix = "gear." + g.name;
  const Value *angle = g.find("helix_angle"), *lead = g.find("lead"), *hand = g.find("hand"), *apex = g.find("apex");
  const std::optional<Kind> kind = g.kind();
  const bool double_helical = kind == Kind::double_helical;
  if (kind == Kind::spur) return {};
  double beta = angle ? angle->number * kPi / 180 : 0;
  if (lead) {
    // d tan β = p_z/π·…: with the normal module sin β = π z m/p_z, with the transverse one tan β.
    const double ratio = kPi * g.number("teeth") * module / lead->number;
    const bool transverse = g.text("system") == "transverse";
    if (kind == Kind::rack || (!transverse && ratio >= 1)) {
      note("bad-value", lead->where, prefix + ".lead",
           kind == Kind::rack
               ? "has no meaning for a rack; give helix_angle"
               : "is too short for these teeth: it must be above " + print(kPi * g.number("teeth") * module));
    } else {
      beta = transverse ? std::atan(ratio) : std::asin(ratio);
      if (beta > kPi / 3 * (1 + 1e-12))
        note("bad-value", lead->where, prefix + ".lead",
             fmt::format("makes a helix angle of {:.4g}°, but up to 60° are allowed; give a longer lead",
                         beta * 180 / kPi));
    }
  }
  if ((kind == Kind::helical || double_helical) && !angle && !lead) {
    note("missing-key", g.where, prefix + ".helix_angle",
         fmt::format("the {} gear has no helix_angle; write helix_angle = 18, say, or its lead", name(*kind)));
    return {};
  }
  if (beta == 0 && !double_helical) return {};
  if (double_helical) {
    if (!apex)
      note("missing-key", g.where, prefix + ".apex",
           "the double helical gear has no apex; write apex = \"clockwise\" or \"counter-clockwise\": where its V "
           "points, seen from +z (its mate's points the "
           "other way)");
    // Where the lower half is right-handed the teeth run counter-clockwise up to the middle.
    return Angle::radians(apex && apex->text == "clockwise" ? -beta : beta);
  }
  if (!hand)
    note("missing-key", g.where, prefix + ".hand",
         "the teeth are inclined but have no hand; write hand = \"right\" or \"left\" (external mates on parallel axes "
         "need opposite hands)");
  return angle && beta == angle->number * kPi / 180
             ? Angle::degrees(hand && hand->text == "left" ? -angle->number : angle->number)
             : Angle::radians(hand && hand->text == "left" ? -beta : beta);
}

gear::CylindricalSpec Resolver::spec_of(const Settings& g) {
  gear::CylindricalSpec s;
  if (!g.find("kind"))
    note("missing-key", g.where, "gear." + g.name + ".kind", "the gear has no kind; write kind = \"spur\"");
  const bool rack = g.is(Kind::rack);
  if (!rack || g.find("teeth") || !g.find("length")) {
    teeth_and_module(g, s);
  } else if (g.find("module") || g.find("diametral_pitch")) {
    s.module = g.module();
  } else {
    note("missing-key", g.where, "gear." + g.name + ".module",
         "the rack has no module; give module or diametral_pitch");
  }
  if (!rack && s.teeth > 0 && s.teeth < 3)
    note("bad-value", g.find("teeth") ? g.find("teeth")->where : g.where, "gear." + g.name + ".teeth",
         fmt::format("is {}, but a whole number from 3 to 5000 is allowed", s.teeth));
  s.pressure_angle = Angle::degrees(g.number("pressure_angle"));
  s.profile_shift = g.number("profile_shift"), s.addendum = g.number("addendum"), s.dedendum = g.number("dedendum");
  s.tool_tip_radius = g.given("tool_tip_radius"), s.fillet_radius = g.given("root.fillet_radius");
  s.tip_diameter = g.given("tip_diameter"), s.root_diameter = g.given("root_diameter");
  s.thickness_allowance = g.number("thickness_allowance");
  s.tip_chamfer = g.number("tip_chamfer"), s.tip_round = g.number("tip_round");
  s.face_width = g.number("face_width");
  s.bore_diameter = g.number("bore.diameter");
  if (s.bore_diameter > 0) {
    s.bore_diameter += bore_play(g);
    if (s.bore_diameter <= 0)
      note("bad-value", g.find("bore.diameter")->where, "gear." + g.name + ".bore",
           "leaves no bore with this allowance; change one of the two");
  }
  s.helix_angle = helix(g, s.module);
  s.double_helical = g.is(Kind::double_helical);
  s.gap = g.number("gap");
  s.internal = g.is(Kind::internal);
  s.outer_diameter = g.given("outer_diameter");
  if (const Value* rim = g.find("rim_thickness"); rim && s.outer_diameter)
    note("too-much", rim->where, "gear." + g.name + ".rim_thickness",
         "stands beside outer_diameter; they say the same thing twice: drop one");
  s.length = g.given("length");
  s.base_height = g.given("base_height");
  if (const Value* v = g.find("cutter.teeth")) s.cutter.teeth = static_cast<int>(v->number);
  s.cutter.profile_shift = g.given("cutter.profile_shift");
  s.cutter.tip_diameter = g.given("cutter.tip_diameter");
  s.cutter.tip_corner_radius = g.given("cutter.tip_corner_radius");
  if (s.gap > 0 && s.gap >= s.face_width)
    note("bad-value", g.find("gap")->where, "gear." + g.name + ".gap",
         fmt::format("is {}, but the whole face is {} wide; make it smaller", print(s.gap), print(s.face_width)));
  if (g.text("system") == "transverse") {
    // Module, angle and coefficients were meant in the transverse section: m = m_t cos β, tan α_n = tan α_t cos β.
    const double cos_b = std::cos(s.helix_angle.radians());
    s.module *= cos_b;
    s.pressure_angle = Angle::radians(std::atan(std::tan(s.pressure_angle.radians()) * cos_b));
    for (double* coefficient : {&s.profile_shift, &s.addendum, &s.dedendum})
      *coefficient /= cos_b;
    if (s.tool_tip_radius) *s.tool_tip_radius /= cos_b;
    if (s.cutter.profile_shift) *s.cutter.profile_shift /= cos_b;
  }
  return s;
}

std::optional<gear::Teeth> Resolver::build(const Settings& g, const gear::CylindricalSpec& spec) {
  try {
    if (const auto& bevel = bevels_[static_cast<std::size_t>(&g - gears_.data())]) return gear::BevelGear(*bevel);
    if (const auto& plan = cycloids_[static_cast<std::size_t>(&g - gears_.data())]) return build_cycloidal(*plan);
    if (g.is(Kind::rack)) return gear::Rack(spec);
    const Value* rim = g.find("rim_thickness");
    if (!spec.internal || !rim) return gear::CylindricalGear(spec);
    // The rim stands on the root circle, which the cutter makes.
    gear::CylindricalSpec ring = spec;
    ring.outer_diameter = gear::CylindricalGear(spec).sizes().root_diameter + 2 * rim->number;
    return gear::CylindricalGear(ring);
  } catch (const InvalidParameter& e) {
    const Value* v = g.any_below(e.name());
    note("bad-value", v ? v->where : g.where, "gear." + g.name + "." + e.name(),
         in_job_units(fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy())));
  } catch (const NoConvergence& e) {
    note("no-convergence", g.where, "gear." + g.name,
         fmt::format("has teeth that could not be worked out ({}); change its numbers a little", e.what()));
  }
  return std::nullopt;
}

Design Resolver::run(const Node& root) {
  read_top(root);
  for (std::size_t i = 0; i < raw_gears_.size(); ++i)
    gear_of_.emplace(raw_gears_[i].name, i);
  for (const RawGear& raw : raw_gears_)
    gears_.push_back(merged(raw));
  if (const Node* pairs = root.find("pair")) read_pairs(*pairs);
  for (const Settings& g : gears_) {
    specs_.push_back(spec_of(g));
    cycloids_.push_back(g.is(kCycloidalKinds) ? std::optional(cycloidal_plan(g, specs_.back())) : std::nullopt);
    bevels_.push_back(g.is(Kind::bevel) ? std::optional(bevel_spec(g, specs_.back())) : std::nullopt);
  }
  set_pitch_cones();
  complete_cycloids();
  stop_on_mistakes();

  std::vector<std::optional<gear::Teeth>> built;
  for (std::size_t i = 0; i < gears_.size(); ++i)
    built.push_back(build(gears_[i], specs_[i]));
  thin_for_backlash(built);
  stop_on_mistakes();
  Design design = placed(built);
  design_ = std::move(design);
  read_bodies();
  if (const Node* frames = root.find("frame")) read_frames(*frames);
  if (const Node* reducers = root.find("reducer")) read_reducers(*reducers);
  place_reducers();
  stop_on_mistakes();
  return std::move(design_);
}

namespace {

/// Pinions of clocks have leaves: understood wherever teeth are.
constexpr std::pair<std::string_view, std::string_view> kLeaves[] = {{"leaves", "teeth"},
                                                                     {"mate_leaves", "mate_teeth"}};

void leaves_as_teeth(Node& root) {
  const auto rename = [](Node& gear) {
    Table* table = gear.table();
    if (!table) return;
    for (auto& [key, value] : *table) {
      for (const auto& [leaves, teeth] : kLeaves) {
        if (key != leaves) continue;
        if (gear.find(teeth))
          throw JobError({{"too-much", value.where, std::string(leaves),
                           fmt::format("stands beside {}; they say the same thing twice: drop one", teeth)}});
        key = teeth;
      }
    }
  };
  if (!root.table()) return;
  for (auto& [section, node] : *root.table()) {
    if (section == "shared") rename(node);
    if (section != "gear" || !node.table()) continue;
    for (auto& entry : *node.table())
      rename(entry.second);
  }
}

std::string leaves_as_teeth(std::string assignment) {
  for (const auto& [leaves, teeth] : kLeaves) {
    const std::string mark = "." + std::string(leaves) + "=";
    const auto at = assignment.find(mark);
    if (at != std::string::npos && at < assignment.find('='))
      assignment.replace(at, mark.size(), "." + std::string(teeth) + "=");
  }
  return assignment;
}

}  // namespace

Design resolve(std::string_view text, const std::string& source, const std::vector<std::string>& overrides) {
  Node root = read(text, source);
  leaves_as_teeth(root);
  if (!root.table())
    throw JobError({{"wrong-type", root.where, "", fmt::format("a job is a table, but this is {}", root.text())}});
  for (const std::string& assignment : overrides)
    override_value(root, leaves_as_teeth(assignment));
  Design design = Resolver().run(root);
  design.text = overrides.empty() ? std::string(text) : to_toml(root);
  return design;
}

}  // namespace palio::job
