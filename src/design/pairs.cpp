// Pairs: who drives whom, and how the teeth of all of them are thinned for their backlash.
#include <algorithm>
#include <cmath>

#include "palio/pair/allowances.hpp"
#include "resolver.hpp"

namespace palio::job {

void Resolver::read_pairs() {
  std::map<std::string_view, std::size_t> gear_of;
  for (std::size_t i = 0; i < gears_.size(); ++i)
    gear_of.emplace(gears_[i].name, i);
  for (const Settings& settings : tables_.pairs) {
    const std::string prefix = "pair." + settings.name;
    RawPair raw(settings);
    const auto partner = [&](const char* key, std::size_t& index) {
      const Value* v = raw.find(key);
      if (!v) {
        note("missing-key", raw.where, prefix + "." + key,
             fmt::format("the pair has no {}; name one of the job's gears", key));
        return false;
      }
      if (const auto it = gear_of.find(v->text); it != gear_of.end()) {
        index = it->second;
        return true;
      }
      note("unknown-gear", v->where, prefix + "." + key, tables_.no_such_gear(v->text));
      return false;
    };
    const bool driver = partner("driver", raw.driver), driven = partner("driven", raw.driven);
    if (driver && driven && raw.driver == raw.driven) {
      note("same-gear", raw.where, prefix + ".driven", "a gear cannot drive itself; name two different gears");
      continue;
    }
    if (driver && driven) raw_pairs_.push_back(std::move(raw));
  }
  for (RawPair& p : raw_pairs_) {
    const bool first = gears_[p.driver].is(Kind::bevel), second = gears_[p.driven].is(Kind::bevel);
    p.bevel = first && second;
    p.cycloidal = gears_[p.driver].is(kCycloidalKinds) || gears_[p.driven].is(kCycloidalKinds);
    if (const Value* v = p.find("shaft_angle"); v && p.cycloidal)
      note("no-meaning", v->where, "pair." + p.name + ".shaft_angle",
           "has no meaning for cycloidal gears, whose axes are parallel; take it out");
    if (const Value* v = p.find("rolling"); v && !p.cycloidal)
      note("no-meaning", v->where, "pair." + p.name + ".rolling",
           "is a rule for the rolling circles of cycloidal gears; take it out");
    if (first != second)
      note("kinds-cannot-pair", p.where, "pair." + p.name,
           fmt::format("joins {} ({}) and {} ({}); a bevel gear meshes with a bevel gear only", gears_[p.driver].name,
                       gears_[p.driver].text("kind"), gears_[p.driven].name, gears_[p.driven].text("kind")));
    for (const char* key : {"center_distance", "mounted_center_distance", "axial_offset"}) {
      if (const Value* v = p.find(key); v && p.bevel)
        note(
            "no-meaning", v->where, "pair." + p.name + "." + key,
            "has no meaning for bevel gears, which meet in one apex; take it out (errors of mounting: mounting_error)");
    }
    if (const Value* v = p.find("friction"); v && !p.crossed())
      note("no-meaning", v->where, "pair." + p.name + ".friction",
           "is used for crossed helical gears, whose teeth slide along each other; for other pairs this version works "
           "nothing out from it: take it out");
    if (const Value* v = p.any_below("mounting_error"); v && !p.bevel)
      note("no-meaning", v->where, "pair." + p.name + ".mounting_error",
           "is for bevel pairs; give mounted_center_distance instead");
  }
  // No key says how far along a rack a second gear stands.
  std::map<std::size_t, std::string> rack_of;
  for (const RawPair& p : raw_pairs_) {
    for (const std::size_t i : {p.driver, p.driven}) {
      if (!gears_[i].is(Kind::rack)) continue;
      const auto [it, fresh] = rack_of.try_emplace(i, p.name);
      if (!fresh)
        note("rack-twice", p.where, "pair." + p.name,
             fmt::format("names the rack {}, which pair.{} drives already: two gears would stand at the same place "
                         "along it; give each pair a rack of its own",
                         gears_[i].name, it->second));
    }
  }
}

void Resolver::thin_for_backlash(std::vector<std::optional<gear::Teeth>>& built) {
  std::vector<pair::Demand> demands;
  std::vector<const RawPair*> asking;
  for (const RawPair& p : raw_pairs_) {
    const auto &g1 = built[p.driver], &g2 = built[p.driven];
    if (!g1 || !g2) continue;
    if (p.bevel ? !pair::bevel_mismatches(g1->bevel(), g2->bevel(), p.shaft_angle(), "").empty() : false) continue;
    if (p.cycloidal && !pair::cycloidal_mismatches(*g1, *g2, "").empty()) continue;
    if (!p.bevel && !p.cycloidal &&
        !(p.crossed() ? pair::crossed_mismatches(*g1, *g2, p.shaft_angle(), "") : pair::mismatches(*g1, *g2, ""))
             .empty())
      continue;
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
    const auto share_of = [&]() {
      const double z1 = specs_[p.driver].teeth, z2 = specs_[p.driven].teeth;
      const Value* share = p.find("backlash_share");
      return !share || share->text == "teeth" ? z1 / (z1 + z2) : share->text == "even" ? 0.5 : share->number;
    };
    if (p.cycloidal) {
      double thinning = 0;
      if (!thin_cycloidal(p, *backlash, wanted, built, thinning)) continue;
      demands.push_back({p.driver, p.driven, thinning, share_of()});
      asking.push_back(&p);
      continue;
    }
    if (p.bevel) {
      // Thinning is counted in modules of arc here; it is turned into an allowance below.
      const double as_is = pair::BevelPair(g1->bevel(), g2->bevel(), p.shaft_angle()).circumferential_backlash(),
                   m = specs_[p.driver].module;
      if (wanted < as_is - 1e-12 * m) {
        note("play-too-wide", backlash->where, key + ".backlash",
             fmt::format("is {}, but without any thinning the teeth already have {} of play; raise the shifts "
                         "(profile_shift, thickness_shift)",
                         print(wanted), print(as_is)));
        continue;
      }
      demands.push_back({p.driver, p.driven, std::max(0.0, wanted - as_is) / m, share_of()});
      asking.push_back(&p);
      continue;
    }
    const Value* distance = p.find("center_distance");
    const auto zero = p.crossed() ? std::optional(pair::crossed_center_distance(g1->gear(), g2->gear()))
                                  : pair::zero_play_center_distance(*g1, *g2);
    if (!distance && !zero) continue;  // told with the pair
    const double a = distance ? distance->number : *zero;
    try {
      double total = p.crossed() ? pair::crossed_thinning(g1->gear(), g2->gear(), a, wanted)
                                 : pair::thinning_for_backlash(*g1, *g2, a, wanted);
      const double rounding = 1e-12 * a / specs_[p.driver].module;
      if (total < -rounding) {
        const double as_is = p.crossed() ? pair::CrossedPair(g1->gear(), g2->gear(), a).circumferential_backlash()
                                         : pair::ParallelPair(*g1, *g2, a).circumferential_backlash();
        note("play-too-wide", backlash->where, key + ".backlash",
             fmt::format("is {}, but at center distance {} the teeth without any thinning already have {} of play; "
                         "bring the axes closer or raise the profile shifts",
                         print(wanted), print(a), print(as_is)));
        continue;
      }
      total = std::max(0.0, total);
      demands.push_back({p.driver, p.driven, total, share_of()});
      asking.push_back(&p);
    } catch (const InvalidParameter& e) {
      note("bad-value", distance ? distance->where : p.where, key + "." + e.name(),
           in_job_units(fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy())));
    }
  }
  if (demands.empty() || mistakes_.count() > 0) return;
  const pair::Allowances result = pair::divide_thinning(specs_.size(), demands);
  if (!result.unmet.empty()) {
    std::string names;
    for (const std::size_t j : result.unmet)
      names += (names.empty() ? "" : ", ") + asking[j]->name;
    return note(
        "backlash-unmet", asking[result.unmet.front()]->where,
        "pair." + asking[result.unmet.front()]->name + ".backlash",
        fmt::format("the pairs {} share gears, and no single thickness of those gears gives each pair its backlash; "
                    "leave backlash out of one of them, or change its center distance",
                    names));
  }
  for (std::size_t i = 0; i < specs_.size(); ++i) {
    if (result.thinning[i] == 0) continue;
    if (cycloids_[i]) {
      cycloids_[i]->true_form.thickness_allowance = -specs_[i].module * result.thinning[i];
      built[i] = build(gears_[i], specs_[i]);
      continue;
    }
    if (bevels_[i]) {
      bevels_[i]->thickness_allowance = -specs_[i].module * result.thinning[i];
      built[i] = build(gears_[i], specs_[i]);
      continue;
    }
    specs_[i].thickness_allowance =
        -2 * specs_[i].module * std::tan(specs_[i].pressure_angle.radians()) * result.thinning[i];
    built[i] = build(gears_[i], specs_[i]);
  }
}

}  // namespace palio::job
