// From the tree of a job to a Design: layers ([shared], like, own), checks against the key table, then the gears and
// pairs themselves. Mistakes are gathered, so that one run tells all of them.
#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include <fmt/format.h>

#include "keys.hpp"
#include "node.hpp"
#include "palio/error.hpp"
#include "palio/pair/allowances.hpp"
#include "palio/roll/space.hpp"
#include "value.hpp"

namespace palio::job {
namespace {

using Layer = std::map<std::string, Value>;

struct RawGear {
  std::string name;
  Where where;
  Layer own;
  std::string like;
  Where like_where;
};

/// A gear's values with where each comes from.
struct GearValues {
  std::string name;
  Where where;
  Layer values;

  const Value* find(const std::string& key) const {
    const auto it = values.find(key);
    return it == values.end() ? nullptr : &it->second;
  }
  double number(const std::string& key, double otherwise) const {
    const Value* v = find(key);
    return v ? v->number : otherwise;
  }
  std::string text(const std::string& key) const {
    const Value* v = find(key);
    return v ? v->text : "";
  }
};

class Resolver {
 public:
  Design run(const Node& root);

 private:
  struct RawPair {
    std::string name;
    Where where;
    Layer values;
    std::size_t driver = 0, driven = 0;
    const Value* find(const std::string& key) const {
      const auto it = values.find(key);
      return it == values.end() ? nullptr : &it->second;
    }
    double number(const std::string& key, double otherwise) const {
      const Value* v = find(key);
      return v ? v->number : otherwise;
    }
    double shaft_angle() const { return number("shaft_angle", 0) * kPi / 180; }
    bool crossed() const { return std::abs(shaft_angle()) >= pair::kParallel; }
  };

  void note(const std::string& id, const Where& where, const std::string& key, const std::string& message) { mistakes_.push_back({id, where, key, message}); }
  /// Tells all mistakes so far, in the order of the file.
  void stop_on_mistakes() {
    if (mistakes_.empty()) return;
    std::stable_sort(mistakes_.begin(), mistakes_.end(), [](const Mistake& a, const Mistake& b) { return a.where.line < b.where.line; });
    throw JobError(mistakes_);
  }
  void read_top(const Node& root);
  void read_values(const Node& table);
  void read_layer(const Node& table, Section section, const std::string& prefix, const std::string& inner, Layer& into);
  void read_gears(const Node& table);
  GearValues merged(const RawGear& gear);
  void apply(Layer& into, const Layer& layer) const;
  gear::CylindricalSpec spec_of(const GearValues& g);
  void teeth_and_module(const GearValues& g, gear::CylindricalSpec& spec);
  std::optional<gear::Teeth> build(const GearValues& g, const gear::CylindricalSpec& spec);
  void read_pairs(const Node& table);
  void thin_for_backlash(std::vector<std::optional<gear::Teeth>>& built);
  Angle helix(const GearValues& g, const std::string& kind, double module);
  Design placed(std::vector<std::optional<gear::Teeth>>& built);
  void set_apart();
  void place(const RawPair& raw, Pair& p, std::vector<bool>& placed);
  double length_for_print(double mm) const { return mm / mm_per(design_.units); }
  std::string print(double mm) const { return fmt::format("{:.6g} {}", length_for_print(mm), symbol(design_.units)); }

  Design design_;
  std::vector<Mistake> mistakes_;
  std::map<std::string, double> values_;
  Layer shared_;
  std::vector<RawGear> raw_gears_;
  std::vector<GearValues> gears_;
  std::vector<gear::CylindricalSpec> specs_;
  std::vector<RawPair> raw_pairs_;
};

std::string did_you_mean(const std::string& nearest) {
  return nearest.empty() ? std::string("see docs/job-reference.md for the known keys") : fmt::format("did you mean \"{}\"?", nearest);
}

void Resolver::read_values(const Node& node) {
  const Table* table = node.table();
  if (!table) return note("wrong-type", node.where, "values", fmt::format("is {}, but a table of named numbers is allowed", node.text()));
  for (const auto& [name, child] : *table) {
    const std::string key = "values." + name;
    const bool word = !name.empty() && (std::isalpha(static_cast<unsigned char>(name[0])) || name[0] == '_') &&
                      std::all_of(name.begin(), name.end(), [](char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; });
    if (!word) {
      note("bad-name", child.where, key, "a name in [values] is made of letters, digits and _, and begins with a letter");
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
      note("bad-value", child.where, key, fmt::format("is {}, which {}; a number or an expression of values above it is allowed", child.text(), why));
    }
  }
}

void Resolver::read_layer(const Node& node, Section section, const std::string& prefix, const std::string& inner, Layer& into) {
  for (const auto& [name, child] : *node.table()) {
    const std::string path = inner.empty() ? name : inner + "." + name;
    const std::string full = prefix + "." + path;
    const Key* key = find_key(section, path);
    if (child.table() && is_group(section, path)) {
      read_layer(child, section, prefix, path, into);
      continue;
    }
    if (!key) {
      const bool own = section == Section::shared && find_key(Section::gear, path);
      if (own) {
        note("unknown-key", child.where, full, "belongs to a single gear, not to [shared]; move it there");
      } else {
        note("unknown-key", child.where, full,
             fmt::format("is no key of a {}; {}", section == Section::pair ? "pair" : "gear", did_you_mean(nearest(section, path))));
      }
      continue;
    }
    if (key->readiness == Readiness::later) {
      note("not-yet", child.where, full, fmt::format("({}) is not made by this version yet; take it out for now", key->meaning));
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
      note("unknown-key", child.where, name, fmt::format("is no key of a job; {}", did_you_mean(nearest(Section::top, name))));
    } else if (key->readiness == Readiness::later) {
      note("not-yet", child.where, name, fmt::format("({}) is not made by this version yet; take it out for now", key->meaning));
    }
  }
  if (const Node* title = root.find("title")) {
    if (const auto* text = std::get_if<std::string>(&title->value)) design_.title = *text;
    else note("wrong-type", title->where, "title", fmt::format("is {}, but a text is allowed", title->text()));
  }
  if (const Node* units = root.find("units")) {
    const auto* text = std::get_if<std::string>(&units->value);
    if (text && *text == "in") design_.units = Units::inch;
    else if (!text || *text != "mm") note("bad-value", units->where, "units", fmt::format("is {}, but \"mm\" or \"in\" is allowed", units->text()));
  }
  if (const Node* values = root.find("values")) read_values(*values);
  if (const Node* shared = root.find("shared")) {
    if (shared->table()) read_layer(*shared, Section::shared, "shared", "", shared_);
    else note("wrong-type", shared->where, "shared", fmt::format("is {}, but a table is allowed", shared->text()));
  }
  const Node* gears = root.find("gear");
  if (!gears || !gears->table() || gears->table()->empty()) {
    note("no-gear", gears ? gears->where : root.where, "gear", "the job has no gear; write a table [gear.NAME] with kind, teeth and module");
  } else {
    read_gears(*gears);
  }
}

void Resolver::read_gears(const Node& gears) {
  for (const auto& [name, child] : *gears.table()) {
    const std::string prefix = "gear." + name;
    if (!child.table()) {
      note("wrong-type", child.where, prefix, fmt::format("is {}, but a table is allowed: [gear.NAME] with its keys below", child.text()));
      continue;
    }
    const bool usable = !name.empty() && name.find_first_of("/\\.:*?\"<>|\n\t ") == std::string::npos;
    if (!usable) {
      note("bad-name", child.where, prefix, "a gear's name becomes a file name: use letters, digits, _ and -");
      continue;
    }
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

/// Whether a key has a meaning for a kind of gear; keys for all kinds do.
bool means_something(const std::string& key, const std::string& kind) {
  const auto is = [&](std::initializer_list<const char*> kinds) { return std::any_of(kinds.begin(), kinds.end(), [&](const char* k) { return kind == k; }); };
  if (key == "helix_angle" || key == "lead") return kind != "spur";
  if (key == "hand") return is({"helical", "internal", "rack"});
  if (key == "gap" || key == "apex") return is({"double_helical"});
  if (key.rfind("cutter.", 0) == 0 || key == "outer_diameter" || key == "rim_thickness") return is({"internal"});
  if (key == "length" || key == "base_height") return is({"rack"});
  if (key == "tip_diameter" || key == "root_diameter" || key == "reference_diameter" || key == "span_teeth" || key == "pin_diameter") return !is({"rack"});
  if (key == "bore.diameter") return !is({"rack", "internal"});
  return true;
}

/// Lays one layer over another. Keys that say the same thing in another way push the inherited one out.
void Resolver::apply(Layer& into, const Layer& layer) const {
  const auto has = [&](const char* key) { return layer.count(key) > 0; };
  if (const auto it = layer.find("reference_profile"); it != layer.end()) {
    for (const ReferenceProfile& p : reference_profiles()) {
      if (p.name != it->second.text) continue;
      const std::pair<const char*, double> sets[] = {
          {"pressure_angle", p.pressure_angle}, {"addendum", p.addendum}, {"dedendum", p.dedendum}, {"tool_tip_radius", p.tool_tip_radius}};
      for (const auto& [key, number] : sets) into[key] = Value{number, "", false, it->second.where};
    }
  }
  if (has("helix_angle")) into.erase("lead");
  if (has("lead")) into.erase("helix_angle");
  if (has("outer_diameter")) into.erase("rim_thickness");
  if (has("rim_thickness")) into.erase("outer_diameter");
  if (has("tip_chamfer")) into.erase("tip_round");
  if (has("tip_round")) into.erase("tip_chamfer");
  if (has("kind")) {
    // What another kind says of itself is not taken over.
    for (const char* key : {"helix_angle", "lead", "gap", "apex", "outer_diameter", "rim_thickness", "cutter.teeth", "cutter.profile_shift",
                            "cutter.tip_diameter", "cutter.tip_corner_radius", "length", "base_height"}) {
      const auto it = into.find(key);
      if (it != into.end() && !means_something(key, layer.at("kind").text)) into.erase(it);
    }
  }
  if (has("module") || has("diametral_pitch")) into.erase("module"), into.erase("diametral_pitch");
  if (has("reference_diameter") && has("teeth")) into.erase("module"), into.erase("diametral_pitch");
  if (has("teeth") && !has("reference_diameter") && (into.count("module") || into.count("diametral_pitch") || has("module") || has("diametral_pitch")))
    into.erase("reference_diameter");
  if (has("reference_diameter") && !has("teeth")) into.erase("teeth");
  if (has("addendum")) into.erase("tip_diameter");
  if (has("dedendum")) into.erase("root_diameter");
  if (has("root")) into.erase("root.fillet_radius");
  if (has("root.fillet_radius")) into.erase("root");
  for (const auto& [key, value] : layer) into[key] = value;
}

GearValues Resolver::merged(const RawGear& gear) {
  GearValues out{gear.name, gear.where, {}};
  std::vector<const RawGear*> chain{&gear};
  std::set<std::string> seen{gear.name};
  while (!chain.back()->like.empty()) {
    const RawGear& at = *chain.back();
    const auto it = std::find_if(raw_gears_.begin(), raw_gears_.end(), [&](const RawGear& g) { return g.name == at.like; });
    if (it == raw_gears_.end()) {
      std::string known, best;
      std::size_t least = std::min<std::size_t>(4, at.like.size() / 2 + 1);
      for (const RawGear& g : raw_gears_) {
        known += (known.empty() ? "" : ", ") + g.name;
        if (spelling_distance(g.name, at.like) < least) least = spelling_distance(g.name, at.like), best = g.name;
      }
      note("unknown-gear", at.like_where, "gear." + at.name + ".like",
           fmt::format("is \"{}\", but the job's gears are {}; {}", at.like, known,
                       best.empty() ? "name one of them" : fmt::format("did you mean \"{}\"?", best)));
      break;
    }
    if (!seen.insert(it->name).second) {
      note("like-in-a-circle", at.like_where, "gear." + at.name + ".like",
           fmt::format("leads back to \"{}\": gears cannot take over from each other in a circle; let one of them say its values itself", it->name));
      break;
    }
    chain.push_back(&*it);
  }
  apply(out.values, shared_);
  for (auto it = chain.rbegin(); it != chain.rend(); ++it) apply(out.values, (*it)->own);
  return out;
}

void Resolver::teeth_and_module(const GearValues& g, gear::CylindricalSpec& spec) {
  const Value *teeth = g.find("teeth"), *module = g.find("module"), *pitch = g.find("diametral_pitch"), *diameter = g.find("reference_diameter");
  const std::string prefix = "gear." + g.name;
  if (module && pitch) {
    return note("too-much", pitch->where, prefix + ".diametral_pitch", "stands beside module; they say the same thing twice: drop one");
  }
  const double m = module ? module->number : pitch ? 25.4 / pitch->number : 0;
  if (teeth) spec.teeth = static_cast<int>(teeth->number);
  if (teeth && (module || pitch)) {
    spec.module = m;
    if (diameter && std::abs(diameter->number - spec.teeth * m) > 1e-9 * diameter->number) {
      note("contradiction", diameter->where, prefix + ".reference_diameter",
           fmt::format("is {}, but {} teeth of module {:.6g} mm give {}; two of the three are enough: drop one", print(diameter->number), spec.teeth, m,
                       print(spec.teeth * m)));
    }
  } else if (teeth && diameter) {
    spec.module = diameter->number / spec.teeth;
  } else if (diameter && (module || pitch)) {
    const double z = diameter->number / m, whole = std::round(z);
    spec.module = m;
    spec.teeth = static_cast<int>(whole);
    if (std::abs(z - whole) > 1e-6 || whole < 3) {
      const int below = std::max(3, static_cast<int>(std::floor(z))), above = std::max(3, static_cast<int>(std::ceil(z)));
      note("broken-teeth", diameter->where, prefix + ".reference_diameter",
           fmt::format("is {}, which makes {:.6g} teeth of module {:.6g} mm; nearest: {} teeth with {}, or {} teeth with {}; "
                       "or keep the diameter with module {:.6g} mm ({} teeth)",
                       print(diameter->number), z, m, below, print(below * m), above, print(above * m), diameter->number / std::max(3.0, whole),
                       std::max(3, static_cast<int>(whole))));
    }
  } else {
    std::string missing;
    if (!teeth && !diameter) missing = "teeth";
    if (!module && !pitch && !(teeth && diameter)) missing += missing.empty() ? "module" : " and module";
    note("missing-key", g.where, prefix + (missing == "module" ? ".module" : ".teeth"),
         fmt::format("the gear has no {}; give two of teeth, module (or diametral_pitch) and reference_diameter", missing.empty() ? "module" : missing));
  }
}

/// Signed helix angle, right hand positive (double helical: of the lower half).
Angle Resolver::helix(const GearValues& g, const std::string& kind, double module) {
  const std::string prefix = "gear." + g.name;
  const Value *angle = g.find("helix_angle"), *lead = g.find("lead"), *hand = g.find("hand"), *apex = g.find("apex");
  if (kind == "spur") return {};
  double beta = angle ? angle->number * kPi / 180 : 0;
  if (lead) {
    // d tan β = p_z/π·…: with the normal module sin β = π z m/p_z, with the transverse one tan β.
    const double ratio = kPi * g.number("teeth", 0) * module / lead->number;
    const bool transverse = g.text("system") == "transverse";
    if (kind == "rack" || (!transverse && ratio >= 1)) {
      note("bad-value", lead->where, prefix + ".lead",
           kind == "rack" ? "has no meaning for a rack; give helix_angle"
                          : "is too short for these teeth: it must be above " + print(kPi * g.number("teeth", 0) * module));
    } else {
      beta = transverse ? std::atan(ratio) : std::asin(ratio);
      if (beta > kPi / 3 * (1 + 1e-12))
        note("bad-value", lead->where, prefix + ".lead",
             fmt::format("makes a helix angle of {:.4g}°, but up to 60° are allowed; give a longer lead", beta * 180 / kPi));
    }
  }
  if ((kind == "helical" || kind == "double_helical") && !angle && !lead) {
    note("missing-key", g.where, prefix + ".helix_angle", fmt::format("the {} gear has no helix_angle; write helix_angle = 18, say, or its lead", kind));
    return {};
  }
  if (beta == 0 && kind != "double_helical") return {};
  if (kind == "double_helical") {
    if (!apex)
      note("missing-key", g.where, prefix + ".apex",
           "the double helical gear has no apex; write apex = \"clockwise\" or \"counter-clockwise\": where its V points, seen from +z (its mate's points the "
           "other way)");
    // Where the lower half is right-handed the teeth run counter-clockwise up to the middle.
    return Angle::radians(apex && apex->text == "clockwise" ? -beta : beta);
  }
  if (!hand)
    note("missing-key", g.where, prefix + ".hand",
         "the teeth are inclined but have no hand; write hand = \"right\" or \"left\" (external mates on parallel axes need opposite hands)");
  return angle && beta == angle->number * kPi / 180 ? Angle::degrees(hand && hand->text == "left" ? -angle->number : angle->number)
                                                    : Angle::radians(hand && hand->text == "left" ? -beta : beta);
}

gear::CylindricalSpec Resolver::spec_of(const GearValues& g) {
  gear::CylindricalSpec s;
  const std::string kind = g.text("kind");
  if (kind.empty()) {
    note("missing-key", g.where, "gear." + g.name + ".kind", "the gear has no kind; write kind = \"spur\"");
  }
  for (const auto& [key, value] : g.values) {
    if (kind.empty() || means_something(key, kind)) continue;
    // From [shared] a key may be meant for the others.
    const bool own = std::any_of(raw_gears_.begin(), raw_gears_.end(), [&, k = key](const RawGear& raw) { return raw.name == g.name && raw.own.count(k) > 0; });
    if (own) note("no-meaning", value.where, "gear." + g.name + "." + key, fmt::format("has no meaning for kind = \"{}\"; take it out", kind));
  }
  const bool rack = kind == "rack";
  if (!rack || g.find("teeth") || !g.find("length")) {
    teeth_and_module(g, s);
  } else if (const Value* m = g.find("module")) {
    s.module = m->number;
  } else if (const Value* p = g.find("diametral_pitch")) {
    s.module = 25.4 / p->number;
  } else {
    note("missing-key", g.where, "gear." + g.name + ".module", "the rack has no module; give module or diametral_pitch");
  }
  if (!rack && s.teeth > 0 && s.teeth < 3)
    note("bad-value", g.find("teeth") ? g.find("teeth")->where : g.where, "gear." + g.name + ".teeth",
         fmt::format("is {}, but a whole number from 3 to 5000 is allowed", s.teeth));
  s.pressure_angle = Angle::degrees(g.number("pressure_angle", 20));
  s.profile_shift = g.number("profile_shift", 0);
  s.addendum = g.number("addendum", 1);
  s.dedendum = g.number("dedendum", 1.25);
  const auto optional = [&](const char* key) -> std::optional<double> {
    const Value* v = g.find(key);
    return v && (kind.empty() || means_something(key, kind)) ? std::optional<double>(v->number) : std::nullopt;
  };
  s.tool_tip_radius = optional("tool_tip_radius");
  s.tip_diameter = optional("tip_diameter");
  s.root_diameter = optional("root_diameter");
  s.fillet_radius = optional("root.fillet_radius");
  s.thickness_allowance = g.number("thickness_allowance", 0);
  s.tip_chamfer = g.number("tip_chamfer", 0);
  s.tip_round = g.number("tip_round", 0);
  s.face_width = g.number("face_width", 10 * s.module);
  s.bore_diameter = optional("bore.diameter").value_or(0);
  s.helix_angle = helix(g, kind, s.module);
  s.double_helical = kind == "double_helical";
  s.gap = s.double_helical ? g.number("gap", 0) : 0;
  s.internal = kind == "internal";
  s.outer_diameter = optional("outer_diameter");
  s.length = optional("length");
  s.base_height = optional("base_height");
  if (const Value* v = g.find("cutter.teeth")) s.cutter.teeth = static_cast<int>(v->number);
  s.cutter.profile_shift = optional("cutter.profile_shift");
  s.cutter.tip_diameter = optional("cutter.tip_diameter");
  s.cutter.tip_corner_radius = optional("cutter.tip_corner_radius");
  if (s.gap > 0 && s.gap >= s.face_width)
    note("bad-value", g.find("gap")->where, "gear." + g.name + ".gap",
         fmt::format("is {}, but the whole face is {} wide; make it smaller", print(s.gap), print(s.face_width)));
  if (g.text("system") == "transverse") {
    // Module, angle and coefficients were meant in the transverse section: m = m_t cos β, tan α_n = tan α_t cos β.
    const double cos_b = std::cos(s.helix_angle.radians());
    s.module *= cos_b;
    s.pressure_angle = Angle::radians(std::atan(std::tan(s.pressure_angle.radians()) * cos_b));
    for (double* coefficient : {&s.profile_shift, &s.addendum, &s.dedendum}) *coefficient /= cos_b;
    if (s.tool_tip_radius) *s.tool_tip_radius /= cos_b;
    if (s.cutter.profile_shift) *s.cutter.profile_shift /= cos_b;
  }
  return s;
}

std::optional<gear::Teeth> Resolver::build(const GearValues& g, const gear::CylindricalSpec& spec) {
  try {
    if (g.text("kind") == "rack") return gear::Rack(spec);
    const Value* rim = g.find("rim_thickness");
    if (!spec.internal || !rim) return gear::CylindricalGear(spec);
    // The rim stands on the root circle, which the cutter makes.
    gear::CylindricalSpec ring = spec;
    ring.outer_diameter = gear::CylindricalGear(spec).sizes().root_diameter + 2 * rim->number;
    return gear::CylindricalGear(ring);
  } catch (const InvalidParameter& e) {
    const Value* v = g.find(e.name());
    note("bad-value", v ? v->where : g.where, "gear." + g.name + "." + e.name(), fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy()));
  } catch (const NoConvergence& e) {
    note("no-convergence", g.where, "gear." + g.name, e.what());
  }
  return std::nullopt;
}

void Resolver::read_pairs(const Node& pairs) {
  if (!pairs.table()) return note("wrong-type", pairs.where, "pair", fmt::format("is {}, but a table is allowed", pairs.text()));
  for (const auto& [name, child] : *pairs.table()) {
    const std::string prefix = "pair." + name;
    if (!child.table()) {
      note("wrong-type", child.where, prefix, fmt::format("is {}, but a table is allowed: [pair.NAME] with its keys below", child.text()));
      continue;
    }
    RawPair raw{name, child.where, {}};
    const std::size_t before = mistakes_.size();
    read_layer(child, Section::pair, prefix, "", raw.values);
    const Where& where = child.where;  // a structured binding cannot be captured
    const auto partner = [&](const char* key, std::size_t& index) {
      const Value* v = raw.find(key);
      if (!v) {
        // A misspelt or mistyped driver has been told already.
        if (mistakes_.size() == before) note("missing-key", where, prefix + "." + key, fmt::format("the pair has no {}; name one of the job's gears", key));
        return false;
      }
      std::string known, best;
      std::size_t least = std::min<std::size_t>(4, v->text.size() / 2 + 1);
      for (std::size_t i = 0; i < raw_gears_.size(); ++i) {
        if (raw_gears_[i].name == v->text) {
          index = i;
          return true;
        }
        known += (known.empty() ? "" : ", ") + raw_gears_[i].name;
        const std::size_t d = spelling_distance(raw_gears_[i].name, v->text);
        if (d < least) least = d, best = raw_gears_[i].name;
      }
      note("unknown-gear", v->where, prefix + "." + key,
           fmt::format("is \"{}\", but the job's gears are {}; {}", v->text, known.empty() ? "none" : known,
                       best.empty() ? "name one of them" : fmt::format("did you mean \"{}\"?", best)));
      return false;
    };
    const bool driver = partner("driver", raw.driver), driven = partner("driven", raw.driven);
    if (driver && driven && raw.driver == raw.driven) {
      note("same-gear", child.where, prefix + ".driven", "a gear cannot drive itself; name two different gears");
      continue;
    }
    if (driver && driven) raw_pairs_.push_back(std::move(raw));
  }
}

void Resolver::thin_for_backlash(std::vector<std::optional<gear::Teeth>>& built) {
  std::vector<pair::Demand> demands;
  std::vector<const RawPair*> asking;
  for (const RawPair& p : raw_pairs_) {
    const auto &g1 = built[p.driver], &g2 = built[p.driven];
    if (!g1 || !g2) continue;
    if (!(p.crossed() ? pair::crossed_mismatches(*g1, *g2, p.shaft_angle(), "") : pair::mismatches(*g1, *g2, "")).empty()) continue;
    const std::string key = "pair." + p.name;
    const Value* backlash = p.find("backlash");
    if (!backlash) continue;
    bool clash = false;
    for (const std::size_t i : {p.driver, p.driven}) {
      if (const Value* allowance = gears_[i].find("thickness_allowance")) {
        note("too-much", allowance->where, "gear." + gears_[i].name + ".thickness_allowance",
             fmt::format("stands beside {}.backlash, which works the allowance out itself; drop one of the two", key));
        clash = true;
      }
    }
    if (clash) continue;
    const double wanted = backlash->share ? backlash->number * specs_[p.driver].module : backlash->number;
    const Value* distance = p.find("center_distance");
    const auto zero = p.crossed() ? std::optional(pair::crossed_center_distance(g1->gear(), g2->gear())) : pair::zero_play_center_distance(*g1, *g2);
    if (!distance && !zero) continue;  // told with the pair
    const double a = distance ? distance->number : *zero;
    try {
      double total = p.crossed() ? pair::crossed_thinning(g1->gear(), g2->gear(), a, wanted) : pair::thinning_for_backlash(*g1, *g2, a, wanted);
      const double rounding = 1e-12 * a / specs_[p.driver].module;
      if (total < -rounding) {
        const double as_is =
            p.crossed() ? pair::CrossedPair(g1->gear(), g2->gear(), a).circumferential_backlash() : pair::ParallelPair(*g1, *g2, a).circumferential_backlash();
        note("play-too-wide", backlash->where, key + ".backlash",
             fmt::format("is {}, but at center distance {} the teeth without any thinning already have {} of play; "
                         "bring the axes closer or raise the profile shifts",
                         print(wanted), print(a), print(as_is)));
        continue;
      }
      total = std::max(0.0, total);
      const double z1 = specs_[p.driver].teeth, z2 = specs_[p.driven].teeth;
      const Value* share = p.find("backlash_share");
      double fraction = z1 / (z1 + z2);
      if (share) fraction = share->text == "teeth" ? fraction : share->text == "even" ? 0.5 : share->number;
      demands.push_back({p.driver, p.driven, total, fraction});
      asking.push_back(&p);
    } catch (const InvalidParameter& e) {
      note("bad-value", distance ? distance->where : p.where, key + "." + e.name(), fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy()));
    }
  }
  if (demands.empty() || !mistakes_.empty()) return;
  const pair::Allowances result = pair::divide_thinning(specs_.size(), demands);
  if (!result.unmet.empty()) {
    std::string names;
    for (const std::size_t j : result.unmet) names += (names.empty() ? "" : ", ") + asking[j]->name;
    return note("backlash-unmet", asking[result.unmet.front()]->where, "pair." + asking[result.unmet.front()]->name + ".backlash",
                fmt::format("the pairs {} share gears, and no single thickness of those gears gives each pair its backlash; "
                            "leave backlash out of one of them, or change its center distance",
                            names));
  }
  for (std::size_t i = 0; i < specs_.size(); ++i) {
    if (result.thinning[i] == 0) continue;
    specs_[i].thickness_allowance = -2 * specs_[i].module * std::tan(specs_[i].pressure_angle.radians()) * result.thinning[i];
    built[i] = build(gears_[i], specs_[i]);
  }
}

Design Resolver::run(const Node& root) {
  read_top(root);
  for (const RawGear& raw : raw_gears_) gears_.push_back(merged(raw));
  if (const Node* pairs = root.find("pair")) read_pairs(*pairs);
  for (const GearValues& g : gears_) specs_.push_back(spec_of(g));
  stop_on_mistakes();

  std::vector<std::optional<gear::Teeth>> built;
  for (std::size_t i = 0; i < gears_.size(); ++i) built.push_back(build(gears_[i], specs_[i]));
  thin_for_backlash(built);
  stop_on_mistakes();
  return placed(built);
}

Design Resolver::placed(std::vector<std::optional<gear::Teeth>>& built) {
  for (std::size_t i = 0; i < gears_.size(); ++i) {
    const GearValues& g = gears_[i];
    const double beta = std::abs(specs_[i].helix_angle.degrees());
    Gear gear{g.name,
              g.text("kind"),
              *built[i],
              g.number("pressure_angle", 20),
              g.find("helix_angle") && beta > 0 ? g.number("helix_angle", 0) : beta,
              g.text("system") == "transverse",
              {},
              {},
              Vec2::Zero(),
              0,
              0,
              0,
              0,
              {}};
    if (const Value* v = g.find("span_teeth")) gear.span_teeth = static_cast<int>(v->number);
    if (const Value* v = g.find("pin_diameter")) gear.pin_diameter = v->number;
    design_.gears.push_back(std::move(gear));
  }
  design_.groups.emplace_back();

  // Place the gears pair by pair, in the order of the job; the first driver stands on the origin.
  std::vector<bool> placed(gears_.size(), false);
  for (const RawPair& raw : raw_pairs_) {
    Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
    Pair p{};
    p.name = raw.name, p.driver = raw.driver, p.driven = raw.driven;
    p.reference_center_distance = raw.crossed() && !g1.teeth.is_rack() && !g2.teeth.is_rack()
                                      ? (g1.teeth.gear().sizes().reference_diameter + g2.teeth.gear().sizes().reference_diameter) / 2
                                  : g1.teeth.is_rack() && g2.teeth.is_rack() ? 0
                                                                             : pair::reference_center_distance(g1.teeth, g2.teeth);
    const std::string subject = "pair." + raw.name;
    p.direction = raw.number("direction", 0) * kPi / 180;
    p.axial_offset = raw.number("axial_offset", 0);
    p.shaft_angle = raw.crossed() ? raw.shaft_angle() : 0;
    if (const Value* v = raw.find("friction")) p.friction = v->number;
    if (const Value* v = raw.find("speed")) p.speed = v->number;
    const Value *designed = raw.find("center_distance"), *mounted = raw.find("mounted_center_distance");
    p.mismatches = raw.crossed() ? pair::crossed_mismatches(g1.teeth, g2.teeth, p.shaft_angle, subject) : pair::mismatches(g1.teeth, g2.teeth, subject);
    if (!raw.crossed() && g1.teeth.spec().double_helical && p.axial_offset != 0) p.mismatches.push_back({FindingId::halves_differ, subject, {}, {}});
    const bool possible = p.mismatches.empty();
    const auto zero = !possible       ? std::nullopt
                      : raw.crossed() ? std::optional(pair::crossed_center_distance(g1.teeth.gear(), g2.teeth.gear()))
                                      : pair::zero_play_center_distance(g1.teeth, g2.teeth);
    p.center_distance = designed ? designed->number : zero.value_or(p.reference_center_distance);
    p.mounted_center_distance = mounted ? mounted->number : p.center_distance;
    if (possible && raw.crossed()) {
      p.crossed.emplace(g1.teeth.gear(), g2.teeth.gear(), p.mounted_center_distance, p.axial_offset);
    } else if (possible) {
      const double least = pair::least_center_distance(g1.teeth, g2.teeth);
      if (p.mounted_center_distance > least && (designed || mounted || zero)) {
        p.running.emplace(g1.teeth, g2.teeth, p.mounted_center_distance, p.axial_offset);
      } else {
        p.mismatches.push_back({FindingId::no_mesh_at_distance, subject, p.mounted_center_distance, least});
      }
    }
    place(raw, p, placed);
    design_.pairs.push_back(std::move(p));
  }
  stop_on_mistakes();
  set_apart();
  return std::move(design_);
}

/// Mechanisms that no pair joins stand clear of each other, the later ones below the earlier.
void Resolver::set_apart() {
  const std::size_t n = design_.gears.size();
  std::vector<std::size_t> mechanism(n);
  for (std::size_t i = 0; i < n; ++i) mechanism[i] = i;
  for (const Pair& p : design_.pairs) {
    const std::size_t low = std::min(mechanism[p.driver], mechanism[p.driven]), high = std::max(mechanism[p.driver], mechanism[p.driven]);
    for (std::size_t& m : mechanism) m = m == high ? low : m;
  }
  if (design_.pairs.empty()) return;  // gears alone: each is looked at by itself
  const auto world = [&](const Gear& g) -> Vec3 {
    return design_.groups[g.group].origin + design_.groups[g.group].axes * Vec3(g.axis.x(), g.axis.y(), g.height);
  };
  double floor = 0;
  for (std::size_t first = 0; first < n; ++first) {
    if (mechanism[first] != first) continue;
    double low = 1e300, high = -1e300, module = 0;
    for (std::size_t i = first; i < n; ++i) {
      if (mechanism[i] != first) continue;
      const Gear& g = design_.gears[i];
      const double r = g.teeth.is_rack()
                           ? std::abs(std::sin(g.facing)) * g.teeth.reach() / 2 + std::abs(std::cos(g.facing)) * g.teeth.rack().sizes().base_height
                           : g.teeth.reach();
      low = std::min(low, world(g).y() - r), high = std::max(high, world(g).y() + r), module = g.teeth.spec().module;
    }
    if (first == 0) {
      floor = low;
      continue;
    }
    const double down = high - floor + 4 * module;
    std::vector<bool> moved(design_.groups.size(), false);
    for (std::size_t i = first; i < n; ++i) {
      Gear& g = design_.gears[i];
      if (mechanism[i] != first) continue;
      if (g.group == 0) g.axis.y() -= down;
      else if (!moved[g.group]) design_.groups[g.group].origin.y() -= down, moved[g.group] = true;
    }
    floor = low - down;
  }
}

/// Puts the gear of a pair that has no place yet where the theory wants it.
void Resolver::place(const RawPair& raw, Pair& p, std::vector<bool>& placed) {
  Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
  const double a = p.mounted_center_distance;
  const Value* start = raw.find("start_angle");
  if (!placed[raw.driver] && !placed[raw.driven]) {
    // A driver that hangs on nothing yet starts a group of its own at the origin.
    if (!g1.teeth.is_rack() && start) g1.phase = start->number * kPi / 180;
    if (g1.teeth.is_rack()) g1.facing = p.direction - kPi / 2;
    g1.speed_ratio = 1;
    placed[raw.driver] = true;
  } else if (start) {
    note("start-follows", start->where, "pair." + raw.name + ".start_angle",
         "cannot be chosen: another pair above already places a gear of this one; set start_angle there");
  }
  // Seen from the driver the pitch point lies in `direction`; a ring's axis then lies on the other side of its pinion's.
  const bool ring = g2.teeth.internal();
  const Vec2 way = (ring ? -1 : 1) * from_polar(a, p.direction);
  const double from_driven = g1.teeth.internal() || ring ? p.direction : p.direction + kPi;
  const bool can_phase = p.mismatches.empty();
  const double ratio = p.running ? p.running->motion_ratio() : p.crossed ? p.crossed->motion_ratio() : 0;
  // A gear's phase is that of its own mid-face; the theory speaks of one datum plane.
  const auto section = [](const Gear& g, double datum) { return member(g, datum).start; };
  const auto mid_face = [](Gear& g, double datum, double coordinate) {
    g.phase = 0;
    g.phase = coordinate - member(g, datum).start;
  };
  if (placed[raw.driver] && placed[raw.driven]) {
    const bool same = g1.group == g2.group && p.shaft_angle == 0;
    const double off = same ? (g2.axis - g1.axis - way).norm() : a;
    if (off > 1e-6) {
      note("placed-twice", raw.where, "pair." + raw.name,
           same ? fmt::format("the other pairs put its gears {} apart, this pair wants them {} apart at direction {:.6g}°; "
                              "change a center distance or a direction so that the axes agree",
                              print((g2.axis - g1.axis).norm()), print(a), p.direction * 180 / kPi)
                : "joins gears that other pairs place already, on axes that are not parallel; leave one of these pairs out");
    }
    return;
  }
  if (p.crossed) {
    // A group of its own for the gear that is new: its axes turned about the common normal.
    const bool forward = placed[raw.driver];
    Gear &known = forward ? g1 : g2, &fresh = forward ? g2 : g1;
    const Group base = design_.groups[known.group];
    const roll::Axis tilt = roll::crossed_axis(p.direction, a, forward ? p.shaft_angle : -p.shaft_angle, 0);
    Group group;
    group.axes = base.axes * tilt.axes;
    group.origin = base.origin + base.axes * (Vec3(known.axis.x(), known.axis.y(), known.height) + (forward ? 1 : -1) * tilt.origin);
    // The offset is the driven's along its own axis, from the foot of the common normal.
    if (!forward) group.origin -= base.axes.col(2) * p.axial_offset;
    fresh.group = design_.groups.size();
    fresh.height = forward ? p.axial_offset : 0;
    design_.groups.push_back(group);
    if (forward) mid_face(fresh, 0, pair::driven_phase(g1.teeth, g2.teeth, section(g1, g1.height), p.direction));
    else mid_face(fresh, 0, pair::driven_phase(g2.teeth, g1.teeth, section(g2, g2.height - p.axial_offset), from_driven));
    fresh.speed_ratio = known.speed_ratio ? std::optional(forward ? *known.speed_ratio * ratio : *known.speed_ratio / ratio) : std::nullopt;
  } else if (placed[raw.driver]) {
    if (g1.teeth.is_rack()) {
      const double wanted = p.direction - kPi / 2;
      if (std::abs(std::remainder(wanted - g1.facing, 2 * kPi)) > 1e-9) {
        note("rack-faces-away", raw.where, "pair." + raw.name + ".direction",
             fmt::format("must be {:.6g}°, where the teeth of the rack {} face", (g1.facing + kPi / 2) * 180 / kPi, g1.name));
      }
    }
    g2.group = g1.group;
    g2.axis = g1.axis + way;
    g2.height = g1.height + p.axial_offset;
    if (g2.teeth.is_rack()) g2.facing = p.direction + kPi / 2;
    if (can_phase) mid_face(g2, g1.height, pair::driven_phase(g1.teeth, g2.teeth, section(g1, g1.height), p.direction));
    g2.speed_ratio = g1.speed_ratio ? std::optional(*g1.speed_ratio * ratio) : std::nullopt;
  } else {
    g1.group = g2.group;
    g1.axis = g2.axis - way;
    g1.height = g2.height - p.axial_offset;
    if (g1.teeth.is_rack()) g1.facing = p.direction - kPi / 2;
    if (can_phase) mid_face(g1, g1.height, pair::driven_phase(g2.teeth, g1.teeth, section(g2, g1.height), from_driven));
    g1.speed_ratio = g2.speed_ratio && ratio != 0 ? std::optional(*g2.speed_ratio / ratio) : std::nullopt;
  }
  placed[raw.driver] = placed[raw.driven] = true;
}

std::string join(const std::vector<Mistake>& mistakes) {
  std::string all;
  for (const Mistake& m : mistakes) all += (all.empty() ? "" : "\n") + m.text();
  return all;
}

}  // namespace

std::string Mistake::text() const {
  std::string at = where.source;
  if (where.line > 0) at += fmt::format(":{}:{}", where.line, where.column);
  return fmt::format("{}: {}{}{}", at, key, key.empty() ? "" : " ", message);
}

JobError::JobError(std::vector<Mistake> mistakes) : std::runtime_error(join(mistakes)), mistakes_(std::move(mistakes)) {}

Design resolve(std::string_view text, const std::string& source, const std::vector<std::string>& overrides) {
  Node root = read(text, source);
  if (!root.table()) throw JobError({{"wrong-type", root.where, "", fmt::format("a job is a table, but this is {}", root.text())}});
  for (const std::string& assignment : overrides) override_value(root, assignment);
  return Resolver().run(root);
}

}  // namespace palio::job
