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
};

class Resolver {
 public:
  Design run(const Node& root);

 private:
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
  std::optional<gear::CylindricalGear> build(const GearValues& g, const gear::CylindricalSpec& spec);
  void read_pairs(const Node& table);
  void thin_for_backlash(std::vector<std::optional<gear::CylindricalGear>>& built);
  double length_for_print(double mm) const { return mm / mm_per(design_.units); }
  std::string print(double mm) const { return fmt::format("{:.6g} {}", length_for_print(mm), symbol(design_.units)); }

  struct RawPair {
    std::string name;
    Where where;
    Layer values;
    std::size_t driver = 0, driven = 0;
    const Value* find(const std::string& key) const {
      const auto it = values.find(key);
      return it == values.end() ? nullptr : &it->second;
    }
  };

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

gear::CylindricalSpec Resolver::spec_of(const GearValues& g) {
  gear::CylindricalSpec s;
  if (!g.find("kind")) {
    note("missing-key", g.where, "gear." + g.name + ".kind", "the gear has no kind; write kind = \"spur\"");
  }
  teeth_and_module(g, s);
  s.pressure_angle = Angle::degrees(g.number("pressure_angle", 20));
  s.profile_shift = g.number("profile_shift", 0);
  s.addendum = g.number("addendum", 1);
  s.dedendum = g.number("dedendum", 1.25);
  const auto optional = [&](const char* key) -> std::optional<double> {
    const Value* v = g.find(key);
    return v ? std::optional<double>(v->number) : std::nullopt;
  };
  s.tool_tip_radius = optional("tool_tip_radius");
  s.tip_diameter = optional("tip_diameter");
  s.root_diameter = optional("root_diameter");
  s.fillet_radius = optional("root.fillet_radius");
  s.thickness_allowance = g.number("thickness_allowance", 0);
  s.face_width = g.number("face_width", 10 * s.module);
  s.bore_diameter = g.number("bore.diameter", 0);
  return s;
}

std::optional<gear::CylindricalGear> Resolver::build(const GearValues& g, const gear::CylindricalSpec& spec) {
  try {
    return gear::CylindricalGear(spec);
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

void Resolver::thin_for_backlash(std::vector<std::optional<gear::CylindricalGear>>& built) {
  std::vector<pair::Demand> demands;
  std::vector<const RawPair*> asking;
  for (const RawPair& p : raw_pairs_) {
    const auto &g1 = built[p.driver], &g2 = built[p.driven];
    if (!g1 || !g2 || !pair::mismatches(*g1, *g2, "").empty()) continue;
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
    const auto zero = pair::zero_play_center_distance(*g1, *g2);
    if (!distance && !zero) continue;  // told with the pair
    const double a = distance ? distance->number : *zero;
    try {
      double total = pair::thinning_for_backlash(*g1, *g2, a, wanted);
      const double rounding = 1e-12 * a / specs_[p.driver].module;
      if (total < -rounding) {
        const pair::ParallelPair as_is(*g1, *g2, a);
        note("play-too-wide", backlash->where, key + ".backlash",
             fmt::format("is {}, but at center distance {} the teeth without any thinning already have {} of play; "
                         "bring the axes closer or raise the profile shifts",
                         print(wanted), print(a), print(as_is.circumferential_backlash())));
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

  std::vector<std::optional<gear::CylindricalGear>> built;
  for (std::size_t i = 0; i < gears_.size(); ++i) built.push_back(build(gears_[i], specs_[i]));
  thin_for_backlash(built);
  stop_on_mistakes();

  for (std::size_t i = 0; i < gears_.size(); ++i) {
    const GearValues& g = gears_[i];
    Gear gear{g.name, g.find("kind")->text, *built[i], g.number("pressure_angle", 20), {}, {}};
    if (const Value* v = g.find("span_teeth")) gear.span_teeth = static_cast<int>(v->number);
    if (const Value* v = g.find("pin_diameter")) gear.pin_diameter = v->number;
    design_.gears.push_back(std::move(gear));
  }

  // Place the gears pair by pair, in the order of the job; the first driver stands on the origin.
  std::vector<bool> placed(gears_.size(), false);
  for (const RawPair& raw : raw_pairs_) {
    Gear &g1 = design_.gears[raw.driver], &g2 = design_.gears[raw.driven];
    Pair p{raw.name, raw.driver, raw.driven, pair::reference_center_distance(g1.teeth, g2.teeth), 0, 0, 0, {}, {}};
    const std::string subject = "pair." + raw.name;
    p.direction = (raw.find("direction") ? raw.find("direction")->number : 0) * kPi / 180;
    p.mismatches = pair::mismatches(g1.teeth, g2.teeth, subject);
    const auto zero = pair::zero_play_center_distance(g1.teeth, g2.teeth);
    const Value *designed = raw.find("center_distance"), *mounted = raw.find("mounted_center_distance");
    p.center_distance = designed ? designed->number : zero.value_or(p.reference_center_distance);
    p.mounted_center_distance = mounted ? mounted->number : p.center_distance;
    if (p.mismatches.empty()) {
      const double least = (g1.teeth.sizes().base_diameter + g2.teeth.sizes().base_diameter) / 2;
      if (p.mounted_center_distance > least && (designed || mounted || zero)) {
        p.running.emplace(g1.teeth, g2.teeth, p.mounted_center_distance);
      } else {
        p.mismatches.push_back({FindingId::no_mesh_at_distance, subject, p.mounted_center_distance, least});
      }
    }
    if (!placed[raw.driver]) g1.phase = (raw.find("start_angle") ? raw.find("start_angle")->number : 0) * kPi / 180;
    if (!placed[raw.driver] && placed[raw.driven]) {
      // The driven stands already: the driver goes where the pair puts it, and its phase follows from the driven's.
      g1.axis = g2.axis - from_polar(p.mounted_center_distance, p.direction);
      g1.phase = pair::driven_phase(g2.teeth.spec().teeth, g1.teeth.spec().teeth, g2.phase, p.direction + kPi);
    } else if (placed[raw.driver] && placed[raw.driven]) {
      const double apart = (g2.axis - g1.axis).norm();
      if (std::abs(apart - p.mounted_center_distance) > 1e-6) {
        note("placed-twice", raw.where, subject,
             fmt::format("the other pairs put its gears {} apart, but this pair wants {}; "
                         "change a center distance or a direction so that the axes agree",
                         print(apart), print(p.mounted_center_distance)));
      }
    } else {
      g2.axis = g1.axis + from_polar(p.mounted_center_distance, p.direction);
      g2.phase = pair::driven_phase(g1.teeth.spec().teeth, g2.teeth.spec().teeth, g1.phase, p.direction);
    }
    placed[raw.driver] = placed[raw.driven] = true;
    design_.pairs.push_back(std::move(p));
  }
  stop_on_mistakes();
  return std::move(design_);
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
