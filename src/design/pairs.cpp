// Pairs: who drives whom, and how the teeth of all of them are thinned for their backlash.
#include <algorithm>
#include <cmath>

#include "palio/math/tolerance.hpp"
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
      if (!mistakes_.told("gear", v->text))
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
    if (first && second)
      p.sort = pair::Sort::bevel;
    else if (gears_[p.driver].is(kCycloidalKinds) || gears_[p.driven].is(kCycloidalKinds))
      p.sort = pair::Sort::cycloidal;
    else if (std::abs(p.shaft_angle().radians()) >= pair::kParallel.radians())
      p.sort = pair::Sort::crossed;
    const bool cycloidal = p.is(pair::Sort::cycloidal), bevel = p.is(pair::Sort::bevel);
    if (const Value* v = p.find("shaft_angle"); v && cycloidal)
      note("no-meaning", v->where, "pair." + p.name + ".shaft_angle",
           "has no meaning for cycloidal gears, whose axes are parallel; take it out");
    if (const Value* v = p.find("rolling"); v && !cycloidal)
      note("no-meaning", v->where, "pair." + p.name + ".rolling",
           "is a rule for the rolling circles of cycloidal gears; take it out");
    if (first != second)
      note("kinds-cannot-pair", p.where, "pair." + p.name,
           fmt::format("joins {} ({}) and {} ({}); a bevel gear meshes with a bevel gear only", gears_[p.driver].name,
                       gears_[p.driver].text("kind"), gears_[p.driven].name, gears_[p.driven].text("kind")));
    for (const char* key : {"center_distance", "mounted_center_distance", "axial_offset"}) {
      if (const Value* v = p.find(key); v && bevel)
        note(
            "no-meaning", v->where, "pair." + p.name + "." + key,
            "has no meaning for bevel gears, which meet in one apex; take it out (errors of mounting: mounting_error)");
    }
    for (const std::size_t i : {p.driver, p.driven}) {
      const Value* v = gears_[i].find("eccentricity");
      if (v && v->number > 0 && (p.is(pair::Sort::crossed) || p.is(pair::Sort::bevel)))
        note("no-meaning", v->where, "gear." + gears_[i].name + ".eccentricity",
             fmt::format("what it does is known of teeth on parallel axes; pair.{} has others: leave it out", p.name));
    }
    if (const Value* v = p.find("friction"); v && !p.is(pair::Sort::crossed))
      note("no-meaning", v->where, "pair." + p.name + ".friction",
           "is used for crossed helical gears, whose teeth slide along each other; for other pairs this version works "
           "nothing out from it: take it out");
    if (const Value* v = p.find("along"); v && !gears_[p.driver].is(Kind::rack) && !gears_[p.driven].is(Kind::rack))
      note("no-meaning", v->where, "pair." + p.name + ".along", "is for a gear on a rack; take it out");
    if (const Value* v = p.any_below("mounting_error"); v && !bevel)
      note("no-meaning", v->where, "pair." + p.name + ".mounting_error",
           "is for bevel pairs; give mounted_center_distance instead");
  }
}

pair::Arrangement Resolver::RawPair::arrangement() const {
  pair::Arrangement as_built;
  as_built.direction = Angle::radians(number("direction") * kPi / 180);
  as_built.shaft_angle = is(pair::Sort::crossed) || is(pair::Sort::bevel) ? shaft_angle() : Angle();
  if (is(pair::Sort::bevel)) {
    as_built.error = {number("mounting_error.driver"), number("mounting_error.driven"),
                      Angle::radians(number("mounting_error.shaft_angle") * kPi / 180),
                      number("mounting_error.offset")};
    return as_built;
  }
  as_built.axial_offset = number("axial_offset");
  const Value *designed = find("center_distance"), *mounted = find("mounted_center_distance");
  if (mounted || designed) as_built.mounted_center_distance = (mounted ? mounted : designed)->number;
  return as_built;
}

std::string Resolver::said(const AskedPlay& play, double circumferential) const {
  return "is " + print(play.amount) +
         (play.normal ? fmt::format(" ({} along the pitch circle)", print(circumferential)) : "");
}

std::optional<Resolver::AskedPlay> Resolver::asked_play(const RawPair& p) {
  const Value *backlash = p.find("backlash"), *normal = p.find("normal_backlash");
  if (!backlash && !normal) return std::nullopt;
  const std::string path = "pair." + p.name + (normal ? ".normal_backlash" : ".backlash");
  if (backlash && normal) {
    note("too-much", normal->where, path,
         fmt::format("stands beside pair.{}.backlash: one says the other; drop one of the two", p.name));
    return std::nullopt;
  }
  const Value& value = normal ? *normal : *backlash;
  return AskedPlay{&value, path, value.share ? value.number * specs_[p.driver].module : value.number,
                   normal != nullptr};
}

std::optional<double> Resolver::thinning_of_bevels(const AskedPlay& play, const pair::BevelPair& as_is) {
  const gear::BevelSpec& spec = as_is.driver().spec();
  const double wanted = play.circumferential(std::cos(spec.pressure_angle.radians()));
  const double without = as_is.circumferential_backlash(), m = spec.module;
  if (wanted >= without - math::kRounding * m) return std::max(0.0, wanted - without) / m;
  note("play-too-wide", play.said->where, play.path,
       fmt::format("{}, but without any thinning the teeth already have {} of play; raise the shifts "
                   "(profile_shift, thickness_shift)",
                   said(play, wanted), print(play.normal ? as_is.normal_backlash() : without)));
  return std::nullopt;
}

std::optional<double> Resolver::thinning_of_involutes(const RawPair& p, const AskedPlay& play,
                                                      const gear::Teeth& driver, const gear::Teeth& driven) {
  const bool crossed = p.is(pair::Sort::crossed);
  const Value* distance = p.find("center_distance");
  const auto zero = pair::distance_without_play(driver, driven, p.shaft_angle());
  if (!distance && !zero) return std::nullopt;  // told with the pair
  const double a = distance ? distance->number : *zero;
  // Rounded down: what is short of it is taken off the flanks.
  const std::string own = zero ? fmt::format("pair.{}.center_distance = {:.10g} would do", p.name,
                                             std::floor(*zero / mm_per(tables_.units) * 1e4) / 1e4)
                               : "";
  try {
    // The normal stands at the working angle of that distance.
    const double cosine = !play.normal ? 1
                          : crossed
                              ? std::cos(driver.spec().pressure_angle.radians())
                              : std::cos(pair::ParallelPair(driver, driven, a).working_pressure_angle().radians()) *
                                    std::cos(driver.base_helix_angle().radians());
    const double wanted = play.circumferential(cosine);
    const double total = crossed ? pair::crossed_thinning(driver.gear(), driven.gear(), a, wanted)
                                 : pair::thinning_for_backlash(driver, driven, a, wanted);
    const double rounding = math::kRounding * a / specs_[p.driver].module;
    if (total >= -rounding) return std::max(0.0, total);
    const double as_is = crossed ? pair::CrossedPair(driver.gear(), driven.gear(), a).circumferential_backlash()
                                 : pair::ParallelPair(driver, driven, a).circumferential_backlash();
    // Thinning is told in modules of shift: as much more shift would do.
    const bool fixed = distance != nullptr && !crossed;
    const bool transverse = gears_[p.driven].text("system") == "transverse";
    const double shift =
        (specs_[p.driven].profile_shift - total) * (transverse ? std::cos(specs_[p.driven].helix_angle.radians()) : 1);
    // More than a whole module of it is no longer these teeth: then the axes stand wrong.
    const std::string would_do =
        shift <= 1 ? fmt::format("gear.{}.profile_shift = {:.12g} would do", gears_[p.driven].name, shift) : own;
    note("play-too-wide", play.said->where, play.path,
         fmt::format("{}, but at center distance {} the teeth without any thinning already have {} of play; "
                     "bring the axes closer or raise the profile shifts{}",
                     said(play, wanted), print(a), print(as_is * (play.normal ? cosine : 1)),
                     fixed && !would_do.empty() ? ": " + would_do : ""));
  } catch (const InvalidParameter& e) {
    note("bad-value", distance ? distance->where : p.where, "pair." + p.name + "." + e.name(),
         in_job_units(fmt::format("is {}, but {}; {}", e.given(), e.allowed(), e.remedy())) +
             (distance && !own.empty() ? ": " + own : ""));
  }
  return std::nullopt;
}

std::optional<double> Resolver::thinning(const RawPair& p, const AskedPlay& play,
                                         std::vector<std::optional<gear::Teeth>>& built) {
  const gear::Teeth &driver = *built[p.driver], &driven = *built[p.driven];
  switch (p.sort) {
    case pair::Sort::bevel: return thinning_of_bevels(play, {driver.bevel(), driven.bevel(), p.shaft_angle()});
    case pair::Sort::cycloidal: return thinning_of_cycloids(p, play, built);
    case pair::Sort::crossed:
    case pair::Sort::parallel: break;
  }
  return thinning_of_involutes(p, play, driver, driven);
}

void Resolver::thin_for_backlash(std::vector<std::optional<gear::Teeth>>& built) {
  std::vector<pair::Demand> demands;
  std::vector<const RawPair*> asking;
  std::vector<AskedPlay> plays;
  for (const RawPair& p : raw_pairs_) {
    const std::optional<AskedPlay> play = asked_play(p);
    if (!play || !built[p.driver] || !built[p.driven]) continue;
    if (!pair::mismatches(*built[p.driver], *built[p.driven], p.shaft_angle(), "").empty()) continue;
    bool clash = false;
    for (const std::size_t i : {p.driver, p.driven}) {
      if (const Value* allowance = gears_[i].find("thickness_allowance")) {
        note("too-much", allowance->where, "gear." + gears_[i].name + ".thickness_allowance",
             fmt::format("stands beside {}, which works the allowance out itself; drop one of the two", play->path));
        clash = true;
      }
    }
    if (clash) continue;
    const std::optional<double> total = thinning(p, *play, built);
    if (!total) continue;
    const double z1 = specs_[p.driver].teeth, z2 = specs_[p.driven].teeth;
    const Value* share = p.find("backlash_share");
    const double of_driver = !share || share->text == "teeth" ? z1 / (z1 + z2)
                             : share->text == "even"          ? 0.5
                                                              : share->number;
    demands.push_back({p.driver, p.driven, *total, of_driver});
    asking.push_back(&p);
    plays.push_back(*play);
  }
  if (demands.empty() || mistakes_.count() > 0) return;
  const pair::Allowances result = pair::divide_thinning(specs_.size(), demands);
  if (!result.unmet.empty()) {
    std::string names;
    for (const std::size_t j : result.unmet)
      names += (names.empty() ? "" : ", ") + asking[j]->name;
    return note(
        "backlash-unmet", asking[result.unmet.front()]->where, plays[result.unmet.front()].path,
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
