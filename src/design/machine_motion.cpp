// How everything in a job's machine turns: its meshes, the places of its planets, the trains that go through it.
#include <algorithm>
#include <cmath>

#include "palio/design/train.hpp"
#include "palio/machine/planets.hpp"
#include "resolver.hpp"

namespace palio::job {

machine::Speeds Resolver::speeds_without_loops() const {
  const Machine& machine = design_.machine;
  std::vector<machine::Tie> ties;
  for (std::size_t i = 0; i < machine.meshes.size(); ++i) {
    if (!machine.pair_of[i] || !design_.pairs[*machine.pair_of[i]].loop) ties.push_back(machine.meshes[i].tie());
  }
  return {machine.members.size(), std::move(ties)};
}

namespace {

/// A mesh as the machine counts it.
machine::Mesh mesh_of(const Design& design, const Pair& p) {
  const Machine& machine = design.machine;
  machine::Mesh m{p.name, machine.of_gear[p.driver], machine.of_gear[p.driven], 1, 1, true, {}};
  const gear::Teeth &a = design.gears[p.driver].teeth, &b = design.gears[p.driven].teeth;
  m.teeth_a = a.is_rack() ? 1 : a.count(), m.teeth_b = b.is_rack() ? 1 : b.count();
  // A rack's coordinate runs against its own +x.
  m.opposite = (p.motion_ratio() < 0) != (a.is_rack() != b.is_rack());
  if (machine.sense[p.driver] * machine.sense[p.driven] < 0) m.opposite = !m.opposite;
  const auto of_a = machine.members[m.a].carrier, of_b = machine.members[m.b].carrier;
  if (of_a || of_b) m.carrier = machine.carriers[of_a ? *of_a : *of_b].member;
  if (m.carrier && !(of_a && of_b) && p.in_space()) {
    m.inclined = true;
    if (of_a) std::swap(m.a, m.b), std::swap(m.teeth_a, m.teeth_b);
  }
  return m;
}

}  // namespace

void Resolver::connect_pairs() {
  Machine& machine = design_.machine;
  for (std::size_t i = 0; i < design_.pairs.size(); ++i) {
    const Pair& p = design_.pairs[i];
    if (!p.meshes()) continue;
    machine::Mesh m = mesh_of(design_, p);
    if (const auto given = raw_pairs_[i].given("efficiency")) {
      m.efficiency = m.efficiency_backwards = *given;
    } else if (p.crossed() && p.friction) {
      m.efficiency = p.crossed()->efficiency(*p.friction, false);
      m.efficiency_backwards = p.crossed()->efficiency(*p.friction, true);
    }
    machine.meshes.push_back(std::move(m)), machine.pair_of.push_back(i);
  }
}

void Resolver::connect_reducers() {
  Machine& machine = design_.machine;
  for (const Reducer& r : design_.reducers) {
    const ReducerEnds ends{plans_.member_of.at(r.name + ".input"), plans_.member_of.at(r.name + ".output")};
    machine.of_reducer.push_back(ends);
    machine.meshes.push_back({r.name, ends.input, ends.output, 1, r.made.sizes().lobes, true, {}});
    machine.pair_of.emplace_back();
  }
}

namespace {

/// Everything that one carrier's planets mesh with in the middle.
struct Centrals {
  std::vector<machine::Central> teeth;
  std::vector<std::size_t> meshes;       // places in Machine::meshes
  std::vector<double> half_plays;        // [pitches]
  std::set<std::size_t> carried;         // members that mesh with them
  bool among_planets = false;            // planets mesh with each other
  std::vector<machine::PlanetTie> ties;  // of all of them, planets as places in Carrier::carried
  bool level = true;                     // on parallel axes, as ties have it
};

Centrals centrals_of(const Design& design, const Carrier& carrier) {
  const Machine& machine = design.machine;
  Centrals all;
  for (std::size_t i = 0; i < machine.meshes.size(); ++i) {
    const machine::Mesh& m = machine.meshes[i];
    if (m.carrier != carrier.member) continue;
    const bool a_rides = machine.members[m.a].carrier.has_value(), b_rides = machine.members[m.b].carrier.has_value();
    const auto planet = [&](std::size_t member) {
      return static_cast<std::size_t>(std::find(carrier.carried.begin(), carrier.carried.end(), member) -
                                      carrier.carried.begin());
    };
    // Outside on outside both phases count the same way; in a ring they count against each other.
    const long long other = m.opposite ? 1 : -1;
    all.level = all.level && design.pairs[*machine.pair_of[i]].plane();
    if (a_rides && b_rides) {
      all.among_planets = true;
      all.ties.push_back({0, {{planet(m.a), m.teeth_a}, {planet(m.b), other * m.teeth_b}}});
      continue;
    }
    all.ties.push_back({other * (a_rides ? m.teeth_b : m.teeth_a),
                        {{planet(a_rides ? m.a : m.b), -(a_rides ? m.teeth_a : m.teeth_b)}}});
    all.teeth.push_back({a_rides ? m.teeth_b : m.teeth_a, a_rides ? m.teeth_a : m.teeth_b, !m.opposite});
    all.carried.insert(a_rides ? m.a : m.b);
    const Pair& p = design.pairs[*machine.pair_of[i]];
    const gear::Teeth& driven = design.gears[p.driven].teeth;
    all.meshes.push_back(i);
    all.half_plays.push_back(std::max(0.0, p.driven_play()) * driven.count() / (4 * kPi));
  }
  return all;
}

}  // namespace

/// How the pairs of a carrier stand for its further planets: the one in the middle as if it were turned back.
void Resolver::set_off_planets(const Carrier& carrier, const std::vector<std::size_t>& meshes) {
  for (const std::size_t i : meshes) {
    Pair& p = design_.pairs[*design_.machine.pair_of[i]];
    if (!p.plane()) continue;
    const std::size_t member = design_.machine.of_gear[p.driver];
    const bool planet_drives = design_.machine.members[member].carrier.has_value();
    const std::size_t planet = planet_drives ? member : design_.machine.of_gear[p.driven];
    const auto of = static_cast<std::size_t>(std::find(carrier.carried.begin(), carrier.carried.end(), planet) -
                                             carrier.carried.begin());
    for (std::size_t k = 1; k < carrier.copies.size(); ++k) {
      const double back = -carrier.copies[k].axis, turn = carrier.copies[k].turn[of];
      p.planets.push_back((planet_drives ? back : turn) - p.motion_ratio() * (planet_drives ? turn : back));
    }
  }
}

/// Whether there are places enough, 0 being anywhere; told where there are not.
bool Resolver::room_for(long long count, long long places, const Where& asked, const std::string& path) {
  if (places == 0 || count <= places) return true;
  note("planets-do-not-fit", asked, path,
       fmt::format("is {}, but these teeth leave {} places around; take fewer planets, or other teeth", count, places));
  return false;
}

/// Several sets of planets on several axes each.
void Resolver::place_sets(Carrier& carrier, bool can, const std::vector<machine::PlanetTie>& ties, long long count,
                          const Where& asked, const std::string& path) {
  if (!can)
    return note("not-yet", asked, path,
                "asks for several sets of planets on several axes each; this version places them evenly, on parallel "
                "axes: give count in place of angles, or take bevel planets one by one");
  const machine::PlanetSets sets(carrier.carried.size(), ties);
  carrier.places = sets.places();
  carrier.evenly = sets.evenly(count);
  if (!room_for(count, sets.places(), asked, path)) return;
  const std::vector<machine::PlanetSets::Place> places = sets.placed(count);
  for (std::size_t k = 1; k < places.size(); ++k)
    carrier.copies.push_back({places[k].axis, places[k].turns, 0, places[k].axis});
}

/// Where the copies of what a carrier carries stand.
void Resolver::place_planets() {
  for (std::size_t i = 0; i < design_.machine.carriers.size(); ++i) {
    Carrier& carrier = design_.machine.carriers[i];
    const Settings& said = tables_.carriers[i];
    const Value *angles = said.find("angles"), *places = angles ? angles : said.find("count");
    const Where& asked = places ? places->where : said.where;
    const auto count = angles ? static_cast<long long>(angles->numbers.size()) : std::llround(said.number("count"));
    carrier.copies.push_back({0, std::vector<double>(carrier.carried.size(), 0), 0, 0});
    Centrals central = centrals_of(design_, carrier);
    if (central.teeth.empty()) continue;
    const std::string path = fmt::format("carrier.{}.{}", said.name, angles ? "angles" : "count");
    if (central.among_planets || central.carried.size() > 1) {
      if (count > 1) place_sets(carrier, central.level && !angles, central.ties, count, asked, path);
      continue;
    }
    // One gear in the middle leaves every place.
    if (central.teeth.size() == 1)
      central.teeth.push_back(central.teeth[0]), central.half_plays.push_back(central.half_plays[0]);
    const machine::Planets planets(central.teeth);
    carrier.places = planets.places();
    carrier.evenly = !angles && planets.evenly(count);
    if (!angles && !room_for(count, planets.places(), asked, path)) continue;
    const std::vector<machine::PlanetPlace> evenly =
        angles ? std::vector<machine::PlanetPlace>{} : planets.placed(count);
    const auto carried = static_cast<std::size_t>(
        std::find(carrier.carried.begin(), carrier.carried.end(), *central.carried.begin()) - carrier.carried.begin());
    for (std::size_t k = 1; k < static_cast<std::size_t>(count); ++k) {
      Carrier::Copy copy{0, std::vector<double>(carrier.carried.size(), 0), 0, 0};
      if (angles) {
        copy.axis = (angles->numbers[k] - angles->numbers[0]) * kPi / 180;
        const machine::PlanetFit fit = planets.fitted(copy.axis, central.half_plays);
        copy.turn[carried] = fit.turn, copy.off = fit.off, copy.nearest = fit.nearest;
      } else {
        copy.axis = copy.nearest = evenly[k].axis, copy.turn[carried] = evenly[k].turn;
      }
      carrier.copies.push_back(std::move(copy));
    }
    if (angles) set_off_planets(carrier, central.meshes);
  }
}

/// Turns of every gear per turn of the first driver of its mechanism, with what its trains hold held.
void Resolver::set_speed_ratios() {
  Machine& machine = design_.machine;
  const machine::Speeds speeds = speeds_without_loops();
  std::set<std::size_t> held;
  for (const Train& t : machine.trains)
    held.insert(t.held.begin(), t.held.end());
  const std::vector<std::size_t> all_held(held.begin(), held.end());
  for (const std::size_t first : plans_.first) {
    const std::size_t input = machine.of_gear[first];
    machine::Motion motion;
    const auto turn = [&](std::size_t m) {
      if (held.count(m) > 0) return false;
      motion = speeds.turned(m, all_held);
      return !motion.locked;
    };
    const auto turns_this = [&](const Train& t) { return turn(t.input) && motion.turns[input]; };
    if (!turn(input) && std::none_of(machine.trains.begin(), machine.trains.end(), turns_this)) continue;
    for (std::size_t i = 0; i < design_.gears.size(); ++i) {
      Gear& g = design_.gears[i];
      const auto& turns = motion.turns[machine.of_gear[i]];
      if (!turns || g.speed_ratio) continue;
      g.speed_ratio =
          g.teeth.is_rack() ? -turns->value * g.teeth.rack().pitch() / (2 * kPi) : turns->value * machine.sense[i];
    }
    for (Carrier& c : machine.carriers) {
      if (const auto& turns = motion.turns[c.member]; turns && !c.speed_ratio) c.speed_ratio = turns->value;
    }
  }
}

std::optional<std::size_t> Resolver::end_named(const std::string& name, bool input) const {
  const auto member = plans_.named(name);
  return member ? member : plans_.named(name + (input ? ".input" : ".output"));
}

/// Members that a key names, each once; those that there are not are told.
std::vector<std::size_t> Resolver::members_named(const Settings& of, const char* key, const std::string& prefix) {
  std::vector<std::size_t> all;
  const Value* v = of.find(key);
  if (!v) return all;
  for (const std::string& name : v->texts) {
    const auto member = end_named(name, false);
    if (!member)
      note("unknown-gear", v->where, prefix + "." + key, no_such_member(name));
    else if (std::find(all.begin(), all.end(), *member) == all.end())
      all.push_back(*member);
  }
  return all;
}

void Resolver::read_trains() {
  for (const Settings& t : tables_.trains) {
    const std::string prefix = "train." + t.name;
    Train train{t.name, false, 0, 0, members_named(t, "held", prefix), t.given("speed"), t.given("torque"), {}};
    // What the planetary sets hold stands still, unless the train says what does.
    for (const Settings& set : tables_.planetaries) {
      if (!t.find("held") && set.sound)
        for (const std::size_t m : members_named(set, "held", "planetary." + set.name))
          train.held.push_back(m);
    }
    bool complete = t.sound;
    for (const auto& [key, end] : {std::pair{"input", &train.input}, {"output", &train.output}}) {
      const Value* v = t.find(key);
      const auto member = v ? end_named(v->text, end == &train.input) : std::nullopt;
      complete = complete && member;
      if (member) *end = *member;
      if (!v && t.sound)
        note("missing-key", t.where, prefix + "." + key,
             fmt::format("the train has no {}; name a gear, shaft, carrier or reducer", key));
      if (v && !member) note("unknown-gear", v->where, prefix + "." + key, no_such_member(v->text));
    }
    if (!complete) continue;
    read_pace(t, train);
    if (train.input == train.output)
      note("same-gear", t.where, prefix + ".output", "turns with the input; name another member");
    else if (std::find(train.held.begin(), train.held.end(), train.input) != train.held.end())
      note("contradiction", t.find("held") ? t.find("held")->where : t.where, prefix + ".held",
           "names the input, which turns; leave it out");
    else if (std::find(train.held.begin(), train.held.end(), train.output) != train.held.end())
      note("contradiction", t.find("held") ? t.find("held")->where : t.where, prefix + ".held",
           "names the output, which is to turn; leave it out");
    else
      design_.machine.trains.push_back(std::move(train));
  }
  for (const Settings& set : tables_.planetaries) {
    if (set.sound) read_planetary(set);
  }
  for (Train& t : design_.machine.trains) {
    t.motion = moved(design_.machine, t);
    if (!t.hour || !t.motion.turns[t.output] || pace(t, t.motion)) continue;
    const Settings& said = *std::find_if(tables_.trains.begin(), tables_.trains.end(),
                                         [&](const Settings& s) { return s.name == t.name; });
    note("contradiction", said.find("hour")->where, "train." + t.name + ".hour",
         fmt::format("names {}, which does not turn with {}; name an arbor of the train",
                     design_.machine.members[*t.hour].name, design_.machine.members[t.input].name));
  }
}

/// Of a clock train what turns once an hour, and what is counted by it.
void Resolver::read_pace(const Settings& said, Train& train) {
  const std::string prefix = "train." + said.name;
  if (const Value* hour = said.find("hour")) {
    train.hour = end_named(hour->text, false);
    if (!train.hour) note("unknown-gear", hour->where, prefix + ".hour", no_such_member(hour->text));
  }
  for (const char* key : {"escape_teeth", "winding_turns"}) {
    if (const Value* v = said.find(key); v && !said.find("hour"))
      note("missing-key", v->where, prefix + "." + key,
           "tells beats or hours where one arbor of the train turns once an hour: name it, hour = \"…\"");
  }
  if (const auto teeth = said.given("escape_teeth")) train.escape_teeth = static_cast<int>(*teeth);
  train.winding = said.given("winding_turns");
}

/// A set is a train of its own: from the first of sun, carrier, ring that is not held to what is left.
void Resolver::read_planetary(const Settings& set) {
  const std::string prefix = "planetary." + set.name;
  std::vector<std::size_t> central = members_named(set, "sun", prefix);
  if (const auto carrier = plans_.named(set.name)) central.push_back(*carrier);
  for (const std::size_t ring : members_named(set, "ring", prefix))
    central.push_back(ring);
  Train train{set.name, true, 0, 0, members_named(set, "held", prefix), set.given("speed"), set.given("torque"), {}};
  const auto is_held = [&](std::size_t m) {
    return std::find(train.held.begin(), train.held.end(), m) != train.held.end();
  };
  const auto end = [&](const char* key, std::optional<std::size_t> otherwise) -> std::optional<std::size_t> {
    const Value* v = set.find(key);
    if (!v) return otherwise;
    const auto member = end_named(v->text, false);
    if (!member) note("unknown-gear", v->where, prefix + "." + key, no_such_member(v->text));
    if (member && is_held(*member))
      note("contradiction", v->where, prefix + "." + key, "is held, and what is held does not turn; name another");
    return member;
  };
  std::optional<std::size_t> first, rest;
  for (const std::size_t m : central) {
    if (!first && !is_held(m)) first = m;
  }
  const auto input = end("input", first);
  for (const std::size_t m : central) {
    if (!rest && !is_held(m) && m != input) rest = m;
  }
  if (const auto carrier = plans_.named(set.name); carrier && !is_held(*carrier) && *carrier != input) rest = carrier;
  const auto output = end("output", rest);
  if (!input || !output || mistakes_.count() > 0) return;
  train.input = *input, train.output = *output;
  train.central = central;
  if (train.input == train.output)
    return note("same-gear", set.where, prefix + ".output", "turns with the input; name another member");
  design_.machine.trains.push_back(std::move(train));
}

/// Of a planetary set without a center distance: all its meshes take that of the first.
void Resolver::one_distance(const std::vector<std::optional<gear::Teeth>>& built) {
  for (const Settings& set : tables_.planetaries) {
    if (set.find("center_distance")) continue;
    std::optional<Value> distance;
    for (const char* sort : {"sun", "ring"}) {
      const Value* v = set.find(sort);
      for (std::size_t i = 0; v && i < v->texts.size(); ++i) {
        const std::string name = planetary_pair(set.name, sort, i);
        const auto raw =
            std::find_if(raw_pairs_.begin(), raw_pairs_.end(), [&](const RawPair& p) { return p.name == name; });
        if (raw == raw_pairs_.end() || !raw->is(pair::Sort::parallel) || !built[raw->driver] || !built[raw->driven])
          continue;
        if (const Value* said = raw->find("center_distance")) {
          if (!distance) distance = *said;
        } else if (distance) {
          raw->values.emplace("center_distance", *distance);
        } else if (const auto zero = pair::distance_without_play(*built[raw->driver], *built[raw->driven], Angle())) {
          distance.emplace(), distance->number = *zero, distance->where = set.where;
          raw->values.emplace("center_distance", *distance);
        }
      }
    }
  }
}

}  // namespace palio::job
