#include "planetary.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace palio::job {
namespace {

std::vector<std::string> list(const Settings& set, const char* key) {
  const Value* v = set.find(key);
  return v ? v->texts : std::vector<std::string>{};
}

Value word(std::string text, const Where& where) {
  Value v;
  v.text = std::move(text), v.where = where;
  return v;
}

Value words(std::vector<std::string> texts, const Where& where) {
  Value v;
  v.texts = std::move(texts), v.where = where;
  return v;
}

/// Which planet each of the suns or rings meshes with: in the planets' order; one alone with `alone`, all with one.
std::vector<std::size_t> planet_of_each(std::size_t count, std::size_t planets, std::size_t alone) {
  std::vector<std::size_t> of;
  for (std::size_t i = 0; i < count; ++i)
    of.push_back(planets == 1 ? 0 : count == 1 ? alone : i);
  return of;
}

class Speller {
 public:
  Speller(Tables& tables, const Settings& set) : tables_(tables), set_(set), prefix_("planetary." + set.name) {}

  void run() {
    const std::vector<std::string> planets = list(set_, "planet"), suns = list(set_, "sun"), rings = list(set_, "ring");
    if (planets.empty()) {
      if (!set_.find("planet"))
        tables_.mistakes.note("missing-key", set_.where, prefix_ + ".planet",
                              "the set has no planet; name the gear that rides on its carrier");
      return;
    }
    if (suns.size() + rings.size() < 2) {
      tables_.mistakes.note("missing-key", set_.where, prefix_ + (suns.empty() ? ".sun" : ".ring"),
                            fmt::format("the planets mesh with {} only; name two or more of suns and rings",
                                        suns.size() + rings.size() == 0 ? "nothing" : "one gear"));
      return;
    }
    for (const char* key : {"sun", "ring"}) {
      const std::size_t count = list(set_, key).size();
      if (planets.size() > 1 && count > planets.size()) {
        tables_.mistakes.note("too-much", set_.find(key)->where, prefix_ + "." + key,
                              fmt::format("names {} gears for {} planets; name at most one for each, in their order",
                                          count, planets.size()));
        return;
      }
    }
    add_shaft(planets);
    add_carrier(planets);
    const std::vector<std::size_t> of_suns = planet_of_each(suns.size(), planets.size(), 0),
                                   of_rings = planet_of_each(rings.size(), planets.size(), planets.size() - 1);
    for (std::size_t i = 0; i < suns.size(); ++i)
      add_pair("sun", i, suns[i], planets[of_suns[i]], "sun");
    for (std::size_t i = 0; i < rings.size(); ++i)
      add_pair("ring", i, planets[of_rings[i]], rings[i], "ring");
  }

 private:
  void add_shaft(const std::vector<std::string>& planets) {
    if (planets.size() < 2) return;
    Settings axle{Section::shaft, set_.name + "_planet", set_.where, {}};
    axle.values["gears"] = words(planets, set_.find("planet")->where);
    if (const Value* gap = set_.find("gap")) axle.values["gap"] = *gap;
    tables_.shafts.push_back(std::move(axle));
  }

  void add_carrier(const std::vector<std::string>& planets) {
    Settings holder{Section::carrier, set_.name, set_.where, {}};
    holder.values["carries"] = words({planets[0]}, set_.find("planet")->where);
    for (const char* key : {"count", "angles"}) {
      if (const Value* v = set_.find(key)) holder.values[key] = *v;
    }
    tables_.carriers.push_back(std::move(holder));
  }

  /// What [pair.NAME_sun] says itself stays.
  void add_pair(const std::string& sort, std::size_t place, const std::string& driver, const std::string& driven,
                const char* key) {
    const std::string name = planetary_pair(set_.name, sort, place);
    auto it =
        std::find_if(tables_.pairs.begin(), tables_.pairs.end(), [&](const Settings& p) { return p.name == name; });
    if (it == tables_.pairs.end()) it = tables_.pairs.insert(it, Settings{Section::pair, name, set_.where, {}});
    const Where& where = set_.find(key)->where;
    it->values.try_emplace("driver", word(driver, where));
    it->values.try_emplace("driven", word(driven, where));
    if (it->values.count("normal_backlash") == 0) {
      if (const Value* v = set_.find("backlash")) it->values.try_emplace("backlash", *v);
    }
    if (const Value* v = set_.find("center_distance")) it->values.try_emplace("center_distance", *v);
    // The planet stands where its first pair puts it: all others lie in line with that.
    if (!first_)
      first_ = it->name, direction_ = it->find("direction") ? std::optional(*it->find("direction")) : std::nullopt;
    else if (direction_)
      it->values.try_emplace("direction", *direction_);
  }

  Tables& tables_;
  const Settings& set_;
  std::string prefix_;
  std::optional<std::string> first_;
  std::optional<Value> direction_;
};

}  // namespace

std::string planetary_pair(const std::string& set, const std::string& sort, std::size_t place) {
  return set + "_" + sort + (place == 0 ? "" : fmt::format("_{}", place + 1));
}

void spell_out_planetaries(Tables& tables) {
  for (const Settings& set : tables.planetaries) {
    if (set.sound) Speller(tables, set).run();
  }
}

}  // namespace palio::job
